/** Plans in the books: interest as it comes due, payments to charges, what comes back, and that an ended plan holds nothing. */
import { sql } from 'kysely';
import { planEndedEntry, planInterestEntry, planPaymentEntry } from '../../core/books/entries/plans';
import type { ChargePart } from '../../core/books/entry';
import { type CalendarDate, formatDate } from '../../core/calendar';
import { type Cents, ZERO, formatMoneyPlain, least, minus, sum } from '../../core/money';
import { interestThrough } from '../../core/plans/interest';
import type { PlanStatus } from '../../core/plans/standing';
import type { Tx } from '../../db/connect';
import { type Context, Refused } from '../access';
import { writeEntries } from '../books/journal';
import type { Act } from '../use-case';

/** What of a charge stands on a plan, in cents. */
interface OnPlan {
  chargeId: number;
  householdId: number;
  patientId: number | null;
  caseId: number | null;
  providerId: number | null;
  locationId: number | null;
  interest: boolean;
  open: Cents;
}

/** What stands on a plan by charge, interest first, then the oldest. */
export async function openOnPlan(tx: Tx, planId: number): Promise<OnPlan[]> {
  const { rows } = await sql<OnPlan>`
    select c.id as "chargeId", c.household_id as "householdId", c.patient_id as "patientId", c.case_id as "caseId", c.provider_id as "providerId", c.location_id as "locationId",
      c.kind = 'interest' as interest, sum(p.amount) as open
    from posting p join charge c on c.id = p.charge_id where p.plan_id = ${planId} and p.account = 'receivable/plan'
    group by c.id having sum(p.amount) <> 0 order by c.kind = 'interest' desc, c.service_date, c.id`.execute(
    tx,
  );
  return rows;
}

const about = ({ interest: _, open: __, ...rest }: OnPlan): ChargePart['about'] => rest;

/** A plan's row, locked; its household is locked already. @throws Refused when there is none */
export async function lockPlan(tx: Tx, planId: number) {
  const plan = await tx
    .selectFrom('payment_plan')
    .selectAll()
    .where('id', '=', planId)
    .forUpdate()
    .executeTakeFirst();
  if (!plan) throw new Refused('There is no such plan');
  return plan;
}

/** The principal that is open on a plan: all that is no interest, in cents. */
const principalOf = (open: readonly OnPlan[]): Cents =>
  sum(open.filter(({ interest }) => !interest).map((one) => one.open));

/**
 * Charges the interest of a running plan that has come due through a day; by days also that of the day, where it is paid then.
 * Done twice, the second finds nothing to charge. @returns cents
 */
