/**
 * The good faith estimate of those who have no insurance or pay themselves (45 CFR 149.610): until when it is given, until when anew, and
 * when a bill is so much above it that it may be disputed (149.620). Business days are those that are no Saturday, Sunday or federal
 * holiday.
 */
import { type CalendarDate, addDays, calendarDate, weekday as dayOfWeek } from '../calendar';
import { type Cents, cents, minus, sum } from '../money';

const makeDate = (year: number, month: number, day: number): CalendarDate =>
  calendarDate(`${year}-${String(month).padStart(2, '0')}-${String(day).padStart(2, '0')}`);

/** The n-th given weekday of a month (0 Sunday); the last one for -1. */
function weekdayOf(year: number, month: number, weekday: number, n: number): CalendarDate {
  if (n > 0) {
    const first = makeDate(year, month, 1);
    return addDays(first, ((weekday - dayOfWeek(first) + 7) % 7) + (n - 1) * 7);
  }
  const last = addDays(makeDate(year, month + 1, 1), -1);
  return addDays(last, -((dayOfWeek(last) - weekday + 7) % 7));
}

/** A holiday of a fixed day is kept on the Friday before when it is a Saturday, and on the Monday after when it is a Sunday. */
function kept(date: CalendarDate): CalendarDate {
  const at = dayOfWeek(date);
  return at === 6 ? addDays(date, -1) : at === 0 ? addDays(date, 1) : date;
}

/** The federal holidays of a year as they are kept (5 U.S.C. 6103). */
export function federalHolidays(year: number): CalendarDate[] {
  return [
    kept(makeDate(year, 1, 1)),
    weekdayOf(year, 1, 1, 3),
    weekdayOf(year, 2, 1, 3),
    weekdayOf(year, 5, 1, -1),
    kept(makeDate(year, 6, 19)),
    kept(makeDate(year, 7, 4)),
    weekdayOf(year, 9, 1, 1),
    weekdayOf(year, 10, 1, 2),
    kept(makeDate(year, 11, 11)),
    weekdayOf(year, 11, 4, 4),
    kept(makeDate(year, 12, 25)),
    // New Year of the next year may be kept in this one.
    kept(makeDate(year + 1, 1, 1)),
  ];
}

/** Whether a day is a business day. */
export function isBusinessDay(date: CalendarDate): boolean {
  const at = dayOfWeek(date);
  return at !== 0 && at !== 6 && !federalHolidays(Number(date.slice(0, 4))).includes(date);
}

/** The day so many business days after another one, or before it. */
export function addBusinessDays(from: CalendarDate, days: number): CalendarDate {
  let date = from;
  for (let left = Math.abs(days); left > 0;) {
    date = addDays(date, days < 0 ? -1 : 1);
    if (isBusinessDay(date)) left -= 1;
  }
  return date;
}

/** How many business days lie after one day, up to and with another one. */
export function businessDaysUntil(from: CalendarDate, to: CalendarDate): number {
  let days = 0;
  for (let date = addDays(from, 1); date <= to; date = addDays(date, 1)) if (isBusinessDay(date)) days += 1;
  return days;
}

/** What is known of when an estimate is wanted. */
export interface EstimateAsked {
  /** The day on which it was booked or asked for. */
  on: CalendarDate;
  /** For when it is booked; null while nothing is. */
  bookedFor: CalendarDate | null;
  /** The patient asked for it. */
  asked: boolean;
}

/**
 * Until when a good faith estimate is to be given: within one business day when it is booked at least three business days ahead, within
 * three when at least ten ahead, or when it is asked for. @returns null where none has to be given
 */
export function goodFaithDue({ on, bookedFor, asked }: EstimateAsked): CalendarDate | null {
  const ahead = bookedFor === null ? null : businessDaysUntil(on, bookedFor);
  if (ahead !== null && ahead >= 10) return addBusinessDays(on, 3);
  if (ahead !== null && ahead >= 3) return addBusinessDays(on, 1);
  return asked ? addBusinessDays(on, 3) : null;
}

/** Until when a changed estimate is given anew: one business day before the service. */
export const givenAnewBy = (bookedFor: CalendarDate): CalendarDate => addBusinessDays(bookedFor, -1);

/** From here on, in cents, a bill may be disputed: so much more than was said, of one provider. */
export const DISPUTED_FROM = cents(400_00);

/** What was said of the services of one provider, and what was charged; cents. */
export interface SaidAndCharged {
  provider: string;
  said: Cents;
  charged: Cents;
}

/** The providers of whom more was charged than was said by so much that it may be disputed. */
export const disputed = (rows: readonly SaidAndCharged[]): SaidAndCharged[] =>
  [...new Set(rows.map(({ provider }) => provider))]
    .map((provider) => {
      const own = rows.filter((row) => row.provider === provider);
      return {
        provider,
        said: sum(own.map(({ said }) => said)),
        charged: sum(own.map(({ charged }) => charged)),
      };
    })
    .filter(({ said, charged }) => minus(charged, said) >= DISPUTED_FROM);

/** How much more was charged than was said of those of whom it may be disputed, in cents. */
export const aboveOf = (rows: readonly SaidAndCharged[]): Cents =>
  sum(disputed(rows).map(({ said, charged }) => minus(charged, said)));
