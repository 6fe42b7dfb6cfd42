/** Rules of what a policy covers: which of them is in force, whose word counts, and the terms that they make. */
import fc from 'fast-check';
import { type CalendarDate, addDays, calendarDate } from '../calendar';
import { basisPoints, cents } from '../money';
import { runs } from '../../testing/runs';
import { type BenefitRule, type Decided, RULE_OWNERS, rulesOn, termsOf, usedOf } from './benefits';
import { EVER, type Rule } from './rules';

const DAY = calendarDate('2026-03-16');
const rule = (more: Partial<BenefitRule> & Pick<BenefitRule, 'kind'>): BenefitRule => ({
  owner: 'plan',
  category: null,
  codes: null,
  validFrom: null,
  share: null,
  amount: null,
  quantity: null,
  measure: null,
  holder: 'person',
  every: 'year',
  months: null,
  anchor: null,
  renews: true,
  byTooth: false,
  countedFor: 'visit',
  copayOrder: 'between',
  thenPays: 'next',
  warning: 'none',
  ageFrom: null,
  ageThrough: null,
  paidAs: null,
  modifier: '',
  shares: null,
  ...more,
});

/** What is said on a day, by kind, where it is an amount or a number. */
const said = (rules: readonly BenefitRule[], day: CalendarDate) =>
  Object.fromEntries(
    termsOf(rules, day).map((one) => [
      one.kind,
      'most' in one ? one.most : 'amount' in one ? one.amount : null,
    ]),
  );

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
  const year = { every: 'year', anchor: null, renews: true };
  const all = { category: null, codes: null };
  const of = (category: string) => ({ category, codes: null });
  expect(termsOf(plan, DAY).map(({ id: _, ...one }) => one)).toEqual([
    { kind: 'copay', scope: all, amount: 3000, once: 'service', order: 'between' },
    { kind: 'deductible', scope: of('preventive'), amount: 0, holder: 'person', period: year },
    { kind: 'deductible', scope: all, amount: 5000, holder: 'person', period: year },
    {
      kind: 'limit',
      scope: all,
      measure: 'money',
      most: 100_000,
      holder: 'person',
      period: year,
      byTooth: false,
      then: 'next',
      warning: 'none',
    },
    { kind: 'share', scope: of('office'), share: 8000 },
    { kind: 'share', scope: of('preventive'), share: 10_000 },
  ]);
  expect(termsOf([], DAY)).toEqual([]);
});

test('from a day on another word counts, also that there is no maximum any more; the day before the old one does', () => {
  const rules = [
    rule({ kind: 'maximum', amount: cents(100_000) }),
    rule({ kind: 'maximum', amount: null, validFrom: DAY }),
  ];
  for (const all of [rules, [...rules].reverse()]) {
    expect(said(all, addDays(DAY, -1))).toEqual({ limit: 100_000 });
    expect(said(all, DAY)).toEqual({});
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
  expect(said(rules, DAY)).toEqual({ deductible: 1, copay: 5 });
  expect(said(rules.slice(1), DAY)).toMatchObject({ deductible: 2 });
  expect(said(rules, addDays(DAY, 1))).toMatchObject({ copay: 4 });
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

describe('what is used of a rule', () => {
  const decided = (more: Partial<Decided> = {}): Decided => ({
    own: true,
    code: '97110',
    category: 'therapy',
    day: DAY,
    tooth: '',
    units: 2,
    paid: cents(4000),
    deductible: cents(1000),
    outOfPocket: cents(1500),
    ...more,
  });
  type Counting = Extract<Rule, { kind: 'limit' }>;
  const limit = (more: Partial<Counting>): Counting => ({
    kind: 'limit',
    id: 'limit',
    measure: 'visits',
    most: 20,
    holder: 'person',
    period: { every: 'year' },
    ...more,
  });
  const all = [
    decided(),
    decided({ code: '97140', units: 1 }),
    decided({ day: calendarDate('2025-12-31') }),
    decided({ own: false, paid: cents(700) }),
    decided({ category: 'office', code: '99213', units: 1 }),
  ];
  const used = (rule: Extract<Rule, { period: unknown }>, from = calendarDate('2026-01-01'), tooth = '') =>
    usedOf(rule, from, tooth, all, null);

  test('visits, units, services and money, of the person or of all, by category and code and in their period', () => {
    // Worked by hand: this year two services of therapy and one of the office on one day; one the last day of the year before.
    expect(used(limit({}))).toBe(1);
    expect(used(limit({ measure: 'units' }))).toBe(4);
    expect(used(limit({ measure: 'units', scope: { category: 'therapy' } }))).toBe(3);
    expect(used(limit({ measure: 'services', scope: { codes: ['97110'] } }))).toBe(1);
    expect(used(limit({ measure: 'money' }))).toBe(12_000);
    expect(used(limit({ measure: 'money', holder: 'household' }))).toBe(12_700);
    // Two people on one day are two visits.
    expect(used(limit({ holder: 'household' }))).toBe(2);
    expect(used(limit({ measure: 'money', period: { every: 'life' } }), EVER)).toBe(16_000);
    expect(used(limit({ measure: 'money' }), calendarDate('2025-01-01'))).toBe(4000);
    expect(used(limit({ measure: 'days', period: { every: 'day' } }), DAY)).toBe(1);
    const count = { holder: 'person', period: { every: 'year' }, amount: cents(1) } as const;
    expect(used({ kind: 'deductible', id: 'd', ...count })).toBe(3000);
    expect(used({ kind: 'out-of-pocket', id: 'o', ...count })).toBe(4500);
  });

  test('by tooth it is that of the tooth', () => {
    const crowns = [decided({ tooth: '3' }), decided({ tooth: '4' }), decided({ tooth: '3' })];
    const rule = limit({ measure: 'services', byTooth: true, period: { every: 'life' } });
    expect(usedOf(rule, EVER, '3', crowns, null)).toBe(2);
    expect(usedOf({ ...rule, byTooth: false }, EVER, '', crowns, null)).toBe(3);
  });
});
