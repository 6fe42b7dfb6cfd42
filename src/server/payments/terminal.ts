/**
 * Cards: what a terminal is asked, and what comes of its answer. One transaction keeps the attempt; the terminal is asked with no
 * transaction and no connection held; another books the answer. No number of a card comes here: the terminal reads it itself.
 */
import { sql } from 'kysely';
import type { z } from 'zod';
import { ZERO, formatMoneyPlain, negate } from '../../core/money';
import { attemptInput, readingInput, startReadingInput, type receiptInput } from '../../core/payments/input';
import { type Meant, spreadInOrder } from '../../core/payments/spread';
import { tenderMemo } from '../../core/payments/tenders';
import {
  type BatchRow,
  type Card,
  type PaymentAnswer,
  type PaymentRequest,
  batchAnswer,
  paymentAnswer,
  readingAnswer,
} from '../../core/payments/terminal';
import { refundEntry } from '../../core/books/entries/patients';
import { type Context, Refused, allow } from '../access';
import { lockHouseholds, writeEntries } from '../books/journal';
import { openCharges } from '../books/open-lines';
import { allowOpen } from '../closed';
import { parseInput } from '../input';
import { type Act, inTransaction } from '../use-case';
import { afterReversal } from '../settle';
import { lockReceipt, reverseTender, takeBackUses } from './receipts';
import { type Taken, meantDocument, postTender, takeReceipt } from './take';

/** Where the terminal is; null where none is connected. */
export const terminalUrl = (): string | null => process.env.WERGELD_TERMINAL || null;
/** How long an answer is waited for, in milliseconds. */
const patience = (): number => Number(process.env.WERGELD_TERMINAL_PATIENCE ?? 8000);

/** No answer came, or none that can be read: what was asked may have been done. */
class Unanswered extends Error {}

/** Says something to the terminal. @returns its answer; null where it does not know what it is asked about @throws Unanswered */
async function say<T>(schema: z.ZodType<T>, path: string, body?: unknown): Promise<T | null> {
  const url = terminalUrl();
  if (url === null) throw new Refused('missing', 'No card terminal is connected');
  try {
    const response = await fetch(`${url}${path}`, {
      ...(body === undefined
        ? {}
        : { method: 'POST', body: JSON.stringify(body), headers: { 'content-type': 'application/json' } }),
      signal: AbortSignal.timeout(patience()),
    });
    if (response.status === 404) return null;
    if (!response.ok) throw new Unanswered(`The terminal answered ${response.status}`);
    return schema.parse(await response.json());
  } catch (error) {
    if (error instanceof Refused) throw error;
    throw new Unanswered(error instanceof Error ? error.message : String(error));
  }
}

/** The merchant account of a site, by its place of money that is cleared. @throws Refused where Setup has none */
async function merchantOf(context: Context, locationId: number | null) {
  const found = await context.db
    .selectFrom('place')
    .select(['id', 'merchant'])
    .where('kind', '=', 'clearing')
    .where('merchant', '<>', '')
    .where(({ or, eb }) => or([eb('closed_on', 'is', null), eb('closed_on', '>', context.today)]))
    .where(({ or, eb }) => or([eb('location_id', 'is', null), eb('location_id', '=', locationId)]))
    .orderBy(sql`location_id nulls last`)
    .orderBy('id')
    .executeTakeFirst();
  if (!found)
    throw new Refused(
      'missing',
      'This site has no merchant account: Setup names one with a place of the kind “Being cleared”',
    );
  return found;
}

const silent = (): Refused =>
  new Refused(
    'unreached',
    'The terminal does not answer. No card was charged: see whether it is switched on',
  );

/** Asks the terminal for a card. @returns the key of the reading, and the terminal's own page for it */
export async function startReading(
  context: Context,
  input: z.input<typeof startReadingInput>,
): Promise<{ key: string; frame: string }> {
  allow(context, 'take payments');
  const { locationId, entry, amount, key } = parseInput(startReadingInput, input);
  const { merchant } = await merchantOf(context, locationId);
  try {
    await say(readingAnswer, '/v1/readings', { key, merchant, entry, amount });
  } catch (error) {
    if (error instanceof Unanswered) throw silent();
    throw error;
  }
  return { key, frame: `${terminalUrl()!}/frame/${key}` };
}

