/** Plans in the books: interest as it comes due, payments to charges, what comes back, and that an ended plan holds nothing. */
import { sql } from 'kysely';
import { planEndedEntry, planInterestEntry, planPaymentEntry } from '../../core/books/entries/plans';
import type { ChargePart } from '../../core/books/entry';
import { type CalendarDate, formatDate } from '../../core/calendar';
import { type Cents, ZERO, formatMoneyPlain, least, minus, sum } from '../../core/money';
import { interestThrough } from '../../core/plans/interest';
import type { PlanStatus } from '../../core/plans/progress';
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
    select c.id as "chargeId", c.household_id as "householdId", c.patient_id as "patientId", c.case_id as "caseId",
      c.provider_id as "providerId", c.location_id as "locationId",
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
  if (!plan) throw new Refused('unknown', 'There is no such plan');
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

/** What of a receipt pays a plan; `amount` in cents. */
export interface PlanPayment {
  planId: number;
  receiptId: number;
  amount: Cents;
  memo: string;
  /** The day of the money, by which it is on time; never before the plan was agreed. */
  day: CalendarDate;
}

/**
 * Pays a running plan from a receipt: interest first, then the charges, oldest first. A plan that is paid is finished.
 * @throws Refused when it is not running, or less is left on it
 */
export async function payFromReceipt(
  act: Act,
  { planId, receiptId, amount, memo, day }: PlanPayment,
): Promise<void> {
  const tx = act.db;
  await chargeInterest(act, planId, act.today, true);
  const plan = await lockPlan(tx, planId);
  if (plan.status !== 'accepted')
    throw new Refused('nothing', `Plan ${plan.number} is ${plan.status}: nothing is paid on it`, {
      field: 'plans',
      facts: { number: plan.number },
    });
  const open = await openOnPlan(tx, planId);
  const left = sum(open.map((one) => one.open));
  if (amount > left)
    throw new Refused(
      'limit',
      `Plan ${plan.number} has ${formatMoneyPlain(left)} left, less than is paid on it`,
      { field: 'plans', facts: { number: plan.number, left } },
    );
  let rest = amount;
  const parts = open.flatMap((one): ChargePart[] => {
    const part = least(rest, one.open);
    rest = minus(rest, part);
    return part > 0 ? [{ about: about(one), amount: part }] : [];
  });
  await writeEntries(tx, act, [
    planPaymentEntry({
      businessDate: day < plan.agreed_on ? plan.agreed_on : day,
      memo,
      planId,
      receiptId,
      parts,
    }),
  ]);
  if (amount === left && !(await isKept(tx, planId)))
    await endPlan(tx, act.today, planId, 'finished', 'paid');
}

/** Says what became of a plan. Places that it kept are given up, or are the next one's. @param next the plan that takes its place */
export async function endPlan(
  tx: Tx,
  today: CalendarDate,
  planId: number,
  status: Exclude<PlanStatus, 'proposed' | 'accepted'>,
  why: string,
  next?: number,
): Promise<void> {
  await tx
    .updateTable('part_hold_place')
    .set(next === undefined ? { amount: ZERO } : { plan_id: next })
    .where('plan_id', '=', planId)
    .where('amount', '>', ZERO)
    .execute();
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

/** Whether a place is kept on a plan, for a payer that took its word back and has not said the new one. */
async function isKept(tx: Tx, planId: number): Promise<boolean> {
  const { rows } = await sql`
    select 1
    from part_hold_place k
      join part_hold h on h.id = k.hold_id and h.ended_on is null
    where k.plan_id = ${planId} and k.amount > 0
    limit 1`.execute(tx);
  return rows.length > 0;
}

/**
 * Puts plans right that have, or had, something of charges: one that runs with nothing on it and keeps no place is finished, a
 * finished one that has something again runs on, what comes back to any other is the patient's.
 */
export async function endEmptyPlans(tx: Tx, context: Context, chargeIds: readonly number[]): Promise<void> {
  const { rows } = await sql<{ id: number }>`
    select distinct plan_id as id
    from posting
    where charge_id = any(${[...chargeIds]}::bigint[]) and plan_id is not null
    order by 1`.execute(tx);
  for (const { id } of rows) {
    const plan = await lockPlan(tx, id);
    const open = await openOnPlan(tx, id);
    if (open.length === 0) {
      if (plan.status === 'accepted' && !(await isKept(tx, id)))
        await endPlan(tx, context.today, id, 'finished', 'nothing is left on it');
      continue;
    }
    if (plan.status === 'finished')
      await tx
        .updateTable('payment_plan')
        .set({ status: 'accepted', ended_on: null, ended_why: '' })
        .where('id', '=', id)
        .execute();
    else if (plan.status !== 'accepted')
      await giveBack(
        tx,
        context,
        id,
        `what came back to plan ${plan.number}, which is ${plan.status}, is yours to pay`,
      );
  }
}
