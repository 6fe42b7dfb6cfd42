/** Reading single elements, with errors that name the segment, the element and what was expected. */
import { type CalendarDate, parseX12Date } from '../calendar';
import { type Cents, ZERO, parseMoney } from '../money';
import { expected } from './interchange';
import type { Segment } from './segments';

/** Text of an element, empty when absent. */
export const text = (segment: Segment, element: number): string => segment.elements[element]?.trim() ?? '';

/** Text of an element that must be there. @throws X12Error */
export function need(segment: Segment, element: number, what: string): string {
  const value = text(segment, element);
  if (value === '') expected(segment, element, `expected ${what}, found nothing`);
  return value;
}

/** An amount in cents; zero when the element is absent. @throws X12Error when it is not an amount. */
export function money(segment: Segment, element: number): Cents {
  const value = text(segment, element);
  if (value === '') return ZERO;
  const amount = /^-?\d*\.?\d*$/.test(value) ? parseMoney(value) : null;
  if (amount === null)
    expected(
      segment,
      element,
      `expected an amount of money with at most two decimals, found “${value.slice(0, 30)}”`,
    );
  return amount;
}

/** An amount that must be there. @throws X12Error */
export function needMoney(segment: Segment, element: number, what: string): Cents {
  need(segment, element, what);
  return money(segment, element);
}

/** A quantity; the given default when absent. @throws X12Error when it is not a number. */
export function quantity(segment: Segment, element: number, absent: number): number {
  const value = text(segment, element);
  if (value === '') return absent;
  const number = Number(value);
  if (!/^-?\d{1,10}(\.\d{1,5})?$/.test(value))
    expected(segment, element, `expected a quantity, found “${value.slice(0, 30)}”`);
  return number;
}

/** A date CCYYMMDD, null when absent. @throws X12Error when there is no such date. */
export function date(segment: Segment, element: number): CalendarDate | null {
  const value = text(segment, element);
  if (value === '') return null;
  const day = parseX12Date(value);
  if (!day) expected(segment, element, `expected a date CCYYMMDD, found “${value.slice(0, 30)}”`);
  return day;
}

/** Two dates CCYYMMDD-CCYYMMDD (RD8), null when empty. @throws X12Error when it is none */
export function period(segment: Segment, element: number): [CalendarDate, CalendarDate] | null {
  const value = text(segment, element);
  if (value === '') return null;
  const [from, to] = value.split('-').map(parseX12Date);
  if (!from || !to)
    expected(segment, element, `expected two dates CCYYMMDD-CCYYMMDD, found “${value.slice(0, 30)}”`);
  return [from, to];
}

/** Components of a composite element. */
export const components = (segment: Segment, element: number, separator: string): string[] =>
  text(segment, element).split(separator);