/** What the terminal has read; null while it waits. @throws Refused where it was canceled there */
export async function readCard(context: Context, input: z.input<typeof readingInput>): Promise<Card | null> {
  allow(context, 'take payments');
  const { key, locationId } = parseInput(readingInput, input);
  let answer;
  try {
    answer = await say(readingAnswer, `/v1/readings/${key}`);
  } catch (error) {
    if (error instanceof Unanswered) throw silent();
    throw error;
  }
  if (!answer || answer.state === 'canceled') throw new Refused('nothing', 'No card was read');
  const { card } = answer;
  if (!card) return null;
  const { id: placeId } = await merchantOf(context, locationId);
  await context.db
    .insertInto('card_reading')
    .values({
      key,
      place_id: placeId,
      user_id: context.user.id,
      brand: card.brand,
      kind: card.kind,
      entry: card.entry,
      last_four: card.lastFour,
      token: card.token,
    })
    .onConflict((conflict) => conflict.doNothing())
    .execute();
  return card;
}

/** What came of a card: whether it was charged, in words. */
export interface AttemptOutcome {
  attemptId: number;
  state: 'approved' | 'declined' | 'unclear';
  words: string;
  /** The authorization, or why there is none. */
  about: string;
}

/** What came of a taking, with what a terminal said of its cards. */
export type PaymentTaken = Omit<Taken, 'attempts'> & { cards: AttemptOutcome[] };

/** Takes a payment, and has its cards charged by the terminal. Pressed twice, each card is charged once. */
export async function takePayment(
  context: Context,
  input: z.input<typeof receiptInput>,
): Promise<PaymentTaken> {
  const { attempts, ...taken } = await takeReceipt(context, input);
  const cards: AttemptOutcome[] = [];
  for (const attemptId of attempts) cards.push(await ask(context, attemptId, 'first'));
  return { ...taken, cards };
}

/** Asks the terminal again what came of an attempt, under the key with which it was asked. */
export async function askAgain(
  context: Context,
  input: z.input<typeof attemptInput>,
): Promise<AttemptOutcome> {
  allow(context, 'take payments');
  const { attemptId } = parseInput(attemptInput, input);
  await allowOpen(context, { attemptId });
  return ask(context, attemptId, 'again');
}

const attemptRow = (context: Context, attemptId: number) =>
  context.db
    .selectFrom('attempt as a')
    .innerJoin('tender as t', 't.id', 'a.tender_id')
    .leftJoin('tender as o', 'o.id', 't.refund_of')
    .select([
      'a.id',
      'a.what',
      'a.key',
      'a.merchant',
      'a.state',
      'a.approval',
      'a.reason',
      'a.why',
      't.id as tenderId',
      't.receipt_id as receiptId',
      't.amount',
      't.surcharge',
      't.token',
      't.brand',
      't.last_four as lastFour',
      't.meant',
      't.place_id as placeId',
      sql<string | null>`
        (
          select s.key from attempt s where s.tender_id = coalesce(o.id, t.id) and s.what = 'sale' and s.state = 'approved'
        )`.as('of'),
    ])
    .where('a.id', '=', attemptId)
    .executeTakeFirst();
type AttemptRow = NonNullable<Awaited<ReturnType<typeof attemptRow>>>;

const DONE = { sale: 'charged', refund: 'given back to', void: 'taken back from' } as const;

function outcomeOf(
  row: Pick<AttemptRow, 'id' | 'what' | 'state' | 'approval' | 'reason' | 'brand' | 'lastFour' | 'amount'>,
): AttemptOutcome {
  const card = `${row.brand} ${row.lastFour}`.trim();
  const amount = formatMoneyPlain(row.amount < 0 ? negate(row.amount) : row.amount);
  if (row.state === 'approved')
    return {
      attemptId: row.id,
      state: 'approved',
      words:
        row.what === 'sale' ? `${card} was charged ${amount}` : `${amount} was ${DONE[row.what]} ${card}`,
      about: row.approval,
    };
  if (row.state === 'declined')
    return {
      attemptId: row.id,
      state: 'declined',
      words:
        row.what === 'sale'
          ? `${card} was declined: ${row.reason}`
          : `The terminal refused it: ${row.reason}`,
      about: row.reason,
    };
  return {
    attemptId: row.id,
    state: 'unclear',
    words: `The terminal has not answered for ${card}. It is asked again by itself: do not charge the card anew`,
    about: '',
  };
}

