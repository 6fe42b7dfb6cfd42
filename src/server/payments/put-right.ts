/** Payments that came back, were written down wrongly, or were another account's. */
import { sql } from 'kysely';
import type { z } from 'zod';
import {
  receiptEntry,
  refundEntry,
  tenderCorrectionEntry,
  transferEntry,
} from '../../core/books/entries/patients';
import { addDays, formatDate } from '../../core/calendar';
import { type Cents, add, formatMoneyPlain, minus, negate, toDecimal } from '../../core/money';
import {
  correctTenderInput,
  moveReceiptInput,
  returnedInput,
  tenderInput,
  transferCreditInput,
} from '../../core/payments/input';
import { FIRST_PLACE, TENDERS, tenderMemo } from '../../core/payments/tenders';
import { chargeAccount } from '../accounts/door';
import { type Context, Refused, businessDate, lookAgain } from '../access';
import { creditOf } from '../books/balances';
import { lockHouseholds, reverseEntries, writeEntries } from '../books/journal';
import { afterReversal } from '../settle';
import { type Act, useCase } from '../use-case';
import { givenBack, keepRefund, lockReceipt, refuseRefunded, reverseTender } from './receipts';
import { readPaymentPolicy } from './surcharge';
import { keepAttempt } from './take';
import { placeFor } from './tenders';
import { type AttemptOutcome, askFor } from './terminal';

/** A tender with its receipt, locked. @throws Refused */
async function lockTender(act: Act, tenderId: number) {
  const known = await act.db
    .selectFrom('tender')
    .select('receipt_id')
    .where('id', '=', tenderId)
    .executeTakeFirst();
  if (!known) throw new Refused('unknown', 'There is no such tender');
  const receipt = await lockReceipt(act, known.receipt_id);
  const tender = await act.db
    .selectFrom('tender as t')
    .innerJoin('place as p', 'p.id', 't.place_id')
    .selectAll('t')
    .select('p.kind as placeKind')
    .where('t.id', '=', tenderId)
    .forUpdate('t')
    .executeTakeFirstOrThrow();
  return { tender, receipt };
}

const wordsOf = (tender: {
  kind: keyof typeof TENDERS;
  reference: string;
  brand: string;
  last_four: string;
}) =>
  tenderMemo({
    tender: tender.kind,
    reference: tender.last_four === '' ? tender.reference : `${tender.brand} ${tender.last_four}`,
  });

/** @throws Refused while a terminal is asked about a tender */
async function refuseWaiting(act: Act, tenderId: number): Promise<void> {
  const waits = await act.db
    .selectFrom('attempt')
    .select('id')
    .where('tender_id', '=', tenderId)
    .where('state', 'in', ['asked', 'unclear'])
    .executeTakeFirst();
  if (waits) throw new Refused('blocked', 'The terminal is being asked about it: wait for its answer');
}

/** Days in which a charge-back is answered, common practice: networks give less than thirty. */
const ANSWER_DAYS = 10;

/**
 * A check or a debit that the bank gave back, or a card charge that its holder contests: what it paid is owed again. A check may
 * bear the practice's charge, and end the taking of checks; a contested card is followed up, for it may be won.
 * @returns the charge that was put on the account; null for none
 */
