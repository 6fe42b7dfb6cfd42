import fc from 'fast-check';
import { type CalendarDate, addDays, calendarDate } from '../calendar';
import type { ChargeTotals } from '../books/strip';
import { type Debt, owedOf } from '../books/owed';
import { type Cents, ZERO, cents, minus, most, sum, add, least } from '../money';
import { type ChargeForStatement, alone, composeStatement, joinStatements, sumAmounts } from './compose';
import {
  PLAIN_OPTIONS,
  RANGES,
  type Range,
  type StatementOptions,
  sameMoney,
  dueTogether,
  statementDocument,
} from './document';

const today = calendarDate('2026-03-16');
const address = { name: 'X', line1: '1 Way', city: 'Y', state: 'WA', zip: '98199' };
const frame = (options: Partial<StatementOptions> = {}) => ({
  paper: 'LETTER' as const,
  practice: { ...address, phone: '555-0100' },
  remit: address,
  hours: '',
  tenders: [],
  account: 'A-1',
  to: { ...address, line2: '' },
  date: today,
  dueDate: addDays(today, 14),
  notes: [],
  installments: [],
  plans: [],
  options: { ...PLAIN_OPTIONS, ...options },
});
const none: ChargeTotals = {
  fee: ZERO,
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
};
const charge = (
  chargeId: number,
  date: CalendarDate,
  totals: Partial<ChargeTotals>,
  more: { patient?: string; caseName?: string; paidOn?: CalendarDate; forbidden?: Cents } = {},
): ChargeForStatement => ({
  story: {
    chargeId,
    kind: 'service',
    date,
    patient: more.patient ?? 'Rosa',
    caseName: more.caseName ?? '',
    service: 'Visit',
    provider: 'P',
    charged: totals.fee ?? ZERO,
    tax: ZERO,
    waiting: [],
    withPatient: totals.withPatient ?? ZERO,
    forbidden: more.forbidden ?? ZERO,
    onPlan: totals.onPlan ?? ZERO,
    atAgency: totals.atAgency ?? ZERO,
    entries: more.paidOn
      ? [
          {
            entryId: 1,
            kind: 'allocation',
            date: more.paidOn,
            payer: '',
            memo: '',
            undone: false,
            paidByPayer: ZERO,
            paidByPatient: totals.patientPaid ?? ZERO,
            paidByAgency: cents(0),
            reduced: [],
            expected: ZERO,
            passedOn: [],
            refused: [],
            exception: null,
            coverageId: null,
          },
        ]
      : [],
  },
  totals: { ...none, ...totals },
});
const facts = (
  charges: readonly ChargeForStatement[],
  credit: Cents = ZERO,
  zeroOn: CalendarDate | null = null,
) => ({
  charges,
  owed: owedOf(
    charges.flatMap(({ story, totals }): Debt[] => {
      const owed = minus(totals.withPatient, story.forbidden ?? ZERO);
      const { chargeId, date } = story;
      return owed > 0
        ? [{ chargeId, date, owed, layers: [{ since: date, amount: totals.withPatient }], stated: [] }]
        : [];
    }),
    credit,
    10,
    today,
  ),
  zeroOn,
  agingFrom: 'responsible' as const,
  messages: [],
  most: 2,
  siteId: null,
});

