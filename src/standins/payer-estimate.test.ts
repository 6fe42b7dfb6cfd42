/** What the simulated payers pay, and what the program expects of them: two ways to one amount. */
import fc from 'fast-check';
import { calendarDate } from '../core/calendar';
import { estimate } from '../core/estimates/estimate';
import type { Rule } from '../core/estimates/rules';
import { ZERO, basisPoints, cents } from '../core/money';
import { runs } from '../testing/runs';
import { type GroupTerms, payLines } from './payer-estimate';

const DAY = calendarDate('2026-03-16');
const year = { holder: 'person', period: { every: 'year' } } as const;
const rulesOf = (terms: GroupTerms): Rule[] => [
  ...Object.entries(terms.percentages).map(([category, share]): Rule => ({
    kind: 'share',
    id: `share ${category}`,
    scope: { category },
    share,
  })),
  { kind: 'deductible', id: 'deductible', amount: terms.deductible, ...year },
  ...terms.deductibleWaived.map((category): Rule => ({
    kind: 'deductible',
    id: category,
    scope: { category },
    amount: ZERO,
    ...year,
  })),
  { kind: 'copay', id: 'copay', amount: terms.copay, once: terms.copayPer, order: 'between' },
  ...(terms.maximum === null
    ? []
    : [{ kind: 'limit', id: 'maximum', measure: 'money', most: terms.maximum, ...year } as const]),
];

test('property: a simulated payer pays what the program expects, line by line', () => {
  const amount = fc.nat(40_000).map(cents);
  const terms = fc.record({
    contracted: fc.boolean(),
    percentages: fc.record({ office: fc.nat(10_000).map(basisPoints), lab: fc.nat(10_000).map(basisPoints) }),
    deductible: amount,
    deductibleWaived: fc.subarray(['lab']),
    copay: fc.nat(6000).map(cents),
    copayPer: fc.constantFrom('visit' as const, 'service' as const),
    maximum: fc.option(amount),
    coordination: fc.constant('standard' as const),
  });
  const lines = fc.array(
    fc.record({
      category: fc.constantFrom('office', 'lab', 'major'),
      units: fc.integer({ min: 1, max: 4 }),
      charge: amount,
      unitFee: fc.option(amount),
      date: fc.constantFrom('2026-03-16', '2026-03-17'),
    }),
    { minLength: 1, maxLength: 6 },
  );
  fc.assert(
    fc.property(terms, lines, amount, amount, (group, all, deductible, paid) => {
      const numbered = all.map((line, at) => ({ ...line, number: at + 1 }));
      const decided = payLines(numbered, group, { deductible, paid });
      const expected = estimate(
        numbered.map(({ number, category, units, charge, date }) => ({
          id: number,
          code: String(number),
          category,
          units,
          fee: charge,
          day: DAY,
          visit: date,
        })),
        [
          {
            payer: 'Cedar',
            contracted: group.contracted,
            coordination: 'standard',
            rules: rulesOf(group),
            used: ({ kind }) => (kind === 'deductible' ? deductible : kind === 'limit' ? paid : 0),
            allowedFee: (code) => numbered[Number(code) - 1]!.unitFee,
          },
        ],
      );
      expect(decided.map(({ number: _, ...part }) => part)).toEqual(
        expected.map(({ payers: [part] }) => {
          const { payer: __, uses: ___, reached: ____, ...amounts } = part!;
          return amounts;
        }),
      );
    }),
    { numRuns: runs(400) },
  );
});
