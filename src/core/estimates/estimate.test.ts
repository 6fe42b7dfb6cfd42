import fc from 'fast-check';
import { type BasisPoints, type Cents, ZERO, basisPoints, cents, sum } from '../money';
import { calendarDate } from '../calendar';
import { type EstimateCoverage, estimate } from './estimate';
import type { Rule } from './rules';

/** A plan in a few words. */
interface Terms {
  contracted: boolean;
  percentages: Readonly<Record<string, BasisPoints>>;
  deductible: Cents;
  deductibleWaived: readonly string[];
  copay: Cents;
  copayPer: 'visit' | 'service';
  maximum: Cents | null;
  coordination: EstimateCoverage['coordination'];
}
const terms = (more: Partial<Terms> = {}): Terms => ({
  contracted: true,
  percentages: { office: basisPoints(8000) },
  deductible: ZERO,
  deductibleWaived: [],
  copay: ZERO,
  copayPer: 'visit',
  maximum: null,
  coordination: 'standard',
  ...more,
});
const YEAR = { every: 'year' } as const;
const person = { holder: 'person', period: YEAR } as const;
const rulesOf = (t: Terms): Rule[] => [
  ...Object.entries(t.percentages).map(([category, share]): Rule => ({
    kind: 'share',
    id: `share ${category}`,
    scope: { category },
    share,
  })),
  { kind: 'deductible', id: 'deductible', amount: t.deductible, ...person },
  ...t.deductibleWaived.map((category): Rule => ({
    kind: 'deductible',
    id: `spared ${category}`,
    scope: { category },
    amount: ZERO,
    ...person,
  })),
  { kind: 'copay', id: 'copay', amount: t.copay, once: t.copayPer, order: 'between' },
  ...(t.maximum === null
    ? []
    : [{ kind: 'limit', id: 'maximum', measure: 'money', most: t.maximum, ...person } as const]),
];
const coverage = (
  more: Partial<Terms> = {},
  fee: number | null = null,
  used = { deductible: ZERO, paid: ZERO },
): EstimateCoverage => {
  const { contracted, coordination, ...rest } = terms(more);
  return {
    payer: 'Cedar',
    contracted,
    coordination,
    rules: rulesOf({ contracted, coordination, ...rest }),
    used: ({ kind }) => (kind === 'deductible' ? used.deductible : kind === 'limit' ? used.paid : 0),
    allowedFee: () => fee as Cents | null,
  };
};
const charge = (fee: number, id = 1, category = 'office') => ({
  id,
  code: '99213',
  category,
  units: 1,
  fee: cents(fee),
  day: calendarDate('2026-03-16'),
  visit: 'v1',
});

