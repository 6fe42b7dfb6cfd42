/**
 * Worked examples of the estimate, each rule alone, rules that meet, and each limit at its edge, as a biller would write them down.
 * Worked by hand; the rules are common practice, no source, unless one is named.
 */
import fc from 'fast-check';
import { calendarDate } from '../calendar';
import { type Cents, basisPoints, cents, sum } from '../money';
import { runs } from '../../testing/runs';
import { type EstimateCharge, type EstimateCoverage, estimate } from './estimate';
import type { Rule, RuleOf } from './rules';

const c = (dollars: number): Cents => cents(Math.round(dollars * 100));
const YEAR = { every: 'year' } as const;
let serial = 0;
const id = (): string => `rule ${(serial += 1)}`;
const pays = (percent: number, scope: Rule['scope'] = { category: 'office' }): Rule => ({
  kind: 'share',
  id: id(),
  scope,
  share: basisPoints(percent * 100),
});
const deductible = (dollars: number, more: Partial<RuleOf<'deductible'>> = {}): Rule => ({
  kind: 'deductible',
  id: id(),
  amount: c(dollars),
  holder: 'person',
  period: YEAR,
  ...more,
});
const copay = (
  dollars: number,
  order: RuleOf<'copay'>['order'] = 'between',
  more: Partial<RuleOf<'copay'>> = {},
): Rule => ({
  kind: 'copay',
  id: id(),
  amount: c(dollars),
  once: 'visit',
  order,
  ...more,
});
const outOfPocket = (dollars: number, more: Partial<RuleOf<'out-of-pocket'>> = {}): Rule => ({
  kind: 'out-of-pocket',
  id: id(),
  amount: c(dollars),
  holder: 'person',
  period: YEAR,
  ...more,
});
const limit = (
  measure: RuleOf<'limit'>['measure'],
  most: number,
  more: Partial<RuleOf<'limit'>> = {},
): Rule => ({
  kind: 'limit',
  id: id(),
  measure,
  most: measure === 'money' ? c(most) : most,
  holder: 'person',
  period: YEAR,
  ...more,
});

/** A plan of these rules; `used` by kind, in cents or how many. */
const plan = (
  rules: Rule[],
  more: Partial<EstimateCoverage> & { usedBy?: Record<string, number> } = {},
): EstimateCoverage => {
  const { usedBy = {}, ...rest } = more;
  return {
    payer: 'Cedar',
    contracted: true,
    coordination: 'standard',
    rules,
    used: ({ kind, ...rule }) =>
      usedBy['holder' in rule ? `${kind} ${rule.holder}` : kind] ?? usedBy[kind] ?? 0,
    allowedFee: () => null,
    ...rest,
  };
};
let next = 0;
const service = (dollars: number, more: Partial<EstimateCharge> = {}): EstimateCharge => ({
  id: (next += 1),
  code: '99213',
  category: 'office',
  units: 1,
  fee: c(dollars),
  day: calendarDate('2026-03-16'),
  visit: more.day ?? '2026-03-16',
  ...more,
});
/** What each payer pays of each charge, and the patient, in dollars. */
const shared = (charges: EstimateCharge[], coverages: EstimateCoverage[]): number[][] =>
  estimate(charges, coverages).map(({ payers, patient }) =>
    [...payers.map((part) => part.pays), patient].map((amount) => amount / 100),
  );
const therapy = (dollars: number, units: number, more: Partial<EstimateCharge> = {}): EstimateCharge =>
  service(dollars, { code: '97110', category: 'therapy', units, ...more });
const onDay = (day: string, dollars = 100): EstimateCharge => service(dollars, { day: calendarDate(day) });

