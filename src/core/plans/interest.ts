/** The interest of a running plan, as it comes due. */
import type { CalendarDate } from '../calendar';
import { type BasisPoints, type Cents, ZERO } from '../money';
import { interestOf } from './quote';
import { type Every, type InterestBy, daysOf, dueOn } from './terms';

/** What of a running plan its interest follows from. */
export interface InterestFacts {
  rate: BasisPoints;
  every: Every;
  interestBy: InterestBy;
  first: CalendarDate;
  /** The principal that is open now, in cents. */
  principal: Cents;
  /** How many due dates have had their interest, and through which day it is counted. */
  counted: number;
  through: CalendarDate;
}

/** Interest of a plan through a day, in cents. */
export interface DueInterest {
  date: CalendarDate;
  amount: Cents;
  /** Due dates that have had theirs after this. */
  counted: number;
}

/** No more due dates than this are caught up at once. */
const MOST = 1300;

/**
 * The interest that is to be charged through a day: on each due date that has come, on the principal that is open, and by days
 * also through the day itself. No interest bears interest. Amounts of zero are left out, though their dates are counted.
 */
export function interestThrough(facts: InterestFacts, day: CalendarDate, alsoToday = false): DueInterest[] {
  const found: DueInterest[] = [];
  let { counted, through } = facts;
  const count = (date: CalendarDate, dueDate: boolean): void => {
    // A first installment on the day of the agreement has had no time to bear any.
    const amount =
      facts.principal <= 0 || date <= through
        ? ZERO
        : interestOf(
            facts.principal,
            facts.rate,
            facts.interestBy === 'days' ? { days: daysOf(through, date) } : { every: facts.every },
          );
    if (dueDate) counted += 1;
    through = date;
    found.push({ date, amount, counted });
  };
  for (let step = 0; step < MOST; step += 1) {
    const date = dueOn(facts.first, facts.every, counted);
    if (date > day) break;
    count(date, true);
  }
  if (alsoToday && facts.interestBy === 'days' && through < day) count(day, false);
  return found;
}
