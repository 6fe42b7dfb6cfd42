/**
 * Calendar dates in the practice's time zone. A date without a time is text `YYYY-MM-DD`; nothing in
 * the core reads a clock: the business date is always passed in.
 */

declare const dateBrand: unique symbol;

/** A calendar date, `YYYY-MM-DD`. */
export type CalendarDate = string & { readonly [dateBrand]: 'date' };

const DAY_MS = 86_400_000;
const toMs = (date: CalendarDate): number =>
  Date.UTC(Number(date.slice(0, 4)), Number(date.slice(5, 7)) - 1, Number(date.slice(8, 10)));
const two = (number: number): string => (number < 10 ? `0${number}` : String(number));
function fromMs(ms: number): CalendarDate {
  const date = new Date(ms);
  const year = String(date.getUTCFullYear()).padStart(4, '0');
  return `${year}-${two(date.getUTCMonth() + 1)}-${two(date.getUTCDate())}` as CalendarDate;
}

/** Reads `YYYY-MM-DD`; null when it is not a date of the years 1800 to 2199 that exists. */
export function parseDate(text: string): CalendarDate | null {
  if (!/^(18|19|20|21)\d\d-\d\d-\d\d$/.test(text)) return null;
  const date = text as CalendarDate;
  const ms = toMs(date);
  return !Number.isNaN(ms) && fromMs(ms) === date ? date : null;
}

/**
 * Brands text as a calendar date.
 * @throws RangeError when there is no such date.
 */
export function calendarDate(text: string): CalendarDate {
  const date = parseDate(text);
  if (!date) throw new RangeError(`Not a calendar date (YYYY-MM-DD): ${text}`);
  return date;
}

/** Reads an X12 date of eight digits (CCYYMMDD, qualifier D8); null when there is no such date. */
export function parseX12Date(text: string): CalendarDate | null {
  return /^\d{8}$/.test(text) ? parseDate(`${text.slice(0, 4)}-${text.slice(4, 6)}-${text.slice(6)}`) : null;
}

/** Writes a date as CCYYMMDD. */
export const toX12Date = (date: CalendarDate): string => date.replaceAll('-', '');

/** The date a number of days later (or earlier, when negative). */
export const addDays = (date: CalendarDate, days: number): CalendarDate => fromMs(toMs(date) + days * DAY_MS);

/** Whole days from one date to another; negative when `to` is earlier. */
export const daysBetween = (from: CalendarDate, to: CalendarDate): number =>
  Math.round((toMs(to) - toMs(from)) / DAY_MS);

/** Day of the week, 0 Sunday to 6 Saturday. */
export const weekday = (date: CalendarDate): number => new Date(toMs(date)).getUTCDay();

/** The date some months later; the day is kept, or the month's last day where it has no such day. */
export function addMonths(date: CalendarDate, months: number): CalendarDate {
  const first = Date.UTC(Number(date.slice(0, 4)), Number(date.slice(5, 7)) - 1 + months, 1);
  const start = new Date(first);
  const lastDay = new Date(Date.UTC(start.getUTCFullYear(), start.getUTCMonth() + 1, 0)).getUTCDate();
  return fromMs(first + (Math.min(Number(date.slice(8, 10)), lastDay) - 1) * DAY_MS);
}

/** First day of the date's calendar year. */
export const yearStart = (date: CalendarDate): CalendarDate => `${date.slice(0, 4)}-01-01` as CalendarDate;

const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

/** Writes a date for people: `4 Mar 2026`. */
export const formatDate = (date: string): string =>
  `${Number(date.slice(8, 10))} ${MONTHS[Number(date.slice(5, 7)) - 1]} ${date.slice(0, 4)}`;

/** Whole years of age on a day. */
export function ageOn(birth: CalendarDate, day: CalendarDate): number {
  const years = Number(day.slice(0, 4)) - Number(birth.slice(0, 4));
  return day.slice(5) < birth.slice(5) ? years - 1 : years;
}
