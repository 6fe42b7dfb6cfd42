import fc from 'fast-check';
import { pmt } from 'financial';
import { type CalendarDate, calendarDate, daysBetween } from '../calendar';
import { basisPoints, cents, sum } from '../money';
import { solveRate, unitTime } from './apr';
import { NoPlan, interestOf, needsDisclosure, quote } from './quote';
import { EVERY, type Every, type PlanTerms, dueOn } from './terms';

const plain: PlanTerms = {
  amount: cents(56_000),
  down: cents(6_000),
  rate: basisPoints(500),
  every: 'month',
  by: { installments: 6 },
  agreed: calendarDate('2026-03-16'),
  first: calendarDate('2026-04-16'),
  interestBy: 'period',
};
const of = (more: Partial<PlanTerms>) => quote({ ...plain, ...more });

describe('the annual percentage rate', () => {
  // Examples of 12 CFR 1026, appendix J (c)(1): terms and rates from memory.
  const payments = (count: number, amount: number, first: { full: number; fraction: number }) =>
    Array.from({ length: count }, (_, index) => ({
      time: { full: first.full + index, fraction: first.fraction },
      amount: cents(amount),
    }));
  const month = { months: 1, days: 30, perYear: 12 };
  const quarter = { months: 3, days: 90, perYear: 4 };
  const halfMonth = { full: 0, fraction: 6 / 15 };
  test.each([
    [
      'monthly, regular',
      500_000,
      24,
      23_000,
      unitTime(date('1978-01-10'), date('1978-02-10'), month),
      12,
      9.69,
    ],
    [
      'monthly, long first',
      600_000,
      36,
      20_000,
      unitTime(date('1978-02-10'), date('1978-04-01'), month),
      12,
      11.82,
    ],
    ['half a month, short first', 500_000, 24, 21_917, halfMonth, 24, 10.34],
    [
      'quarterly, long first',
      1_000_000,
      40,
      38_500,
      unitTime(date('1978-05-23'), date('1978-10-01'), quarter),
      4,
      8.97,
    ],
    [
      'weekly, long first',
      50_000,
      30,
      1_760,
      unitTime(date('1978-03-20'), date('1978-04-21'), { days: 7, perYear: 52 }),
      52,
      14.96,
    ],
  ])(
    '%s: within an eighth of a point, and to the hundredth',
    (_, advance, count, amount, first, perYear, rate) => {
      const found = solveRate(cents(advance), payments(count, amount, first), perYear);
      expect(Math.abs(found - rate)).toBeLessThan(0.125);
      expect(found.toFixed(2)).toBe(rate.toFixed(2));
    },
  );

  test('of a plan without odd days it is the rate that was agreed, but for the cents', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 100_000, max: 5_000_000 }).map(cents),
        fc.integer({ min: 100, max: 3600 }).map(basisPoints),
        fc.integer({ min: 2, max: 60 }),
        (amount, rate, installments) => {
          const { apr } = of({ amount, down: cents(0), rate, by: { installments } });
          expect(Math.abs(apr - rate / 100)).toBeLessThan(0.125);
        },
      ),
    );
  });

  test('a first installment far away lowers it', () => {
    expect(of({ first: calendarDate('2026-05-31') }).apr).toBeLessThan(of({}).apr);
  });
});

function date(text: string): CalendarDate {
  return calendarDate(text);
}