/**
 * Asks the terminal, with no transaction and no connection held, and books what it answers.
 * @param how first: it is asked to do it; again: what came of it, and where it never came that it is not done any more
 */
async function ask(context: Context, attemptId: number, how: 'first' | 'again'): Promise<AttemptOutcome> {
  if (context.db.isTransaction) throw new Error('A terminal is not asked within a transaction');
  const row = await attemptRow(context, attemptId);
  if (!row) throw new Refused('unknown', 'There is no such attempt');
  if (row.state === 'approved' || row.state === 'declined') return outcomeOf(row);
  let answer: PaymentAnswer | null = null;
  try {
    if (how === 'again' || row.state === 'unclear')
      answer = await say(paymentAnswer, `/v1/payments/${row.key}/settle`, {});
    else
      answer = await say(paymentAnswer, '/v1/payments', {
        key: row.key,
        merchant: row.merchant,
        what: row.what,
        token: row.token,
        amount: Math.abs(row.amount),
        surcharge: Math.abs(row.surcharge),
        of: row.of,
      } satisfies PaymentRequest);
  } catch (error) {
    if (!(error instanceof Unanswered)) throw error;
  }
  return book(context, attemptId, answer);
}

/** Books what a terminal answered; nothing a second time. @param answer null where none came */
async function book(
  context: Context,
  attemptId: number,
  answer: PaymentAnswer | null,
): Promise<AttemptOutcome> {
  return inTransaction(context, async (act) => {
    const known = (await attemptRow(act, attemptId))!;
    const receipt = await lockReceipt(act, known.receiptId);
    const { state } = await act.db
      .selectFrom('attempt')
      .select('state')
      .where('id', '=', attemptId)
      .forUpdate()
      .executeTakeFirstOrThrow();
    const row = (await attemptRow(act, attemptId))!;
    if (state === 'approved' || state === 'declined') return outcomeOf(row);
    const now =
      answer === null || answer.state === 'pending'
        ? { state: 'unclear' as const, tries: sql<number>`tries + 1` }
        : {
            state: answer.state,
            answered_at: sql<Date>`desk_now()`,
            tries: sql<number>`tries + 1`,
            approval: answer.authorization,
            reason: answer.state === 'declined' ? answer.reason || 'no reason given' : '',
          };
    await act.db.updateTable('attempt').set(now).where('id', '=', attemptId).execute();
    const after = (await attemptRow(act, attemptId))!;
    const outcome = outcomeOf(after);
    if (now.state === 'unclear') return outcome;
    if (now.state === 'declined') {
      if (row.what !== 'void')
        await act.db
          .updateTable('tender')
          .set({ state: 'declined' })
          .where('id', '=', row.tenderId)
          .execute();
    } else if (row.what === 'void') {
      await reverseTender(act, receipt, row.tenderId, row.why || 'Taken back at the terminal');
      await act.db.updateTable('tender').set({ state: 'void' }).where('id', '=', row.tenderId).execute();
    } else {
      await act.db
        .updateTable('tender')
        .set({ state: 'taken', approval: after.approval })
        .where('id', '=', row.tenderId)
        .execute();
      if (row.what === 'refund') await postRefund(act, after);
      else await postCard(act, after, receipt);
    }
    await act.note(
      `the terminal ${now.state}`,
      { kind: 'receipt', id: row.receiptId },
      {
        what: row.what,
        amount: formatMoneyPlain(row.amount),
        authorization: after.approval,
        reason: after.reason,
      },
    );
    return outcome;
  });
}

const cardMemo = (row: AttemptRow): string =>
  tenderMemo({ tender: 'card', reference: `${row.brand} ${row.lastFour}, ${row.approval}` });