describe('each rule alone', () => {
  test.each<[string, Rule[], EstimateCharge[], number[][]]>([
    ['80 % of 100.00', [pays(80)], [service(100)], [[80, 20]]],
    [
      'a code of its own: 100 % instead of 80 %',
      [pays(80), pays(100, { codes: ['99213'] })],
      [service(100)],
      [[100, 0]],
    ],
    [
      '30.00 first',
      [pays(100), deductible(30)],
      [service(100), service(100)],
      [
        [70, 30],
        [100, 0],
      ],
    ],
    [
      'a category with a deductible of its own',
      [pays(100), deductible(30), deductible(50, { scope: { category: 'office' } })],
      [service(100)],
      [[50, 50]],
    ],
    [
      'a category that is spared it',
      [pays(100), deductible(30), deductible(0, { scope: { category: 'office' } })],
      [service(100)],
      [[100, 0]],
    ],
    [
      '20.00 a visit',
      [pays(100), copay(20)],
      [service(100), service(100)],
      [
        [80, 20],
        [100, 0],
      ],
    ],
    [
      '20.00 a visit, of which a small service takes its part',
      [pays(100), copay(20)],
      [service(15), service(100)],
      [
        [0, 15],
        [95, 5],
      ],
    ],
    [
      '20.00 a service',
      [pays(100), copay(20, 'between', { once: 'service' })],
      [service(100), service(100)],
      [
        [80, 20],
        [80, 20],
      ],
    ],
    [
      '20.00 a day, of two visits',
      [pays(100), copay(20, 'between', { once: 'day' })],
      [service(100), service(100, { visit: 'evening' })],
      [
        [80, 20],
        [100, 0],
      ],
    ],
    [
      'a copay in place of deductible and share',
      [pays(80), deductible(500), copay(25, 'instead')],
      [service(100), service(50)],
      [
        [75, 25],
        [50, 0],
      ],
    ],
    // 100.00 less 25.00 is 75.00, of which 80 %.
    ['a copay before the share', [pays(80), copay(25, 'before')], [service(100)], [[60, 40]]],
    // 80 % is 80.00, less 25.00.
    ['a copay after the share', [pays(80), copay(25, 'after')], [service(100)], [[55, 45]]],
    [
      'an out-of-pocket limit',
      [pays(50), outOfPocket(60)],
      [service(100), service(100)],
      [
        [50, 50],
        [90, 10],
      ],
    ],
    [
      'a yearly maximum',
      [pays(100), limit('money', 150)],
      [service(100), service(100)],
      [
        [100, 0],
        [50, 50],
      ],
    ],
    [
      'a maximum a day',
      [pays(100), limit('money', 60, { period: { every: 'day' } })],
      [onDay('2026-03-16'), onDay('2026-03-17')],
      [
        [60, 40],
        [60, 40],
      ],
    ],
    [
      'a maximum in 24 months runs on from each service to the next',
      [pays(100), limit('money', 150, { period: { every: 'months', months: 24 } })],
      [onDay('2026-01-05'), onDay('2026-02-05')],
      [
        [100, 0],
        [50, 50],
      ],
    ],
    [
      'a visit of which there is nothing to pay is none',
      [pays(100), limit('visits', 1)],
      [onDay('2026-01-05', 0), onDay('2026-02-05')],
      [
        [0, 0],
        [100, 0],
      ],
    ],
    [
      'two visits a year, the third of one day is no third',
      [pays(100), limit('visits', 2)],
      [onDay('2026-01-05'), onDay('2026-01-05'), onDay('2026-02-05'), onDay('2026-03-05')],
      [
        [100, 0],
        [100, 0],
        [100, 0],
        [0, 100],
      ],
    ],
    [
      'and the next year begins anew',
      [pays(100), limit('visits', 1)],
      [onDay('2025-12-31'), onDay('2026-01-01'), onDay('2026-01-02')],
      [
        [100, 0],
        [100, 0],
        [0, 100],
      ],
    ],
    // 4 of 6 units: 80.00 of 120.00.
    [
      'four units a day, in the middle of a charge',
      [pays(100, { category: 'therapy' }), limit('units', 4, { period: { every: 'day' } })],
      [therapy(120, 6), therapy(40, 2)],
      [
        [80, 40],
        [0, 40],
      ],
    ],
    [
      'one service in 12 months, by tooth',
      [pays(100), limit('services', 1, { period: { every: 'months', months: 12 }, byTooth: true })],
      [service(100, { tooth: '3' }), service(100, { tooth: '4' }), service(100, { tooth: '3' })],
      [
        [100, 0],
        [100, 0],
        [0, 100],
      ],
    ],
    [
      'not in the first 6 months',
      [pays(100), { kind: 'waiting', id: 'w', months: 6 }],
      [onDay('2026-06-30'), onDay('2026-07-01')],
      [
        [0, 100],
        [100, 0],
      ],
    ],
    [
      'covered through 18 years',
      [pays(100), { kind: 'ages', id: 'a', through: 18 }],
      [service(100, { age: 18 }), service(100, { age: 19 })],
      [
        [100, 0],
        [0, 100],
      ],
    ],
    [
      'covered from 40 years on',
      [pays(100), { kind: 'ages', id: 'a', from: 40 }],
      [service(100, { age: 39 }), service(100, { age: 40 })],
      [
        [0, 100],
        [100, 0],
      ],
    ],
    [
      'a tooth that was lost before',
      [pays(100), { kind: 'missing-tooth', id: 'm' }],
      [service(100, { lostBefore: true }), service(100)],
      [
        [0, 100],
        [100, 0],
      ],
    ],
    [
      'without and with an approval',
      [pays(100), { kind: 'approval', id: 'p' }],
      [service(100), service(100, { approved: true })],
      [
        [0, 100],
        [100, 0],
      ],
    ],
    // The second and all further at a half: 100.00 + 40.00 + 30.00 of 240.00; contracted, the rest is written off.
    [
      'several procedures in a visit, the dearest first',
      [pays(100), { kind: 'several', id: 's', shares: [basisPoints(10_000), basisPoints(5000)] }],
      [service(80), service(100), service(60)],
      [
        [40, 0],
        [100, 0],
        [30, 0],
      ],
    ],
    // Medicare pays an assistant at surgery 16 % (42 CFR 414.40, from memory).
    [
      'an assistant',
      [pays(100), { kind: 'modifier', id: 'm', modifier: '80', share: basisPoints(1600) }],
      [service(1000, { modifiers: ['80'] })],
      [[160, 0]],
    ],
  ])('%s', (_, rules, charges, expected) => {
    expect(shared(charges, [plan(rules, { begins: calendarDate('2026-01-01') })])).toEqual(expected);
  });

  test('paid as a lesser service: the difference is the patient’s, and no write-off', () => {
    // A crown allowed at 900.00, paid as one of 600.00 at 50 %.
    const fees: Record<string, number> = { D2740: 900, D2791: 600 };
    const coverage = plan(
      [pays(50), { kind: 'lesser-service', id: 'l', scope: { codes: ['D2740'] }, code: 'D2791' }],
      {
        allowedFee: (code) => c(fees[code] ?? 0),
      },
    );
    const [one] = estimate([service(1000, { code: 'D2740' })], [coverage]);
    expect([one!.writeOff, one!.payers[0]!.pays, one!.patient]).toEqual([10_000, 30_000, 60_000]);
    expect(one!.payers[0]!.notCovered).toBe(30_000);
  });

  test('of the lost teeth that are known those count that were lost before the coverage began', () => {
    const begins = calendarDate('2026-01-01');
    const lost = new Map([
      ['19', calendarDate('2025-12-31')],
      ['20', begins],
      ['21', null],
    ]);
    const bridge = ['19', '20', '21', '22'].map((tooth) => service(100, { tooth }));
    const rules = [pays(100), { kind: 'missing-tooth' as const, id: 'm' }];
    expect(shared(bridge, [plan(rules, { begins, lost })])).toEqual([
      [0, 100],
      [100, 0],
      [0, 100],
      [100, 0],
    ]);
    // One that always was began before any tooth was lost.
    expect(shared(bridge.slice(0, 1), [plan(rules, { begins: null, lost })])).toEqual([[100, 0]]);
  });

  test('a payer that has nothing left is passed over: the next one is the first, with its contract, and the step says so', () => {
    const day = calendarDate('2026-03-10');
    const [first, next] = [
      plan([pays(100)], { payer: 'Cedar', allowedFee: () => c(50), exhausted: calendarDate('2026-03-11') }),
      plan([pays(80)], { payer: 'Alder', allowedFee: () => c(60) }),
    ];
    const on = (exhausted: typeof day) =>
      estimate([service(100, { day })], [{ ...first, exhausted }, next])[0]!;
    // The day before, the first one pays all that it allows.
    const before = on(calendarDate('2026-03-11'));
    expect([before.writeOff, before.payers.map(({ pays: paid }) => paid), before.patient]).toEqual([
      c(50),
      [c(50), 0],
      0,
    ]);
    const after = on(day);
    expect([after.writeOff, after.payers.map(({ pays: paid }) => paid), after.patient]).toEqual([
      c(40),
      [0, c(48)],
      c(12),
    ]);
    expect(after.steps[1]!.words).toBe('Cedar: nothing left from 10 Mar 2026 on, as its letter says');
  });

  test('a facility’s fee is another one', () => {
    const coverage = plan([pays(100)], { allowedFee: (_, facility) => c(facility ? 50 : 80) });
    expect(shared([service(100), service(100, { facility: true })], [coverage])).toEqual([
      [80, 0],
      [50, 0],
    ]);
  });
});

