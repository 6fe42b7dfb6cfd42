/** Taking patient money, applying credit, reversing receipts. */
import { sql } from 'kysely';
import type { z } from 'zod';
import { allocationEntry, receiptEntry } from '../../core/books/entries';
import { type CalendarDate, formatDate } from '../../core/calendar';
import { type Cents, ZERO, add, formatMoneyPlain, sum } from '../../core/money';
import { creditInput, receiptInput, reverseReceiptInput } from '../../core/payments/input';
import {
  type OpenCharge,
  type Spread,
  oldestFirst,
  spreadByHand,
  spreadInOrder,
} from '../../core/payments/spread';
import type { Db, Tx } from '../../db/connect';
import { Refused, lookAgain } from '../access';
import { heldReceipts, receiptReversed } from '../books/balances';
import { entriesOf, lockHouseholds, reverseEntries, writeEntries } from '../books/journal';
import { useCase } from '../use-case';

/** A charge that the patient owes on; nobody's when it was put on the account. */
type Owed = OpenCharge & { patientId: number | null };

/** What a household owes, by charge, oldest first. Amounts in cents. */
export async function openCharges(db: Db, householdId: number): Promise<Owed[]> {
  const rows = await db
    .selectFrom('charge as c')
    .innerJoin('charge_balance as b', 'b.charge_id', 'c.id')
    .select(['c.id', 'c.service_date as date', 'b.with_patient as owed', 'c.patient_id as patientId'])
    .where('c.household_id', '=', householdId)
    .where('b.with_patient', '>', ZERO)
    .execute();
  return oldestFirst(rows);
}

/** Takes a receipt and spreads it; what is left stays as the household's credit. @returns the receipt's id and the spread */
export const takeReceipt = useCase({
  name: 'take receipt',
  permission: 'take payments',
  input: receiptInput,
  once: (data) => data.key,
  async run(act, data) {
    const tx = act.db;
    await lockHouseholds(tx, [data.householdId]);
    const household = await tx
      .selectFrom('household')
      .select('id')
      .where('id', '=', data.householdId)
      .executeTakeFirst();
    if (!household) throw new Refused('There is no such account');
    const open = await openCharges(tx, data.householdId);
    const owed = sum(open.map((charge) => charge.owed));
    lookAgain(data.sure, [
      data.owed !== undefined &&
        data.owed !== owed &&
        `The balance has changed since this was opened: ${formatMoneyPlain(owed)} is owed now, not ${formatMoneyPlain(data.owed)}`,
      await takenBefore(tx, data),
    ]);
    const spread = data.parts
      ? spreadByHand(
          data.amount,
          open,
          new Map(Object.entries(data.parts).map(([id, amount]) => [Number(id), amount])),
        )
      : spreadInOrder(data.amount, open);
    if (typeof spread === 'string') throw new Refused(spread, 'parts');
    const { id } = await tx
      .insertInto('receipt')
      .values({
        household_id: data.householdId,
        amount: data.amount,
        tender: data.tender,
        reference: data.reference,
        business_date: act.today,
        note: data.note,
        user_id: act.user.id,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    const memo = memoOf(data);
    await writeEntries(tx, act, [
      receiptEntry({
        businessDate: act.today,
        memo,
        about: { householdId: data.householdId, receiptId: id },
        cashAccount: `cash/${data.tender}`,
        amount: data.amount,
      }),
      ...allocations(act.today, memo, data.householdId, id, spread, open),
    ]);
    await act.note('took payment', { kind: 'receipt', id }, { amount: data.amount });
    return { receiptId: id, spread };
  },
});

/** Words when the same check was taken from the household before and stands. */
async function takenBefore(
  tx: Tx,
  { householdId, tender, reference, amount }: z.output<typeof receiptInput>,
): Promise<string | false> {
  if (tender !== 'check') return false;
  const before = await tx
    .selectFrom('receipt as r')
    .select(['r.business_date as day'])
    .where('r.household_id', '=', householdId)
    .where('r.tender', '=', tender)
    .where('r.reference', '=', reference)
    .where('r.amount', '=', amount)
    .where(({ not }) => not(receiptReversed(sql`r.id`)))
    .executeTakeFirst();
  return (
    before !== undefined &&
    `Check ${reference} over ${formatMoneyPlain(amount)} was taken on ${formatDate(before.day)} already`
  );
}

const memoOf = (receipt: { tender: 'cash' | 'check'; reference: string }): string =>
  receipt.tender === 'check' ? `Check ${receipt.reference}` : 'Cash';

const allocations = (
  day: CalendarDate,
  memo: string,
  householdId: number,
  receiptId: number,
  spread: Spread,
  open: readonly Owed[],
) =>
  spread.parts.map((part) =>
    allocationEntry({
      businessDate: day,
      memo,
      about: {
        householdId,
        chargeId: part.id,
        receiptId,
        patientId: open.find((charge) => charge.id === part.id)!.patientId,
      },
      amount: part.amount,
    }),
  );

/** Applies a household's credit, oldest receipt first, to its open charges, oldest first. @returns cents applied */
export const spendCredit = useCase({
  name: 'spend credit',
  permission: 'take payments',
  input: creditInput,
  once: (data) => data.key,
  async run(act, { householdId }): Promise<Cents> {
    const tx = act.db;
    await lockHouseholds(tx, [householdId]);
    let applied = ZERO;
    for (const receipt of await heldReceipts(tx, householdId)) {
      const open = await openCharges(tx, householdId);
      const spread = spreadInOrder(receipt.left, open);
      const memo = `${memoOf(receipt)}, from credit`;
      await writeEntries(tx, act, allocations(act.today, memo, householdId, receipt.id, spread, open));
      applied = add(applied, sum(spread.parts.map((part) => part.amount)));
    }
    if (applied === 0) throw new Refused('There is no credit, or nothing open to apply it to');
    await act.note('used credit', { kind: 'household', id: householdId }, { amount: applied });
    return applied;
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
      .select(['household_id', 'amount'])
      .where('id', '=', receiptId)
      .executeTakeFirst();
    if (!receipt) throw new Refused('There is no such receipt');
    await lockHouseholds(tx, [receipt.household_id]);
    const reversed = await reverseEntries(tx, act, await entriesOf(tx, { receiptId }), why);
    if (reversed.length === 0) throw new Refused('This receipt was reversed before');
    await act.note(
      'reversed',
      { kind: 'receipt', id: receiptId },
      { why, amount: formatMoneyPlain(receipt.amount) },
    );
  },
});
