import fc from 'fast-check';
import { addDays, calendarDate } from '../calendar';
import { basisPoints, cents } from '../money';
import type { StatementPolicy } from './policy';
import {
  CONDITIONS,
  CONDITION_IDS,
  type ConditionId,
  type HouseholdFacts,
  type SelectionRow,
  choose,
  dueNow,
  mendingPlace,
} from './selection';
import { FIRST_ROWS, rowsField } from './sets';
import { runs } from '../../testing/runs';

const today = calendarDate('2026-03-16');
const ago = (days: number) => addDays(today, -days);
const policy: StatementPolicy = {
  locationId: null,
  least: cents(500),
  cycle: 'days',
  cycleNumber: 28,
  dueDays: 14,
  graceDays: 10,
  agingFrom: 'responsible',
  tenders: [],
  remit: { name: '', line1: '', city: '', state: '', zip: '' },
  phone: '',
  hours: '',
  messages: 2,
  late: { kind: 'none', flat: cents(0), rate: basisPoints(0), least: cents(0), most: null },
};
const plain: HouseholdFacts = {
  householdId: 7,
  patientId: null,
  envelope: 7,
  forbidden: cents(0),
  account: 'A-10207',
  name: 'Varga, Ilona',
  siteId: 1,
  owed: cents(12_000),
  credit: cents(0),
  installments: cents(0),
  onPlan: cents(0),
  atAgency: cents(0),
  withPayers: cents(0),
  oldest: ago(40),
  lastStatement: ago(30),
  handedOver: null,
  lastPayerPayment: ago(50),
  lastService: ago(60),
  unbilledService: null,
  claimsOut: 0,
  installmentOn: null,
  planBehind: null,
  providerIds: [3],
  category: null,
  addressIncomplete: false,
  aboveEstimate: [],
  addressReturned: null,
  delivery: 'mail',
  deliveryWhy: '',
  hasEmail: true,
  emailReturned: null,
  holdUntil: null,
  holdWhy: '',
  stops: [],
  openBatch: null,
};
const weigh = (
  facts: Partial<HouseholdFacts>,
  rows: readonly SelectionRow[],
  of: Partial<StatementPolicy> = {},
) => {
  const choice = choose({ ...plain, ...facts }, rows, { ...policy, ...of }, today);
  return [choice.in ? 'in' : 'out', ...choice.reasons.map(({ id }) => id)].join(' ');
};
const take = (what: ConditionId, more: Partial<SelectionRow> = {}): SelectionRow => ({
  side: 'take',
  what,
  ...more,
});
const leave = (what: ConditionId, more: Partial<SelectionRow> = {}): SelectionRow => ({
  side: 'leave',
  what,
  ...more,
});

