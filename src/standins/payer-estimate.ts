/** What the simulated payers pay of a claim, by arithmetic of their own: nothing of it is the program's. All invented. */
import { type BasisPoints, type Cents, ZERO, add, least, minus, most, portion, times } from '../core/money';

/** What a group's plan pays. Amounts in cents, shares in basis points. */
export interface GroupTerms {
  contracted: boolean;
  /** Share of the allowed amount by category; those not named are not covered. */
  percentages: Readonly<Record<string, BasisPoints>>;
  /** Of a person in a year, and the categories that are spared it. */
  deductible: Cents;
  deductibleWaived: readonly string[];
  /** Once a visit, or once a service. */
  copay: Cents;
  copayPer: 'visit' | 'service';
  /** Paid for a person in a year at most; null for no such limit. */
  maximum: Cents | null;
  coordination: 'standard' | 'non-duplication' | 'maintenance';
}

/** A line of a claim, with the allowed fee of a unit where the payer has one. Cents. */
export interface PaidLine {
  number: number;
  category: string;
  units: number;
  charge: Cents;
  date: string;
  unitFee: Cents | null;
}

/** What is done with a line, in cents. */
export interface PaidPart {
  number: number;
  allowed: Cents;
  writeOff: Cents;
  deductible: Cents;
  copay: Cents;
  coinsurance: Cents;
  notCovered: Cents;
  overMaximum: Cents;
  pays: Cents;
}

/**
 * Decides lines in their order, of a person who has used so much: the deductible first, then the copay, which a visit has once, then the
 * plan's share of the rest, as far as the maximum goes.
 */
export function payLines(
  lines: readonly PaidLine[],
  terms: GroupTerms,
  used: { deductible: Cents; paid: Cents },
): PaidPart[] {
  let deductibleLeft = most(ZERO, minus(terms.deductible, used.deductible));
  let maximumLeft = terms.maximum === null ? null : most(ZERO, minus(terms.maximum, used.paid));
  const copayLeft = new Map<string, Cents>();
  return lines.map(({ number, category, units, charge, date, unitFee }) => {
    const allowed = unitFee === null ? charge : least(charge, times(unitFee, units));
    const writeOff = terms.contracted ? minus(charge, allowed) : ZERO;
    const share = terms.percentages[category];
    const none = { deductible: ZERO, copay: ZERO, coinsurance: ZERO, overMaximum: ZERO, pays: ZERO };
    if (share === undefined) return { number, allowed, writeOff, notCovered: allowed, ...none };
    const deductible = terms.deductibleWaived.includes(category) ? ZERO : least(allowed, deductibleLeft);
    deductibleLeft = minus(deductibleLeft, deductible);
    const once = terms.copayPer === 'visit' ? date : String(number);
    const copay = least(minus(allowed, deductible), copayLeft.get(once) ?? terms.copay);
    copayLeft.set(once, minus(copayLeft.get(once) ?? terms.copay, copay));
    const rest = minus(minus(allowed, deductible), copay);
    const whole = portion(rest, share);
    const pays = maximumLeft === null ? whole : least(whole, maximumLeft);
    if (maximumLeft !== null) maximumLeft = minus(maximumLeft, pays);
    const taken = add(pays, minus(rest, whole));
    return {
      number,
      allowed,
      writeOff,
      deductible,
      copay,
      coinsurance: minus(rest, whole),
      notCovered: ZERO,
      overMaximum: minus(rest, taken),
      pays,
    };
  });
}
