/** Taking patient money, and reversing receipts. */
import { sql } from 'kysely';
import type { z } from 'zod';
import { allocationEntry, receiptEntry, transferEntry } from '../../core/books/entries/patients';
import { type CalendarDate, daysBetween, formatDate } from '../../core/calendar';
import { type Cents, ZERO, add, formatMoneyPlain, minus, negate, sum } from '../../core/money';
import { receiptInput, reverseAllocationInput, reverseReceiptInput } from '../../core/payments/input';
import { type Spread, spreadByHand, spreadBeside } from '../../core/payments/spread';
import { tenderMemo } from '../../core/payments/tenders';
import type { Tx } from '../../db/connect';
import { Refused, lookAgain } from '../access';
import { receiptReversed } from '../books/balances';
import { entriesOf, lockHouseholds, reverseEntries, writeEntries } from '../books/journal';
import { type Owing, envelopeOf, openCharges } from '../books/open-lines';
import { type PlanPayment, payFromReceipt } from '../plans/door';
import { payPlacement, placedOf } from '../overdue/door';
import { afterReversal } from '../settle';
import { noteBeside } from '../notes/notes';
import { type Act, useCase } from '../use-case';
import { keepTender } from './tenders';

/** The patient with an address apart whose own money is taken. @throws Refused when it is none of the household */
async function ownerOf(tx: Tx, householdId: number, patientId: number | null): Promise<number | null> {
  if (patientId === null) return null;
  const apart = await tx
    .selectFrom('confidential_address as a')
    .innerJoin('patient as p', 'p.id', 'a.patient_id')
    .select('p.id')
    .where('p.id', '=', patientId)
    .where('p.household_id', '=', householdId)
    .where('a.ended_on', 'is', null)
    .executeTakeFirst();
  if (!apart)
    throw new Refused(
      'invalid',
      'This patient has no confidential address: it is the household’s money',
      'patientId',
    );
  return apart.id;
}

/** Money that came so many days ago is looked at again. */
const LONG_AGO_DAYS = 31;
/** And is not taken any more, common practice: a check is stale long before. */
const TOO_LONG_AGO_DAYS = 366;

/** The day on which money came: today where none is said. @throws Refused where it is still to come, long past, or its period is closed */
async function receivedOn(act: Act, said: CalendarDate | null): Promise<CalendarDate> {
  const day = said ?? act.today;
  if (day === act.today) return day;
  if (day > act.today) throw new Refused('date', 'This day is still to come', 'receivedOn');
  if (daysBetween(day, act.today) > TOO_LONG_AGO_DAYS)
    throw new Refused('date', 'This day is more than a year ago', 'receivedOn');
  const { closed_through: closed } = await act.db
    .selectFrom('practice')
    .select('closed_through')
    .executeTakeFirstOrThrow();
  if (closed !== null && day <= closed)
    throw new Refused(
      'date',
      `The period through ${formatDate(closed)} is closed: say a day after it`,
      'receivedOn',
    );
  return day;
}

