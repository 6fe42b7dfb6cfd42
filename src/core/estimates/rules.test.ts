/** Periods of rules, which of them is the narrowest, and how a limit is said. */
import fc from 'fast-check';
import { type CalendarDate, addDays, addMonths, calendarDate } from '../calendar';
import { cents } from '../money';
import { type Period, type Rule, type RuleOf, limitWords, narrowestOf, periodStart } from './rules';

const day = calendarDate;
const begun = (period: Period, on: string, begins: string | null = null) =>
  periodStart(period, day(on), begins === null ? null : day(begins));

test('periods begin where they do; a year of its own on its day, on the last of the month where there is none', () => {
  // Worked by hand, over leap years and month ends.
  expect(begun({ every: 'year' }, '2026-12-31')).toBe('2026-01-01');
  expect(begun({ every: 'month' }, '2026-02-28')).toBe('2026-02-01');
  expect(begun({ every: 'day' }, '2026-02-28')).toBe('2026-02-28');
  expect(begun({ every: 'life' }, '2026-02-28')).toBe('0001-01-01');
  expect(begun({ every: 'coverage' }, '2026-02-28', '2025-06-01')).toBe('2025-06-01');
  expect(begun({ every: 'coverage' }, '2026-02-28')).toBe('0001-01-01');
  expect(begun({ every: 'months', months: 6 }, '2026-08-31')).toBe('2026-02-28');
  const july: Period = { every: 'year', anchor: day('2024-07-01') };
  expect(begun(july, '2026-06-30')).toBe('2025-07-01');
  expect(begun(july, '2026-07-01')).toBe('2026-07-01');
  expect(begun({ ...july, renews: false }, '2026-07-01')).toBe('2024-07-01');
  const leap: Period = { every: 'year', anchor: day('2024-02-29') };
  expect(begun(leap, '2025-02-27')).toBe('2024-02-29');
  expect(begun(leap, '2025-02-28')).toBe('2025-02-28');
  expect(begun(leap, '2028-02-28')).toBe('2027-02-28');
  expect(begun(leap, '2028-02-29')).toBe('2028-02-29');
});

test('property: a day is in a year that began on or before it, and the next one begins after it', () => {
  const days = fc.integer({ min: -3000, max: 3000 }).map((n) => addDays(day('2026-01-01'), n));
  fc.assert(
    fc.property(days, days, (anchor: CalendarDate, on: CalendarDate) => {
      const from = periodStart({ every: 'year', anchor }, on, null);
      expect(from <= on).toBe(true);
      expect(periodStart({ every: 'year', anchor }, from, null)).toBe(from);
      const next = addMonths(anchor, 12 * (Number(from.slice(0, 4)) - Number(anchor.slice(0, 4)) + 1));
      expect(next > on).toBe(true);
    }),
  );
});

test('what is said of the code counts, else of the category, else of all services', () => {
  const share = (id: string, scope?: Rule['scope']): Rule => ({
    kind: 'copay',
    id,
    amount: cents(1),
    once: 'visit',
    order: 'between',
    ...(scope ? { scope } : {}),
  });
  const rules = [
    share('all'),
    share('therapy', { category: 'therapy' }),
    share('code', { codes: ['97110'] }),
  ];
  const of = (code: string, category: string) =>
    narrowestOf(rules, 'copay', { code, category }).map(({ id }) => id);
  expect(of('97110', 'therapy')).toEqual(['code']);
  expect(of('97140', 'therapy')).toEqual(['therapy']);
  expect(of('99213', 'office')).toEqual(['all']);
  expect(narrowestOf(rules.slice(1), 'copay', { code: '99213', category: 'office' })).toEqual([]);
});

test('limits are said as billers say them', () => {
  const limit = (more: Partial<RuleOf<'limit'>>) =>
    limitWords({
      kind: 'limit',
      id: 'x',
      measure: 'money',
      most: 100_000,
      holder: 'person',
      period: { every: 'year' },
      ...more,
    });
  expect(limit({})).toBe('yearly maximum');
  expect(limit({ period: { every: 'life' }, scope: { category: 'orthodontic' } })).toBe(
    'maximum for life for orthodontic',
  );
  expect(limit({ period: { every: 'months', months: 36 } })).toBe('maximum in 36 months');
  expect(limit({ measure: 'visits', most: 20 })).toBe('20 visits a year');
  expect(
    limit({ measure: 'units', most: 4, period: { every: 'day' }, scope: { codes: ['97110', '97140'] } }),
  ).toBe('4 units a day for 97110, 97140');
  expect(
    limit({ measure: 'services', most: 1, period: { every: 'months', months: 60 }, byTooth: true }),
  ).toBe('1 service in 60 months and tooth');
});
