/** The terms of a payment plan. */
import { type CalendarDate, addDays, addMonths, daysBetween } from '../calendar';
import type { BasisPoints, Cents } from '../money';

/** How often an installment is due. `perYear` periods make a year; the rate of a period is the yearly rate over that. */
export const EVERY = {
  month: { words: 'every month', one: 'month', perYear: 12 },
  'two-weeks': { words: 'every two weeks', one: 'two weeks', perYear: 26 },
  week: { words: 'every week', one: 'week', perYear: 52 },
} as const;
/** How often an installment is due. */
export type Every = keyof typeof EVERY;

/** How interest is counted: a rate for each period, or by the days since it was counted last. */
export const INTEREST_BY = { period: 'by period', days: 'by days' } as const;
/** How interest is counted. */
export type InterestBy = keyof typeof INTEREST_BY;

/** What money beyond an installment does: the plan is over sooner, or its installments become smaller. */
export const EXTRA = { shortens: 'the plan is over sooner', lowers: 'later installments are lower' } as const;
/** What money beyond an installment does. */
export type Extra = keyof typeof EXTRA;

/** What is agreed. Amounts in cents, the rate in basis points a year. */
export interface PlanTerms {
  /** What is to be paid, before the down payment. */
  amount: Cents;
  down: Cents;
  rate: BasisPoints;
  every: Every;
  /** How many installments; or what each is, from which that follows. */
  by: { installments: number } | { installment: Cents };
  /** When it is agreed, and when the first installment is due. */
  agreed: CalendarDate;
  first: CalendarDate;
  interestBy: InterestBy;
}

/** The day on which an installment is due, counted from 0. Months keep the day, or end with the month. */
export const dueOn = (first: CalendarDate, every: Every, index: number): CalendarDate =>
  every === 'month' ? addMonths(first, index) : addDays(first, index * (every === 'week' ? 7 : 14));

/** Days from one due date to the next. */
export const daysOf = (from: CalendarDate, to: CalendarDate): number => Math.max(0, daysBetween(from, to));
