/**
 * What the first payer, the next payers and the patient are expected to pay for charges, with the steps that led
 * there. The one function behind the treatment estimate, the expected amounts of a claim and the short-payment check.
 */
import { type CalendarDate, formatDate } from '../calendar';
import { type Cents, ZERO, add, minus, most, sum } from '../money';
import { OnePayer, Taken } from './one-payer';
import type { Rule } from './rules';

/** How a next payer counts what the payers before it paid. */
export type Coordination = 'standard' | 'non-duplication' | 'maintenance';

/** A service that counted before, for what is limited to so many in so many months. */
export interface Earlier {
  code: string;
  category: string;
  day: CalendarDate;
  tooth?: string;
  units: number;
}

/** One coverage, in its order, with the plan's allowed fees. */
export interface EstimateCoverage {
  payer: string;
  /** Contracted payers bind the practice to the contracted fee; others leave the difference with the patient. */
  contracted: boolean;
  coordination: Coordination;
  /** The rules in force on the day. */
  rules: readonly Rule[];
  /** What of a rule was used in the period that began on a day: cents, or how many; of the tooth where it counts by tooth. */
  used(rule: Rule, from: CalendarDate, tooth: string): number;
  /** What counted before, where a rule looks back over months. */
  earlier?: readonly Earlier[];
  /** The first day of the coverage, null from the beginning. */
  begins?: CalendarDate | null;
  /** When the patient was born, where ages are asked for. */
  born?: CalendarDate | null;
  /** The payer approved the services of the case on the day beforehand. */
  approved?: boolean;
  /** Nothing is left of it from a day on, as the payer's letter says: it is passed over. */
  exhausted?: CalendarDate;
  /** Teeth that the patient has lost, and when where that is known. */
  lost?: ReadonlyMap<string, CalendarDate | null>;
  /** By what is counted what the charges before have used: the policy. Absent: its place. */
  counter?: string;
  /** Contracted or allowed fee for one unit of a service, in cents, in a facility or in our rooms; null when the schedule has none. */
  allowedFee(code: string, facility: boolean): Cents | null;
}

/** A charge to be estimated. `fee` in cents for all units. */
export interface EstimateCharge {
  id: number;
  code: string;
  category: string;
  units: number;
  fee: Cents;
  day: CalendarDate;
  /** Charges with the same key are one visit. */
  visit: string;
  modifiers?: readonly string[];
  tooth?: string;
  /** Given in a facility that bills for itself. */
  facility?: boolean;
  /** Whole years of the patient on the day, where the coverage does not know the birth date. */
  age?: number;
  /** The payer approved it beforehand. */
  approved?: boolean;
  /** It replaces a tooth that was lost before the coverage began, where the coverage does not know the lost teeth. */
  lostBefore?: boolean;
}

/** What of a rule a charge uses: cents, or how many. */
export interface Use {
  rule: string;
  from: CalendarDate;
  tooth: string;
  quantity: number;
}

/** A limit that a charge goes beyond, in words, and whether that must be meant. */
export interface Reached {
  rule: string;
  words: string;
  /** What of the charge is over it, in cents. */
  amount: Cents;
  then: 'next' | 'patient';
  confirm: boolean;
}

/** What one payer does with one charge, in cents. */
export interface PayerPart {
  payer: string;
  allowed: Cents;
  writeOff: Cents;
  deductible: Cents;
  copay: Cents;
  coinsurance: Cents;
  notCovered: Cents;
  overMaximum: Cents;
  pays: Cents;
  uses: Use[];
  reached: Reached[];
}

/** The estimate of one charge. `payers` stand in coverage order; amounts in cents. */
export interface ChargeEstimate {
  id: number;
  fee: Cents;
  writeOff: Cents;
  payers: PayerPart[];
  patient: Cents;
  /** The steps in words, each with its amount in cents. */
  steps: { words: string; amount: Cents }[];
}

/** What a payer does that is not asked. */
const passedOver = (payer: string): PayerPart => ({
  payer,
  allowed: ZERO,
  writeOff: ZERO,
  deductible: ZERO,
  copay: ZERO,
  coinsurance: ZERO,
  notCovered: ZERO,
  overMaximum: ZERO,
  pays: ZERO,
  uses: [],
  reached: [],
});

/** The steps that led to amounts, in words. */
export type Steps = ChargeEstimate['steps'];

/**
 * Estimates charges in the order given: what is limited runs down from one to the next. Rounding: each plan's
 * share of the allowed amount is rounded once, to the cent, half away from zero.
 * @param coverages in their order: the same for all charges, or those of each on its own day
 */
export function estimate<Charge extends EstimateCharge>(
  charges: readonly Charge[],
  coverages: readonly EstimateCoverage[] | ((charge: Charge) => readonly EstimateCoverage[]),
): ChargeEstimate[] {
  const taken = new Taken();
  return charges.map((charge) => {
    const steps: Steps = [{ words: 'Office fee', amount: charge.fee }];
    const payers: PayerPart[] = [];
    let paid = ZERO;
    let writeOff = ZERO;
    // What no next payer is asked for, whoever is next.
    let kept = ZERO;
    const own = typeof coverages === 'function' ? coverages(charge) : coverages;
    const isExhausted = ({ exhausted }: EstimateCoverage): boolean =>
      exhausted !== undefined && exhausted <= charge.day;
    const first = own.findIndex((coverage) => !isExhausted(coverage));
    own.forEach((coverage, index) => {
      if (isExhausted(coverage)) {
        steps.push({
          words: `${coverage.payer}: nothing left from ${formatDate(coverage.exhausted!)} on, as its letter says`,
          amount: ZERO,
        });
        payers.push(passedOver(coverage.payer));
        return;
      }
      const place = coverage.counter ?? `place ${index}`;
      const together = charges.filter((other) => other.visit === charge.visit);
      const before =
        index === first
          ? null
          : { paid, left: most(ZERO, minus(minus(charge.fee, add(writeOff, paid)), kept)) };
      const part = new OnePayer(charge, together, coverage, place, taken, steps).part(before);
      for (const use of part.uses) taken.add(place, use);
      if (part.pays > 0 || part.deductible > 0 || part.copay > 0 || part.coinsurance > 0)
        taken.serve(place, charge);
      kept = add(kept, sum(part.reached.flatMap(({ then, amount }) => (then === 'patient' ? [amount] : []))));
      if (index === first) writeOff = part.writeOff;
      paid = add(paid, part.pays);
      payers.push(part);
    });
    const patient = minus(minus(charge.fee, writeOff), paid);
    steps.push({ words: 'Expected from the patient', amount: patient });
    return { id: charge.id, fee: charge.fee, writeOff, payers, patient, steps };
  });
}