/** The example of the Glossary of Health Coverage and Medical Terms (45 CFR 147.200), from memory: Jane. */
test('the federal glossary: deductible 1,500.00, coinsurance 20 %, out-of-pocket limit 5,000.00, a visit of 125.00', () => {
  const jane = (spentDeductible: number, spent: number) =>
    plan([pays(80), deductible(1500), outOfPocket(5000)], {
      usedBy: { deductible: c(spentDeductible), 'out-of-pocket': c(spent) },
    });
  expect(shared([service(125)], [jane(0, 0)])).toEqual([[0, 125]]);
  expect(shared([service(125)], [jane(1500, 1500)])).toEqual([[100, 25]]);
  expect(shared([service(125)], [jane(1500, 5000)])).toEqual([[125, 0]]);
});

/**
 * The coordination model (NAIC model 120, from memory): the secondary plan pays what it would have paid alone, less what makes the total
 * more than the allowable expense.
 */
test('the coordination model: the next plan fills up to what is allowed, and no more', () => {
  const tern = (percent: number) => plan([pays(percent)], { payer: 'Tern' });
  expect(shared([service(1000)], [plan([pays(80)]), tern(80)])).toEqual([[800, 200, 0]]);
  expect(shared([service(1000)], [plan([pays(50)]), tern(40)])).toEqual([[500, 400, 100]]);
});

