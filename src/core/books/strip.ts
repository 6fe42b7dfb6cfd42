/** Where the cents of a charge, a claim or an account stand: the parts of the fee strip, always in this order. */
import type { Cents } from '../money';

/** Totals of one charge (or a sum of charges), in cents; each is zero or more in the ordinary case. */
export interface ChargeTotals {
  fee: Cents;
  payerPaid: Cents;
  patientPaid: Cents;
  reduced: Cents;
  withPayer: Cents;
  withPatient: Cents;
  onPlan: Cents;
  atAgency: Cents;
}

/** Parts of the strip in their order, with the words that name them. */
export const STRIP_PARTS = [
  { part: 'payerPaid', words: 'paid by payer' },
  { part: 'patientPaid', words: 'paid by patient' },
  { part: 'reduced', words: 'written off' },
  { part: 'withPayer', words: 'with payer' },
  { part: 'withPatient', words: 'patient owes' },
  { part: 'onPlan', words: 'on plan' },
  { part: 'atAgency', words: 'at agency' },
] as const satisfies readonly { part: keyof ChargeTotals; words: string }[];

/** The parts that hold money, each with its share of the whole in parts per thousand for drawing. */
export function stripParts(
  totals: ChargeTotals,
): { part: (typeof STRIP_PARTS)[number]['part']; words: string; amount: Cents; permille: number }[] {
  const held = STRIP_PARTS.map(({ part, words }) => ({ part, words, amount: totals[part] })).filter(
    ({ amount }) => amount > 0,
  );
  const whole = held.reduce((total, { amount }) => total + amount, 0);
  return held.map((item) => ({ ...item, permille: Math.round((item.amount * 1000) / whole) }));
}

/** True when the receivables are the fee less reductions less payments. */
export const adds = (t: ChargeTotals): boolean =>
  t.withPayer + t.withPatient + t.onPlan + t.atAgency === t.fee - t.reduced - t.payerPaid - t.patientPaid;