export const returnTender = useCase({
  name: 'return tender',
  permission: 'reverse entries',
  input: returnedInput,
  once: (data) => data.key,
  async run(act, { tenderId, why, fee, noChecks, key }): Promise<{ chargeId: number | null }> {
    const { tender, receipt } = await lockTender(act, tenderId);
    if (tender.state !== 'taken')
      throw new Refused('already', 'It is not in the books: it came back or was taken back before');
    if (tender.amount < 0) throw new Refused('invalid', 'This went back to the patient: reverse it');
    await refuseWaiting(act, tenderId);
    if (tender.kind === 'cash' || tender.kind === 'voucher')
      throw new Refused('invalid', `${TENDERS[tender.kind].words} does not come back from a bank`);
    if (fee && tender.kind !== 'check' && tender.kind !== 'bank')
      throw new Refused('invalid', 'The charge is for a check or a debit that came back', 'fee');
    if (fee && receipt.patient_id !== null && (await isApart(act, receipt.patient_id)))
      throw new Refused(
        'others',
        'This money is kept apart: its charge would stand on the statement of the household',
        'fee',
      );
    const before = await givenBack(act, tenderId);
    const words = wordsOf(tender);
    // A bank takes back a check whole; what a card's holder contests is what did not go back yet.
    if (before.amount > 0 && tender.kind !== 'card') await refuseRefunded(act, receipt.id);
    const rest = minus(tender.amount, before.amount);
    if (rest <= 0) throw new Refused('nothing', 'All of it was given back');
    if (before.amount > 0) await returnRest(act, receipt, tender, before, `${words} came back: ${why}`);
    else {
      await reverseTender(act, receipt, tenderId, `${words} came back: ${why}`);
      await act.db.updateTable('tender').set({ state: 'returned' }).where('id', '=', tenderId).execute();
    }
    let chargeId: number | null = null;
    if (fee) {
      const { returnedCheck } = await readPaymentPolicy(act.db, receipt.location_id);
      if (returnedCheck === 0)
        throw new Refused('missing', 'Setup has no charge for a returned check', 'fee');
      // Not everybody who takes back may enter charges; this one goes with what came back.
      chargeId = await chargeAccount(
        { ...act, user: { ...act.user, role: 'manager' } },
        {
          householdId: receipt.household_id,
          kind: 'returned',
          amount: toDecimal(returnedCheck),
          date: act.today,
          memo: `Returned: ${words}, ${formatMoneyPlain(tender.amount)}`,
          key: `returned ${key.slice(0, 60)}`,
        },
      );
    }
    if (noChecks)
      await act.db
        .updateTable('household')
        .set({ no_checks_on: act.today })
        .where('id', '=', receipt.household_id)
        .execute();
    if (tender.kind === 'card')
      await act.db
        .insertInto('follow_up')
        .values({
          kind: 'charge-back',
          household_id: receipt.household_id,
          words: `${words} over ${formatMoneyPlain(rest)} is contested: ${why}`,
          amount: rest,
          due_date: addDays(act.today, ANSWER_DAYS),
          key: `charge-back:${tenderId}:${key}`,
        })
        .execute();
    await act.note('came back', { kind: 'receipt', id: receipt.id }, { tender: words, why, fee, noChecks });
    return { chargeId };
  },
});

/** Whether a patient has an address apart. */
const isApart = async (act: Act, patientId: number): Promise<boolean> =>
  (await act.db
    .selectFrom('confidential_address')
    .select('id')
    .where('patient_id', '=', patientId)
    .where('ended_on', 'is', null)
    .executeTakeFirst()) !== undefined;

/**
 * Takes out of the books what is left of a card of which a part was given back: what the rest of it paid is owed again, and the
 * rest has gone as a refund, which is reversed when the contest is won.
 */
async function returnRest(
  act: Act,
  receipt: Awaited<ReturnType<typeof lockReceipt>>,
  tender: Awaited<ReturnType<typeof lockTender>>['tender'],
  before: Awaited<ReturnType<typeof givenBack>>,
  why: string,
): Promise<void> {
  const amount = minus(tender.amount, before.amount);
  const surcharge = minus(tender.surcharge, before.surcharge);
  await reverseTender(act, receipt, tender.id, why, amount);
  const refundId = await keepRefund(act, receipt, amount);
  const { id: tenderId } = await act.db
    .insertInto('tender')
    .values({
      receipt_id: refundId,
      kind: tender.kind,
      amount: negate(amount),
      surcharge: negate(surcharge),
      reference: tender.reference,
      place_id: tender.place_id,
      brand: tender.brand,
      last_four: tender.last_four,
      card_kind: tender.card_kind,
      refund_of: tender.id,
    })
    .returning('id')
    .executeTakeFirstOrThrow();
  await writeEntries(act.db, act, [
    refundEntry({
      businessDate: act.today,
      memo: why,
      householdId: receipt.household_id,
      refundId,
      receiptId: receipt.id,
      cash: { account: `cash/${tender.kind}`, tenderId, placeId: tender.place_id },
      amount,
      surcharge,
    }),
  ]);
}

