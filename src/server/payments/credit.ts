/** What is held as credit: used for what is owed, on plans and with agencies, or given back. */
import { sql } from 'kysely';
import type { z } from 'zod';
import { refundEntry } from '../../core/books/entries/patients';
import { type Cents, ZERO, add, formatMoneyPlain, least, minus, negate, sum } from '../../core/money';
import { creditInput, refundInput } from '../../core/payments/input';
import { type Spread, spreadByHand, spreadInOrder } from '../../core/payments/spread';
import { TENDERS, type Tender, tenderMemo } from '../../core/payments/tenders';
import { surchargeBack } from '../../core/payments/surcharge';
import { type Context, Refused, lookAgain } from '../access';
import { noteBeside } from '../notes/notes';
import { creditOf, heldReceipts } from '../books/balances';
import { lockHouseholds, writeEntries } from '../books/journal';
import { type Act, useCase } from '../use-case';
import { openCharges } from '../books/open-lines';
import { emailIfAll } from './receipt-mail';
import { givenBack, lockReceipt } from './receipts';
import { readPaymentPolicy } from './surcharge';
import { keepAttempt, payAgency, payOnPlan } from './take';
import { allocations, drawerOf, keepTender } from './tenders';
import { type AttemptOutcome, askFor } from './terminal';

/** A receipt that holds credit. `left` in cents. */
type Held = Awaited<ReturnType<typeof heldReceipts>>[number];

/** Takes an amount from receipts, the oldest first. */
function* fromCaseId(held: Held[], wanted: Cents): Generator<{ receipt: Held; amount: Cents }> {
  let rest = wanted;
  for (const receipt of held) {
    const amount = least(rest, receipt.left);
    if (amount <= 0) continue;
    receipt.left = minus(receipt.left, amount);
    rest = minus(rest, amount);
    yield { receipt, amount };
  }
}

const wantedOf = (amounts: Record<string, Cents> | null | undefined): [number, Cents][] =>
  Object.entries(amounts ?? {}).map(([id, amount]) => [Number(id), amount]);

/**
 * Uses the credit of a household, or of a patient with an address apart: for what is chosen of its open charges, its plans and
 * what is with an agency; without a choice for its open charges, oldest first. The oldest receipt is used first.
 * @returns cents used
 */
export const spendCredit = useCase({
  name: 'spend credit',
  permission: 'take payments',
  input: creditInput,
  once: (data) => data.key,
  async run(act, { householdId, patientId, parts, plans, agency }): Promise<Cents> {
    await lockHouseholds(act.db, [householdId]);
    const held = await heldReceipts(act.db, householdId, patientId);
    const credit = sum(held.map(({ left }) => left));
    const open = (await openCharges(act, [householdId])).filter(({ apart }) => apart === patientId);
    const onPlans = wantedOf(plans).filter(([, amount]) => amount !== 0);
    const toAgency = agency ?? ZERO;
    if ([...onPlans.map(([, amount]) => amount), toAgency].some((amount) => amount < 0))
      throw new Refused('limit', 'A part is below zero', 'parts');
    const aside = add(sum(onPlans.map(([, amount]) => amount)), toAgency);
    if (aside > credit)
      throw new Refused('limit', `${formatMoneyPlain(credit)} is held, less than that`, {
        field: 'plans',
        facts: { credit },
      });
    const chosen = parts !== undefined && parts !== null;
    const spread: Spread | string = chosen
      ? spreadByHand(minus(credit, aside), open, new Map(wantedOf(parts)))
      : aside > 0
        ? { parts: [], left: ZERO }
        : spreadInOrder(credit, open);
    if (typeof spread === 'string') throw new Refused('state', spread, 'parts');
    const used = add(aside, sum(spread.parts.map(({ amount }) => amount)));
    if (used === 0)
      throw new Refused(
        'state',
        chosen ? 'Say what it is used for' : 'There is no credit, or nothing open to apply it to',
      );
    await usePlansFirst(act, householdId, held, onPlans, toAgency);
    const drafts = spread.parts.flatMap(({ id, amount }) =>
      [...fromCaseId(held, amount)].flatMap(({ receipt, amount: part }) =>
        allocations(act.today, fromCredit(receipt), receipt.id, [{ id, amount: part }], open),
      ),
    );
    await writeEntries(act.db, act, drafts);
    await act.note('used credit', { kind: 'household', id: householdId }, { amount: used });
    return used;
  },
});

