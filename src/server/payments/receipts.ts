/** Taking back what a receipt pays: of one charge, of one of its tenders, all of it. */
import { sql } from 'kysely';
import { type Cents, ZERO, formatMoneyPlain, negate } from '../../core/money';
import { reverseAllocationInput, reverseReceiptInput } from '../../core/payments/input';
import { Refused } from '../access';
import { creditOf, receiptReversed } from '../books/balances';
import { entriesOf, lockHouseholds, reverseEntries } from '../books/journal';
import { afterReversal } from '../settle';
import { type Act, useCase } from '../use-case';

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

/** The households that a receipt is of, locked; the first is whose it is. @throws Refused */
export async function lockReceipt(act: Act, receiptId: number) {
  const find = () =>
    act.db
      .selectFrom('receipt')
      .select(['id', 'household_id', 'patient_id', 'amount', 'placement_id', 'received_on', 'location_id'])
      .where('id', '=', receiptId)
      .executeTakeFirst();
  const known = await find();
  if (!known) throw new Refused('unknown', 'There is no such receipt');
  const others = await act.db
    .selectFrom('receipt_household')
    .select('household_id')
    .where('receipt_id', '=', receiptId)
    .execute();
  const households = [...new Set([known, ...others].map(({ household_id }) => household_id))];
  await lockHouseholds(act.db, households);
  // It may have been moved until then.
  const receipt = (await find())!;
  if (receipt.household_id !== known.household_id) return lockReceipt(act, receiptId);
  return { ...receipt, households };
}

/** The receipt below zero by which credit of another one goes back. @param amount cents @param handedTo the state that keeps it for its owner @returns its id */
export async function keepRefund(
  act: Act,
  receipt: { id: number; household_id: number; patient_id: number | null; location_id: number | null },
  amount: Cents,
  handedTo = '',
): Promise<number> {
  const { id } = await act.db
    .insertInto('receipt')
    .values({
      household_id: receipt.household_id,
      patient_id: receipt.patient_id,
      refund_of: receipt.id,
      amount: negate(amount),
      received_on: act.today,
      location_id: receipt.location_id,
      handed_to: handedTo,
      user_id: act.user.id,
    })
    .returning('id')
    .executeTakeFirstOrThrow();
  return id;
}

/** @throws Refused where something of a receipt was given back, which is reversed first */
export async function refuseRefunded(act: Act, receiptId: number): Promise<void> {
  const refund = await act.db
    .selectFrom('receipt as r')
    .innerJoin('tender as t', 't.receipt_id', 'r.id')
    .select(['r.amount', 't.token'])
    .where('r.refund_of', '=', receiptId)
    .where('t.state', 'in', ['taken', 'pending'])
    .where(({ not }) => not(receiptReversed(sql`r.id`)))
    .executeTakeFirst();
  if (refund)
    throw new Refused(
      'blocked',
      `${formatMoneyPlain(negate(refund.amount))} of it was given back${refund.token === '' ? ': reverse the refund first' : ' to the card, and that stands: give back the rest of it too'}`,
    );
}