/** What came back is there after all: a check that was handed in again, a contested charge that was won. It is credit. */
export const takeAgain = useCase({
  name: 'take tender again',
  permission: 'reverse entries',
  input: tenderInput,
  once: (data) => data.key,
  async run(act, { tenderId, why }): Promise<number> {
    const { tender, receipt } = await lockTender(act, tenderId);
    if (tender.state !== 'returned') throw new Refused('state', 'It did not come back');
    const placeId =
      FIRST_PLACE[tender.kind] === tender.placeKind
        ? tender.place_id
        : await placeFor(act.db, act, { tender: tender.kind, locationId: receipt.location_id });
    await act.db
      .updateTable('tender')
      .set({ state: 'taken', place_id: placeId })
      .where('id', '=', tenderId)
      .execute();
    await writeEntries(act.db, act, [
      {
        ...receiptEntry({
          businessDate: act.today,
          memo: `${wordsOf(tender)} again: ${why}`,
          about: { householdId: receipt.household_id, receiptId: receipt.id },
          cash: { account: `cash/${tender.kind}`, tenderId, placeId },
          amount: tender.amount,
          surcharge: tender.surcharge,
        }),
        key: `tender:${tenderId}:again:${await act.db
          .selectFrom('posting')
          .select(({ fn }) => fn.countAll<number>().as('n'))
          .where('tender_id', '=', tenderId)
          .executeTakeFirstOrThrow()
          .then(({ n }) => n)}`,
      },
    ]);
    await act.note('took again', { kind: 'receipt', id: receipt.id }, { tender: wordsOf(tender), why });
    return receipt.id;
  },
});

