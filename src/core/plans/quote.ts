/** What a payment plan costs: its installments with principal and interest, the finance charge, the annual percentage rate. */
import { Decimal } from 'decimal.js';
import type { CalendarDate } from '../calendar';
import { type BasisPoints, type Cents, ZERO, add, cents, least, minus, sum } from '../money';
import { annualRate } from './apr';
import { EVERY, type Every, type PlanTerms, daysOf, dueOn } from './terms';

/** One installment. Amounts in cents; `left` is what of the principal is left after it. */
export interface Installment {
  number: number;
  date: CalendarDate;
  amount: Cents;
  principal: Cents;
  interest: Cents;
  left: Cents;
}

/** What a plan would be. Amounts in cents. */
export interface Quote {
  /** What is financed: the amount less the down payment. */
  financed: Cents;
  /** The installment of the schedule; the last may differ. */
  level: Cents;
  installments: Installment[];
  financeCharge: Cents;
  /** The sum of the installments. */
  total: Cents;
  /** The annual percentage rate, in percent with two decimals; 0 without a finance charge. */
  apr: number;
}

/** Why terms make no plan, and which of them it is. */
export class NoPlan extends Error {
  constructor(
    message: string,
    readonly field: 'amount' | 'down' | 'rate' | 'installments' | 'installment' | 'first',
  ) {
    super(message);
    this.name = 'NoPlan';
  }
}

/** No plan is longer. */
export const MOST_INSTALLMENTS = 600;

/** The first installment lies no further ahead. */
const MOST_DAYS_AHEAD = 366;
const YEAR = 365;
const round = (value: Decimal): Cents =>
  // Half away from zero, once; what is rounded is never below zero.
  cents(value.toDecimalPlaces(0, Decimal.ROUND_HALF_UP).toNumber());

/** The interest of a balance for one period, or for days, rounded half away from zero to the cent. @param rate basis points a year */
export const interestOf = (
  balance: Cents,
  rate: BasisPoints,
  over: { every: Every } | { days: number },
): Cents => {
  const yearly = new Decimal(balance).times(rate).div(10_000);
  return round('days' in over ? yearly.times(over.days).div(YEAR) : yearly.div(EVERY[over.every].perYear));
};

/**
 * The level installment that pays an amount off in so many periods: the annuity formula, rounded to the cent.
 * @param atOnce the first is due on the day of the agreement, so that a period less bears interest
 */
export function levelOf(
  financed: Cents,
  rate: BasisPoints,
  every: Every,
  installments: number,
  atOnce = false,
): Cents {
  if (rate === 0) return round(new Decimal(financed).div(installments));
  const i = new Decimal(rate).div(10_000).div(EVERY[every].perYear);
  const periods = new Decimal(1).minus(i.plus(1).pow(-installments)).div(i);
  return round(new Decimal(financed).div(atOnce ? periods.times(i.plus(1)) : periods));
}

/** How many installments of an amount it takes. @throws NoPlan when it never ends */
function countOf(financed: Cents, rate: BasisPoints, every: Every, installment: Cents): number {
  if (installment <= 0) throw new NoPlan('An installment is more than zero', 'installment');
  const first = interestOf(financed, rate, { every });
  if (installment <= first)
    throw new NoPlan('The installment does not even pay the interest: it would never end', 'installment');
  if (rate === 0) return Math.ceil(financed / installment);
  const i = new Decimal(rate).div(10_000).div(EVERY[every].perYear);
  const n = new Decimal(1).minus(i.times(financed).div(installment)).ln().neg().div(i.plus(1).ln());
  // A cent of rounding makes no installment of its own.
  return Math.max(1, n.minus('0.001').ceil().toNumber());
}

/** The installments of a schedule; the last takes the rounding. An installment of nothing is none. */
function scheduleOf(
  financed: Cents,
  level: Cents,
  count: number,
  terms: Pick<PlanTerms, 'rate' | 'every' | 'first' | 'agreed' | 'interestBy'>,
): Installment[] {
  const installments: Installment[] = [];
  let left = financed;
  let before = terms.agreed;
  for (let index = 0; index < count && left > 0; index += 1) {
    const date = dueOn(terms.first, terms.every, index);
    const interest =
      date <= before
        ? ZERO
        : interestOf(
            left,
            terms.rate,
            terms.interestBy === 'days' ? { days: daysOf(before, date) } : { every: terms.every },
          );
    const last = index === count - 1;
    // By days, a long period may cost more than the installment: nothing is added to what is owed.
    const principal = last ? left : least(left, cents(Math.max(0, level - interest)));
    left = minus(left, principal);
    installments.push({
      number: index + 1,
      date,
      amount: add(principal, interest),
      principal,
      interest,
      left,
    });
    before = date;
  }
  return installments;
}

/**
 * Works a plan out. Term or installment is given, the other follows; the last installment takes the rounding.
 * Source of the level payment: the annuity formula. Check value (common practice, no source): 560.00 less 60.00 down at 5 %
 * a year over 6 months is 84.55 a month, the last 84.56.
 * @throws NoPlan naming the term that makes none
 */
export function quote(terms: PlanTerms): Quote {
  const { amount, down, rate, every, by } = terms;
  if (amount <= 0) throw new NoPlan('The amount is more than zero', 'amount');
  if (down < 0) throw new NoPlan('The down payment is not below zero', 'down');
  const financed = minus(amount, down);
  if (financed <= 0) throw new NoPlan('The down payment pays all of it: no plan is needed', 'down');
  if (rate < 0) throw new NoPlan('The rate is not below zero', 'rate');
  if (terms.first < terms.agreed)
    throw new NoPlan('The first installment lies before the agreement', 'first');
  if (daysOf(terms.agreed, terms.first) > MOST_DAYS_AHEAD)
    throw new NoPlan('The first installment lies more than a year after the agreement', 'first');
  const count = 'installments' in by ? by.installments : countOf(financed, rate, every, by.installment);
  if (!Number.isInteger(count) || count < 1)
    throw new NoPlan('A plan has at least one installment', 'installments');
  if (count > MOST_INSTALLMENTS)
    throw new NoPlan(
      `It would take ${count} installments`,
      'installments' in by ? 'installments' : 'installment',
    );
  if ('installments' in by && count > financed)
    throw new NoPlan('There are more installments than cents', 'installments');
  const level =
    'installments' in by
      ? levelOf(financed, rate, every, count, terms.first <= terms.agreed)
      : by.installment;
  const installments = scheduleOf(financed, level, count, terms);
  const financeCharge = sum(installments.map(({ interest }) => interest));
  const total = sum(installments.map((one) => one.amount));
  return {
    financed,
    level: installments.length === 1 ? installments[0]!.amount : level,
    installments,
    financeCharge,
    total,
    apr:
      financeCharge === 0
        ? 0
        : annualRate(
            financed,
            terms.agreed,
            installments.map(({ date, amount: paid }) => ({ date, amount: paid })),
            every,
          ),
  };
}

/**
 * Whether the law asks for a disclosure before it is signed: a finance charge, or more than four installments, the
 * down payment not counted (12 CFR 1026.2(a)(17)(i)).
 */
export const needsDisclosure = ({
  financeCharge,
  installments,
}: {
  financeCharge: Cents;
  installments: readonly unknown[];
}): boolean => financeCharge > ZERO || installments.length > 4;