describe('putting a statement together', () => {
  const old = charge(1, addDays(today, -100), {
    fee: cents(9000),
    patientPaid: cents(4000),
    withPatient: cents(5000),
  });
  const moved = charge(
    2,
    addDays(today, -80),
    { fee: cents(700), patientPaid: cents(200), withPatient: cents(500) },
    { paidOn: addDays(today, -3) },
  );
  const fresh = charge(
    3,
    addDays(today, -2),
    { fee: cents(3000), withPayer: cents(3000) },
    { patient: 'Ana' },
  );
  const paid = charge(4, addDays(today, -1), { fee: cents(100), patientPaid: cents(100) });
  const all = [old, moved, fresh, paid];
  const ids = (range: Partial<StatementOptions>, zeroOn: CalendarDate | null = null) => {
    const content = composeStatement(frame(range), facts(all, ZERO, zeroOn));
    return [
      content.forward?.owed ?? null,
      ...content.sections.flatMap(({ lines }) => lines.map((l) => l.chargeId)),
    ];
  };

  test('what is due is what is owed less credit', () => {
    const content = composeStatement(frame(), facts(all, cents(1500)));
    expect(content).toMatchObject({ owed: 5500, credit: 1500, amount: 4000, withPayers: 3000 });
    expect(content.aging).toEqual([0, 0, 500, 5000, 0]);
    expect(content.shows).toEqual([
      // Credit stands against the oldest.
      { chargeId: 1, owed: 5000, credit: 1500 },
      { chargeId: 2, owed: 500, credit: 0 },
    ]);
  });

  test('open items leave out what is settled; a range brings the rest forward, but not where something happened', () => {
    expect(ids({})).toEqual([null, 1, 2, 3]);
    expect(ids({ items: 'all' })).toEqual([null, 1, 2, 3, 4]);
    expect(ids({ range: '90' })).toEqual([5000, 2, 3]);
    expect(ids({ range: '30', items: 'all' })).toEqual([5000, 2, 3, 4]);
    // Thirty days with today: a charge of 29 days ago is the first one shown.
    const edge = (days: number) =>
      composeStatement(
        frame({ range: '30' }),
        facts([charge(9, addDays(today, -days), { fee: cents(5), withPatient: cents(5) })]),
      ).forward;
    expect(edge(29)).toBeNull();
    expect(edge(30)).toMatchObject({ charges: 1, owed: 5, before: addDays(today, -29) });
  });

  test('since the last zero balance; when there was none, everything', () => {
    expect(ids({ range: 'zero' })).toEqual([null, 1, 2, 3]);
    expect(ids({ range: 'zero' }, addDays(today, -90))).toEqual([5000, 2, 3]);
    expect(ids({ range: 'zero' }, addDays(today, -101))).toEqual([null, 1, 2, 3]);
  });

  test('cases in sections, each person’s by its name', () => {
    const of = (id: number, patient: string, caseName: string) =>
      charge(id, today, { fee: cents(10), withPatient: cents(10) }, { patient, caseName });
    const { sections } = composeStatement(
      frame({ layout: 'by-case' }),
      facts([
        of(1, 'Rosa', ''),
        of(2, 'Rosa', 'Left knee'),
        of(3, '', ''),
        of(4, 'Rosa', ''),
        of(5, 'Ana', ''),
      ]),
    );
    expect(sections.map(({ title, lines }) => [title, lines.map(({ chargeId }) => chargeId)])).toEqual([
      ['Rosa: general care', [1, 4]],
      ['Rosa: Left knee', [2]],
      ['On the account', [3]],
      ['Ana: general care', [5]],
    ]);
  });

  test('people in sections, in the order of their first charge; what is nobody’s under the account', () => {
    const late = charge(5, today, { fee: cents(10), withPatient: cents(10) }, { patient: '' });
    const { sections } = composeStatement(frame({ layout: 'by-person' }), facts([...all, late]));
    expect(sections.map(({ title, lines }) => [title, lines.length])).toEqual([
      ['Rosa', 2],
      ['Ana', 1],
      ['On the account', 1],
    ]);
  });

  test('the same money on another day is the same; a cent moved is not', () => {
    const a = alone(composeStatement(frame(), facts(all)));
    expect(sameMoney(a, { ...a, date: addDays(today, 3), notes: ['x'] })).toBe(true);
    expect(sameMoney(a, alone(composeStatement(frame(), facts(all, cents(1)))))).toBe(false);
    const other = charge(1, old.story.date, {
      fee: cents(9000),
      patientPaid: cents(4001),
      withPatient: cents(4999),
    });
    expect(sameMoney(a, alone(composeStatement(frame(), facts([other, moved, fresh, paid]))))).toBe(false);
  });

  const parts = fc.record({
    days: fc.integer({ min: 0, max: 500 }),
    paid: fc.option(fc.integer({ min: 0, max: 500 })),
    withPatient: fc.integer({ min: -500, max: 9000 }).map(cents),
    forbidden: fc.option(fc.integer({ min: 1, max: 100 })),
    withPayer: fc.integer({ min: 0, max: 9000 }).map(cents),
    onPlan: fc.constantFrom(ZERO, cents(100)),
    payerPaid: fc.integer({ min: 0, max: 500 }).map(cents),
    patient: fc.constantFrom('Rosa', 'Ana', ''),
  });

  test('whatever the range and the layout, lines and sums brought forward are the account’s', () => {
    fc.assert(
      fc.property(
        fc.array(parts, { maxLength: 25 }),
        fc.constantFrom(...(Object.keys(RANGES) as Range[])),
        fc.constantFrom('open' as const, 'all' as const),
        fc.constantFrom('by-date' as const, 'by-person' as const, 'by-case' as const),
        fc.option(fc.integer({ min: 0, max: 500 })),
        fc.integer({ min: 0, max: 5000 }).map(cents),
        (given, range, items, layout, zero, credit) => {
          const off = (one: (typeof given)[number]): Cents =>
            one.forbidden === null || one.withPatient <= 0
              ? ZERO
              : cents(Math.ceil((one.withPatient * one.forbidden) / 100));
          const charges = given.map(({ days, paid: paidAgo, patient, forbidden, ...totals }, index) =>
            charge(
              index + 1,
              addDays(today, -days),
              {
                ...totals,
                fee: sum([totals.withPatient, totals.withPayer, totals.onPlan, totals.payerPaid]),
              },
              {
                patient,
                forbidden: off({ days, paid: paidAgo, patient, forbidden, ...totals }),
                ...(paidAgo === null ? {} : { paidOn: addDays(today, -Math.min(paidAgo, days)) }),
              },
            ),
          );
          const content = composeStatement(
            frame({ range, items, layout }),
            facts(charges, credit, zero === null ? null : addDays(today, -zero)),
          );
          const lines = content.sections.flatMap((section) => section.lines);
          const told = sumAmounts([...lines, ...(content.forward ? [content.forward] : [])]);
          const totals = (part: keyof ChargeTotals) => sum(charges.map((one) => one.totals[part]));
          const billable = sum(given.map((one) => most(ZERO, minus(one.withPatient, off(one)))));
          // What stands below zero with a patient is held, and lowers nothing.
          const below = sum(given.map((one) => least(ZERO, one.withPatient)));
          expect(told.owed).toBe(billable);
          // What may not be billed is asked of nobody, and each line still adds up.
          for (const line of lines)
            expect(
              sum([
                line.payerPaid,
                line.writtenOff,
                line.patientPaid,
                line.waiting,
                line.elsewhere,
                line.owed,
              ]),
            ).toBe(line.charged);
          expect(told.waiting).toBe(add(totals('withPayer'), below));
          expect(told.elsewhere).toBe(totals('onPlan'));
          expect(content.amount).toBe(minus(billable, credit));
          expect(sum(content.aging)).toBe(billable);
          expect(sum(content.shows.map(({ owed }) => owed))).toBe(
            sum(given.map((one) => most(minus(one.withPatient, off(one)), ZERO))),
          );
          expect(lines.length + (content.forward?.charges ?? 0)).toBe(
            items === 'all'
              ? charges.length
              : charges.filter(({ totals: t }) => t.withPatient || t.withPayer || t.onPlan).length,
          );
          // What is kept is read back as it was.
          expect(statementDocument.read(JSON.parse(statementDocument.write(alone(content))))).toEqual(
            alone(content),
          );
        },
      ),
    );
  });

  test('in one envelope every account says what it says alone, and together they are its amount', () => {
    fc.assert(
      fc.property(
        fc.array(fc.array(fc.integer({ min: -500, max: 9000 }).map(cents), { maxLength: 6 }), {
          minLength: 1,
          maxLength: 5,
        }),
        fc.array(fc.integer({ min: 0, max: 5000 }).map(cents), { minLength: 5, maxLength: 5 }),
        (accounts, credits) => {
          const single = accounts.map((owed, account) =>
            composeStatement(
              { ...frame(), account: `A-${account}` },
              facts(
                owed.map((withPatient, index) =>
                  charge(account * 100 + index, addDays(today, -40), { fee: withPatient, withPatient }),
                ),
                credits[account]!,
              ),
            ),
          );
          const [first, ...others] = single;
          const joint = joinStatements(
            { ...first!, name: 'Household 0' },
            others.map((one, index) => ({ ...one, householdId: index + 1, name: `Household ${index + 1}` })),
            { messages: [], most: 0, siteId: null },
          );
          expect(dueTogether(joint)).toBe(sum(single.map(({ amount }) => amount)));
          expect([joint, ...joint.joined].map(({ shows }) => shows)).toEqual(
            single.map(({ shows }) => shows),
          );
          expect([joint, ...joint.joined].map(({ sections }) => sections)).toEqual(
            single.map(({ sections }) => sections),
          );
          expect(statementDocument.read(JSON.parse(statementDocument.write(joint)))).toEqual(joint);
          // A cent that moves from one account to another is another piece, though the sum is the same.
          if (others.length > 0) {
            const moved = { ...joint, amount: cents(joint.amount + 1) };
            expect(sameMoney(joint, moved)).toBe(false);
            expect(sameMoney(joint, { ...joint, joined: joint.joined.slice(1) })).toBe(false);
          }
        },
      ),
    );
  });
});
