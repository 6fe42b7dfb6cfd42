/** Raising, pasting and comparing fees. Amounts by hand; how practices round is common practice, no source. */
import fc from 'fast-check';
import { cents } from '../money';
import { runs } from '../../testing/runs';
import { type FeesBeside, compared, differenceOf } from './compare';
import { pastedFees } from './paste';
import { ROUNDINGS, type Raise, type Rounding, raised } from './raise';

const by = (share: number, rounding: Rounding = '1', way: Raise['way'] = 'nearest'): Raise => ({
  share,
  rounding,
  way,
});

describe('raising', () => {
  test.each([
    // 145.00 and 3.5 % are 150.075.
    [14_500, by(350), 15_008],
    [14_500, by(350, '5'), 15_010],
    [14_500, by(350, '25'), 15_000],
    [14_500, by(350, '100'), 15_000],
    [14_500, by(350, '100', 'up'), 15_100],
    [14_500, by(350, '500', 'up'), 15_500],
    [14_500, by(0), 14_500],
    // A half goes upward: 0.50 and 1 % are 0.505.
    [50, by(100), 51],
    [14_500, by(-1000), 13_050],
    [14_500, by(-10_000), 0],
    [0, by(350, '100', 'up'), 0],
    [1, by(350, '500'), 0],
    [9_800, by(250, '5', 'up'), 10_045],
  ])('%i cents by %j are %i', (fee, raise, now) => {
    expect(raised(cents(fee), raise)).toBe(now);
  });

  test('property: it is a whole number of steps, nearest within half a step and upward within one, and never falls as the share grows', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 10_000_000 }),
        fc.integer({ min: -10_000, max: 20_000 }),
        fc.constantFrom(...(Object.keys(ROUNDINGS) as Rounding[])),
        fc.constantFrom('nearest' as const, 'up' as const),
        (fee, share, rounding, way) => {
          const now = raised(cents(fee), by(share, rounding, way));
          const unit = Number(rounding);
          const off = BigInt(now) * 10_000n - BigInt(fee) * BigInt(10_000 + share);
          expect(now % unit).toBe(0);
          const twice = off * 2n;
          const step = BigInt(unit) * 10_000n;
          if (way === 'up') expect(off >= 0n && off < step).toBe(true);
          else expect(twice > -step && twice <= step).toBe(true);
          expect(raised(cents(fee), by(share + 1, rounding, way))).toBeGreaterThanOrEqual(now);
        },
      ),
      { numRuns: runs(300) },
    );
  });
});

describe('pasting', () => {
  const known = new Set(['99213', '99214', 'D2740']);
  test('code and fee, with a head line, words between, a currency and separators, and what it is in a facility', () => {
    expect(
      pastedFees(
        [
          ['Code', 'Description', 'Fee'],
          ['99213', 'Office visit', '$150.00'],
          ['d2740', '1,340.00'],
          ['', '', ''],
          ['99214', '205.00', '160.00'],
        ],
        known,
      ),
    ).toEqual({
      taken: [
        { code: '99213', amount: '150.00', facility: '' },
        { code: 'D2740', amount: '1,340.00', facility: '' },
        { code: '99214', amount: '205.00', facility: '160.00' },
      ],
      wrong: [],
    });
  });

  test('what is wrong is said with its line, and the others are taken', () => {
    const { taken, wrong } = pastedFees(
      [
        ['99213', '150.00'],
        ['99999', '10.00'],
        ['99214', 'dear'],
        ['D2740', '-1.00'],
        ['D2740', '99999999'],
        ['D2740', ''],
        ['', '5.00'],
        ['99213', '151.00'],
        ['99213', '150.00'],
      ],
      known,
    );
    expect(taken).toEqual([{ code: '99213', amount: '150.00', facility: '' }]);
    expect(wrong.map(({ line }) => line)).toEqual([2, 3, 4, 5, 6, 7, 8]);
    expect(wrong[6]!.words).toBe('99213 stands here twice, with 150.00 and 151.00');
  });
});

describe('comparing', () => {
  const row = (code: string, fees: (number | null)[], units = 0): FeesBeside => ({
    code,
    description: code,
    category: 'office',
    fees: fees.map((fee) => (fee === null ? null : cents(fee))),
    units,
  });

  test('by amount and percent of the first; without a fee of one there is no difference', () => {
    expect(differenceOf(cents(14_500), cents(9_800))).toEqual({ amount: -4_700, share: -3_241 });
    expect(differenceOf(cents(0), cents(100))).toEqual({ amount: 100, share: null });
    expect(differenceOf(null, cents(100))).toBeNull();
    const all = [
      row('A', [100, 100], 5),
      row('B', [200, 150], 3),
      row('C', [300, null], 2),
      row('D', [50, 60]),
    ];
    const only = (differing: boolean, billed: boolean) =>
      compared(all, { differing, billed }).rows.map(({ code }) => code);
    expect(only(false, false)).toEqual(['A', 'B', 'C', 'D']);
    expect(only(true, false)).toEqual(['B', 'C', 'D']);
    expect(only(true, true)).toEqual(['B', 'C']);
    expect(compared(all, { differing: true, billed: true }).totals).toEqual([{ amount: -150, without: 2 }]);
  });

  test('property: what is lost against the first is the sum of its lines, whatever of them is shown', () => {
    const fee = fc.option(fc.integer({ min: 0, max: 500_000 }));
    const lines = fc.array(
      fc.record({ fees: fc.tuple(fee, fee, fee), units: fc.integer({ min: 0, max: 900 }) }),
      { minLength: 1, maxLength: 12 },
    );
    fc.assert(
      fc.property(lines, fc.boolean(), fc.boolean(), (made, differing, billed) => {
        const all = made.map(({ fees, units }, at) => row(`C${at}`, fees, units));
        const { totals } = compared(all, { differing, billed });
        for (const at of [0, 1]) {
          let lost = 0;
          let without = 0;
          for (const { fees, units } of made) {
            const [first, ...others] = fees;
            const other = others[at]!;
            if (first === null || other === null) without += units;
            else lost += (other - first) * units;
          }
          expect(totals[at]).toEqual({ amount: lost, without });
        }
      }),
      { numRuns: runs(200) },
    );
  });
});