/** Takes a receipt and spreads it; what is left stays as the household's credit. @returns the receipt's id and the spread */
export const takeReceipt = useCase({
  name: 'take receipt',
  permission: 'take payments',
  input: receiptInput,
  once: (data) => data.key,
  async run(act, data) {
    const tx = act.db;
    const households = data.together ? await envelopeOf(tx, data.householdId) : [data.householdId];
    await lockHouseholds(tx, households);
    const household = await tx
      .selectFrom('household')
      .select(['id', 'location_id as locationId'])
      .where('id', '=', data.householdId)
      .executeTakeFirst();
    if (!household) throw new Refused('unknown', 'There is no such account');
    const { locationId } = household;
    const owner = await ownerOf(tx, data.householdId, data.patientId);
    const day = await receivedOn(act, data.receivedOn);
    const ago = daysBetween(day, act.today);
    if (owner !== null && data.together)
      throw new Refused('invalid', 'What is kept apart pays no other account', 'patientId');
    const open = (await openCharges(act, households)).filter(
      ({ apart }) => owner === null || apart === owner,
    );
    const owed = sum(open.map((charge) => charge.owed));
    // All that is doubtful is said at once: what a person has not seen is not meant.
    lookAgain(data.sure, [
      ago > LONG_AGO_DAYS && `It came on ${formatDate(day)}, ${ago} days ago`,
      data.owed !== undefined &&
        data.owed !== owed &&
        `The balance has changed since this was opened: ${formatMoneyPlain(owed)} is owed now, not ${formatMoneyPlain(data.owed)}`,
      await takenBefore(tx, data),
    ]);
    const plans = Object.entries(data.plans ?? {}).filter(([, amount]) => amount !== 0);
    const onPlans = sum(plans.map(([, amount]) => amount));
    if (plans.some(([, amount]) => amount < 0)) throw new Refused('limit', 'A part is below zero', 'plans');
    if (onPlans > data.amount)
      throw new Refused('limit', `${formatMoneyPlain(onPlans)} goes to plans, more than is paid`, {
        field: 'plans',
        facts: { onPlans },
      });
    const toAgency = data.agency ?? ZERO;
    if (toAgency < 0 || add(onPlans, toAgency) > data.amount)
      throw new Refused(
        'limit',
        `${formatMoneyPlain(toAgency)} goes to what is with the agency, more than is paid`,
        { field: 'agency', facts: { toAgency } },
      );
    const rest = minus(minus(data.amount, onPlans), toAgency);
    const spread = data.parts
      ? spreadByHand(
          rest,
          open,
          new Map(Object.entries(data.parts).map(([id, amount]) => [Number(id), amount])),
        )
      : spreadBeside(rest, open);
    if (typeof spread === 'string') throw new Refused('state', spread, 'parts');
    const { id } = await tx
      .insertInto('receipt')
      .values({
        household_id: data.householdId,
        amount: data.amount,
        patient_id: owner,
        received_on: day,
        location_id: locationId,
        user_id: act.user.id,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    await noteBeside(act, { receipt_id: id, household_id: data.householdId }, data.note);
    const cash = await keepTender(tx, act, { ...data, receiptId: id, locationId });
    const memo = tenderMemo(data);
    const others = await shareReceipt(tx, id, data.householdId, spread, open);
    await writeEntries(tx, act, [
      receiptEntry({
        businessDate: day,
        memo,
        about: { householdId: data.householdId, receiptId: id },
        cash,
        amount: data.amount,
      }),
      ...others.map(({ householdId, amount }) =>
        transferEntry({
          businessDate: day,
          memo,
          receiptId: id,
          from: data.householdId,
          to: householdId,
          amount,
        }),
      ),
      ...allocations(day, memo, id, spread.parts, open),
    ]);
    for (const [planId, amount] of plans)
      await payOnPlan(act, data.householdId, { planId: Number(planId), receiptId: id, amount, memo, day });
    if (toAgency > 0) await payAgency(act, data.householdId, id, toAgency, memo);
    await act.note('took payment', { kind: 'receipt', id }, { amount: data.amount });
    return { receiptId: id, spread };
  },
});

/** Pays a plan from a receipt. A plan is paid by its own account: money of another one is moved there first, by being taken there. */
export async function payOnPlan(act: Act, householdId: number, payment: PlanPayment): Promise<void> {
  const plan = await act.db
    .selectFrom('payment_plan')
    .select('household_id')
    .where('id', '=', payment.planId)
    .executeTakeFirst();
  if (plan?.household_id !== householdId)
    throw new Refused('others', 'That plan is not of this account', 'plans');
  await payFromReceipt(act, payment);
}

/** Pays what is with an agency from a receipt. @throws Refused when less is there */
export async function payAgency(
  act: Act,
  householdId: number,
  receiptId: number,
  amount: Cents,
  memo: string,
): Promise<void> {
  const placement = await placedOf(act.db, householdId);
  if (!placement) throw new Refused('nothing', 'Nothing of this account is with an agency', 'agency');
  const paid = await payPlacement(act, { placementId: placement.id, receiptId, amount, memo });
  if (paid < amount)
    throw new Refused('limit', `${formatMoneyPlain(paid)} is with the agency, less than is paid on it`, {
      field: 'agency',
      facts: { paid },
    });
}

/** What of a spread pays other households than the one that the receipt is of, in cents; the receipt is theirs too. */
async function shareReceipt(
  tx: Tx,
  receiptId: number,
  own: number,
  spread: Spread,
  open: readonly Owing[],
): Promise<{ householdId: number; amount: Cents }[]> {
  const byHousehold = new Map<number, Cents>();
  for (const { id, amount } of spread.parts) {
    const { householdId } = open.find((charge) => charge.id === id)!;
    if (householdId !== own) byHousehold.set(householdId, add(byHousehold.get(householdId) ?? ZERO, amount));
  }
  const others = [...byHousehold].map(([householdId, amount]) => ({ householdId, amount }));
  if (others.length > 0)
    await tx
      .insertInto('receipt_household')
      .values(others.map(({ householdId }) => ({ receipt_id: receiptId, household_id: householdId })))
      .execute();
  return others;
}

/** Words when the same check was taken from the household before and stands. */
async function takenBefore(
  tx: Tx,
  { householdId, tender, reference, amount }: z.output<typeof receiptInput>,
): Promise<string | false> {
  if (tender === 'cash' || reference === '') return false;
  const before = await tx
    .selectFrom('receipt as r')
    .innerJoin('tender as t', 't.receipt_id', 'r.id')
    .select(['r.received_on as day'])
    .where('r.household_id', '=', householdId)
    .where('t.kind', '=', tender)
    .where('t.reference', '=', reference)
    .where('r.amount', '=', amount)
    .where(({ not }) => not(receiptReversed(sql`r.id`)))
    .executeTakeFirst();
  return (
    before !== undefined &&
    `${tenderMemo({ tender, reference })} over ${formatMoneyPlain(amount)} was taken on ${formatDate(before.day)} already`
  );
}

/** Entries by which a receipt pays charges, one a charge: on the day of the money, but never before the service. */
export const allocations = (
  day: CalendarDate,
  memo: string,
  receiptId: number,
  parts: Spread['parts'],
  open: readonly Owing[],
) =>
  parts.map((part) => {
    const { householdId, patientId, date } = open.find((charge) => charge.id === part.id)!;
    return allocationEntry({
      businessDate: date > day ? date : day,
      memo,
      about: { householdId, chargeId: part.id, receiptId, patientId },
      amount: part.amount,
    });
  });

/** Takes back what a receipt pays of one charge: it is owed again, and the money is credit of whoever had it. */
export const reverseAllocation = useCase({
  name: 'reverse allocation',
  permission: 'reverse entries',
  input: reverseAllocationInput,
  async run(act, { entryId, why }) {
    const tx = act.db;
    const found = await tx
      .selectFrom('entry as e')
      .innerJoin('posting as p', 'p.entry_id', 'e.id')
      .select(['e.kind', 'p.charge_id', 'p.receipt_id', 'p.amount'])
      .select(sql<number | null>`household_now(p.household_id)`.as('household_id'))
      .where('e.id', '=', entryId)
      .where('p.account', '=', 'credit/patient')
      .executeTakeFirst();
    if (found?.kind !== 'allocation' || found.household_id === null)
      throw new Refused('unknown', 'There is no such payment of a charge');
    await lockHouseholds(tx, [found.household_id]);
    // What became credit again after a payer's correction is not taken back a second time.
    const { rows } = await sql<{ stands: Cents; undone: boolean }>`
      select coalesce(sum(p.amount), 0) as stands,
        exists (select from entry where reverses = ${entryId}) as undone
      from posting p
      where p.charge_id = ${found.charge_id} and p.receipt_id = ${found.receipt_id} and p.account = 'credit/patient'`.execute(
      tx,
    );
    const { stands, undone } = rows[0]!;
    if (undone) throw new Refused('already', 'This was taken back before');
    if (stands < found.amount)
      throw new Refused(
        'blocked',
        `Only ${formatMoneyPlain(stands)} of it still pays this charge: the rest is credit already`,
        { facts: { stands } },
      );
    const reversed = await reverseEntries(tx, act, [entryId], why);
    await afterReversal(tx, act, reversed, why);
    await act.note(
      'took back from a charge',
      { kind: 'receipt', id: found.receipt_id! },
      { why, charge: found.charge_id },
    );
  },
});

/** Reverses a receipt with all its allocations. */
export const reverseReceipt = useCase({
  name: 'reverse receipt',
  permission: 'reverse entries',
  input: reverseReceiptInput,
  async run(act, { receiptId, why }) {
    const tx = act.db;
    const receipt = await tx
      .selectFrom('receipt')
      .select(['household_id', 'amount', 'placement_id'])
      .where('id', '=', receiptId)
      .executeTakeFirst();
    if (!receipt) throw new Refused('unknown', 'There is no such receipt');
    if (receipt.placement_id !== null)
      throw new Refused('blocked', 'An agency had collected it: reverse the agency’s payment');
    const others = await tx
      .selectFrom('receipt_household')
      .select('household_id')
      .where('receipt_id', '=', receiptId)
      .execute();
    await lockHouseholds(
      tx,
      [receipt, ...others].map(({ household_id }) => household_id),
    );
    const refund = await tx
      .selectFrom('receipt as r')
      .select('r.amount')
      .where('r.refund_of', '=', receiptId)
      .where(({ not }) => not(receiptReversed(sql`r.id`)))
      .executeTakeFirst();
    if (refund)
      throw new Refused(
        'blocked',
        `${formatMoneyPlain(negate(refund.amount))} of it was given back: reverse the refund first`,
      );
    const reversed = await reverseEntries(tx, act, await entriesOf(tx, { receiptId }), why);
    if (reversed.length === 0) throw new Refused('already', 'This receipt was reversed before');
    await tx
      .updateTable('tender')
      .set({ state: 'void' })
      .where('receipt_id', '=', receiptId)
      .where('state', '=', 'taken')
      .execute();
    await afterReversal(tx, act, reversed, why);
    await act.note(
      'reversed',
      { kind: 'receipt', id: receiptId },
      { why, amount: formatMoneyPlain(receipt.amount) },
    );
  },
});