describe('estimate', () => {
  test('contract write-off, deductible, copay and coinsurance, in that order', () => {
    // Worked by hand: fee 145.00, contract 98.00; deductible left 20.00, copay 30.00, 80 % of the remaining 48.00 is 38.40.
    const [one] = estimate(
      [charge(14500)],
      [
        coverage({ deductible: cents(5000), copay: cents(3000) }, 9800, {
          deductible: cents(3000),
          paid: ZERO,
        }),
      ],
    );
    expect(one!.payers[0]).toMatchObject({
      allowed: 9800,
      writeOff: 4700,
      deductible: 2000,
      copay: 3000,
      coinsurance: 960,
      pays: 3840,
    });
    expect(one!.patient).toBe(5960);
    expect(one!.steps.at(-1)).toEqual({ words: 'Expected from the patient', amount: 5960 });
  });

  test('not contracted: the difference stays with the patient', () => {
    const [one] = estimate([charge(10000)], [coverage({ contracted: false }, 8000)]);
    expect(one).toMatchObject({ writeOff: 0, patient: 3600 });
  });

  test('a contracted fee above the office fee allows the office fee', () => {
    expect(estimate([charge(5000)], [coverage({}, 9800)])[0]!.payers[0]!.allowed).toBe(5000);
  });

  test('the copay is taken once a visit, the maximum runs down, a category that is not named is not covered', () => {
    const found = estimate(
      [charge(10000, 1), charge(10000, 2), charge(10000, 3, 'major')],
      [coverage({ copay: cents(1000), maximum: cents(9000) })],
    );
    expect(found.map((item) => item.payers[0]!.pays)).toEqual([7200, 1800, 0]);
    expect(found[1]!.payers[0]).toMatchObject({ copay: 0, overMaximum: 6200 });
    expect(found[2]!.payers[0]!.notCovered).toBe(10000);
  });

  test('next payers: standard fills up, non-duplication pays only its difference, maintenance the rest of its own share', () => {
    // Worked by hand; common practice, no source. First pays 80.00 of 100.00.
    const second = (coordination: Terms['coordination'], share: number) =>
      estimate(
        [charge(10000)],
        [coverage(), coverage({ coordination, percentages: { office: basisPoints(share) } })],
      )[0]!.payers[1]!.pays;
    expect(second('standard', 5000)).toBe(2000);
    expect(second('non-duplication', 8000)).toBe(0);
    expect(second('non-duplication', 9000)).toBe(1000);
    // (100.00 less 80.00) at 90 %.
    expect(second('maintenance', 9000)).toBe(1800);
  });

  test('maintenance of benefits: the share of what is left of the allowed amount, and the steps show it', () => {
    // Worked by hand; common practice, no source. The first pays 60.00 of 100.00; the second has 80 %.
    const [first] = [coverage({ percentages: { office: basisPoints(6000) } })];
    const second = (more: Partial<Terms>) =>
      estimate([charge(10000)], [first!, { ...coverage(more), payer: 'Tern' }])[0]!;
    const maintained = { coordination: 'maintenance' } as const;
    expect(second(maintained).payers[1]!.pays).toBe(3200);
    expect(second({ coordination: 'standard' }).payers[1]!.pays).toBe(4000);
    expect(second({ coordination: 'non-duplication' }).payers[1]!.pays).toBe(2000);
    expect(second({ ...maintained, deductible: cents(1000) }).payers[1]!.pays).toBe(2400);
    expect(second({ ...maintained, deductible: cents(1000), copay: cents(500) }).payers[1]!.pays).toBe(2000);
    // What the deductible does not need any more stays for the next charge: 40.00 of 50.00.
    expect(second({ ...maintained, deductible: cents(5000) }).payers[1]).toMatchObject({
      deductible: 4000,
      pays: 0,
    });
    expect(second({ ...maintained, maximum: cents(3000) }).payers[1]!.pays).toBe(3000);
    expect(
      second({ ...maintained, deductible: cents(1000) })
        .steps.filter(({ words }) => words.startsWith('Tern'))
        .map(({ words, amount }) => [words, amount]),
    ).toEqual([
      ['Tern: allowed', 10000],
      ['Tern: maintenance of benefits, what was paid before comes off the allowed amount', 6000],
      ['Tern: goes to the yearly deductible', 1000],
      ['Tern: coinsurance, plan pays 80 % of 30.00', 600],
      ['Tern: expected payment', 2400],
    ]);
  });

  test('charges of several years are each of their own: a deductible and a maximum begin anew', () => {
    // Worked by hand: 20.00 of deductible and 100.00 of maximum a year, 80 %.
    const yearly = coverage({ deductible: cents(2000), maximum: cents(10_000) });
    const charges = [
      { ...charge(10000, 1), day: calendarDate('2025-12-30') },
      { ...charge(10000, 2), day: calendarDate('2025-12-31') },
      { ...charge(10000, 3), day: calendarDate('2026-01-01') },
    ];
    const found = estimate(charges, [yearly]);
    expect(found.map(({ payers: [part] }) => [part!.deductible, part!.pays])).toEqual([
      [2000, 6400],
      [0, 3600],
      [2000, 6400],
    ]);
    // On its own day nobody may be covered.
    expect(estimate(charges, ({ day }) => (day < '2026' ? [] : [yearly]))[0]!.patient).toBe(10000);
  });

  test('the steps say how each amount came about, in order, and nothing that came to nothing', () => {
    const [one] = estimate(
      [charge(14500)],
      [
        coverage({ deductible: cents(2000), copay: cents(3000), maximum: cents(3000) }, 9800),
        { ...coverage({ coordination: 'non-duplication' }), payer: 'Tern' },
      ],
    );
    // 98.00 less 20.00 less 30.00 is 48.00, of which 80 % is 38.40; the second alone pays 80 % of 145.00, 116.00 less 30.00 is 86.00,
    // and no more than what is left of the charge: 145.00 less 47.00 less 30.00.
    expect(one!.steps).toEqual([
      { words: 'Office fee', amount: 14500 },
      { words: 'Cedar: contract write-off', amount: 4700 },
      { words: 'Cedar: allowed', amount: 9800 },
      { words: 'Cedar: goes to the yearly deductible', amount: 2000 },
      { words: 'Cedar: copay', amount: 3000 },
      { words: 'Cedar: coinsurance, plan pays 80 % of 48.00', amount: 960 },
      { words: 'Cedar: over the yearly maximum', amount: 840 },
      { words: 'Cedar: expected payment', amount: 3000 },
      { words: 'Tern: allowed', amount: 14500 },
      { words: 'Tern: coinsurance, plan pays 80 % of 145.00', amount: 2900 },
      { words: 'Tern: expected payment', amount: 11600 },
      { words: 'Tern: non-duplication, 116.00 less 30.00 paid before', amount: 8600 },
      { words: 'Tern: no more than what is left of the charge', amount: 6800 },
      { words: 'Expected from the patient', amount: 0 },
    ]);
    const [plain] = estimate([charge(5000)], [coverage({ percentages: { office: basisPoints(10_000) } })]);
    expect(plain!.steps.map(({ words }) => words)).toEqual([
      'Office fee',
      'Cedar: allowed',
      'Cedar: expected payment',
      'Expected from the patient',
    ]);
    const [not] = estimate([charge(5000, 1, 'major')], [coverage({ contracted: false }, 4000)]);
    expect(not!.steps).toEqual([
      { words: 'Office fee', amount: 5000 },
      { words: 'Cedar: over the allowance, stays with the patient', amount: 1000 },
      { words: 'Cedar: allowed', amount: 4000 },
      { words: 'Cedar: major is not covered', amount: 4000 },
      { words: 'Expected from the patient', amount: 5000 },
    ]);
  });

  test('a waived category takes no deductible, a copay per service is taken each time', () => {
    const waived = coverage({ deductible: cents(5000), deductibleWaived: ['office'] });
    expect(estimate([charge(10000)], [waived])[0]!.payers[0]).toMatchObject({ deductible: 0, pays: 8000 });
    const each = coverage({ copay: cents(1000), copayPer: 'service' });
    expect(
      estimate([charge(10000, 1), charge(10000, 2)], [each]).map((item) => item.payers[0]!.copay),
    ).toEqual([1000, 1000]);
  });

  test('what coordination leaves of a maximum is there for the next charge; the first payer is never coordinated', () => {
    const second = {
      ...coverage({ coordination: 'non-duplication', maximum: cents(10_000) }),
      payer: 'Tern',
    };
    const first = coverage({ percentages: { office: basisPoints(5000) } });
    // Alone the second would pay 80.00; less the first’s 50.00 it pays 30.00, so that 70.00 of its maximum stay for the next:
    // 70.00 less 50.00; then 50.00 less 50.00.
    const found = estimate(
      [charge(10000, 1), charge(10000, 2), charge(10000, 3), charge(10000, 4)],
      [first, second],
    );
    expect(found.map((item) => item.payers[1]!.pays)).toEqual([3000, 2000, 0, 0]);
    expect(found.map((item) => item.payers[0]!.pays)).toEqual([5000, 5000, 5000, 5000]);
    const alone = coverage({ coordination: 'maintenance', copay: cents(9000) });
    expect(estimate([charge(10000)], [alone])[0]!.payers[0]!.pays).toBe(800);
    // 100.00 less 50.00 is less than the copay.
    expect(estimate([charge(10000)], [first, { ...alone, payer: 'Tern' }])[0]!.payers[1]!.pays).toBe(0);
  });

  test('only the first payer’s write-off comes off the charge', () => {
    const [one] = estimate(
      [charge(10000)],
      [
        coverage({ percentages: { office: basisPoints(5000) } }, 9000),
        { ...coverage({}, 6000), payer: 'Tern' },
      ],
    );
    expect(one).toMatchObject({ writeOff: 1000 });
    expect(one!.payers.map(({ writeOff }) => writeOff)).toEqual([1000, 4000]);
  });

  test('payers, write-off and patient are always the fee, and nobody pays less than nothing', () => {
    const anyTerms = fc.record({
      contracted: fc.boolean(),
      share: fc.integer({ min: 0, max: 10000 }),
      deductible: fc.integer({ min: 0, max: 60000 }),
      copay: fc.integer({ min: 0, max: 5000 }),
      maximum: fc.option(fc.integer({ min: 0, max: 90000 })),
      coordination: fc.constantFrom('standard', 'non-duplication', 'maintenance'),
      fee: fc.option(fc.integer({ min: 0, max: 60000 })),
    });
    fc.assert(
      fc.property(
        fc.array(anyTerms, { maxLength: 3 }),
        fc.array(fc.integer({ min: 0, max: 80000 }), { minLength: 1, maxLength: 8 }),
        (all, fees) => {
          const coverages = all.map((t, index) =>
            coverage(
              {
                contracted: t.contracted && index === 0,
                percentages: { office: basisPoints(t.share) },
                deductible: cents(t.deductible),
                copay: cents(t.copay),
                maximum: t.maximum as Cents | null,
                coordination: t.coordination as 'standard',
              },
              t.fee,
            ),
          );
          for (const item of estimate(
            fees.map((fee, index) => charge(fee, index)),
            coverages,
          )) {
            expect(sum([item.writeOff, item.patient, ...item.payers.map((part) => part.pays)])).toBe(
              item.fee,
            );
            for (const part of item.payers) expect(part.pays).toBeGreaterThanOrEqual(0);
            expect(item.patient).toBeGreaterThanOrEqual(0);
          }
        },
      ),
    );
  });
});
