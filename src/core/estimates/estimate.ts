/**
 * What the first payer, the next payers and the patient are expected to pay for charges, with the steps that led
 * there. The one function behind the treatment estimate, the expected amounts of a claim, the short-payment check and
 * the paying stand-in.
 */
import {
  ZERO,
  add,
  formatMoneyPlain,
  least,
  minus,
  most,
  portion,
  times,
  type BasisPoints,
  type Cents,
} from '../money';

/** What a plan pays. Amounts in cents, percentages in basis points. */
export interface BenefitTerms {
  /** Contracted payers bind the practice to the contracted fee; others leave the difference with the patient. */
  contracted: boolean;
  /** Share of the allowed amount that the plan pays, by service category. Categories not named are not covered. */
  percentages: Readonly<Record<string, BasisPoints>>;
  /** Yearly deductible of one person. */
  deductible: Cents;
  /** Categories that the deductible does not apply to. */
  deductibleWaived: readonly string[];
  /** Fixed part of the patient, once a visit or once a service. */
  copay: Cents;
  copayPer: 'visit' | 'service';
  /** Yearly maximum of one person; null when there is none. */
  maximum: Cents | null;
  /** How a next payer counts what the payers before it paid. */
  coordination: 'standard' | 'non-duplication' | 'maintenance';
}

/** What a person has used of a plan in its year, in cents. */
export interface BenefitsUsed {
  deductible: Cents;
  paid: Cents;
}

/** One coverage, in its order, with the plan's allowed fees. */
export interface EstimateCoverage {
  payer: string;
  terms: BenefitTerms;
  used: BenefitsUsed;
  /**
   * What its deductible and maximum are counted by: the coverage in one of its years. Absent: its place, where all charges are
   * of one year.
   */
  counter?: string;
  /** Contracted or allowed fee for one unit of a service, in cents; null when the schedule has none. */
  allowedFee(code: string): Cents | null;
}