const fromCredit = (receipt: Held): string => `${receipt.how}, from credit`;

/** Pays plans and what is with an agency from receipts that are held. */
async function usePlansFirst(
  act: Act,
  householdId: number,
  held: Held[],
  plans: readonly [number, Cents][],
  agency: Cents,
): Promise<void> {
  for (const [planId, wanted] of plans)
    for (const { receipt, amount } of fromCaseId(held, wanted))
      await payOnPlan(act, householdId, {
        planId,
        receiptId: receipt.id,
        amount,
        memo: fromCredit(receipt),
        day: act.today,
      });
  for (const { receipt, amount } of fromCaseId(held, agency))
    await payAgency(act, householdId, receipt.id, amount, fromCredit(receipt));
}

/** How money goes back: by the tender that it came with, as the networks of cards demand; otherwise also by check. */
const goesBackBy = (came: Tender, tender: Tender): boolean =>
  tender === came || (came !== 'card' && tender === 'check') || (came === 'bank' && tender === 'transfer');

/** The tender of a receipt whose money goes back: the one that is named, else the first of which as much is left. */
async function tenderBack(act: Act, receiptId: number, tenderId: number | null, amount: Cents) {
  const tenders = await act.db
    .selectFrom('tender')
    .select(['id', 'kind', 'amount', 'surcharge', 'token', 'brand', 'last_four', 'card_kind', 'place_id'])
    .where('receipt_id', '=', receiptId)
    .where('state', '=', 'taken')
    .orderBy('id')
    .execute();
  const withLeft = [];
  for (const tender of tenders) {
    const before = await givenBack(act, tender.id);
    withLeft.push({ ...tender, before, left: minus(tender.amount, before.amount) });
  }
  const found =
    tenderId === null
      ? (withLeft.find(({ left }) => left >= amount) ?? withLeft.find(({ left }) => left > 0))
      : withLeft.find(({ id }) => id === tenderId);
  if (tenderId !== null && !found)
    throw new Refused('others', 'That is no tender of this receipt that was taken', 'tenderId');
  return found ?? null;
}

/** What of a receipt a terminal is asked to give back and has not answered for, in cents. */
async function askedBack(act: Act, receiptId: number): Promise<Cents> {
  const row = await act.db
    .selectFrom('tender as t')
    .innerJoin('receipt as r', 'r.id', 't.receipt_id')
    .select(sql<Cents>`coalesce(-sum(t.amount), 0)`.as('amount'))
    .where('r.refund_of', '=', receiptId)
    .where('t.state', '=', 'pending')
    .executeTakeFirstOrThrow();
  return row.amount;
}

/** What is given back, and the attempt for which a terminal is asked; null where none is. */
export interface Refund {
  refundId: number;
  attemptId: number | null;
}

/**
 * Gives credit of a receipt back: a receipt of its own, below zero, which is reversed like any other when it does not arrive. What
 * a terminal has charged goes back through it, with its part of the surcharge.
 */
