/** Good faith estimates (45 CFR 149.610, 149.620; from memory): days, holidays, and what may be disputed. */
import fc from 'fast-check';
import { runs } from '../../testing/runs';
import { addDays, calendarDate } from '../calendar';
import { cents } from '../money';
import {
  addBusinessDays,
  businessDaysUntil,
  disputed,
  federalHolidays,
  givenAnewBy,
  goodFaithDue,
  isBusinessDay,
} from './good-faith';

const day = calendarDate;

test('federal holidays as the Office of Personnel Management lists them for 2026', () => {
  expect(federalHolidays(2026).slice(0, 11)).toEqual(
    [
      '2026-01-01',
      '2026-01-19',
      '2026-02-16',
      '2026-05-25',
      '2026-06-19',
      // A Saturday: kept on Friday.
      '2026-07-03',
      '2026-09-07',
      '2026-10-12',
      '2026-11-11',
      '2026-11-26',
      '2026-12-25',
    ].map(day),
  );
  // New Year of 2022 was a Saturday, and kept in 2021; Juneteenth of 2022 was a Sunday.
  expect(isBusinessDay(day('2021-12-31'))).toBe(false);
  expect(isBusinessDay(day('2022-06-20'))).toBe(false);
});

test.each([
  // Booked on Monday for Thursday: three business days ahead, one business day to give it.
  ['2026-03-16', '2026-03-19', false, '2026-03-17'],
  // For Wednesday: two, and nothing has to be given, unless it is asked for.
  ['2026-03-16', '2026-03-18', false, null],
  ['2026-03-16', '2026-03-18', true, '2026-03-19'],
  // Ten business days ahead: three to give it.
  ['2026-03-16', '2026-03-30', false, '2026-03-19'],
  ['2026-03-16', '2026-03-27', false, '2026-03-17'],
  // Booked on Friday before Memorial Day for Thursday: Tuesday, Wednesday, Thursday.
  ['2026-05-22', '2026-05-28', false, '2026-05-26'],
  // Nothing booked, only asked.
  ['2026-12-24', null, true, '2026-12-30'],
  ['2026-12-24', null, false, null],
])('on %s for %s, asked %s: by %s', (on, bookedFor, asked, due) => {
  expect(goodFaithDue({ on: day(on), bookedFor: bookedFor === null ? null : day(bookedFor), asked })).toBe(
    due,
  );
});

test('given anew at the latest one business day before', () => {
  expect(givenAnewBy(day('2026-03-16'))).toBe('2026-03-13');
  expect(givenAnewBy(day('2026-07-06'))).toBe('2026-07-02');
});

test('business days added are those that are counted', () => {
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 4000 }), fc.integer({ min: 1, max: 40 }), (offset, days) => {
      const from = addDays(day('2024-01-01'), offset);
      const to = addBusinessDays(from, days);
      expect(isBusinessDay(to)).toBe(true);
      expect(businessDaysUntil(from, to)).toBe(days);
    }),
    { numRuns: runs(200) },
  );
});

test('400.00 or more above what was said of one provider may be disputed, and not the sum of two', () => {
  const row = (provider: string, said: number, charged: number) => ({
    provider,
    said: cents(said),
    charged: cents(charged),
  });
  expect(disputed([row('A', 100_00, 499_99)])).toEqual([]);
  expect(disputed([row('A', 100_00, 500_00)])).toEqual([row('A', 100_00, 500_00)]);
  expect(disputed([row('A', 100_00, 300_00), row('B', 100_00, 300_00)])).toEqual([]);
  expect(disputed([row('A', 100_00, 300_00), row('A', 50_00, 250_00)])).toEqual([row('A', 150_00, 550_00)]);
});
