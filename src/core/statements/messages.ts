/** Messages on statements: a list in an order, each with a condition; the first so many whose conditions hold are printed. */
import { daysBetween } from '../calendar';
import { type WordsFacts, fillWords } from './variables';

/** Whether something is asked for, asked not to be, or does not matter. */
export const WHETHER = { any: 'whether or not', yes: 'yes', no: 'no' } as const;
type Whether = keyof typeof WHETHER;

/** How what is due stands. */
export const DUE_STATES = {
  any: 'however it stands',
  normal: 'nothing is past due',
  partly: 'a part is past due',
  past: 'all of it is past due',
} as const;
/** How what is due stands. */
export type DueState = keyof typeof DUE_STATES;

/** A message with its condition; each part that says nothing holds always. */
export interface Message {
  text: string;
  /** The age of the oldest amount in days: from, and up to. */
  ageFrom: number | null;
  ageTo: number | null;
  due: DueState;
  /** Whether insurers still have to pay, and whether something is on a plan. */
  insured: Whether;
  onPlan: Whether;
  siteId: number | null;
  /** The months of the year in which it prints, 1 to 12; from November to February is a season too. */
  monthFrom: number | null;
  monthTo: number | null;
}

const is = (asked: Whether, holds: boolean): boolean => asked === 'any' || (asked === 'yes') === holds;

/** How what is due stands, of facts. */
export const dueStateOf = ({ amount, pastDue }: Pick<WordsFacts, 'amount' | 'pastDue'>): DueState =>
  pastDue <= 0 ? 'normal' : pastDue >= amount ? 'past' : 'partly';

/** Whether a month lies in a season, which may go over the year's end. */
function inSeason(month: number, from: number | null, to: number | null): boolean {
  const [first, last] = [from ?? 1, to ?? 12];
  return first <= last ? month >= first && month <= last : month >= first || month <= last;
}

/** Whether a message's condition holds. */
export function messageHolds(message: Message, facts: WordsFacts, siteId: number | null): boolean {
  const age = facts.oldest === null ? 0 : Math.max(0, daysBetween(facts.oldest, facts.date));
  return (
    age >= (message.ageFrom ?? 0) &&
    age <= (message.ageTo ?? Infinity) &&
    (message.due === 'any' || message.due === dueStateOf(facts)) &&
    is(message.insured, facts.withPayers > 0) &&
    is(message.onPlan, facts.onPlan > 0) &&
    (message.siteId === null || message.siteId === siteId) &&
    inSeason(Number(facts.date.slice(5, 7)), message.monthFrom, message.monthTo)
  );
}

/** The messages of a statement: the first so many whose conditions hold, with their variables filled. */
export const messagesFor = (
  messages: readonly Message[],
  facts: WordsFacts,
  siteId: number | null,
  most: number,
): string[] =>
  messages
    .filter((message) => messageHolds(message, facts, siteId))
    .slice(0, most)
    .map(({ text }) => fillWords(text, facts));