export const refundCredit = useCase({
  name: 'refund credit',
  permission: 'reverse entries',
  input: refundInput,
  once: (data) => data.key,
  async run(act, { receiptId, tenderId, amount, tender, reference, why, seen, sure }): Promise<Refund> {
    const tx = act.db;
    const receipt = await lockReceipt(act, receiptId);
    // What a terminal was asked to give back already is not given back twice.
    const left = minus(await creditOf(tx, receiptId, receipt.household_id), await askedBack(act, receiptId));
    lookAgain(sure, [
      seen !== undefined &&
        seen !== left &&
        `${formatMoneyPlain(left)} of it is held now, not ${formatMoneyPlain(seen)}`,
    ]);
    if (left <= 0) throw new Refused('nothing', 'Nothing of this receipt is held as credit');
    if (amount > left)
      throw new Refused('limit', `${formatMoneyPlain(left)} of it is held, less than that`, {
        field: 'amount',
        facts: { left },
      });
    const { refundMost } = await readPaymentPolicy(tx, receipt.location_id);
    if (refundMost > 0 && amount > refundMost && act.user.role !== 'manager')
      throw new Refused('blocked', `More than ${formatMoneyPlain(refundMost)} is given back by a manager`, {
        field: 'amount',
        facts: { refundMost },
      });
    const of = await tenderBack(act, receiptId, tenderId, amount);
    const came = of?.kind ?? 'transfer';
    if (!goesBackBy(came, tender))
      throw new Refused(
        'invalid',
        `It came by ${TENDERS[came].words.toLowerCase()}: it goes back that way${came === 'card' ? '' : ', or by check'}`,
        'tender',
      );
    if (of && amount > of.left)
      throw new Refused(
        'limit',
        `${formatMoneyPlain(of.left)} of this ${TENDERS[came].words.toLowerCase()} did not go back yet, less than that`,
        { field: 'amount', facts: { left: of.left } },
      );
    const surcharge = of ? surchargeBack(amount, of, of.before) : ZERO;
    const { id } = await tx
      .insertInto('receipt')
      .values({
        household_id: receipt.household_id,
        patient_id: receipt.patient_id,
        refund_of: receiptId,
        amount: negate(amount),
        received_on: act.today,
        location_id: receipt.location_id,
        user_id: act.user.id,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    await noteBeside(act, { receipt_id: id, household_id: receipt.household_id }, why);
    await emailIfAll(act, id);
    await act.note('refunded', { kind: 'receipt', id: receiptId }, { amount, why });
    if (of && of.token !== '') {
      const { id: refundTender } = await tx
        .insertInto('tender')
        .values({
          receipt_id: id,
          kind: 'card',
          amount: negate(amount),
          surcharge: negate(surcharge),
          reference,
          place_id: of.place_id,
          state: 'pending',
          brand: of.brand,
          last_four: of.last_four,
          card_kind: of.card_kind,
          token: of.token,
          refund_of: of.id,
        })
        .returning('id')
        .executeTakeFirstOrThrow();
      const merchant = await tx
        .selectFrom('attempt')
        .select('merchant')
        .where('tender_id', '=', of.id)
        .where('what', '=', 'sale')
        .where('state', '=', 'approved')
        .executeTakeFirstOrThrow();
      return {
        refundId: id,
        attemptId: await keepAttempt(act, { tenderId: refundTender, what: 'refund', why, ...merchant }),
      };
    }
    const cash = await keepTender(tx, act, {
      receiptId: id,
      tender,
      reference,
      amount: negate(amount),
      refundOf: of?.id ?? null,
      locationId: receipt.location_id,
      drawer: tender === 'cash' ? await drawerOf(act, tender, receipt.location_id) : null,
    });
    await writeEntries(tx, act, [
      refundEntry({
        businessDate: act.today,
        memo: `${tenderMemo({ tender, reference })}: ${why}`,
        householdId: receipt.household_id,
        refundId: id,
        receiptId,
        cash,
        amount,
      }),
    ]);
    return { refundId: id, attemptId: null };
  },
});

/** Gives credit back, through the terminal where it came from one. */
export async function giveBack(
  context: Context,
  input: z.input<typeof refundInput>,
): Promise<{ refundId: number; card: AttemptOutcome | null }> {
  const { refundId, attemptId } = await refundCredit(context, input);
  return { refundId, card: attemptId === null ? null : await askFor(context, attemptId) };
}
