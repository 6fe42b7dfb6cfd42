import fc from 'fast-check';
import { type CalendarDate, addDays, calendarDate } from '../calendar';
import { type Cents, basisPoints, cents, sum } from '../money';
import { interestThrough } from './interest';
import { quote } from './quote';
import { type ProgressFacts, asksUntil, brokenBy, planWords, progressOf } from './progress';
import { type Extra, dueOn } from './terms';

const agreed = calendarDate('2026-01-10');
const first = calendarDate('2026-02-10');
/** 600.00 in six installments of 100.00, without interest, as it stands after payments. */
const plan = (payments: [string, number][], more: Partial<ProgressFacts> = {}): ProgressFacts => {
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
    interestBy: 'period',
    downOn: agreed,
    downLeft: cents(0),
    first,
    counted: 0,
    through: agreed,
    installments,
    payments: payments.map(([day, amount], at) => ({
      date: calendarDate(day),
      amount: cents(amount),
      principal: cents(60_000 - payments.slice(0, at + 1).reduce((all, [, one]) => all + one, 0)),
    })),
    left,
    principal: left,
    ...more,
  };
};
/** A plan with interest as it stands in the books on a day, by arithmetic of its own: interest on each due date, paid before principal. */
function inBooks(
  rate: number,
  extra: Extra,
  given: readonly (readonly [days: number, amount: number])[],
  day: CalendarDate,
): ProgressFacts {
  const { installments } = quote({
    amount: cents(60_000),
    down: cents(0),
    rate: basisPoints(rate),
    every: 'month',
    by: { installments: 6 },
    agreed,
    first,
    interestBy: 'period',
  });
  let [principal, interest, counted] = [60_000, 0, 0];
  let through: CalendarDate = agreed;
  const payments: { date: CalendarDate; amount: Cents; principal: Cents }[] = [];
  const events = [
    ...given.map(([days, amount]) => ({ date: addDays(agreed, days), amount })),
    ...Array.from({ length: 24 }, (_, at) => ({ date: dueOn(first, 'month', at), amount: null })),
  ].sort((a, b) => (a.date === b.date ? (a.amount === null ? -1 : 1) : a.date < b.date ? -1 : 1));
  for (const { date, amount } of events) {
    if (date > day) break;
    if (amount === null) {
      interest += Math.round((principal * rate) / 10_000 / 12);
      counted += 1;
      through = date;
      continue;
    }
    const part = Math.min(amount, principal + interest);
    if (part === 0) continue;
    const first = Math.min(part, interest);
    interest -= first;
    principal -= part - first;
    payments.push({ date, amount: cents(part), principal: cents(principal) });
  }
  return {
    status: 'accepted',
    rate: basisPoints(rate),
    every: 'month',
    extra,
    interestBy: 'period',
    first,
    counted,
    through,
    installments,
    payments,
    left: cents(principal + interest),
    principal: cents(principal),
    downOn: through,
    downLeft: cents(0),
  };
}
const on = (day: string, payments: [string, number][] = [], more: Partial<ProgressFacts> = {}) =>
  progressOf(plan(payments, more), calendarDate(day));
