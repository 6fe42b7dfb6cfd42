/** What speaks against writing the hand-over of a placement that was approved: what was not so when a manager approved it. */
import type { CalendarDate } from '../calendar';
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

/** What speaks against a hand-over: `stop` keeps it from agencies whatever a person says, all else is for a person to decide. */
export interface AgainstHandOver {
  stop: string;
  doubts: string[];
}

/** What speaks against handing an account over now, each in words. */
export const againstHandOver = (facts: HandOverFacts, today: CalendarDate): AgainstHandOver => ({
  stop: facts.stops.length > 0 ? `a stop keeps it from agencies: ${facts.stops.join(', ')}` : '',
  doubts: [
    facts.promise && promiseState(facts.promise, today) === 'open' && promiseWords(facts.promise),
    facts.hardshipAsked && hardshipWords(facts.hardshipAsked),
    facts.paid > 0 && `${formatMoneyPlain(facts.paid)} was paid to us since it was approved`,
    facts.suspended && 'a payer took its word on it back and has not said the new one',
  ].filter((words): words is string => typeof words === 'string'),
});

/** Why a hand-over is not written; empty where nothing speaks against it but what a person decided already. */
export const heldWhy = ({ stop, doubts }: AgainstHandOver, seen: readonly string[]): string =>
  [stop, ...doubts.filter((words) => !seen.includes(words))].filter(Boolean).join('; ');
