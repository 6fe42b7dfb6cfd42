import fc from 'fast-check';
import { type CalendarDate, addDays, calendarDate } from '../calendar';
import { type Cents, basisPoints, cents, sum } from '../money';
import { interestThrough } from './interest';
import { quote } from './quote';
import { type StandingFacts, brokenBy, standingOf } from './standing';
import type { Extra } from './terms';

const agreed = calendarDate('2026-01-10');
const first = calendarDate('2026-02-10');
/** 600.00 in six installments of 100.00, without interest, as it stands after payments. */
const plan = (payments: [string, number][], more: Partial<StandingFacts> = {}): StandingFacts => {
  const { installments } = quote({
    amount: cents(60_000),
    down: cents(0),
    rate: basisPoints(0),
    every: 'month',
    by: { installments: 6 },
    agreed,
    first,
    interestBy: 'period',
  });
  const left = cents(60_000 - payments.reduce((all, [, amount]) => all + amount, 0));
  return {
    status: 'accepted',
    rate: basisPoints(0),
    every: 'month',
    extra: 'shortens',
    installments,
    payments: payments.map(([day, amount]) => ({ date: calendarDate(day), amount: cents(amount) })),
    left,
    principal: left,
    ...more,
  };
};
const on = (day: string, payments: [string, number][] = [], more: Partial<StandingFacts> = {}) =>
  standingOf(plan(payments, more), calendarDate(day));
const words = (standing: ReturnType<typeof on>) =>
  standing.installments.map(({ state, amount, paid }) => `${state} ${paid}/${amount}`);

describe('where a plan stands', () => {
  test('before the first is due, on the day, the day after', () => {
    expect(on('2026-02-09')).toMatchObject({ state: 'agreed', due: 0, next: { number: 1, amount: 10_000 } });
    expect(on('2026-02-10')).toMatchObject({ state: 'running', due: 10_000, daysBehind: 0, missed: 0 });
    expect(on('2026-02-11')).toMatchObject({ state: 'behind', due: 10_000, daysBehind: 1, missed: 1 });
  });

  test('paid early it covers the next one and not more; paid on the day, twice, in parts', () => {
    expect(on('2026-02-10', [['2026-01-20', 10_000]])).toMatchObject({
      state: 'running',
      due: 0,
      next: { number: 2 },
    });
    expect(on('2026-02-01', [['2026-01-20', 10_000]])).toMatchObject({
      state: 'ahead',
      due: 0,
      next: { number: 2 },
    });
    expect(words(on('2026-02-12', [['2026-02-11', 4_000]])).slice(0, 2)).toEqual([
      'part 4000/10000',
      'to come 0/10000',
    ]);
    const twice = on('2026-02-12', [
      ['2026-02-10', 10_000],
      ['2026-02-10', 10_000],
    ]);
    expect(twice).toMatchObject({ state: 'ahead', due: 0, next: { number: 3 } });
  });

  test('late money pays the oldest first', () => {
    const late = on('2026-04-12', [['2026-04-11', 15_000]]);
    expect(words(late).slice(0, 4)).toEqual([
      'paid 10000/10000',
      'part 5000/10000',
      'due 0/10000',
      'to come 0/10000',
    ]);
    expect(late).toMatchObject({
      state: 'behind',
      since: '2026-03-10',
      missed: 2,
      due: 15_000,
      daysBehind: 33,
    });
  });

  test('extra money: over sooner, or lower, as was agreed', () => {
    const paid: [string, number][] = [
      ['2026-02-10', 10_000],
      ['2026-02-20', 35_000],
    ];
    // The next one is covered; 250.00 more are extra.
    expect(words(on('2026-02-21', paid))).toEqual([
      'paid 10000/10000',
      'paid 10000/10000',
      'to come 0/10000',
      'to come 0/5000',
      'dropped 0/0',
      'dropped 0/0',
    ]);
    expect(words(on('2026-02-21', paid, { extra: 'lowers' }))).toEqual([
      'paid 10000/10000',
      'paid 10000/10000',
      'to come 0/3750',
      'to come 0/3750',
      'to come 0/3750',
      'to come 0/3750',
    ]);
  });

  test('less is owed than was agreed, since a payer corrected itself: the last ones drop', () => {
    expect(words(on('2026-01-20', [], { left: cents(25_000), principal: cents(25_000) }))).toEqual([
      'to come 0/10000',
      'to come 0/10000',
      'to come 0/5000',
      'dropped 0/0',
      'dropped 0/0',
      'dropped 0/0',
    ]);
  });

  test('an ended plan asks for nothing, whatever is missed', () => {
    for (const status of ['finished', 'changed', 'cancelled', 'broken', 'proposed'] as const)
      expect(on('2026-09-01', [], { status })).toMatchObject({
        state: status,
        due: 0,
        daysBehind: 0,
        next: null,
      });
  });

  test('broken by so many missed, or so many days', () => {
    const behind = on('2026-03-12');
    expect(behind).toMatchObject({ missed: 2, daysBehind: 30 });
    expect(brokenBy(behind, { missed: 2, days: 0 })).toBe('2 installments are missed');
    expect(brokenBy(behind, { missed: 3, days: 31 })).toBeNull();
    expect(brokenBy(behind, { missed: 3, days: 30 })).toBe('it is 30 days behind');
    expect(brokenBy(behind, { missed: 0, days: 0 })).toBeNull();
  });

  test('property: whatever is paid and when, what is asked is never more than what is left, and nothing is asked twice', () => {
    const payment = fc.tuple(fc.integer({ min: 0, max: 240 }), fc.integer({ min: 1, max: 20_000 }));
    fc.assert(
      fc.property(
        fc.array(payment, { maxLength: 8 }),
        fc.constantFrom<Extra>('shortens', 'lowers'),
        fc.integer({ min: 0, max: 260 }),
        (given, extra, after) => {
          let left = 60_000;
          const payments = [...given]
            .sort(([a], [b]) => a - b)
            .flatMap(([days, amount]): [string, number][] => {
              const part = Math.min(amount, left);
              left -= part;
              return part > 0 ? [[addDays(agreed, days), part]] : [];
            });
          const last = payments.at(-1)?.[0] ?? agreed;
          const today = addDays(last as CalendarDate, after);
          const standing = standingOf(plan(payments, { extra }), today);
          const asked = standing.installments.map(({ amount, paid }) => cents(amount - paid));
          expect(sum(asked)).toBeLessThanOrEqual(left);
          // Before the last due date, all that is left is asked by some installment, but for cents of leveling.
          expect(left - sum(asked)).toBeLessThanOrEqual(extra === 'lowers' ? 6 : 0);
          expect(standing.paid + standing.left).toBe(60_000);
          expect(standing.due).toBeLessThanOrEqual(left);
          for (const amount of asked) expect(amount).toBeGreaterThanOrEqual(0);
        },
      ),
    );
  });
});

