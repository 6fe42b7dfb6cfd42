/** Credit that goes back: to the tender that it came with, above a limit when a manager approves. */
import { sql } from 'kysely';
import type { z } from 'zod';
import { refundEntry } from '../../core/books/entries/patients';
import { type Cents, ZERO, formatMoneyPlain, minus, negate } from '../../core/money';
import { decideRefundInput, refundInput } from '../../core/payments/input';
import { surchargeBack } from '../../core/payments/surcharge';
import { TENDERS, type Tender, tenderMemo } from '../../core/payments/tenders';
import { type Context, Refused, lookAgain, may } from '../access';
import { creditOf } from '../books/balances';
import { writeEntries } from '../books/journal';
import { noteBeside } from '../notes/notes';
import { type Act, useCase } from '../use-case';
import { emailIfAll } from './receipt-mail';
import { givenBack, keepRefund, lockReceipt } from './receipts';
import { readPaymentPolicy } from './surcharge';
import { keepAttempt } from './take';
import { drawerOf, keepTender } from './tenders';
import { type AttemptOutcome, askFor } from './terminal';

type Asked = z.output<typeof refundInput>;

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

/** What came of giving back: the refund and the attempt for which a terminal is asked, or what waits for a manager. */
export interface Refund {
  refundId: number | null;
  attemptId: number | null;
  requestId: number | null;
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
  run: (act, data) => refund(act, data, null),
});

/** @param approves the request that a manager approves; null where it is asked for now */
async function refund(act: Act, data: Asked, approves: number | null): Promise<Refund> {
  const { receiptId, tenderId, amount, tender, reference, why, seen, sure } = data;
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
  const { refundMost } = await readPaymentPolicy(tx, receipt.location_id);
  if (refundMost > 0 && amount > refundMost && !may(act.user.role, 'approve refunds'))
    return { refundId: null, attemptId: null, requestId: await keepRequest(act, data) };
  const surcharge = of ? surchargeBack(amount, of, of.before) : ZERO;
  const id = await keepRefund(act, receipt, amount);
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
      requestId: approves,
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
    ownCheck: tender === 'check',
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
  return { refundId: id, attemptId: null, requestId: approves };
}

/** What came of giving back, with what a terminal said. */
export interface GivenBack extends Omit<Refund, 'attemptId'> {
  card: AttemptOutcome | null;
}

/** Keeps that somebody asks to give back more than they may. @returns the request */
async function keepRequest(
  act: Act,
  { receiptId, tenderId, amount, tender, reference, why }: Asked,
): Promise<number> {
  const waits = await act.db
    .selectFrom('refund_request')
    .select('amount')
    .where('receipt_id', '=', receiptId)
    .where('status', '=', 'asked')
    .executeTakeFirst();
  if (waits)
    throw new Refused(
      'state',
      `A refund of ${formatMoneyPlain(waits.amount)} of it is asked for and not decided yet`,
    );
  const { id } = await act.db
    .insertInto('refund_request')
    .values({
      receipt_id: receiptId,
      tender_id: tenderId,
      amount,
      kind: tender,
      reference,
      why,
      asked_on: act.today,
      asked_by: act.user.name,
    })
    .returning('id')
    .executeTakeFirstOrThrow();
  await act.note(
    'asked for refund',
    { kind: 'receipt', id: receiptId },
    { amount: formatMoneyPlain(amount), why },
  );
  return id;
}

/** Decides on a refund that was asked for: approved, it is given back as it was asked for, if that is held still. */
export const decideRefund = useCase({
  name: 'decide refund',
  permission: 'approve refunds',
  input: decideRefundInput,
  async run(act, { refundRequestId, approve, why, reference, sure }): Promise<Refund> {
    const found = await act.db
      .selectFrom('refund_request')
      .select('receipt_id')
      .where('id', '=', refundRequestId)
      .executeTakeFirst();
    if (!found) throw new Refused('unknown', 'There is no such refund');
    await lockReceipt(act, found.receipt_id);
    const one = await act.db
      .selectFrom('refund_request')
      .selectAll()
      .where('id', '=', refundRequestId)
      .forUpdate()
      .executeTakeFirstOrThrow();
    if (one.status !== 'asked') throw new Refused('already', `It was ${one.status} by ${one.decided_by}`);
    if (!approve && why === '') throw new Refused('missing', 'Say why it is refused', 'why');
    const done: Refund = approve
      ? await refund(
          act,
          {
            receiptId: one.receipt_id,
            tenderId: one.tender_id,
            amount: one.amount,
            tender: one.kind,
            reference: reference || one.reference,
            why: one.why,
            key: `request ${refundRequestId}`,
            sure,
          },
          refundRequestId,
        )
      : { refundId: null, attemptId: null, requestId: refundRequestId };
    await act.db
      .updateTable('refund_request')
      .set({
        status: approve ? 'approved' : 'refused',
        decided_on: act.today,
        decided_by: act.user.name,
        decided_why: why,
        refund_id: done.refundId,
      })
      .where('id', '=', refundRequestId)
      .execute();
    await act.note('decided refund', { kind: 'receipt', id: one.receipt_id }, { approve, why });
    return done;
  },
});

/** Decides on a refund; what is approved goes back through the terminal where it came from one. */
export async function settleRefund(
  context: Context,
  input: z.input<typeof decideRefundInput>,
): Promise<GivenBack> {
  const { refundId, requestId, attemptId } = await decideRefund(context, input);
  return { refundId, requestId, card: attemptId === null ? null : await askFor(context, attemptId) };
}

/** Gives credit back, through the terminal where it came from one. */
export async function giveBack(context: Context, input: z.input<typeof refundInput>): Promise<GivenBack> {
  const { refundId, requestId, attemptId } = await refundCredit(context, input);
  return { refundId, requestId, card: attemptId === null ? null : await askFor(context, attemptId) };
}
