/** What speaks against writing the hand-over of a placement that was approved: what was not so when a manager approved it. */
import { z } from 'zod';
import type { CalendarDate } from '../calendar';
import { documentKind } from '../documents';
import { centsField } from '../fields';
import { type Cents, formatMoneyPlain } from '../money';
import { type PromiseFacts, hardshipWords, promiseState, promiseWords } from './stage';

/** What is known of an account whose hand-over is written next. Amounts in cents. */
export interface HandOverFacts {
  /** Names of stops that keep it from agencies. */
  stops: readonly string[];
  promise: PromiseFacts | null;
  hardshipAsked: CalendarDate | null;
  /** What was paid to us of it since it was approved. */
  paid: Cents;
  /** A payer took its word back that the debt rests on, and has not said the new one. */
  suspended: boolean;
}

const day = z.string().transform((text) => text as CalendarDate);
const amount = centsField;
const objection = z.discriminatedUnion('code', [
  z.object({ code: z.literal('stop'), reasons: z.array(z.string()) }),
  z.object({ code: z.literal('promise'), amount, by: day }),
  z.object({ code: z.literal('hardship'), askedOn: day }),
  z.object({ code: z.literal('paid'), amount }),
  z.object({ code: z.literal('suspended') }),
]);

/** One thing that speaks against a hand-over, with its facts; amounts in cents. */
export type Objection = z.output<typeof objection>;

/** Objections as the database keeps them: those that hold a placement, and those that a person has decided. */
export const OBJECTIONS = documentKind('list of objections', 1, z.array(objection));

/** Objections as the database keeps them; none where nothing is kept. */
export const objectionsIn = (kept: unknown): Objection[] => (kept === null ? [] : OBJECTIONS.read(kept));

/** What speaks against handing an account over now. */
export function objectionsTo(facts: HandOverFacts, today: CalendarDate): Objection[] {
  const { stops, promise, hardshipAsked, paid, suspended } = facts;
  const found: (Objection | false)[] = [
    stops.length > 0 && { code: 'stop', reasons: [...stops] },
    promise !== null &&
      promiseState(promise, today) === 'open' && { code: 'promise', amount: promise.amount, by: promise.by },
    hardshipAsked !== null && { code: 'hardship', askedOn: hardshipAsked },
    paid > 0 && { code: 'paid', amount: paid },
    suspended && { code: 'suspended' },
  ];
  return found.filter((one): one is Objection => one !== false);
}

/** An objection in words. */
export function objectionWords(one: Objection): string {
  switch (one.code) {
    case 'stop':
      return `a stop keeps it from agencies: ${one.reasons.join(', ')}`;
    case 'promise':
      return promiseWords(one);
    case 'hardship':
      return hardshipWords(one.askedOn);
    case 'paid':
      return `${formatMoneyPlain(one.amount)} was paid to us since it was approved`;
    case 'suspended':
      return 'a payer took its word on it back and has not said the new one';
  }
}

/** Several objections in words. */
export const objectionsWords = (all: readonly Objection[]): string => all.map(objectionWords).join('; ');

/** The same code with the same facts. */
const same = (a: Objection, b: Objection): boolean =>
  Object.keys({ ...a, ...b }).every(
    (key) => String(a[key as keyof Objection]) === String(b[key as keyof Objection]),
  );

/**
 * What keeps a hand-over from being written: a stop whatever anybody decided, all else where a person has not decided just that.
 * @param decided what a person has seen before
 */
export const undecided = (all: readonly Objection[], decided: readonly Objection[]): Objection[] =>
  all.filter((one) => one.code === 'stop' || !decided.some((other) => same(one, other)));