describe('rules that meet', () => {
  test('embedded: the person’s or the household’s deductible met is enough; aggregate: the household’s alone', () => {
    const embedded = [pays(100), deductible(500), deductible(1000, { holder: 'household' })];
    const aggregate = [pays(100), deductible(1000, { holder: 'household' })];
    const of = (rules: Rule[], own: number, all: number) =>
      shared(
        [service(100)],
        [plan(rules, { usedBy: { 'deductible person': c(own), 'deductible household': c(all) } })],
      )[0];
    expect(of(embedded, 500, 500)).toEqual([100, 0]);
    expect(of(embedded, 0, 1000)).toEqual([100, 0]);
    expect(of(embedded, 460, 900)).toEqual([60, 40]);
    // A person's of nothing is none, and not one that is met.
    expect(of([pays(100), deductible(0), deductible(1000, { holder: 'household' })], 0, 0)).toEqual([0, 100]);
    expect(of(aggregate, 500, 500)).toEqual([0, 100]);
    expect(of(aggregate, 500, 960)).toEqual([60, 40]);
  });

  test('one person’s out-of-pocket limit holds in either kind of household (45 CFR 156.130)', () => {
    const rules = [pays(0), outOfPocket(9000), outOfPocket(18_000, { holder: 'household' })];
    const coverage = plan(rules, {
      usedBy: { 'out-of-pocket person': c(8950), 'out-of-pocket household': c(8950) },
    });
    expect(shared([service(100)], [coverage])).toEqual([[50, 50]]);
  });

  test('once out of pocket is met copays stop; what is not covered, over a maximum or above the allowed amount goes on', () => {
    const met = plan([pays(80), copay(30), outOfPocket(100)], { usedBy: { 'out-of-pocket': c(100) } });
    expect(shared([service(100)], [met])).toEqual([[100, 0]]);
    expect(shared([service(100, { category: 'cosmetic' })], [met])).toEqual([[0, 100]]);
    const capped = plan([pays(80), outOfPocket(100), limit('money', 50)], {
      usedBy: { 'out-of-pocket': c(100) },
    });
    expect(shared([service(100)], [capped])).toEqual([[50, 50]]);
    const outside = plan([pays(80), outOfPocket(100)], {
      contracted: false,
      allowedFee: () => c(60),
      usedBy: { 'out-of-pocket': c(100) },
    });
    expect(shared([service(100)], [outside])).toEqual([[60, 40]]);
  });

  test('what is over a limit goes to the next payer in the middle of a charge, or stays the patient’s', () => {
    // The first has 40.00 left; the second pays all that is left.
    const first = (then: 'next' | 'patient') =>
      plan([pays(100), limit('money', 40, { then, warning: 'confirm' })]);
    const second = plan([pays(100)], { payer: 'Tern' });
    expect(shared([service(100)], [first('next'), second])).toEqual([[40, 60, 0]]);
    expect(shared([service(100)], [first('patient'), second])).toEqual([[40, 0, 60]]);
    const [one] = estimate([service(100)], [first('patient'), second]);
    expect(one!.payers[0]!.reached).toMatchObject([
      { words: 'the yearly maximum', amount: 6000, then: 'patient', confirm: true },
    ]);
    expect(one!.steps.map(({ words }) => words)).toContain('Cedar: over the yearly maximum');
  });

  test('of two limits the one that leaves less counts, and each is used by what was paid', () => {
    const [year, life] = [limit('money', 80), limit('money', 60, { period: { every: 'life' } })];
    const [one] = estimate([service(100)], [plan([pays(100), year, life])]);
    expect(one!.payers[0]).toMatchObject({ pays: 6000, overMaximum: 4000 });
    expect(one!.payers[0]!.uses.map(({ rule, quantity }) => [rule, quantity])).toEqual([
      [year.id, 6000],
      [life.id, 6000],
    ]);
  });

  test('what was not covered uses nothing, and a visit that the deductible took is a visit', () => {
    const visits = limit('visits', 1);
    const rules = [pays(100), deductible(100), visits];
    const found = estimate(
      [service(50, { category: 'cosmetic' }), service(60), onDay('2026-03-20')],
      [plan(rules)],
    );
    expect(
      found.map(({ payers: [part] }) => part!.uses.filter(({ rule }) => rule === visits.id)),
    ).toMatchObject([[], [{ quantity: 1 }], []]);
    expect(found[2]!.payers[0]!.overMaximum).toBe(10_000);
  });

  test('what counted before the estimate counts: in the same months, on the same day, of the same tooth', () => {
    const once = limit('services', 1, { period: { every: 'months', months: 6 } });
    const earlier = (day: string) => [
      { code: '99213', category: 'office', day: calendarDate(day), tooth: '', units: 1 },
    ];
    const of = (day: string) =>
      shared([service(100)], [plan([pays(100), once], { earlier: earlier(day) })])[0];
    // Six months back from 16 March is 16 September, which is over.
    expect(of('2025-09-16')).toEqual([100, 0]);
    expect(of('2025-09-17')).toEqual([0, 100]);
    // A visit of today that was decided is no second one.
    const visits = plan([pays(100), limit('visits', 1)], {
      earlier: earlier('2026-03-16'),
      usedBy: { limit: 1 },
    });
    expect(shared([service(100)], [visits])).toEqual([[100, 0]]);
  });
});

