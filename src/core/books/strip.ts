/** Where the cents of a charge, a claim or an account stand: the parts of the fee strip, always in this order. */
import { type Cents, minus, sum } from '../money';

/** Totals of one charge (or a sum of charges), in cents; each is zero or more in the ordinary case. */
export interface ChargeTotals {
  /** Fee of the service. */
  fee: Cents;
  /** Tax on it. */
  tax: Cents;
  /** Interest and late charges: never part of a fee. */
  added: Cents;
  /** Brought in from an earlier system. */
  opened: Cents;
  payerPaid: Cents;
  patientPaid: Cents;
  agencyPaid: Cents;
  reduced: Cents;
  /** Expected to come off by contract, while the payer has not answered. */
  expected: Cents;
  withPayer: Cents;
  withPatient: Cents;
  onPlan: Cents;
  atAgency: Cents;
}

/** Parts of the strip in their order, with the words that name them. */
export const STRIP_PARTS = [
  { part: 'payerPaid', words: 'paid by payer' },
  { part: 'patientPaid', words: 'paid by patient' },
  { part: 'agencyPaid', words: 'paid by agency' },
  { part: 'reduced', words: 'written off' },
  { part: 'expected', words: 'expected to come off' },
  { part: 'withPayer', words: 'with payer' },
  { part: 'withPatient', words: 'patient owes' },
  { part: 'onPlan', words: 'on plan' },
  { part: 'atAgency', words: 'at agency' },
] as const satisfies readonly { part: keyof ChargeTotals; words: string }[];

/** The parts that hold money, each with its share of the whole in parts per thousand for drawing. */
export function stripParts(
  totals: Pick<ChargeTotals, (typeof STRIP_PARTS)[number]['part']>,
): { part: (typeof STRIP_PARTS)[number]['part']; words: string; amount: Cents; permille: number }[] {
  const held = STRIP_PARTS.map(({ part, words }) => ({ part, words, amount: totals[part] })).filter(
    ({ amount }) => amount > 0,
  );
  const whole = held.reduce((total, { amount }) => total + amount, 0);
  return held.map((item) => ({ ...item, permille: Math.round((item.amount * 1000) / whole) }));
}

/** What was charged in all, in cents. */
export const chargedIn = (t: ChargeTotals): Cents => sum([t.fee, t.tax, t.added, t.opened]);

/** What still stands open, wherever it is, in cents. */
export const openIn = (t: ChargeTotals): Cents => sum([t.withPayer, t.withPatient, t.onPlan, t.atAgency]);

/** What was paid, by whom ever, in cents. */
export const paidIn = (t: ChargeTotals): Cents => sum([t.payerPaid, t.patientPaid, t.agencyPaid]);

/** True when the receivables are what was charged less reductions, also those that are expected, less payments. */
export const adds = (t: ChargeTotals): boolean =>
  openIn(t) === minus(chargedIn(t), sum([t.reduced, t.expected, paidIn(t)]));