describe('the interest of a running plan', () => {
  const facts = {
    rate: basisPoints(1200),
    every: 'month' as const,
    interestBy: 'period' as const,
    first,
    principal: cents(50_000),
    counted: 0,
    through: agreed,
  };

  test('comes due on due dates; caught up, each on the principal that is open', () => {
    expect(interestThrough(facts, calendarDate('2026-02-09'))).toEqual([]);
    expect(
      interestThrough(facts, calendarDate('2026-03-10')).map(({ date, amount }) => [date, amount]),
    ).toEqual([
      ['2026-02-10', 500],
      ['2026-03-10', 500],
    ]);
    expect(interestThrough({ ...facts, counted: 2 }, calendarDate('2026-03-20'))).toEqual([]);
  });

  test('by days also through the day on which it is paid; on nothing there is none', () => {
    const days = { ...facts, interestBy: 'days' as const };
    // 500.00 × 12 % × 10 / 365 is 1.64.
    expect(interestThrough(days, calendarDate('2026-01-20'), true)).toEqual([
      { date: '2026-01-20', amount: 164, counted: 0 },
    ]);
    expect(
      interestThrough({ ...days, principal: cents(0) }, calendarDate('2026-03-20'), true).map(
        ({ amount }) => amount,
      ),
    ).toEqual([0, 0, 0]);
  });

  test('property: paid on each due date, a plan costs what its quote says and ends at zero', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 20_000, max: 900_000 }).map(cents),
        fc.integer({ min: 0, max: 2400 }).map(basisPoints),
        fc.integer({ min: 1, max: 36 }),
        fc.constantFrom('period' as const, 'days' as const),
        (amount, rate, count, interestBy) => {
          const terms = {
            amount,
            down: cents(0),
            rate,
            every: 'month' as const,
            by: { installments: count },
            agreed,
            first,
            interestBy,
          };
          const { installments, financeCharge } = quote(terms);
          let principal: Cents = amount;
          let interest = 0;
          let [counted, through] = [0, agreed];
          for (const one of installments) {
            for (const due of interestThrough({ ...terms, principal, counted, through }, one.date, true)) {
              interest += due.amount;
              ({ counted } = due);
              through = due.date;
            }
            principal = cents(principal - one.principal);
          }
          expect(principal).toBe(0);
          expect(interest).toBe(financeCharge);
        },
      ),
    );
  });
});
