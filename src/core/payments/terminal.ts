/**
 * What is said to a card terminal and what it answers: an open JSON API of our own, over HTTP. A terminal reads a card itself, on
 * its device or in a frame of its own where a number is typed, and tells of it what may be known: kind, brand, the last four
 * digits, a token. Each request has a key; the same key again gets the same answer and never charges twice.
 *
 * | request | does |
 * | --- | --- |
 * | `POST /v1/readings` `{ key, merchant, entry }` | waits for a card; `GET /frame/{key}` is the terminal's own page for it |
 * | `GET /v1/readings/{key}` | what was read, or that nothing was |
 * | `POST /v1/payments` {@link paymentRequest} | charges, gives back or takes back |
 * | `POST /v1/payments/{key}/settle` | what came of a request; one that never came is closed, so that it charges nothing later |
 * | `GET /v1/batches/{merchant}/{day}` | all of a day |
 */
import { z } from 'zod';
import { type Cents, MAX_CENTS, cents } from '../money';
import { ATTEMPT_KINDS, CARD_KINDS } from './tenders';

/** Whole cents, above zero. */
const amountField = z
  .int()
  .min(0)
  .max(MAX_CENTS)
  .transform((value) => cents(value));
const terminalKey = z.string().regex(/^[\w:-]{8,60}$/);
/** How a card came into a terminal. */
export const ENTRIES = ['swiped', 'chip', 'keyed'] as const;

/** What a terminal says of a card; never more of its number than the last four digits. */
export const cardField = z.object({
  brand: z.string().max(20),
  kind: z.enum(CARD_KINDS).catch('unknown'),
  lastFour: z.string().regex(/^\d{4}$/),
  token: z.string().min(1).max(60),
  entry: z.enum(ENTRIES).catch('keyed'),
});
/** A card as a terminal says it. */
export type Card = z.output<typeof cardField>;

/** Asks for a card. */
export const readingRequest = z.object({
  key: terminalKey,
  merchant: z.string().min(1).max(40),
  entry: z.enum(['device', 'keyed']),
  /** What is to be paid, in cents, for the card holder to see. */
  amount: amountField,
});
/** What was read. */
export const readingAnswer = z.object({
  state: z.enum(['waiting', 'read', 'canceled']),
  card: cardField.nullable(),
});

/** A charge, a refund or a void. `of` is the key of what is given or taken back. Amounts in cents. */
export const paymentRequest = z.object({
  key: terminalKey,
  merchant: z.string().min(1).max(40),
  what: z.enum(ATTEMPT_KINDS),
  token: z.string().min(1).max(60),
  amount: amountField,
  surcharge: amountField,
  of: terminalKey.nullable(),
});
/** What is said to a terminal. */
export type PaymentRequest = z.input<typeof paymentRequest>;

/** What came of a request: an authorization, or why there is none. Pending: it is not decided yet. */
export const paymentAnswer = z.object({
  state: z.enum(['approved', 'declined', 'pending']),
  authorization: z.string().max(20).default(''),
  reason: z.string().max(120).default(''),
});
/** An answer of a terminal. */
export type PaymentAnswer = z.output<typeof paymentAnswer>;

/** One row of a terminal's list of a day. Amounts in cents, surcharge included; below zero for what went back. */
export const batchRow = z.object({
  key: terminalKey,
  what: z.enum(ATTEMPT_KINDS),
  amount: z.int().transform((value) => cents(value)),
  authorization: z.string().max(20),
  lastFour: z.string().regex(/^\d{4}$/),
  brand: z.string().max(20),
});
/** A terminal's list of a day. */
export const batchAnswer = z.object({ rows: z.array(batchRow) });
/** A row of it. */
export type BatchRow = z.output<typeof batchRow>;

/** A difference between a terminal's list and ours. Amounts in cents; null where one of us does not have it. */
export interface BatchDifference {
  key: string;
  theirs: BatchRow | null;
  ours: { amount: Cents; authorization: string } | null;
  words: string;
}

/**
 * A terminal's list against ours, by key.
 * @returns what differs; an empty list when both say the same
 */
export function compareBatch(
  theirs: readonly BatchRow[],
  ours: readonly { key: string; amount: Cents; authorization: string }[],
): BatchDifference[] {
  const own = new Map(ours.map((one) => [one.key, one]));
  const seen = new Set<string>();
  const differences: BatchDifference[] = [];
  for (const row of theirs) {
    seen.add(row.key);
    const mine = own.get(row.key);
    if (!mine) differences.push({ key: row.key, theirs: row, ours: null, words: 'Not in our books' });
    else if (mine.amount !== row.amount)
      differences.push({ key: row.key, theirs: row, ours: mine, words: 'Another amount' });
    else if (mine.authorization !== row.authorization)
      differences.push({ key: row.key, theirs: row, ours: mine, words: 'Another authorization' });
  }
  for (const one of ours)
    if (!seen.has(one.key))
      differences.push({ key: one.key, theirs: null, ours: one, words: 'Not on the terminal’s list' });
  return differences;
}
