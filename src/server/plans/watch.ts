/** Watching plans: interest that comes due, installments that are missed, plans that are broken, reminders before and after. */
import { join } from 'node:path';
import { sql } from 'kysely';
import { type CalendarDate, addDays, daysBetween, formatDate } from '../../core/calendar';
import { readSettings } from '../../core/exchange/connections';
import { type Cents, ZERO, formatMoneyPlain, toDecimal } from '../../core/money';
import { brokenBy } from '../../core/plans/progress';
import { lateChargeOf } from '../../core/statements/late';
import { type Context, allow } from '../access';
import { bearsLateCharges, chargeAccount } from '../accounts/door';
import { lockHouseholds } from '../books/journal';
import { foldersOf, writeWhole } from '../folders';
import { writeMessage } from '../mail/message';
import { readPolicies } from '../setup/statement-policies';
import { type Act, inTransaction } from '../use-case';
import { chargeInterest, endPlan, giveBack, lockPlan } from './books';
import { readPlanPolicy } from './policy';
import { type PlanRow, readPlans } from './read';

/** What a watch did. */
export interface Watched {
  /** Plans whose interest came due. */
  interest: number;
  late: number;
  broken: number;
}

/**
 * Looks at every running plan: charges the interest that has come due, the late charge of what is missed where that was
 * agreed, and ends the plans that are broken by the rule. Done twice on a day, the second finds nothing to do.
 */
export async function watchPlans(context: Context): Promise<Watched> {
  allow(context, 'agree plans');
  const watched: Watched = { interest: 0, late: 0, broken: 0 };
  const [rule, policies] = [await readPlanPolicy(context.db), await readPolicies(context.db)];
  for (const { id, householdId } of await readPlans(context, sql`l.status = 'accepted'`))
    await inTransaction(context, async (act) => {
      await lockHouseholds(act.db, [householdId]);
      if ((await chargeInterest(act, id, act.today)) > 0) watched.interest += 1;
      // As it stands now: somebody may have paid, or ended it, meanwhile.
      const [plan] = await readPlans(act, sql`l.id = ${id} and l.status = 'accepted'`);
      if (!plan) return;
      if (await lateFor(act, plan, policies)) watched.late += 1;
      const why = brokenBy(plan, { missed: rule.missed, days: rule.missed_days });
      if (why !== null && (await breakPlan(act, plan.id, why))) watched.broken += 1;
    });
  return watched;
}

/** Puts the policy's late charge on an installment that is missed beyond the days of grace, once. @returns whether it did */
async function lateFor(
  act: Act,
  plan: PlanRow,
  policies: Awaited<ReturnType<typeof readPolicies>>,
): Promise<boolean> {
  const policy = policies.of(plan.siteId);
  const missed = plan.oldest;
  if (!plan.lateCharges || missed === null || daysBetween(missed.date, act.today) <= policy.graceDays)
    return false;
  if (!(await bearsLateCharges(act, plan.householdId))) return false;
  const memo = `Late charge: installment ${missed.number} of plan ${plan.number}, due ${formatDate(missed.date)}`;
  const before = await act.db
    .selectFrom('charge')
    .select('id')
    .where('household_id', '=', plan.householdId)
    .where('kind', '=', 'late')
    .where('description', '=', memo)
    .executeTakeFirst();
  if (before) return false;
  const amount: Cents = lateChargeOf(
    policy.late,
    policy,
    [{ amount: plan.due, since: addDays(missed.date, 1) }],
    null,
    act.today,
  );
  if (amount === ZERO) return false;
  await chargeAccount(act, {
    householdId: plan.householdId,
    kind: 'late',
    amount: toDecimal(amount),
    date: act.today,
    memo,
    key: `plan late ${plan.id} ${missed.number}`,
  });
  return true;
}

/** Days until somebody works a plan that is broken. */
const LOOK_DAYS = 2;

/** Ends a plan that is broken: what is open is the patient's again, as old as it was, and somebody follows it up. */
async function breakPlan(act: Act, planId: number, why: string): Promise<boolean> {
  const plan = await lockPlan(act.db, planId);
  if (plan.status !== 'accepted') return false;
  const open = await giveBack(
    act.db,
    act,
    planId,
    `payment plan ${plan.number} ended, and what is left is yours to pay`,
  );
  await endPlan(act.db, act.today, planId, 'broken', why);
  await act.db
    .insertInto('follow_up')
    .values({
      kind: 'broken-plan',
      household_id: plan.household_id,
      words: `Plan ${plan.number} is broken: ${why}; ${formatMoneyPlain(open)} is the patient’s again`,
      amount: open,
      due_date: addDays(act.today, LOOK_DAYS),
      key: `broken-plan:${planId}`,
    })
    .onConflict((conflict) => conflict.doNothing())
    .execute();
  await act.note('broken', { kind: 'payment plan', id: planId }, { why });
  return true;
}