describe('choosing who gets a statement', () => {
  // Every condition alone, where it holds and where it does not, at its edge.
  test.each<[Partial<HouseholdFacts>, SelectionRow, string]>([
    [{ lastStatement: ago(28) }, take('cycle'), 'in cycle'],
    [{ lastStatement: ago(27) }, take('cycle'), 'out no-row-takes-it'],
    [{ lastStatement: null }, take('cycle'), 'in cycle'],
    [{ lastStatement: ago(31) }, take('last-older', { number: 30 }), 'in last-older'],
    [{ lastStatement: ago(30) }, take('last-older', { number: 30 }), 'out no-row-takes-it'],
    [{ lastStatement: null }, take('last-older', { number: 30 }), 'in last-older'],
    [{ lastPayerPayment: ago(29) }, take('payer-paid'), 'in payer-paid'],
    [{ lastPayerPayment: ago(30) }, take('payer-paid'), 'out no-row-takes-it'],
    [{ lastPayerPayment: null }, take('payer-paid'), 'out no-row-takes-it'],
    [{ lastService: ago(2) }, take('new-charge'), 'in new-charge'],
    [{ lastService: ago(30) }, take('new-charge'), 'out no-row-takes-it'],
    [{ installmentOn: ago(-5) }, take('installment', { number: 5 }), 'in installment'],
    [{ installmentOn: ago(-6) }, take('installment', { number: 5 }), 'out no-row-takes-it'],
    [{ installmentOn: ago(3) }, take('installment', { number: 5 }), 'in installment'],
    [{ installmentOn: null }, take('installment', { number: 5 }), 'out no-row-takes-it'],
    [{ planBehind: 0 }, leave('plan-good'), 'out plan-good'],
    [{ planBehind: 1 }, leave('plan-good'), 'in everybody'],
    [{ planBehind: null }, leave('plan-good'), 'in everybody'],
    [{ oldest: ago(91) }, take('oldest-over', { number: 90 }), 'in oldest-over'],
    [{ oldest: ago(90) }, take('oldest-over', { number: 90 }), 'out no-row-takes-it'],
    [{ oldest: null }, take('oldest-over', { number: 0 }), 'out no-row-takes-it'],
    [{ owed: cents(2499) }, leave('balance-below', { number: 2500 }), 'out balance-below'],
    [{ owed: cents(2500) }, leave('balance-below', { number: 2500 }), 'in everybody'],
    [{ owed: cents(0), credit: cents(900) }, take('balance-below', { number: -500 }), 'in balance-below'],
    [
      { owed: cents(0), credit: cents(500) },
      take('balance-below', { number: -500 }),
      'out credit no-row-takes-it',
    ],
    [{ owed: cents(0), credit: cents(900) }, take('credit'), 'in credit'],
    [{ owed: cents(0), credit: cents(900) }, leave('credit'), 'out credit'],
    [{ addressIncomplete: true }, leave('address-incomplete'), 'out address-incomplete'],
    [{ addressReturned: ago(3) }, leave('mail-returned'), 'out mail-returned'],
    [{ claimsOut: 1 }, leave('claims-out'), 'out claims-out'],
    [{ unbilledService: ago(100) }, leave('unbilled', { number: 6 }), 'out unbilled'],
    [{ unbilledService: calendarDate('2025-09-16') }, leave('unbilled', { number: 6 }), 'in everybody'],
    [{ unbilledService: calendarDate('2025-09-17') }, leave('unbilled', { number: 6 }), 'out unbilled'],
    [{ lastService: ago(400) }, leave('not-seen', { number: 12 }), 'out not-seen'],
    [{ lastService: ago(300) }, leave('not-seen', { number: 12 }), 'in everybody'],
    [{ lastService: null }, leave('not-seen', { number: 12 }), 'out not-seen'],
    [{ handedOver: ago(14) }, leave('handed-over', { number: 14 }), 'out handed-over'],
    [{ handedOver: ago(15) }, leave('handed-over', { number: 14 }), 'in everybody'],
    [{ category: 'staff' }, leave('category', { choices: ['staff'] }), 'out category'],
    [{ category: 'courtesy' }, leave('category', { choices: ['staff'] }), 'in everybody'],
    [{ siteId: 2 }, take('site', { choices: ['2'] }), 'in site'],
    [{ siteId: null }, take('site', { choices: ['2'] }), 'out no-row-takes-it'],
    [{ providerIds: [3, 4] }, take('provider', { choices: ['4'] }), 'in provider'],
    [{ providerIds: [3] }, take('provider', { choices: ['4'] }), 'out no-row-takes-it'],
  ])('%j with %j: %s', (facts, row, expected) => expect(weigh(facts, [row])).toBe(expected));

  // What holds whatever the rows say.
  test.each<[Partial<HouseholdFacts>, string]>([
    [{}, 'in everybody'],
    [{ owed: cents(0) }, 'out nothing-due'],
    [{ owed: cents(-5), credit: cents(0) }, 'out nothing-due'],
    [{ owed: cents(5000), credit: cents(5000) }, 'out nothing-due'],
    [{ owed: cents(5000), credit: cents(6000) }, 'out credit'],
    [{ owed: cents(499) }, 'out below-least'],
    [{ owed: cents(500) }, 'in everybody'],
    [{ owed: cents(900), credit: cents(401) }, 'out below-least'],
    [{ stops: ['attorney'] }, 'out stop'],
    [{ holdUntil: today, holdWhy: 'x' }, 'out hold'],
    [{ holdUntil: ago(1), holdWhy: 'x' }, 'in everybody'],
    [{ delivery: 'none', deliveryWhy: 'x' }, 'out no-delivery'],
    [{ delivery: 'email', hasEmail: false }, 'out no-email'],
    [{ delivery: 'email', emailReturned: ago(1) }, 'out no-email'],
    [{ delivery: 'email' }, 'in everybody'],
    [{ openBatch: 4 }, 'out open-piece'],
    [{ openBatch: 0 }, 'out open-piece'],
  ])('without rows, %j: %s', (facts, expected) => expect(weigh(facts, [])).toBe(expected));

  // Those that interact.
  test.each<[Partial<HouseholdFacts>, readonly SelectionRow[], string]>([
    [
      { lastStatement: ago(5), lastPayerPayment: ago(2) },
      [take('cycle'), take('payer-paid')],
      'in payer-paid',
    ],
    [
      { lastStatement: ago(40), lastPayerPayment: ago(2) },
      [take('cycle'), take('payer-paid')],
      'in cycle payer-paid',
    ],
    [
      { lastStatement: ago(5), claimsOut: 2 },
      [take('cycle'), leave('claims-out')],
      'out claims-out no-row-takes-it',
    ],
    [{ claimsOut: 2, stops: ['attorney'] }, [leave('claims-out')], 'out stop claims-out'],
    [{ owed: cents(0), credit: cents(900) }, [take('credit'), leave('credit')], 'out credit'],
    [{ owed: cents(0), credit: cents(900) }, [take('cycle')], 'out credit'],
    [{ owed: cents(0), credit: cents(900), stops: ['deceased'] }, [take('credit')], 'out stop'],
    [
      { oldest: ago(100), siteId: 2 },
      [take('oldest-over', { number: 90 }), leave('site', { choices: ['2'] })],
      'out site',
    ],
  ])('%j with %j: %s', (facts, rows, expected) => expect(weigh(facts, rows)).toBe(expected));

  test('what may not be billed is a reason of its own, where nothing else is owed', () => {
    expect(weigh({ owed: cents(0), forbidden: cents(2000) }, [])).toBe('out not-billable nothing-due');
    expect(weigh({ owed: cents(600), forbidden: cents(2000) }, [])).toBe('in everybody');
    expect(weigh({ owed: cents(0), forbidden: cents(0) }, [])).toBe('out nothing-due');
  });

  test('what is elsewhere is a reason of its own, and nothing is owed only where nothing is', () => {
    const none = { owed: cents(0), credit: cents(0) };
    expect(weigh(none, [])).toBe('out nothing-due');
    expect(weigh({ ...none, onPlan: cents(9000) }, [])).toBe('out on-plan');
    expect(weigh({ ...none, atAgency: cents(9000) }, [])).toBe('out at-agency');
    expect(weigh({ ...none, withPayers: cents(9000) }, [])).toBe('out with-payers');
    expect(weigh({ ...none, withPayers: cents(9000), onPlan: cents(1) }, [])).toBe('out on-plan with-payers');
  });

  test('an installment that comes due is due, also of a household whose whole debt is on a plan', () => {
    const plan = { owed: cents(0), onPlan: cents(50_000), installments: cents(8455) };
    expect(weigh(plan, [])).toBe('in everybody');
    expect(dueNow({ ...plan, credit: cents(0) })).toBe(8455);
    expect(weigh({ ...plan, credit: cents(8455) }, [])).toBe('out nothing-due');
    expect(weigh({ ...plan, credit: cents(9000) }, [])).toBe('out credit');
  });

  test('the least of the policy, its cycle by the month, and each site by its own', () => {
    expect(weigh({ owed: cents(900) }, [], { least: cents(1000) })).toBe('out below-least');
    const monthly = { cycle: 'monthly', cycleNumber: 10 } as const;
    expect(weigh({ lastStatement: ago(7) }, [take('cycle')], monthly)).toBe('in cycle');
    expect(weigh({ lastStatement: ago(6) }, [take('cycle')], monthly)).toBe('out no-row-takes-it');
  });

  const dates = fc.option(fc.integer({ min: -10, max: 900 }).map(ago));
  const anyFacts = fc.record<HouseholdFacts>({
    householdId: fc.constant(7),
    patientId: fc.constantFrom(null, 70),
    envelope: fc.constantFrom(7, 8),
    forbidden: fc.integer({ min: 0, max: 900 }).map(cents),
    account: fc.constant('A-1'),
    name: fc.constant('X'),
    siteId: fc.option(fc.integer({ min: 1, max: 3 })),
    owed: fc.integer({ min: -2000, max: 9000 }).map(cents),
    credit: fc.integer({ min: -10, max: 9000 }).map(cents),
    installments: fc.constantFrom(0, 0, 2500).map(cents),
    onPlan: fc.constantFrom(0, 7500).map(cents),
    atAgency: fc.constantFrom(0, 500).map(cents),
    withPayers: fc.constantFrom(0, 500).map(cents),
    oldest: dates,
    lastStatement: dates,
    handedOver: dates,
    lastPayerPayment: dates,
    lastService: dates,
    unbilledService: dates,
    claimsOut: fc.integer({ min: 0, max: 3 }),
    installmentOn: dates,
    planBehind: fc.option(fc.integer({ min: 0, max: 40 })),
    providerIds: fc.array(fc.integer({ min: 1, max: 4 }), { maxLength: 3 }),
    category: fc.option(fc.constantFrom('staff', 'courtesy')),
    addressIncomplete: fc.boolean(),
    addressReturned: dates,
    delivery: fc.constantFrom('mail', 'print-shop', 'email', 'none'),
    deliveryWhy: fc.constant('why'),
    hasEmail: fc.boolean(),
    emailReturned: dates,
    holdUntil: dates,
    holdWhy: fc.constant('why'),
    aboveEstimate: fc.constantFrom([], ['E-1, Lee: 400.00 more than was said']),
    stops: fc.array(fc.constantFrom('attorney', 'bankrupt'), { maxLength: 2 }),
    openBatch: fc.option(fc.integer({ min: 0, max: 3 })),
  });
  const anyRow = fc.record({
    side: fc.constantFrom('take', 'leave'),
    what: fc.constantFrom(...CONDITION_IDS),
    number: fc.integer({ min: 0, max: 500 }),
    choices: fc.constantFrom(['1'], ['2', 'staff'], ['courtesy']),
  }) as fc.Arbitrary<SelectionRow>;

  test('every household is in with its reasons or out with its reasons, each once and in words, never both or neither', () => {
    fc.assert(
      fc.property(anyFacts, fc.array(anyRow, { maxLength: 8 }), (facts, rows) => {
        const { in: isIn, reasons } = choose(facts, rows, policy, today);
        expect(reasons.length).toBeGreaterThan(0);
        expect(new Set(reasons.map(({ id }) => id)).size).toBe(reasons.length);
        for (const { id, words } of reasons) {
          expect(words.trim()).not.toBe('');
          expect(mendingPlace(id, facts) ?? '/').toMatch(/^\//);
        }
        // Nobody is written to who owes nothing and holds nothing, is stopped, or has one prepared already.
        if (isIn) {
          expect(dueNow(facts)).not.toBe(0);
          expect(facts.stops).toEqual([]);
          expect(facts.openBatch).toBeNull();
          for (const row of rows.filter(({ side }) => side === 'leave'))
            expect(
              CONDITIONS[row.what].holds({
                facts,
                policy,
                today,
                number: row.number!,
                choices: row.choices!,
              }),
            ).toBe(false);
        }
      }),
      { numRuns: runs(2000) },
    );
  });

  test('another row of leaving out never takes anybody in, another of taking never leaves anybody out', () => {
    fc.assert(
      fc.property(anyFacts, fc.array(anyRow, { maxLength: 6 }), anyRow, (facts, rows, more) => {
        const before = choose(facts, rows, policy, today).in;
        const after = choose(facts, [...rows, more], policy, today).in;
        if (more.side === 'leave') expect(after && !before).toBe(false);
        else if (rows.some(({ side }) => side === 'take')) expect(before && !after).toBe(false);
      }),
      { numRuns: runs(2000) },
    );
  });

  test('a row without its number or its choice, an unknown one, and too many are refused', () => {
    const refused = (rows: unknown): string | undefined =>
      rowsField.safeParse(rows).error?.issues[0]?.message;
    expect(refused([take('last-older')])).toMatch(/wants its number/);
    expect(refused([take('site')])).toMatch(/wants a choice/);
    expect(refused([take('last-older', { number: -1 })])).toMatch(/out of its range/);
    expect(refused([take('balance-below', { number: -500 })])).toBeUndefined();
    expect(refused([{ side: 'take', what: 'moon' }])).toBeDefined();
    expect(refused(Array.from({ length: 31 }, () => take('cycle')))).toMatch(/at most 30/);
    expect(refused(FIRST_ROWS)).toBeUndefined();
  });
});
