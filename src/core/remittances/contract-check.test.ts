/**
 * What a first payer allowed against its contract. Worked by hand: a visit of 145.00 of which the contract allows 98.00, a filling of
 * 265.00 of which it allows 169.00 (common practice, no source).
 */
import fc from 'fast-check';
import type { CalendarDate } from '../calendar';
import { ZERO, add, cents, minus, sum } from '../money';
import { PROPERTIES } from '../../testing/runs';
import {
  type DecidedLine,
  type KnownFee,
  byCause,
  causeOf,
  checkedLine,
  expectedPayment,
  owing,
} from './contract-check';

const day = (text: string): CalendarDate => text as CalendarDate;

const line = (more: Partial<Record<keyof DecidedLine, number | string>> = {}): DecidedLine =>
  ({
    payerId: 1,
    code: '99213',
    units: 1,
    serviceDate: '2025-11-03',
    charge: 14_500,
    tax: 0,
    expected: 9800,
    allowed: 8624,
    paid: 5624,
    deductible: 0,
    coinsurance: 0,
    copay: 3000,
    otherShare: 0,
    sequestered: 0,
    ...more,
  }) as unknown as DecidedLine;

const fee = (amount: number, more: Partial<KnownFee> = {}): KnownFee => ({
  schedule: 'Cedar contract',
  own: true,
  elsewhere: false,
  amount: cents(amount),
  since: null,
  until: null,
  ...more,
});

describe('what should have been paid', () => {
  test('a copay stays: all that is short is the payer’s', () => {
    expect(expectedPayment(line())).toEqual({
      pays: 6800,
      steps: ['Charged 145.00', 'contract 98.00', 'copay 30.00', 'pays 68.00', 'paid 56.24'],
    });
  });

  test('a deductible stays, the coinsurance keeps its share: of 16.2 short percent of 169.00 the payer owes four fifths', () => {
    // Allowed 148.72: 50.00 deductible, 20 % of 98.72 is 19.74, paid 78.98. By the contract 20 % of 119.00 is 23.80.
    const said = expectedPayment(
      line({
        charge: 26_500,
        expected: 16_900,
        allowed: 14_872,
        paid: 7898,
        deductible: 5000,
        coinsurance: 1974,
        copay: 0,
      }),
    );
    expect(said.pays).toBe(9520);
    expect(said.steps).toContain('coinsurance 20 % of 119.00: 23.80');
  });

  test('where the deductible took all of it, it takes all of the contract too: the payer owes nothing', () => {
    const all = line({ paid: 0, copay: 0, deductible: 8624 });
    expect(expectedPayment(all).pays).toBe(0);
    expect(owing({ pays: expectedPayment(all).pays, paid: ZERO })).toBe(0);
  });

  test('the sequestration takes two percent of what is paid by the contract as well', () => {
    // Of 98.00 the patient bears 20 %, 19.60; 78.40 less 2 % (1.57) is 76.83.
    const said = expectedPayment(
      line({ copay: 0, allowed: 8000, coinsurance: 1600, sequestered: 128, paid: 6272 }),
    );
    expect(said.pays).toBe(7683);
  });

  test('what was allowed as the contract says comes to what was paid, however it was shared', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 100, max: 500_000 }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.integer({ min: 0, max: 100 }),
        (allowed, copayPart, deductiblePart, percent) => {
          const copay = cents(Math.floor((allowed * copayPart) / 3));
          const deductible = cents(Math.floor((allowed * deductiblePart) / 3));
          const left = minus(minus(cents(allowed), copay), deductible);
          const coinsurance = cents(Math.round((left * percent) / 100));
          const paid = minus(left, coinsurance);
          const said = line({
            charge: allowed + 1000,
            expected: allowed,
            allowed,
            copay,
            deductible,
            coinsurance,
            paid,
          });
          expect(Math.abs(expectedPayment(said).pays - paid)).toBeLessThanOrEqual(1);
          // More by the contract is never less from the payer.
          const more = expectedPayment({ ...said, expected: add(said.expected, cents(5000)) }).pays;
          expect(more).toBeGreaterThanOrEqual(paid - 1);
          expect(more).toBeLessThanOrEqual(paid + 5001);
        },
      ),
      PROPERTIES,
    );
  });
});

describe('the likeliest cause', () => {
  const fees = [
    fee(9270, { until: day('2025-09-30') }),
    fee(9800, { since: day('2025-10-01'), until: day('2026-03-31') }),
    fee(10_100, { since: day('2026-04-01') }),
    fee(7000, { elsewhere: true }),
    fee(8800, { own: false, schedule: 'Northlight contract' }),
  ];
  const cause = (allowed: number, more: Parameters<typeof line>[0] = {}): string =>
    causeOf(line({ allowed, ...more }), fees).words;

  test.each([
    [9270, {}, 'paid at the fee that ended on 30 Sep 2025'],
    [10_100, {}, 'paid at the fee that begins on 1 Apr 2026'],
    [7000, {}, 'paid at the fee of the other kind of place'],
    [8800, {}, 'paid by “Northlight contract”'],
    [9800, { units: 2, expected: 19_600 }, 'paid for 1 of 2 units'],
    [14_500, {}, 'allowed as charged'],
    [8624, {}, 'paid at 12 % less'],
    [10_780, {}, 'paid at 10 % more'],
    [8625, { tax: 1, expected: 9801 }, 'paid at 12 % less'],
    [8611, {}, 'paid at less'],
    [11_111, {}, 'paid at more'],
  ])('%s: %o, %s', (allowed, more, words) => expect(cause(allowed, more)).toBe(words));

  test('an old fee that is the one of the day as well is no cause', () => {
    expect(causeOf(line({ allowed: 9270, serviceDate: '2025-09-01' }), fees).words).not.toMatch(/ended/);
  });
});

describe('lines of one cause', () => {
  test('41 lines paid at last year’s fee of 5.30 less are one line of 217.30', () => {
    const lines = Array.from({ length: 41 }, (_, at) =>
      checkedLine(
        line({
          allowed: 9270,
          paid: 6270,
          serviceDate: at === 7 ? '2025-10-02' : '2025-12-01',
        }),
        [fee(9270, { until: day('2025-09-30') }), fee(9800, { since: day('2025-10-01') })],
      ),
    );
    const other = checkedLine(line(), []);
    const groups = byCause([other, ...lines]);
    expect(groups).toHaveLength(2);
    expect(groups[0]).toMatchObject({
      words: '99213 paid at the fee that ended on 30 Sep 2025',
      since: '2025-10-02',
      difference: 21_730,
      owed: 21_730,
    });
    expect(groups[0]!.lines).toHaveLength(41);
    expect(groups[1]).toMatchObject({ words: '99213 paid at 12 % less', difference: 1176, owed: 1176 });
  });

  test('each line is in one group, and the groups come to what the lines do', () => {
    const some = fc.record({
      payerId: fc.integer({ min: 1, max: 3 }),
      code: fc.constantFrom('99213', '80053'),
      allowed: fc.integer({ min: 1, max: 20_000 }),
    });
    fc.assert(
      fc.property(fc.array(some, { maxLength: 60 }), (made) => {
        const lines = made.map((one) => checkedLine(line(one), [fee(9800)]));
        const groups = byCause(lines);
        expect(groups.reduce((all, { lines: of }) => all + of.length, 0)).toBe(lines.length);
        expect(sum(groups.map(({ difference }) => difference))).toBe(
          sum(lines.map(({ expected, allowed }) => minus(expected, allowed))),
        );
        expect(new Set(groups.map(({ key }) => key)).size).toBe(groups.length);
      }),
      PROPERTIES,
    );
  });
});