describe('properties', () => {
  const scope = fc.constantFrom<Rule['scope']>({}, { category: 'office' }, { codes: ['99213'] });
  const holder = fc.constantFrom('person' as const, 'household' as const);
  const period = fc.constantFrom(
    YEAR,
    { every: 'day' } as const,
    { every: 'life' } as const,
    { every: 'visit' } as const,
  );
  const money = fc.nat(30_000).map((n) => cents(n));
  const anyRule: fc.Arbitrary<Rule> = fc.oneof(
    fc
      .record({ scope, share: fc.nat(10_000).map(basisPoints) })
      .map((r) => ({ kind: 'share', id: id(), ...r }) as Rule),
    fc
      .record({ scope, amount: money, holder, period })
      .map((r) => ({ kind: 'deductible', id: id(), ...r }) as Rule),
    fc
      .record({
        scope,
        amount: money,
        once: fc.constantFrom('visit', 'day', 'service'),
        order: fc.constantFrom('before', 'between', 'after', 'instead'),
      })
      .map((r) => ({ kind: 'copay', id: id(), ...r }) as Rule),
    fc
      .record({ amount: money, holder, period })
      .map((r) => ({ kind: 'out-of-pocket', id: id(), ...r }) as Rule),
    fc
      .record({
        scope,
        measure: fc.constantFrom('money', 'visits', 'units', 'days', 'services'),
        most: fc.nat(9000),
        holder,
        period,
        then: fc.constantFrom('next', 'patient'),
      })
      .map(
        ({ measure, most, ...r }) =>
          ({
            kind: 'limit',
            id: id(),
            measure,
            most: measure === 'money' ? most : most % 5,
            ...r,
          }) as Rule,
      ),
  );
  const anyCoverage = fc
    .record({
      rules: fc.array(anyRule, { maxLength: 6 }),
      contracted: fc.boolean(),
      coordination: fc.constantFrom('standard' as const, 'non-duplication' as const, 'maintenance' as const),
      fee: fc.option(fc.nat(40_000).map(cents)),
    })
    .map(({ fee, rules, ...more }) => plan([pays(80), ...rules], { ...more, allowedFee: () => fee }));
  const charges = fc.array(
    fc.record({
      fee: fc.nat(40_000).map(cents),
      units: fc.integer({ min: 1, max: 4 }),
      visit: fc.constantFrom('a', 'b'),
    }),
    { minLength: 1, maxLength: 5 },
  );
  const made = (all: { fee: Cents; units: number; visit: string }[]) =>
    all.map(({ fee, units, visit }) =>
      service(0, { fee, units, visit, day: calendarDate(visit === 'a' ? '2026-03-16' : '2026-03-17') }),
    );

  test('payers, write-off and patient are the fee; no part is below zero; what is allowed is told part by part', () => {
    fc.assert(
      fc.property(charges, fc.array(anyCoverage, { maxLength: 3 }), (all, coverages) => {
        for (const one of estimate(made(all), coverages)) {
          expect(sum([one.writeOff, one.patient, ...one.payers.map((part) => part.pays)])).toBe(one.fee);
          expect(one.patient).toBeGreaterThanOrEqual(0);
          for (const [at, part] of one.payers.entries()) {
            const {
              allowed,
              deductible: d,
              copay: co,
              coinsurance,
              notCovered,
              overMaximum,
              pays: paid,
            } = part;
            for (const amount of [allowed, d, co, coinsurance, notCovered, overMaximum, paid, part.writeOff])
              expect(amount).toBeGreaterThanOrEqual(0);
            if (at === 0) expect(sum([d, co, coinsurance, notCovered, overMaximum, paid])).toBe(allowed);
          }
        }
      }),
      { numRuns: runs(400) },
    );
  });

  test('a later coverage never raises what the patient pays', () => {
    fc.assert(
      fc.property(
        charges,
        fc.array(anyCoverage, { minLength: 1, maxLength: 2 }),
        anyCoverage,
        (all, coverages, more) => {
          const without = estimate(made(all), coverages);
          const withIt = estimate(made(all), [...coverages, more]);
          for (const [at, one] of withIt.entries())
            expect(one.patient).toBeLessThanOrEqual(without[at]!.patient);
        },
      ),
      { numRuns: runs(400) },
    );
  });

  test('no limit of money is ever exceeded, and none of a count', () => {
    fc.assert(
      fc.property(charges, fc.array(anyRule, { maxLength: 6 }), (all, rules) => {
        const found = estimate(made(all), [plan([pays(100), ...rules])]);
        const used = new Map<string, number>();
        for (const { rule, from, tooth, quantity } of found.flatMap(({ payers }) => payers[0]!.uses)) {
          const key = `${rule}|${from}|${tooth}`;
          used.set(key, (used.get(key) ?? 0) + quantity);
        }
        for (const [key, quantity] of used) {
          const rule = rules.find((one) => key.startsWith(`${one.id}|`) || key.startsWith(`${one.id} `));
          if (!rule || rule.kind === 'share' || rule.kind === 'copay') continue;
          if (rule.kind === 'limit') expect(quantity).toBeLessThanOrEqual(rule.most);
          if (rule.kind === 'deductible' || rule.kind === 'out-of-pocket')
            expect(quantity).toBeLessThanOrEqual(rule.amount);
        }
      }),
      { numRuns: runs(400) },
    );
  });
});
