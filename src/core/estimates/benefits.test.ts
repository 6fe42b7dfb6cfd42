/** Rules of what a policy covers: which of them is in force, whose word counts, and the terms that they make. */
import fc from 'fast-check';
import { addDays, calendarDate } from '../calendar';
import { basisPoints, cents } from '../money';
import { runs } from '../../testing/runs';
import { type BenefitRule, RULE_OWNERS, rulesOn, termsOf } from './benefits';

const DAY = calendarDate('2026-03-16');
const rule = (more: Partial<BenefitRule> & Pick<BenefitRule, 'kind'>): BenefitRule => ({
  owner: 'plan',
  category: null,
  validFrom: null,
  share: null,
  amount: null,
  countedFor: 'visit',
  ...more,
});

test('rules make the terms of a day; a category without a share is not covered', () => {
  // A plan as a biller reads it: 80 % of office, all of preventive, 50.00 a year first but not for preventive, 30.00 a visit.
  const plan = [
    rule({ kind: 'share', category: 'office', share: basisPoints(8000) }),
    rule({ kind: 'share', category: 'preventive', share: basisPoints(10_000) }),
    rule({ kind: 'deductible', amount: cents(5000) }),
    rule({ kind: 'deductible', category: 'preventive', amount: cents(0) }),
    rule({ kind: 'copay', amount: cents(3000), countedFor: 'service' }),
    rule({ kind: 'maximum', amount: cents(100_000) }),
  ];
  expect(termsOf(plan, DAY)).toEqual({
    percentages: { office: 8000, preventive: 10_000 },
    deductible: 5000,
    deductibleWaived: ['preventive'],
    copay: 3000,
    copayPer: 'service',
    maximum: 100_000,
  });
  expect(termsOf([], DAY)).toEqual({
    percentages: {},
    deductible: 0,
    deductibleWaived: [],
    copay: 0,
    copayPer: 'visit',
    maximum: null,
  });
});

test('from a day on another word counts, also that there is no maximum any more; the day before the old one does', () => {
  const rules = [
    rule({ kind: 'maximum', amount: cents(100_000) }),
    rule({ kind: 'maximum', amount: null, validFrom: DAY }),
  ];
  for (const all of [rules, [...rules].reverse()]) {
    expect(termsOf(all, addDays(DAY, -1)).maximum).toBe(100_000);
    expect(termsOf(all, DAY).maximum).toBeNull();
  }
});

test('a policy says otherwise than its plan, and a coverage than both, however old their word is', () => {
  const rules = [
    rule({ kind: 'deductible', amount: cents(1), owner: 'coverage' }),
    rule({ kind: 'deductible', amount: cents(2), owner: 'policy', validFrom: addDays(DAY, -5) }),
    rule({ kind: 'deductible', amount: cents(3), owner: 'plan', validFrom: addDays(DAY, -1) }),
    rule({ kind: 'copay', amount: cents(4), owner: 'policy', validFrom: addDays(DAY, 1) }),
    rule({ kind: 'copay', amount: cents(5) }),
  ];
  expect(termsOf(rules, DAY)).toMatchObject({ deductible: 1, copay: 5 });
  expect(termsOf(rules.slice(1), DAY)).toMatchObject({ deductible: 2 });
  expect(termsOf(rules, addDays(DAY, 1))).toMatchObject({ copay: 4 });
});

test('property: one rule of each kind and category is in force, no other has more to say, and their order is nothing', () => {
  const any = fc
    .record({
      kind: fc.constantFrom('deductible' as const, 'copay' as const, 'maximum' as const),
      owner: fc.constantFrom(...RULE_OWNERS),
      from: fc.option(fc.integer({ min: -3, max: 3 })),
      amount: fc.nat(99).map(cents),
    })
    .map(({ from, ...more }) => rule({ ...more, validFrom: from === null ? null : addDays(DAY, from) }));
  const distinct = fc.uniqueArray(any, {
    maxLength: 9,
    selector: ({ kind, owner, validFrom }) => `${kind} ${owner} ${validFrom}`,
  });
  fc.assert(
    fc.property(distinct, fc.integer({ min: -4, max: 4 }), (rules, offset) => {
      const day = addDays(DAY, offset);
      const now = rulesOn(rules, day);
      const begun = rules.filter(({ validFrom }) => validFrom === null || validFrom <= day);
      expect(new Set(now.map(({ kind }) => kind)).size).toBe(now.length);
      expect(new Set(begun.map(({ kind }) => kind)).size).toBe(now.length);
      for (const one of now)
        for (const other of begun.filter(({ kind }) => kind === one.kind)) {
          const [mine, theirs] = [one, other].map(({ owner }) => RULE_OWNERS.indexOf(owner));
          expect(mine).toBeGreaterThanOrEqual(theirs!);
          if (mine === theirs) expect((one.validFrom ?? '') >= (other.validFrom ?? '')).toBe(true);
        }
      expect(termsOf([...rules].reverse(), day)).toEqual(termsOf(rules, day));
    }),
    { numRuns: runs(300) },
  );
});
