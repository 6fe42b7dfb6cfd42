/** Write-offs of contracts that are counted before the payer has answered, and charges that stand at the contracted fee. */
import { type Cents, ZERO, add, least, minus, most } from '../money';
import type { ChargeTotals } from './strip';

/** When a contract's write-off counts in what was earned. */
export const WRITE_OFFS_COUNT = {
  answer: 'when the payer answers',
  service: 'on the day of service',
} as const;

/** At which fee the charges of a plan stand. */
export const CHARGES_AT = {
  office: 'the office fee, with the write-off beside it',
  contract: 'the contracted fee',
} as const;

/**
 * The totals of a charge as they are shown where it stands at the contracted fee: what the contract takes off is in no column, whether
 * it is expected yet or has come off. What came off otherwise, and a fee that is owed in full after all, are seen. Amounts in cents.
 * @param off what the contracted fee is less than the office fee
 */
export function atContract<Totals extends Pick<ChargeTotals, 'fee' | 'reduced' | 'expected'>>(
  totals: Totals,
  off: Cents,
): Totals {
  const expected = least(totals.expected, off);
  const reduced = most(ZERO, least(totals.reduced, minus(off, expected)));
  return {
    ...totals,
    fee: minus(totals.fee, add(expected, reduced)),
    expected: minus(totals.expected, expected),
    reduced: minus(totals.reduced, reduced),
  };
}