const words = (progress: ReturnType<typeof on>) =>
  progress.installments.map(({ state, amount, paid }) => `${state} ${paid}/${amount}`);

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

  test('what is lowered stays so on its day: who pays what is shown is in good order', () => {
    const paid: [string, number][] = [
      ['2026-02-10', 10_000],
      ['2026-02-20', 35_000],
    ];
    for (const day of ['2026-04-09', '2026-04-10'])
      expect(words(on(day, paid, { extra: 'lowers' }))[2]).toMatch(/ 0\/3750$/);
    expect(on('2026-04-10', paid, { extra: 'lowers' })).toMatchObject({ due: 3750, state: 'ahead' });
    const all = [
      ...paid,
      ...['04', '05', '06', '07'].map((month): [string, number] => [`2026-${month}-10`, 3750]),
    ];
    expect(on('2026-07-11', all, { extra: 'lowers' })).toMatchObject({ due: 0, left: 0 });
  });

  test('the last one asks for all that is left, and for no more', () => {
    // Every installment a month late at 12 %: the interest of the months between is asked for as well.
    const late = [2, 3, 4, 5, 6, 7].map((month) => [month * 30 + 29, 10_352] as const);
    const day = calendarDate('2026-09-01');
    const facts = inBooks(1200, 'shortens', late, day);
    expect(facts.left).toBeGreaterThan(0);
    expect(progressOf(facts, day)).toMatchObject({ due: facts.left, state: 'behind' });
    // Much was paid before: on its day the last one is what is left.
    const early = inBooks(
      1200,
      'shortens',
      [
        [40, 30_000],
        [100, 20_000],
      ],
      calendarDate('2026-07-10'),
    );
    const { due, left } = progressOf(early, calendarDate('2026-07-10'));
    expect(due).toBeLessThanOrEqual(left);
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

  test('property: what is shown as next is what is due on its day, and a plan is asked for until nothing is left', () => {
    const payment = fc.tuple(fc.integer({ min: 0, max: 170 }), fc.integer({ min: 1, max: 20_000 }));
    fc.assert(
      fc.property(
        fc.array(payment, { maxLength: 6 }),
        fc.constantFrom(0, 500, 1200, 2400),
        fc.constantFrom<Extra>('shortens', 'lowers'),
        fc.integer({ min: 0, max: 400 }),
        (given, rate, extra, after) => {
          const payments = [...given].sort(([a], [b]) => a - b);
          const day = addDays(agreed, after);
          const until = payments.filter(([days]) => days <= after);
          const facts = inBooks(rate, extra, until, day);
          const progress = progressOf(facts, day);
          expect(progress.due).toBeLessThanOrEqual(facts.left);
          // Past the last day all of it is due; before, some installment asks for it.
          if (day >= progress.installments.at(-1)!.date) expect(progress.due).toBe(facts.left);
          else if (facts.left > 0) expect(progress.due + (progress.next?.amount ?? 0)).toBeGreaterThan(0);
          if (!progress.next) return;
          const { date, number, amount } = progress.next;
          // Who pays what is due now sees on that day what was shown.
          const paid = progress.due > 0 ? [...until, [after, progress.due] as const] : until;
          const then = progressOf(inBooks(rate, extra, paid, date), date);
          const one = then.installments[number - 1]!;
          expect(one.amount - one.paid).toBe(amount);
        },
      ),
    );
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
          const progress = progressOf(plan(payments, { extra }), today);
          const asked = progress.installments.map(({ amount, paid }) => cents(amount - paid));
          expect(sum(asked)).toBeLessThanOrEqual(left);
          // Before the last due date, all that is left is asked by some installment, but for cents of leveling.
          expect(left - sum(asked)).toBeLessThanOrEqual(extra === 'lowers' ? 6 : 0);
          expect(progress.paid + progress.left).toBe(60_000);
          expect(progress.due).toBeLessThanOrEqual(left);
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

describe('a down payment that was agreed and is not made', () => {
  const down = { downLeft: cents(6000), downOn: calendarDate('2026-01-10') };

  test('is asked for on its day, and late from the day after', () => {
    const day = on('2026-01-10', [], down);
    expect(day).toMatchObject({ downLeft: 6000, since: '2026-01-10', daysBehind: 0, missed: 0 });
    expect(day.state).not.toBe('behind');
    const later = on('2026-01-14', [], down);
    expect(later).toMatchObject({ state: 'behind', daysBehind: 4, missed: 1, due: 0, oldest: null });
    expect(planWords('P-1', later)).toContain('60.00 of the down payment is not made');
    expect(brokenBy(later, { missed: 1, days: 0 })).toBe('1 payment is missed');
  });

  test('made, or of a plan that does not run, it is nothing', () => {
    expect(on('2026-01-14', [], { ...down, downLeft: cents(0) })).toMatchObject({ missed: 0, since: null });
    expect(on('2026-01-14', [], { ...down, status: 'proposed' })).toMatchObject({ downLeft: 0, since: null });
  });
});

describe('what a plan asks for until a day', () => {
  test('is every installment that comes due by then, less what is paid of it', () => {
    const progress = on('2026-01-14', [['2026-01-12', 4000]]);
    const [first, second] = progress.installments;
    expect(asksUntil(progress, calendarDate('2026-01-14'))).toEqual([]);
    expect(asksUntil(progress, first!.date)).toEqual([{ number: 1, date: first!.date, amount: 6000 }]);
    expect(asksUntil(progress, second!.date).map(({ amount }) => amount)).toEqual([6000, 10_000]);
    expect(asksUntil(on('2026-01-14', [], { status: 'proposed' }), second!.date)).toEqual([]);
    expect(asksUntil(on('2026-01-14', [], { status: 'cancelled' }), second!.date)).toEqual([]);
  });
});