export async function chargeInterest(
  act: Act,
  planId: number,
  day: CalendarDate,
  alsoToday = false,
): Promise<Cents> {
  const tx = act.db;
  const plan = await lockPlan(tx, planId);
  if (plan.status !== 'accepted') return ZERO;
  const due = interestThrough(
    {
      rate: plan.rate,
      every: plan.every,
      interestBy: plan.interest_by,
      first: plan.first_date,
      principal: principalOf(await openOnPlan(tx, planId)),
      counted: plan.interest_counted,
      through: plan.interest_through,
    },
    day,
    alsoToday,
  );
  const last = due.at(-1);
  if (!last) return ZERO;
  for (const { date, amount } of due.filter((one) => one.amount > 0)) {
    const description = `Interest of plan ${plan.number} to ${formatDate(date)}`;
    const { id } = await tx
      .insertInto('charge')
      .values({
        household_id: plan.household_id,
        kind: 'interest',
        description,
        fee: amount,
        service_date: date,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    await writeEntries(tx, act, [
      planInterestEntry({
        businessDate: date,
        memo: description,
        planId,
        amount,
        about: { chargeId: id, householdId: plan.household_id },
      }),
    ]);
  }
  await tx
    .updateTable('payment_plan')
    .set({ interest_counted: last.counted, interest_through: last.date })
    .where('id', '=', planId)
    .execute();
  return sum(due.map(({ amount }) => amount));
}

/**
 * Pays a running plan from a receipt: interest first, then the charges, oldest first. A plan that is paid is finished.
 * @throws Refused when it is not running, or less is left on it
 */
export async function payFromReceipt(
  act: Act,
  { planId, receiptId, amount, memo }: { planId: number; receiptId: number; amount: Cents; memo: string },
): Promise<void> {
  const tx = act.db;
  await chargeInterest(act, planId, act.today, true);
  const plan = await lockPlan(tx, planId);
  if (plan.status !== 'accepted')
    throw new Refused(`Plan ${plan.number} is ${plan.status}: nothing is paid on it`, 'plans');
  const open = await openOnPlan(tx, planId);
  const left = sum(open.map((one) => one.open));
  if (amount > left)
    throw new Refused(
      `Plan ${plan.number} has ${formatMoneyPlain(left)} left, less than is paid on it`,
      'plans',
    );
  let rest = amount;
  const parts = open.flatMap((one): ChargePart[] => {
    const part = least(rest, one.open);
    rest = minus(rest, part);
    return part > 0 ? [{ about: about(one), amount: part }] : [];
  });
  await writeEntries(tx, act, [
    planPaymentEntry({ businessDate: act.today, memo, planId, receiptId, parts }),
  ]);
  if (amount === left) await endPlan(tx, act.today, planId, 'finished', 'paid');
}

/** Says what became of a plan. */
export async function endPlan(
  tx: Tx,
  today: CalendarDate,
  planId: number,
  status: Exclude<PlanStatus, 'proposed' | 'accepted'>,
  why: string,
): Promise<void> {
  await tx
    .updateTable('payment_plan')
    .set({ status, ended_on: today, ended_why: why })
    .where('id', '=', planId)
    .execute();
}

/** What is open on a plan goes back to the patient. @returns cents */
export async function giveBack(tx: Tx, context: Context, planId: number, memo: string): Promise<Cents> {
  const open = await openOnPlan(tx, planId);
  if (open.length === 0) return ZERO;
  await writeEntries(tx, context, [
    planEndedEntry({
      businessDate: context.today,
      memo,
      planId,
      parts: open.map((one) => ({ about: about(one), amount: one.open })),
    }),
  ]);
  return sum(open.map((one) => one.open));
}

/**
 * Puts plans right after something that they are about was taken back: one that was finished and has something open again
 * runs on; what comes back to an ended one is the patient's.
 */
async function settlePlans(tx: Tx, context: Context, planIds: readonly number[]): Promise<void> {
  for (const planId of [...new Set(planIds)].sort((a, b) => a - b)) {
    const plan = await lockPlan(tx, planId);
    const open = await openOnPlan(tx, planId);
    if (open.length === 0) {
      // Everything that it took was taken back or corrected: nothing is left to pay.
      if (plan.status === 'accepted')
        await endPlan(tx, context.today, planId, 'finished', 'nothing is left on it');
      continue;
    }
    if (plan.status === 'finished')
      await tx
        .updateTable('payment_plan')
        .set({ status: 'accepted', ended_on: null, ended_why: '' })
        .where('id', '=', planId)
        .execute();
    else if (plan.status !== 'accepted')
      await giveBack(
        tx,
        context,
        planId,
        `what came back to plan ${plan.number}, which is ${plan.status}, is yours to pay`,
      );
  }
}

/** Puts plans right after entries were reversed: what they took stands where its charge stands. */
export async function settleReversed(tx: Tx, context: Context, entryIds: readonly number[]): Promise<void> {
  if (entryIds.length === 0) return;
  const rows = await tx
    .selectFrom('posting')
    .select(['plan_id', 'charge_id'])
    .distinct()
    .where('entry_id', '=', sql<number>`any(${[...entryIds]}::bigint[])`)
    .execute();
  await lowerPlans(
    tx,
    context,
    rows.flatMap(({ charge_id }) => charge_id ?? []),
  );
  await settlePlans(
    tx,
    context,
    rows.flatMap(({ plan_id }) => plan_id ?? []),
  );
}

/**
 * Takes off plans what payers have corrected: where less of a charge is the patient's than was put on the plan, the plan has so
 * much less. @param cause the remittance, or one claim of it, whose reversal takes this back too
 */
export async function lowerPlans(
  tx: Tx,
  context: Context,
  chargeIds: readonly number[],
  cause: { remittanceId?: number; remittanceClaimId?: number } = {},
): Promise<void> {
  if (chargeIds.length === 0) return;
  const { rows } = await sql<Omit<OnPlan, 'interest'> & { planId: number; below: Cents }>`
    select c.id as "chargeId", c.household_id as "householdId", c.patient_id as "patientId", c.case_id as "caseId", c.provider_id as "providerId", c.location_id as "locationId",
      p.plan_id as "planId", sum(p.amount) as open, -b.with_patient as below
    from charge_balance b join charge c on c.id = b.charge_id join posting p on p.charge_id = c.id and p.account = 'receivable/plan'
    where b.charge_id = any(${[...chargeIds]}::bigint[]) and b.with_patient < 0 and b.on_plan > 0 group by c.id, b.with_patient, p.plan_id having sum(p.amount) > 0 order by c.id, p.plan_id`.execute(
    tx,
  );
  for (const { planId, below, open, ...one } of rows)
    await writeEntries(tx, context, [
      planEndedEntry({
        businessDate: context.today,
        memo: 'less of it is yours after the insurer’s correction, and the plan has so much less',
        planId,
        parts: [{ about: { ...one, ...cause }, amount: least(below, open) }],
      }),
    ]);
  await settlePlans(
    tx,
    context,
    rows.map(({ planId }) => planId),
  );
}