describe('a plan', () => {
  test('560.00 less 60.00 at 5 % over 6 months is 84.55 a month, the last 84.56', () => {
    // Check values: common practice, no source.
    const { level, installments, financeCharge, total } = of({});
    expect([level, installments.at(-1)!.amount, financeCharge, total]).toEqual([8455, 8456, 731, 50_731]);
    expect(installments.map(({ date: day }) => day)).toEqual([
      '2026-04-16',
      '2026-05-16',
      '2026-06-16',
      '2026-07-16',
      '2026-08-16',
      '2026-09-16',
    ]);
    // 100.00 paid one month in leave 402.08.
    const interest = interestOf(cents(50_000), basisPoints(500), { every: 'month' });
    expect(50_000 - (10_000 - interest)).toBe(40_208);
  });

  test('from the installment follows the term, from the term the installment', () => {
    expect(of({ by: { installment: cents(8455) } }).installments).toHaveLength(6);
    const fifty = of({ rate: basisPoints(0), by: { installment: cents(5_000) } });
    expect(fifty.installments.map(({ amount }) => amount)).toEqual(Array(10).fill(5000));
    const odd = of({ rate: basisPoints(0), by: { installment: cents(7_000) } });
    expect(odd.installments.at(-1)!.amount).toBe(50_000 - 7 * 7_000);
  });

  test('by days, each installment bears the days since the one before; February is cheaper', () => {
    const { installments } = of({
      interestBy: 'days',
      agreed: calendarDate('2026-01-15'),
      first: calendarDate('2026-02-15'),
      rate: basisPoints(1200),
    });
    // 500.00 × 12 % × 31 / 365 is 5.10; the second for 28 days.
    expect(installments[0]!.interest).toBe(510);
    expect(installments[1]!.interest).toBe(Math.round((installments[0]!.left * 0.12 * 28) / 365));
  });

  test('months keep their day, or end with the month', () => {
    const days = of({ first: calendarDate('2026-08-31') }).installments.map(({ date: day }) => day);
    expect(days.slice(0, 4)).toEqual(['2026-08-31', '2026-09-30', '2026-10-31', '2026-11-30']);
    expect(dueOn(calendarDate('2026-03-02'), 'two-weeks', 2)).toBe('2026-03-30');
  });

  test.each<[Partial<PlanTerms>, NoPlan['field'], RegExp]>([
    [{ amount: cents(0) }, 'amount', /more than zero/],
    [{ down: cents(-1) }, 'down', /below zero/],
    [{ down: cents(56_000) }, 'down', /pays all/],
    [{ rate: basisPoints(0), by: { installments: 0 } }, 'installments', /at least one/],
    [{ by: { installments: 601 } }, 'installments', /601/],
    [{ amount: cents(60_03), down: cents(60_00), by: { installments: 4 } }, 'installments', /cents/],
    [{ by: { installment: cents(0) } }, 'installment', /more than zero/],
    [{ by: { installment: cents(208) } }, 'installment', /never end/],
    [{ by: { installment: cents(209) } }, 'installment', /would take \d+/],
    [{ first: calendarDate('2026-03-15') }, 'first', /before the agreement/],
  ])('%j makes none, at its %s', (more, field, words) => {
    const fault = (): unknown => of(more);
    expect(fault).toThrow(NoPlan);
    expect(fault).toThrow(words);
    try {
      fault();
    } catch (error) {
      expect((error as NoPlan).field).toBe(field);
    }
  });

  test('a disclosure is asked for by a finance charge or by a fifth installment', () => {
    expect(needsDisclosure(of({}))).toBe(true);
    expect(needsDisclosure(of({ rate: basisPoints(0), by: { installments: 4 } }))).toBe(false);
    expect(needsDisclosure(of({ rate: basisPoints(0), by: { installments: 5 } }))).toBe(true);
  });

  const every = fc.constantFrom<Every>('month', 'two-weeks', 'week');
  test('principal sums to what is financed, whatever is agreed; no installment is below zero, and the last takes the rounding', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 700, max: 9_000_000 }).map(cents),
        fc.integer({ min: 0, max: 3600 }).map(basisPoints),
        fc.integer({ min: 1, max: 120 }),
        every,
        fc.constantFrom('period' as const, 'days' as const),
        fc.integer({ min: 0, max: 60 }),
        (amount, rate, installments, how, interestBy, wait) => {
          const first = dueOn(plain.agreed, 'week', Math.floor(wait / 7));
          const found = of({
            amount,
            down: cents(0),
            rate,
            by: { installments },
            every: how,
            interestBy,
            first,
          });
          expect(sum(found.installments.map(({ principal }) => principal))).toBe(amount);
          expect(found.installments.at(-1)!.left).toBe(0);
          expect(found.total).toBe(amount + found.financeCharge);
          for (const { amount: paid, principal, interest } of found.installments) {
            expect(paid).toBe(principal + interest);
            expect(Math.min(principal, interest)).toBeGreaterThanOrEqual(0);
          }
          if (rate === 0) expect(found.financeCharge).toBe(0);
          // By period all but the last are the level one, unless the cents ran out before.
          if (interestBy === 'period')
            for (const one of found.installments.slice(0, -1)) expect(one.amount).toBe(found.level);
        },
      ),
    );
  });

  test('the level installment agrees with a general finance package', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 10_000, max: 9_000_000 }).map(cents),
        fc.integer({ min: 1, max: 3600 }).map(basisPoints),
        fc.integer({ min: 2, max: 120 }),
        every,
        (amount, rate, installments, how) => {
          const { level } = of({ amount, down: cents(0), rate, by: { installments }, every: how });
          const oracle = -pmt(rate / 10_000 / EVERY[how].perYear, installments, amount);
          expect(Math.abs(level - oracle)).toBeLessThan(0.5001);
        },
      ),
    );
  });

  test('from an installment, the term is the shortest that pays it off', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 10_000, max: 500_000 }).map(cents),
        fc.integer({ min: 0, max: 2400 }).map(basisPoints),
        fc.integer({ min: 2, max: 48 }),
        (amount, rate, installments) => {
          const { level } = of({ amount, down: cents(0), rate, by: { installments } });
          const back = of({ amount, down: cents(0), rate, by: { installment: level } });
          expect(Math.abs(back.installments.length - installments)).toBeLessThanOrEqual(1);
          expect(sum(back.installments.map(({ principal }) => principal))).toBe(amount);
          expect(back.installments.at(-1)!.amount).toBeLessThanOrEqual(level + back.installments.length);
          expect(daysBetween(plain.first, back.installments[0]!.date)).toBe(0);
        },
      ),
    );
  });
});