/** A charge to be estimated. `fee` in cents for all units. */
export interface EstimateCharge {
  id: number;
  code: string;
  category: string;
  units: number;
  fee: Cents;
  /** Charges with the same key are one visit for the copay. */
  visit: string;
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

/** What the charges before have taken of a coverage in its year, in cents. */
interface Taken {
  deductible: Cents;
  paid: Cents;
  copaidVisits: Set<string>;
}

/**
 * Estimates charges in the order given: deductible and maximum run down from one to the next. Rounding: each plan's
 * share of the allowed amount is rounded once, to the cent, half away from zero.
 * @param coverages in their order: the same for all charges, or those of each on its own day
 */
export function estimate<Charge extends EstimateCharge>(
  charges: readonly Charge[],
  coverages: readonly EstimateCoverage[] | ((charge: Charge) => readonly EstimateCoverage[]),
): ChargeEstimate[] {
  const counters = new Map<string, Taken>();
  const takenOf = (counter: string): Taken => {
    const known = counters.get(counter);
    if (known) return known;
    const none = { deductible: ZERO, paid: ZERO, copaidVisits: new Set<string>() };
    counters.set(counter, none);
    return none;
  };
  return charges.map((charge) => {
    const steps: ChargeEstimate['steps'] = [{ words: 'Office fee', amount: charge.fee }];
    const payers: PayerPart[] = [];
    let paid = ZERO;
    let writeOff = ZERO;
    const own = typeof coverages === 'function' ? coverages(charge) : coverages;
    own.forEach((coverage, index) => {
      const taken = takenOf(coverage.counter ?? `place ${index}`);
      const before = index === 0 ? null : { paid, left: minus(charge.fee, add(writeOff, paid)) };
      const part = onePayer(charge, coverage, taken, before, steps);
      taken.deductible = add(taken.deductible, part.deductible);
      taken.paid = add(taken.paid, part.pays);
      if (index === 0) writeOff = part.writeOff;
      paid = add(paid, part.pays);
      payers.push(part);
    });
    const patient = minus(minus(charge.fee, writeOff), paid);
    steps.push({ words: 'Expected from the patient', amount: patient });
    return { id: charge.id, fee: charge.fee, writeOff, payers, patient, steps };
  });
}

/** What the payers before have paid of a charge, and what is left of it after their write-off; cents. */
interface Before {
  paid: Cents;
  left: Cents;
}

/** @param before null for the first payer */
function onePayer(
  charge: EstimateCharge,
  coverage: EstimateCoverage,
  taken: Taken,
  before: Before | null,
  steps: ChargeEstimate['steps'],
): PayerPart {
  const { terms, payer, used } = coverage;
  const unitFee = coverage.allowedFee(charge.code);
  const scheduled = unitFee === null ? charge.fee : times(unitFee, charge.units);
  const allowed = least(charge.fee, scheduled);
  const difference = minus(charge.fee, allowed);
  const writeOff = terms.contracted ? difference : ZERO;
  if (difference > 0) {
    steps.push({
      words: terms.contracted
        ? `${payer}: contract write-off`
        : `${payer}: over the allowance, stays with the patient`,
      amount: difference,
    });
  }
  steps.push({ words: `${payer}: allowed`, amount: allowed });

  const part: PayerPart = {
    payer,
    allowed,
    writeOff,
    deductible: ZERO,
    copay: ZERO,
    coinsurance: ZERO,
    notCovered: ZERO,
    overMaximum: ZERO,
    pays: ZERO,
  };
  const share = terms.percentages[charge.category];
  if (share === undefined) {
    part.notCovered = allowed;
    steps.push({ words: `${payer}: ${charge.category} is not covered`, amount: allowed });
    return part;
  }
  let rest = allowed;
  const maintains = before !== null && terms.coordination === 'maintenance';
  if (maintains) {
    const off = least(rest, before.paid);
    rest = minus(rest, off);
    if (off > 0)
      steps.push({
        words: `${payer}: maintenance of benefits, what was paid before comes off the allowed amount`,
        amount: off,
      });
  }
  if (!terms.deductibleWaived.includes(charge.category)) {
    const deductibleLeft = minus(minus(terms.deductible, used.deductible), taken.deductible);
    part.deductible = least(rest, most(ZERO, deductibleLeft));
    rest = minus(rest, part.deductible);
    if (part.deductible > 0)
      steps.push({ words: `${payer}: goes to the yearly deductible`, amount: part.deductible });
  }
  if (terms.copayPer === 'service' || !taken.copaidVisits.has(charge.visit)) {
    part.copay = least(rest, terms.copay);
    taken.copaidVisits.add(charge.visit);
    rest = minus(rest, part.copay);
    if (part.copay > 0) steps.push({ words: `${payer}: copay`, amount: part.copay });
  }
  const pays = portion(rest, share);
  part.coinsurance = minus(rest, pays);
  if (part.coinsurance > 0)
    steps.push({
      words: `${payer}: coinsurance, plan pays ${share / 100} % of ${formatMoneyPlain(rest)}`,
      amount: part.coinsurance,
    });
  const maximumLeft =
    terms.maximum === null ? null : most(ZERO, minus(minus(terms.maximum, used.paid), taken.paid));
  part.pays = maximumLeft === null ? pays : least(pays, maximumLeft);
  part.overMaximum = minus(pays, part.pays);
  if (part.overMaximum > 0)
    steps.push({ words: `${payer}: over the yearly maximum`, amount: part.overMaximum });
  steps.push({ words: `${payer}: expected payment`, amount: part.pays });
  if (before) coordinate(part, terms, before, steps);
  return part;
}

/**
 * Lowers what a next payer pays by its way of coordinating, and never lets all payers exceed what is left of the charge.
 * Standard: up to what is left. Non-duplication: its own payment less what the others paid. Maintenance of benefits: its share
 * of what is left of the allowed amount after what the others paid, its deductible and its copay, which `onePayer` has counted
 * so. Some payers call non-duplication maintenance, so that the steps say what was taken from what. Common practice, no source.
 */
function coordinate(
  part: PayerPart,
  terms: BenefitTerms,
  before: Before,
  steps: ChargeEstimate['steps'],
): void {
  const alone = part.pays;
  if (terms.coordination === 'non-duplication') {
    part.pays = most(ZERO, minus(alone, before.paid));
    if (part.pays !== alone)
      steps.push({
        words: `${part.payer}: non-duplication, ${formatMoneyPlain(alone)} less ${formatMoneyPlain(before.paid)} paid before`,
        amount: part.pays,
      });
  }
  const left = most(ZERO, before.left);
  if (part.pays > left) {
    part.pays = left;
    steps.push({ words: `${part.payer}: no more than what is left of the charge`, amount: left });
  }
}
