/** Taking patient money, applying credit, reversing receipts. */
import { z } from 'zod';
import { allocationEntry, receiptEntry } from '../../core/books/entries';
import type { CalendarDate } from '../../core/calendar';
import { type Cents, ZERO, formatMoneyPlain, parseMoney } from '../../core/money';
import {
  type OpenCharge,
  type Spread,
  oldestFirst,
  spreadByHand,
  spreadInOrder,
} from '../../core/payments/spread';
import type { Db, Tx } from '../../db/connect';
import { type Context, Refused, allow, audit } from '../access';
import { parseInput } from '../accounts/register';
import { lockHouseholds, reverseEntries, writeEntries } from '../books/journal';

const moneyField = z
  .string()
  .trim()
  .transform((text, check) => {
    const amount = parseMoney(text);
    if (amount === null)
      check.addIssue({ code: 'custom', message: `“${text.slice(0, 20)}” is not an amount such as 12.50` });
    return amount ?? ZERO;
  });

/** What the payment form sends. `parts` by charge id, for spreading by hand; oldest first when absent. */
export const receiptInput = z.object({
  householdId: z.coerce.number().int(),
  amount: moneyField,
  tender: z.enum(['cash', 'check']),
  reference: z.string().trim().max(40, 'may have 40 characters').default(''),
  note: z.string().trim().max(200).default(''),
  parts: z.record(z.string().regex(/^\d+$/), moneyField).nullish(),
  key: z.string().min(8).max(80),
});

/** What a household owes, by charge, oldest first. Amounts in cents. */
export async function openCharges(
  db: Db | Tx,
  householdId: number,
): Promise<(OpenCharge & { patientId: number })[]> {
  const rows = await db
    .selectFrom('charge as c')
    .innerJoin('charge_balance as b', 'b.charge_id', 'c.id')
    .select(['c.id', 'c.service_date as date', 'b.with_patient as owed', 'c.patient_id as patientId'])
    .where('c.household_id', '=', householdId)
    .where('b.with_patient', '>', 0)
    .execute();
  const open = rows.map((row) => ({ ...row, date: row.date as CalendarDate, owed: row.owed as Cents }));
  return oldestFirst(open) as typeof open;
}

/**
 * Takes a receipt and spreads it; what is left stays as the household's credit. The same key takes it once.
 * @returns the receipt's id and the spread
 */
export async function takeReceipt(
  context: Context,
  input: unknown,
): Promise<{ receiptId: number; spread: Spread }> {
  allow(context, 'take payments');
  const data = parseInput(receiptInput, input);
  if (data.amount <= 0) throw new Refused('Amount must be more than zero', 'amount');
  if (data.tender === 'check' && !data.reference) throw new Refused('Check number is missing', 'reference');
  return context.db.transaction().execute(async (tx) => {
    await lockHouseholds(tx, [data.householdId]);
    const before = await tx.selectFrom('receipt').select('id').where('key', '=', data.key).executeTakeFirst();
    if (before) return { receiptId: before.id, spread: { parts: [], left: ZERO } };
    const household = await tx
      .selectFrom('household')
      .select('id')
      .where('id', '=', data.householdId)
      .executeTakeFirst();
    if (!household) throw new Refused('There is no such account');
    const open = await openCharges(tx, data.householdId);
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
        business_date: context.today,
        note: data.note,
        key: data.key,
        user_id: context.user.id,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    const memo = data.tender === 'check' ? `Check ${data.reference}` : 'Cash';
    await writeEntries(tx, context, [
      receiptEntry({
        businessDate: context.today,
        memo,
        about: { householdId: data.householdId, receiptId: id },
        cashAccount: `cash/${data.tender}`,
        amount: data.amount,
      }),
      ...allocations(context.today, memo, data.householdId, id, spread, open),
    ]);
    await audit(tx, context, 'took payment', { kind: 'receipt', id }, { amount: data.amount });
    return { receiptId: id, spread };
  });
}

function allocations(
  day: CalendarDate,
  memo: string,
  householdId: number,
  receiptId: number,
  spread: Spread,
  open: readonly { id: number; patientId: number }[],
) {
  return spread.parts.map((part) =>
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
}

/** Applies a household's credit, oldest receipt first, to its open charges, oldest first. @returns cents applied */
export async function spendCredit(context: Context, householdId: number): Promise<Cents> {
  allow(context, 'take payments');
  return context.db.transaction().execute(async (tx) => {
    await lockHouseholds(tx, [householdId]);
    const receipts = await tx
      .selectFrom('posting as p')
      .innerJoin('receipt as r', 'r.id', 'p.receipt_id')
      .select(({ fn }) => [
        'p.receipt_id',
        'r.tender',
        'r.reference',
        fn.sum<number>('p.amount').as('amount'),
      ])
      .where('p.household_id', '=', householdId)
      .where('p.account', '=', 'credit/patient')
      .groupBy(['p.receipt_id', 'r.tender', 'r.reference'])
      .having(({ fn }) => fn.sum('p.amount'), '<', 0)
      .orderBy('p.receipt_id')
      .execute();
    let applied = ZERO;
    for (const receipt of receipts) {
      const open = await openCharges(tx, householdId);
      const spread = spreadInOrder(-receipt.amount as Cents, open);
      const memo =
        receipt.tender === 'check' ? `Check ${receipt.reference}, from credit` : 'Cash, from credit';
      await writeEntries(
        tx,
        context,
        allocations(context.today, memo, householdId, receipt.receipt_id!, spread, open),
      );
      applied = (applied + spread.parts.reduce((all, part) => all + part.amount, 0)) as Cents;
    }
    if (applied === 0) throw new Refused('There is no credit, or nothing open to apply it to');
    await audit(tx, context, 'used credit', { kind: 'household', id: householdId }, { amount: applied });
    return applied;
  });
}

/** Reverses a receipt with all its allocations. */
export async function reverseReceipt(context: Context, receiptId: number, why: string): Promise<void> {
  allow(context, 'reverse entries');
  await context.db.transaction().execute(async (tx) => {
    const receipt = await tx.selectFrom('receipt').selectAll().where('id', '=', receiptId).executeTakeFirst();
    if (!receipt) throw new Refused('There is no such receipt');
    await lockHouseholds(tx, [receipt.household_id]);
    const entries = await tx
      .selectFrom('posting')
      .select('entry_id')
      .distinct()
      .where('receipt_id', '=', receiptId)
      .execute();
    const count = await reverseEntries(
      tx,
      context,
      entries.map((entry) => entry.entry_id),
      why,
    );
    if (count === 0) throw new Refused('This receipt was reversed before');
    await audit(
      tx,
      context,
      'reversed',
      { kind: 'receipt', id: receiptId },
      { why, amount: formatMoneyPlain(receipt.amount as Cents) },
    );
  });
}