/** A tender whose kind or reference was written down wrongly: another one takes its place, by an entry between the two. @returns the new one's id */
export const correctTender = useCase({
  name: 'correct tender',
  permission: 'reverse entries',
  input: correctTenderInput,
  once: (data) => data.key,
  async run(act, { tenderId, tender: kind, reference, why }): Promise<number> {
    const { tender, receipt } = await lockTender(act, tenderId);
    if (tender.state !== 'taken') throw new Refused('state', 'It is not in the books any more');
    if (tender.token !== '' || kind === 'card')
      throw new Refused('blocked', 'What a terminal says of a card stands: take it back and take it anew');
    if (tender.amount < 0) throw new Refused('invalid', 'This went back to the patient: reverse it');
    if (tender.kind === kind && tender.reference === reference)
      throw new Refused('nothing', 'It says so already', 'reference');
    if (tender.placeKind === 'bank' && tender.kind !== kind)
      throw new Refused('blocked', 'It was taken to the bank: undo that deposit first', 'tender');
    await refuseRefunded(act, receipt.id);
    const stays = FIRST_PLACE[kind] === FIRST_PLACE[tender.kind] || tender.kind === kind;
    const placeId = stays
      ? tender.place_id
      : await placeFor(act.db, act, { tender: kind, locationId: receipt.location_id });
    const open =
      tender.drawer_id === null
        ? null
        : await act.db
            .selectFrom('drawer')
            .select('closed_at')
            .where('id', '=', tender.drawer_id)
            .executeTakeFirstOrThrow();
    if (open?.closed_at && tender.kind !== kind)
      throw new Refused('blocked', 'Its drawer is closed and was counted so', 'tender');
    const { id } = await act.db
      .insertInto('tender')
      .values({
        receipt_id: receipt.id,
        kind,
        amount: tender.amount,
        reference,
        place_id: placeId,
        drawer_id:
          stays && !open?.closed_at && (kind === 'cash' || kind === 'check') ? tender.drawer_id : null,
        corrects: tenderId,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    await writeEntries(act.db, act, [
      tenderCorrectionEntry({
        businessDate: receipt.received_on,
        memo: `${wordsOf(tender)} was ${tenderMemo({ tender: kind, reference })}: ${why}`,
        about: { householdId: receipt.household_id, receiptId: receipt.id },
        from: { account: `cash/${tender.kind}`, tenderId, placeId: tender.place_id },
        to: { account: `cash/${kind}`, tenderId: id, placeId },
        amount: tender.amount,
      }),
    ]);
    await act.db.updateTable('tender').set({ state: 'void' }).where('id', '=', tenderId).execute();
    await act.note(
      'put right',
      { kind: 'receipt', id: receipt.id },
      { was: wordsOf(tender), is: tenderMemo({ tender: kind, reference }), why },
    );
    return id;
  },
});

/** Moves a payment to the account whose it is: what it paid is owed again, and all of it is credit there. Its day and its tenders stay. */
export const moveReceipt = useCase({
  name: 'move receipt',
  permission: 'reverse entries',
  input: moveReceiptInput,
  once: (data) => data.key,
  async run(act, { receiptId, toHouseholdId, why, sure }): Promise<number> {
    const tx = act.db;
    await lockHouseholds(tx, [toHouseholdId, ...(await householdsOfReceipt(act, receiptId))]);
    const receipt = await lockReceipt(act, receiptId);
    if (receipt.household_id === toHouseholdId) throw new Refused('nothing', 'It is there already');
    if (receipt.amount < 0) throw new Refused('invalid', 'This went back to a patient: reverse it');
    if (receipt.placement_id !== null)
      throw new Refused('blocked', 'An agency had collected it: it stays where it was owed');
    await refuseRefunded(act, receiptId);
    await refuseRequested(act, receiptId);
    await refuseReserved(act, receiptId);
    const target = await tx
      .selectFrom('household')
      .select(['number', 'merged_into'])
      .where('id', '=', toHouseholdId)
      .executeTakeFirst();
    if (!target || target.merged_into !== null)
      throw new Refused('unknown', 'There is no such account', 'toHouseholdId');
    const tenders = await tx
      .selectFrom('tender')
      .select(['id', 'state', 'amount'])
      .where('receipt_id', '=', receiptId)
      .execute();
    if (tenders.some(({ state }) => state === 'pending'))
      throw new Refused('blocked', 'A card of it still waits for the terminal: ask the terminal first');
    const taken = tenders.filter(({ state }) => state === 'taken');
    if (taken.length === 0) throw new Refused('nothing', 'Nothing of it is in the books');
    const { number: from } = await tx
      .selectFrom('household')
      .select('number')
      .where('id', '=', receipt.household_id)
      .executeTakeFirstOrThrow();
    lookAgain(sure, [
      receipt.patient_id !== null &&
        `It is kept apart for one patient of ${from}: on ${target.number} it is the household’s`,
    ]);
    // All that it paid is taken back; the money itself stays where it is.
    const uses = await sql<{ id: number }>`
      select distinct e.id
      from posting p
        join entry e on e.id = p.entry_id
      where p.receipt_id = ${receiptId}
        and e.kind not in ('receipt', 'deposit', 'place-move', 'tender-correction', 'reversal')
        and not exists (select from entry r where r.reverses = e.id)
      order by e.id`.execute(tx);
    const reversed = await reverseEntries(
      tx,
      act,
      uses.rows.map(({ id }) => id),
      why,
    );
    const amount = await creditOf(tx, receiptId, receipt.household_id);
    await tx
      .insertInto('receipt_moved')
      .values({
        receipt_id: receiptId,
        household_id: receipt.household_id,
        on_day: act.today,
        user_id: act.user.id,
        why,
      })
      .execute();
    for (const householdId of [receipt.household_id, toHouseholdId])
      await tx
        .insertInto('receipt_household')
        .values({ receipt_id: receiptId, household_id: householdId })
        .onConflict((conflict) => conflict.doNothing())
        .execute();
    await tx
      .updateTable('receipt')
      .set({ household_id: toHouseholdId, patient_id: null })
      .where('id', '=', receiptId)
      .execute();
    await writeEntries(tx, act, [
      transferEntry({
        businessDate: receipt.received_on,
        memo: `Moved from ${from} to ${target.number}: ${why}`,
        receiptId,
        from: receipt.household_id,
        to: toHouseholdId,
        amount,
      }),
    ]);
    await afterReversal(tx, act, reversed, why);
    await act.note(
      'moved',
      { kind: 'receipt', id: receiptId },
      { from, to: target.number, received: formatDate(receipt.received_on), why },
    );
    return receiptId;
  },
});

/** Credit of a receipt goes to another account, where it is credit of that. @returns what is held there of it, in cents */
export const transferCredit = useCase({
  name: 'transfer credit',
  permission: 'reverse entries',
  input: transferCreditInput,
  once: (data) => data.key,
  async run(act, { receiptId, fromHouseholdId, toHouseholdId, amount, why, sure }): Promise<Cents> {
    const tx = act.db;
    if (fromHouseholdId === toHouseholdId) throw new Refused('nothing', 'It is there already');
    await lockHouseholds(tx, [
      fromHouseholdId,
      toHouseholdId,
      ...(await householdsOfReceipt(act, receiptId)),
    ]);
    const receipt = await lockReceipt(act, receiptId);
    if (!receipt.households.includes(fromHouseholdId))
      throw new Refused('others', 'This receipt is not of that account', 'fromHouseholdId');
    if (fromHouseholdId === receipt.household_id) await refuseReserved(act, receiptId);
    const accounts = await tx
      .selectFrom('household')
      .select(['id', 'number', 'merged_into'])
      .where('id', 'in', [fromHouseholdId, toHouseholdId])
      .execute();
    const [from, to] = [fromHouseholdId, toHouseholdId].map((id) => accounts.find((one) => one.id === id));
    if (!from || !to || to.merged_into !== null)
      throw new Refused('unknown', 'There is no such account', 'toHouseholdId');
    const reserved = await tx
      .selectFrom('receipt as r')
      .innerJoin('expected_visit as v', 'v.id', 'r.expected_visit_id')
      .select('v.id')
      .where('r.id', '=', receiptId)
      .where('v.freed_on', 'is', null)
      .executeTakeFirst();
    if (reserved) throw new Refused('blocked', 'It is reserved for a visit to come: free it first');
    const left = await creditOf(tx, receiptId, fromHouseholdId);
    if (amount > left)
      throw new Refused('limit', `${formatMoneyPlain(left)} of it is held there, less than that`, {
        field: 'amount',
        facts: { left },
      });
    lookAgain(sure, [
      receipt.patient_id !== null &&
        `It is kept apart for one patient of ${from.number}: on ${to.number} everybody sees it`,
    ]);
    for (const householdId of [fromHouseholdId, toHouseholdId])
      await tx
        .insertInto('receipt_household')
        .values({ receipt_id: receiptId, household_id: householdId })
        .onConflict((conflict) => conflict.doNothing())
        .execute();
    await writeEntries(tx, act, [
      transferEntry({
        businessDate: act.today,
        memo: `From ${from.number} to ${to.number}: ${why}`,
        receiptId,
        from: fromHouseholdId,
        to: toHouseholdId,
        amount,
      }),
    ]);
    await act.note(
      'moved credit',
      { kind: 'receipt', id: receiptId },
      { from: from.number, to: to.number, amount: formatMoneyPlain(amount), why },
    );
    return creditOf(tx, receiptId, toHouseholdId);
  },
});

/** @throws Refused while a receipt is kept for a visit to come, whose person is of its account */
async function refuseReserved(act: Act, receiptId: number): Promise<void> {
  const visit = await act.db
    .selectFrom('receipt as r')
    .innerJoin('expected_visit as v', 'v.id', 'r.expected_visit_id')
    .select('v.day')
    .where('r.id', '=', receiptId)
    .where('v.freed_on', 'is', null)
    .executeTakeFirst();
  if (visit)
    throw new Refused(
      'blocked',
      `It is kept for the visit of ${formatDate(visit.day)}: free that money first`,
    );
}

/** @throws Refused while a manager is asked to give some of a receipt back */
async function refuseRequested(act: Act, receiptId: number): Promise<void> {
  const asked = await act.db
    .selectFrom('refund_request')
    .select('amount')
    .where('receipt_id', '=', receiptId)
    .where('status', '=', 'asked')
    .executeTakeFirst();
  if (asked)
    throw new Refused(
      'blocked',
      `A refund of ${formatMoneyPlain(asked.amount)} of it waits for a manager: have that decided first`,
    );
}

async function householdsOfReceipt(act: Act, receiptId: number): Promise<number[]> {
  const { rows } = await sql<{ id: number }>`
    select household_id as id from receipt where id = ${receiptId}
    union select household_id from receipt_household where receipt_id = ${receiptId}`.execute(act.db);
  return rows.map(({ id }) => id);
}

/** Keeps that a card is to be taken back on the day on which it was charged. @returns the attempt */
export const askForVoid = useCase({
  name: 'void card',
  permission: 'reverse entries',
  input: tenderInput,
  once: (data) => data.key,
  async run(act, { tenderId, why }): Promise<number> {
    const { tender, receipt } = await lockTender(act, tenderId);
    if (tender.token === '' || tender.amount < 0)
      throw new Refused('invalid', 'No terminal has charged this');
    if (tender.state !== 'taken') throw new Refused('already', 'It is not in the books any more');
    if ((await givenBack(act, tenderId)).amount > 0) await refuseRefunded(act, receipt.id);
    const sale = await act.db
      .selectFrom('attempt')
      .select(['merchant', 'answered_at as at'])
      .where('tender_id', '=', tenderId)
      .where('what', '=', 'sale')
      .where('state', '=', 'approved')
      .executeTakeFirstOrThrow();
    if (sale.at === null || businessDate(sale.at) !== act.today)
      throw new Refused('date', 'It was charged on another day: give it back instead', 'tenderId');
    await refuseWaiting(act, tenderId);
    await act.note(
      'asked for',
      { kind: 'receipt', id: receipt.id },
      { void: formatMoneyPlain(add(tender.amount, tender.surcharge)), why },
    );
    return keepAttempt(act, { tenderId, what: 'void', merchant: sale.merchant, why });
  },
});

/** Takes a card back on the day on which it was charged, through the terminal. */
export const voidCard = async (
  context: Context,
  input: z.input<typeof tenderInput>,
): Promise<AttemptOutcome> => askFor(context, await askForVoid(context, input));