const cashOf = (row: AttemptRow) =>
  ({ account: 'cash/card', tenderId: row.tenderId, placeId: row.placeId }) as const;

/**
 * Posts a card that was approved, with what it was to pay as far as that is open still; what was paid otherwise meanwhile leaves
 * credit.
 */
async function postCard(
  act: Act,
  row: AttemptRow,
  receipt: Awaited<ReturnType<typeof lockReceipt>>,
): Promise<void> {
  const meant = row.meant === null ? { parts: [], plans: [], agency: ZERO } : meantDocument.read(row.meant);
  const open = await openCharges(act, receipt.households);
  const parts = meant.parts.flatMap(({ id, amount }) => {
    const charge = open.find((one) => one.id === id);
    return charge ? spreadInOrder(amount, [charge]).parts : [];
  });
  const post = (tx: Act, what: Meant): Promise<void> =>
    postTender(tx, {
      householdId: receipt.household_id,
      receiptId: receipt.id,
      day: receipt.received_on,
      memo: cardMemo(row),
      cash: cashOf(row),
      amount: row.amount,
      surcharge: row.surcharge,
      meant: what,
      open,
    });
  // The card was charged: that its plan ended meanwhile does not keep the money out of the books.
  try {
    await inTransaction(act, (part) => post(part, { ...meant, parts }));
  } catch (error) {
    if (!(error instanceof Refused)) throw error;
    await post(act, { parts, plans: [], agency: ZERO });
  }
}

/** Posts what the terminal has given back to a card. */
async function postRefund(act: Act, row: AttemptRow): Promise<void> {
  const refund = await act.db
    .selectFrom('receipt')
    .select(['household_id', 'refund_of', 'received_on'])
    .where('id', '=', row.receiptId)
    .executeTakeFirstOrThrow();
  await lockHouseholds(act.db, [refund.household_id]);
  // The card has its money: what used it while the answer was waited for is taken back.
  const used = await takeBackUses(
    act,
    refund.refund_of!,
    refund.household_id,
    negate(row.amount),
    'It was given back to the card meanwhile',
  );
  await afterReversal(act.db, act, used, 'It was given back to the card meanwhile');
  await writeEntries(act.db, act, [
    refundEntry({
      businessDate: refund.received_on,
      memo: row.why === '' ? cardMemo(row) : `${cardMemo(row)}: ${row.why}`,
      householdId: refund.household_id,
      refundId: row.receiptId,
      receiptId: refund.refund_of!,
      cash: cashOf(row),
      amount: negate(row.amount),
      surcharge: negate(row.surcharge),
    }),
  ]);
}

/** So long an attempt may be without its answer before it is asked about, in seconds. */
const LEFT_ALONE = 30;

/** Asks about every attempt whose answer did not come: ours was killed, or the terminal was silent. @returns how many are clear now */
export async function settleUnclear(context: Context, olderThan = LEFT_ALONE): Promise<number> {
  if (terminalUrl() === null) return 0;
  const open = await context.db
    .selectFrom('attempt')
    .select('id')
    .where('state', 'in', ['asked', 'unclear'])
    .where('asked_at', '<=', sql<Date>`desk_now() - make_interval(secs => ${olderThan})`)
    .orderBy('id')
    .limit(100)
    .execute();
  let clear = 0;
  for (const { id } of open) if ((await ask(context, id, 'again')).state !== 'unclear') clear += 1;
  return clear;
}

/** Asks the terminal for its refund or void that was kept. @throws Refused where one is a sale */
export const askFor = (context: Context, attemptId: number): Promise<AttemptOutcome> =>
  ask(context, attemptId, 'first');

/** A terminal's list of a day. @throws Refused where it does not answer */
export async function readBatch(merchant: string, day: string): Promise<BatchRow[]> {
  try {
    return (await say(batchAnswer, `/v1/batches/${encodeURIComponent(merchant)}/${day}`))?.rows ?? [];
  } catch (error) {
    if (error instanceof Unanswered)
      throw new Refused('unreached', 'The terminal does not answer: its list is not known');
    throw error;
  }
}
