/** The annual percentage rate by the actuarial method of Regulation Z, 12 CFR 1026, appendix J. */
import { type CalendarDate, addMonths, daysBetween } from '../calendar';
import type { Cents } from '../money';
import { EVERY, type Every } from './terms';

/** A unit-period: months, or days; `perYear` of them make a year. Appendix J (b)(4). */
export interface UnitPeriod {
  months?: number;
  days: number;
  perYear: number;
}

const UNITS: Record<Every, UnitPeriod> = {
  month: { months: 1, days: 30, perYear: EVERY.month.perYear },
  'two-weeks': { days: 14, perYear: EVERY['two-weeks'].perYear },
  week: { days: 7, perYear: EVERY.week.perYear },
};

/** The time from an advance to a payment: full unit-periods, and the fraction of one that remains. Appendix J (b)(5). */
export interface UnitTime {
  full: number;
  fraction: number;
}

/**
 * Measures the time between two dates. Of months, full unit-periods are counted back from the payment; the odd days are a
 * fraction of a unit-period of months times 30 days. Of days, whole multiples are taken out.
 */
export function unitTime(from: CalendarDate, to: CalendarDate, unit: UnitPeriod): UnitTime {
  if (unit.months === undefined) {
    const days = daysBetween(from, to);
    const full = Math.floor(days / unit.days);
    return { full, fraction: (days - full * unit.days) / unit.days };
  }
  let full = 0;
  while (addMonths(to, -(full + 1) * unit.months) >= from) full += 1;
  const start = addMonths(to, -full * unit.months);
  let months = 0;
  while (addMonths(start, -(months + 1)) >= from) months += 1;
  const odd = months * 30 + daysBetween(from, addMonths(start, -months));
  return { full, fraction: odd / unit.days };
}

/** A payment, and when it is. */
export interface TimedPayment {
  time: UnitTime;
  amount: Cents;
}

/**
 * Solves the general equation of appendix J (b)(8), advance = sum of payment / ((1 + f i)(1 + i)^t), for the rate of a
 * unit-period, by halving. @returns the yearly rate in percent, unrounded
 */
export function solveRate(advance: Cents, payments: readonly TimedPayment[], perYear: number): number {
  const worth = (i: number): number =>
    payments.reduce(
      (all, { time: { full, fraction }, amount }) => all + amount / ((1 + fraction * i) * (1 + i) ** full),
      0,
    );
  let [low, high] = [0, 1];
  while (worth(high) > advance && high < 1e6) high *= 2;
  for (let step = 0; step < 200; step += 1) {
    const middle = (low + high) / 2;
    if (worth(middle) > advance) low = middle;
    else high = middle;
  }
  return ((low + high) / 2) * perYear * 100;
}

/** The annual percentage rate of installments, in percent with two decimals. */
export function annualRate(
  financed: Cents,
  agreed: CalendarDate,
  installments: readonly { date: CalendarDate; amount: Cents }[],
  every: Every,
): number {
  const unit = UNITS[every];
  const rate = solveRate(
    financed,
    installments.map(({ date, amount }) => ({ time: unitTime(agreed, date, unit), amount })),
    unit.perYear,
  );
  return Math.round(rate * 100) / 100;
}
