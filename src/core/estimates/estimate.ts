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

interface Running {
  deductibleLeft: Cents;
  maximumLeft: Cents | null;
  copaidVisits: Set<string>;
}

/**
 * Estimates charges in the order given: deductible and maximum run down from one to the next.
 * Rounding: each plan's share of the allowed amount is rounded once, to the cent, half away from zero.
 */
export function estimate(
  charges: readonly EstimateCharge[],
  coverages: readonly EstimateCoverage[],
): ChargeEstimate[] {
  const running = coverages.map<Running>(({ terms, used }) => ({
    deductibleLeft: most(ZERO, minus(terms.deductible, used.deductible)),
    maximumLeft: terms.maximum === null ? null : most(ZERO, minus(terms.maximum, used.paid)),
    copaidVisits: new Set(),
  }));
  return charges.map((charge) => {
    const steps: ChargeEstimate['steps'] = [{ words: 'Office fee', amount: charge.fee }];
    const payers: PayerPart[] = [];
    let paid = ZERO;
    let writeOff = ZERO;
    coverages.forEach((coverage, index) => {
      const part = onePayer(charge, coverage, running[index]!, steps);
      if (index > 0)
        coordinate(
          part,
          coverage.terms,
          paid,
          minus(charge.fee, add(writeOff, paid)),
          running[index]!,
          steps,
        );
      if (index === 0) writeOff = part.writeOff;
      paid = add(paid, part.pays);
      payers.push(part);
    });
    const patient = minus(minus(charge.fee, writeOff), paid);
    steps.push({ words: 'Expected from the patient', amount: patient });
    return { id: charge.id, fee: charge.fee, writeOff, payers, patient, steps };
  });
}

function onePayer(
  charge: EstimateCharge,
  coverage: EstimateCoverage,
  run: Running,
  steps: ChargeEstimate['steps'],
): PayerPart {
  const { terms, payer } = coverage;
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
  if (!terms.deductibleWaived.includes(charge.category)) {
    part.deductible = least(rest, run.deductibleLeft);
    run.deductibleLeft = minus(run.deductibleLeft, part.deductible);
    rest = minus(rest, part.deductible);
    if (part.deductible > 0)
      steps.push({ words: `${payer}: goes to the yearly deductible`, amount: part.deductible });
  }
  if (terms.copayPer === 'service' || !run.copaidVisits.has(charge.visit)) {
    part.copay = least(rest, terms.copay);
    run.copaidVisits.add(charge.visit);
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
  part.pays = run.maximumLeft === null ? pays : least(pays, run.maximumLeft);
  part.overMaximum = minus(pays, part.pays);
  if (part.overMaximum > 0)
    steps.push({ words: `${payer}: over the yearly maximum`, amount: part.overMaximum });
  if (run.maximumLeft !== null) run.maximumLeft = minus(run.maximumLeft, part.pays);
  steps.push({ words: `${payer}: expected payment`, amount: part.pays });
  return part;
}

/**
 * Lowers what a next payer pays by its way of coordinating, and never lets all payers exceed what is left of the charge.
 * Standard: up to what is left. Non-duplication: its own payment less what the others paid. Maintenance: the others'
 * payment is taken off the allowed amount before the plan's share, deductible and copay having been met. Common practice,
 * no source.
 */
function coordinate(
  part: PayerPart,
  terms: BenefitTerms,
  paidBefore: Cents,
  left: Cents,
  run: Running,
  steps: ChargeEstimate['steps'],
): void {
  const alone = part.pays;
  let pays = alone;
  if (terms.coordination === 'non-duplication') pays = most(ZERO, minus(alone, paidBefore));
  if (terms.coordination === 'maintenance')
    pays = most(ZERO, least(alone, minus(part.allowed, add(paidBefore, add(part.deductible, part.copay)))));
  part.pays = most(ZERO, least(pays, left));
  if (run.maximumLeft !== null) run.maximumLeft = add(run.maximumLeft, minus(alone, part.pays));
  if (part.pays !== alone)
    steps.push({ words: `${part.payer}: after coordination with the payers before it`, amount: part.pays });
}
