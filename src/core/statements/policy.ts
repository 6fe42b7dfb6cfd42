/** The policy of statements: when the next is due, until when it is to be paid, and what is past due. */
import { type CalendarDate, addDays, addMonths, calendarDate, daysBetween } from '../calendar';
import type { BasisPoints, Cents } from '../money';

/** How often statements go out: on a day of each month (1 to 28), or every so many days. */
export interface Cycle {
  cycle: 'monthly' | 'days';
  cycleNumber: number;
}

/** The kinds of late charges. */
export const LATE_KINDS = { none: 'none', flat: 'a flat amount', yearly: 'a yearly rate by days' } as const;

/** The rule of late charges. Amounts in cents. */
export interface LateRule {
  kind: keyof typeof LATE_KINDS;
  flat: Cents;
  rate: BasisPoints;
  least: Cents;
  most: Cents | null;
}

/** How statements of a site, or of the practice, are made. Amounts in cents. */
export interface StatementPolicy extends Cycle {
  /** The site that it is for; null: every site without its own. */
  locationId: number | null;
  /** Less than this is not sent. */
  least: Cents;
  dueDays: number;
  graceDays: number;
  /** From which date what is owed has its age. */
  agingFrom: 'responsible' | 'service';
  /** How may be paid, in words. */
  tenders: string[];
  remit: { name: string; line1: string; city: string; state: string; zip: string };
  phone: string;
  hours: string;
  /** So many messages are printed at most. */
  messages: number;
  late: LateRule;
}

/** Until when a statement of a day is to be paid: one of the 10th with 14 days is due on the 24th. */
export const dueDateOf = (date: CalendarDate, dueDays: number): CalendarDate => addDays(date, dueDays);

/** The newest day, up to a day, on which a monthly cycle comes round. @param number the day of the month, 1 to 28 */
function monthlyDay(number: number, today: CalendarDate): CalendarDate {
  const day = calendarDate(`${today.slice(0, 8)}${String(number).padStart(2, '0')}`);
  return day <= today ? day : addMonths(day, -1);
}

/** Whether the next statement may go out, after the last one: nobody's first has to wait. */
export function cycleComesRound(
  { cycle, cycleNumber }: Cycle,
  last: CalendarDate | null,
  today: CalendarDate,
): boolean {
  if (last === null) return true;
  return cycle === 'monthly'
    ? last < monthlyDay(cycleNumber, today)
    : daysBetween(last, today) >= cycleNumber;
}