/** A reminder that is to go out. */
export interface Reminder {
  planId: number;
  plan: string;
  account: string;
  number: number;
  kind: 'before' | 'after';
  /** When the installment is due, and what of it is to be paid, in cents. */
  date: CalendarDate;
  amount: Cents;
  to: string;
}

/** Which reminders are to go out today: of installments that come due soon, and of those that were missed. */
export async function remindersDue(context: Context): Promise<Reminder[]> {
  allow(context, 'agree plans');
  const policy = await readPlanPolicy(context.db);
  const { today } = context;
  // Who asked not to be written to is not, nor who is held; e-mail that came back is not tried.
  const plans = await readPlans(
    context,
    sql`
      l.status = 'accepted'
        and h.email <> ''
        and h.email_returned is null
        and (h.hold_until is null or h.hold_until < ${today}::date)
        and not exists (
      select 1
      from account_stop s
        join stop_reason r on r.id = s.reason_id
      where s.household_id = h.id
        and r.letters
        and s.lifted_on is null
        and s.since <= ${today}::date
        and (s.until is null or s.until >= ${today}::date))`,
  );
  const rows = await context.db
    .selectFrom('plan_reminder')
    .select(['plan_id', 'number', 'kind'])
    .where('written_at', 'is not', null)
    .execute();
  const sent = new Set(rows.map((row) => `${row.plan_id}/${row.number}/${row.kind}`));
  return plans
    .flatMap((plan): Reminder[] => {
      const one = (kind: Reminder['kind'], number: number, date: CalendarDate, amount: Cents): Reminder => ({
        planId: plan.id,
        plan: plan.number,
        account: plan.account,
        number,
        kind,
        date,
        amount,
        to: plan.email,
      });
      const soon =
        policy.remind_before > 0 && plan.next && plan.next.date <= addDays(today, policy.remind_before)
          ? [one('before', plan.next.number, plan.next.date, plan.next.amount)]
          : [];
      const missed =
        policy.remind_after > 0 &&
        plan.oldest !== null &&
        daysBetween(plan.oldest.date, today) >= policy.remind_after
          ? [one('after', plan.oldest.number, plan.oldest.date, plan.due)]
          : [];
      return [...soon, ...missed];
    })
    .filter(({ planId, number, kind }) => !sent.has(`${planId}/${number}/${kind}`));
}

/** Sends the reminders that are due, each once: killed in the middle and begun again, the rest follow. @returns how many went out */
export async function sendReminders(context: Context): Promise<number> {
  const due = await remindersDue(context);
  if (due.length === 0) return 0;
  const gateway = await context.db
    .selectFrom('connection')
    .select(['folder', 'settings'])
    .where('kind', '=', 'message-gateway')
    .orderBy('id')
    .executeTakeFirst();
  const practice = await context.db.selectFrom('practice').selectAll().executeTakeFirst();
  if (!gateway || !practice) return 0;
  const { outbox } = await foldersOf(gateway.folder);
  let sent = 0;
  for (const reminder of due) {
    const id = await begun(context, reminder);
    if (id === null) continue;
    const name = `R${String(id).padStart(8, '0')}`;
    await writeWhole(
      join(outbox, `${name}.eml`),
      await writeMessage({
        id: name,
        from: { name: practice.name, address: readSettings('message-gateway', gateway.settings).from },
        to: { name: '', address: reminder.to },
        subject: `Your payment plan with ${practice.name}`,
        text: reminderText(reminder, practice.phone, practice.name),
        date: new Date(`${context.today}T09:00:00Z`),
      }),
    );
    await context.db
      .updateTable('plan_reminder')
      .set({ written_at: sql<Date>`desk_now()` })
      .where('id', '=', id)
      .execute();
    sent += 1;
  }
  return sent;
}

/** Notes that a reminder is going out. @returns its id, also of one that was begun and never written; null when it is out */
async function begun(context: Context, { planId, number, kind }: Reminder): Promise<number | null> {
  await context.db
    .insertInto('plan_reminder')
    .values({ plan_id: planId, number, kind, made_on: context.today })
    .onConflict((conflict) => conflict.doNothing())
    .execute();
  const row = await context.db
    .selectFrom('plan_reminder')
    .select(['id', 'written_at'])
    .where('plan_id', '=', planId)
    .where('number', '=', number)
    .where('kind', '=', kind)
    .executeTakeFirstOrThrow();
  return row.written_at === null ? row.id : null;
}

/** What stands in a reminder: nothing of anybody's health. */
const reminderText = (
  { plan, number, kind, date, amount }: Reminder,
  phone: string,
  practice: string,
): string =>
  [
    kind === 'before'
      ? `Installment ${number} of your payment plan ${plan}, ${formatMoneyPlain(amount)} US dollars, is due on ${formatDate(date)}.`
      : `Installment ${number} of your payment plan ${plan} was due on ${formatDate(date)}. ${formatMoneyPlain(amount)} US dollars are open now.`,
    kind === 'before'
      ? 'If you have paid it already, thank you.'
      : 'If you cannot pay it, please call us: a plan can be changed.',
    `Questions: ${phone}`,
    practice,
  ].join('\n\n');