/** Reverses a receipt with all its allocations. What a terminal approved is taken back through it. */
export const reverseReceipt = useCase({
  name: 'reverse receipt',
  permission: 'reverse entries',
  input: reverseReceiptInput,
  async run(act, { receiptId, why }) {
    const tx = act.db;
    const receipt = await lockReceipt(act, receiptId);
    if (receipt.placement_id !== null)
      throw new Refused('blocked', 'An agency had collected it: reverse the agency’s payment');
    await refuseRefunded(act, receiptId);
    const cards = await tx
      .selectFrom('tender')
      .select('state')
      .where('receipt_id', '=', receiptId)
      .where('token', '<>', '')
      .where('state', 'in', ['pending', 'taken'])
      .execute();
    if (cards.some(({ state }) => state === 'pending'))
      throw new Refused('blocked', 'A card of it still waits for the terminal: ask the terminal first');
    if (cards.length > 0)
      throw new Refused(
        'blocked',
        receipt.amount < 0
          ? 'The terminal gave it back to the card: charge the card anew'
          : 'A card of it was charged by the terminal: take that back there, on the same day, or give it back',
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

/** Kinds of entries by which the cash of a tender comes and is moved. */
const CASH_MOVES = ['receipt', 'deposit', 'place-move', 'tender-correction'] as const;
/** Kinds of entries by which the credit of a receipt is used, that can be taken back one by one. */
const USES = ['allocation', 'plan-payment', 'agency-direct', 'bad-debt-recovered'] as const;

/**
 * Takes one tender out of the books with what it paid; then what else used its money, the newest first, until no credit is
 * missing. The households are locked.
 * @param stays its cash stays in the books, and so much of it, in cents, is to be held by the receipt's own account; null: it goes too
 * @returns the entries that were reversed
 */
export async function reverseTender(
  act: Act,
  receipt: { id: number; household_id: number; households: readonly number[] },
  tenderId: number,
  why: string,
  stays: Cents | null = null,
): Promise<number[]> {
  const { rows } = await sql<{ id: number }>`
    select distinct e.id
    from posting p
      join entry e on e.id = p.entry_id
    where p.tender_id = ${tenderId} and (${stays}::bigint is null or e.kind <> all(${[...CASH_MOVES]}::text[]))
    order by 1`.execute(act.db);
  const reversed = await reverseEntries(
    act.db,
    act,
    rows.map(({ id }) => id),
    why,
  );
  // What had become credit again of a charge that it no longer pays is no credit of it.
  for (;;) {
    const over = await sql<{ id: number }>`
      select max(e.id) as id
      from posting p
        join entry e on e.id = p.entry_id
      where p.receipt_id = ${receipt.id}
        and e.kind = 'overpaid'
        and p.account = 'credit/patient'
        and not exists (select from entry r where r.reverses = e.id)
        and 0 > (
          select sum(o.amount)
          from posting o
          where o.receipt_id = p.receipt_id and o.charge_id = p.charge_id and o.account = 'credit/patient'
        )`.execute(act.db);
    const id = over.rows[0]?.id;
    if (!id) break;
    reversed.push(...(await reverseEntries(act.db, act, [id], why)));
  }
  for (const householdId of receipt.households)
    reversed.push(
      ...(await takeBackUses(
        act,
        receipt.id,
        householdId,
        householdId === receipt.household_id ? (stays ?? ZERO) : ZERO,
        why,
      )),
    );
  await afterReversal(act.db, act, reversed, why);
  return reversed;
}

/**
 * Takes back what used the credit of a receipt, the newest first, until so much of it is held by an account again.
 * @param needed cents @returns the entries that were reversed
 */
export async function takeBackUses(
  act: Act,
  receiptId: number,
  householdId: number,
  needed: Cents,
  why: string,
): Promise<number[]> {
  const reversed: number[] = [];
  while ((await creditOf(act.db, receiptId, householdId)) < needed) {
    const use = await sql<{ id: number }>`
        select e.id
        from posting p
          join entry e on e.id = p.entry_id
        where p.receipt_id = ${receiptId}
          and p.account = 'credit/patient'
          and p.amount > 0
          and e.kind = any(${[...USES]}::text[])
          and household_now(p.household_id) = ${householdId}
          and not exists (select from entry r where r.reverses = e.id)
        order by e.id desc
        limit 1`.execute(act.db);
    const last = use.rows[0];
    if (!last) throw new Refused('blocked', 'What it paid was moved on since: take that back first');
    reversed.push(...(await reverseEntries(act.db, act, [last.id], why)));
  }
  return reversed;
}

/** What of a tender went back already, in cents: what was given back and its surcharge. */
export async function givenBack(act: Act, tenderId: number): Promise<{ amount: Cents; surcharge: Cents }> {
  const row = await act.db
    .selectFrom('tender as t')
    .select([
      sql<Cents>`coalesce(-sum(t.amount), 0)`.as('amount'),
      sql<Cents>`coalesce(-sum(t.surcharge), 0)`.as('surcharge'),
    ])
    .where('t.refund_of', '=', tenderId)
    .where('t.state', 'in', ['taken', 'pending'])
    .executeTakeFirst();
  return row ?? { amount: ZERO, surcharge: ZERO };
}
