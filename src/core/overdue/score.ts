/**
 * What is worth doing first: what is owed × the chance that it is paid, by its age in the practice's own history ÷ the minutes
 * that the next action takes. The minutes are our own estimate, no source.
 */
import { type Cents, ZERO, cents } from '../money';
import type { OverdueAction } from './stage';

/**
 * Ages of a debt in days from which its chance is counted, with the chance that stands where the history is too
 * small: common practice, no source.
 */
export const CHANCE_AGES = [
  { from: 0, words: 'under 30 days', assumed: 0.8 },
  { from: 30, words: '30 to 59 days', assumed: 0.6 },
  { from: 60, words: '60 to 89 days', assumed: 0.45 },
  { from: 90, words: '90 to 119 days', assumed: 0.3 },
  { from: 120, words: '120 to 179 days', assumed: 0.2 },
  { from: 180, words: '180 days and more', assumed: 0.1 },
] as const;

/**
 * What patients owed when their debt reached an age, and what of it they paid within the next 90 days; cents, by the
 * order of CHANCE_AGES.
 */
export type PaidHistory = readonly { reached: Cents; paid: Cents }[];

/** So many days after an age count as paid. */
export const CHANCE_DAYS = 90;
/** Less history than this, in cents, says nothing. */
const LEAST_HISTORY = cents(100_000);

/** The chance that a debt of an age is paid, between 0 and 1, and whether it is from the practice's own history. */
export function chanceOf(history: PaidHistory, days: number): { chance: number; own: boolean } {
  const at = CHANCE_AGES.findLastIndex(({ from }) => days >= from);
  const index = Math.max(0, at);
  const { reached, paid } = history[index] ?? { reached: ZERO, paid: ZERO };
  if (reached < LEAST_HISTORY) return { chance: CHANCE_AGES[index]!.assumed, own: false };
  return { chance: Math.min(1, Math.max(0, paid / reached)), own: true };
}

/** Minutes that an action takes. */
export const MINUTES: Readonly<Record<OverdueAction, number>> = {
  letter: 2,
  call: 6,
  agency: 10,
  wait: 0,
  none: 0,
};

/** A score with its parts: cents for each minute of work, rounded; zero where nothing is to be done now. */
export interface Score {
  amount: Cents;
  chance: number;
  own: boolean;
  minutes: number;
  value: Cents;
}

/** Works out a score. @param days how long the debt is past due */
export function scoreOf(amount: Cents, days: number, action: OverdueAction, history: PaidHistory): Score {
  const { chance, own } = chanceOf(history, days);
  const minutes = MINUTES[action];
  return {
    amount,
    chance,
    own,
    minutes,
    value: minutes === 0 ? ZERO : cents(Math.round((amount * chance) / minutes)),
  };
}
