/** Charges that stand at the contracted fee: an office fee of 145.00, of which the contract takes 47.00 off. */
import fc from 'fast-check';
import { type Cents, ZERO, cents, minus } from '../money';
import { runs } from '../../testing/runs';
import { atContract } from './expected';
import { type ChargeTotals, adds, chargedIn } from './strip';

const totals = (more: Partial<ChargeTotals>): ChargeTotals => ({
  fee: cents(14500),
  tax: ZERO,
  added: ZERO,
  opened: ZERO,
  payerPaid: ZERO,
  patientPaid: ZERO,
  agencyPaid: ZERO,
  reduced: ZERO,
  expected: ZERO,
  withPayer: ZERO,
  withPatient: ZERO,
  onPlan: ZERO,
  atAgency: ZERO,
  ...more,
});
const shown = (more: Partial<ChargeTotals>, off = 4700): Cents[] => {
  const { fee, expected, reduced } = atContract(totals(more), cents(off));
  return [fee, expected, reduced];
};

test('while it is expected, and once it has come off, it is in no column', () => {
  expect(shown({ expected: cents(4700), withPayer: cents(9800) })).toEqual([9800, 0, 0]);
  expect(shown({ reduced: cents(4700), payerPaid: cents(9800) })).toEqual([9800, 0, 0]);
});

test('what comes off beyond the contract is seen, and what does not come off is in the fee', () => {
  expect(shown({ reduced: cents(6500), payerPaid: cents(8000) })).toEqual([9800, 0, 1800]);
  // Refused, and the patient’s after all.
  expect(shown({ withPatient: cents(14500) })).toEqual([14500, 0, 0]);
  expect(shown({ reduced: cents(2000), withPatient: cents(12500) })).toEqual([12500, 0, 0]);
});

test('of what stands at the office fee nothing is taken away', () => {
  expect(shown({ expected: cents(4700), withPayer: cents(9800) }, 0)).toEqual([14500, 4700, 0]);
});

test('what adds up goes on adding up, and never more than the contract takes is left out', () => {
  const amount = fc.integer({ min: 0, max: 9999 }).map(cents);
  fc.assert(
    fc.property(
      amount,
      amount,
      amount,
      amount,
      fc.integer({ min: -500, max: 9999 }),
      (off, expected, paid, open, less) => {
        const reduced = cents(less);
        const fee = cents(expected + paid + open + less);
        const before = totals({ fee, expected, reduced, payerPaid: paid, withPayer: open });
        expect(adds(before)).toBe(true);
        const after = atContract(before, off);
        expect(adds(after)).toBe(true);
        const left = minus(chargedIn(before), chargedIn(after));
        expect(left).toBeGreaterThanOrEqual(0);
        expect(left).toBeLessThanOrEqual(off);
      },
    ),
    { numRuns: runs(200) },
  );
});
