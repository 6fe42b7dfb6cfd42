import fc from 'fast-check';
import dayjs from 'dayjs';
import utc from 'dayjs/plugin/utc';
import {
  addDays,
  addMonths,
  ageOn,
  calendarDate,
  daysBetween,
  formatDate,
  parseDate,
  parseX12Date,
  toX12Date,
  weekday,
} from './calendar';

dayjs.extend(utc);
const anyDate = fc.integer({ min: 0, max: 90_000 }).map((n) => addDays(calendarDate('1900-01-01'), n));

describe('calendar', () => {
  test('days and months agree with dayjs, a general date library', () => {
    fc.assert(
      fc.property(anyDate, fc.integer({ min: -400, max: 400 }), (date, n) => {
        expect(addDays(date, n)).toBe(dayjs.utc(date).add(n, 'day').format('YYYY-MM-DD'));
        expect(addMonths(date, n)).toBe(dayjs.utc(date).add(n, 'month').format('YYYY-MM-DD'));
        expect(weekday(date)).toBe(dayjs.utc(date).day());
        expect(daysBetween(date, addDays(date, n))).toBe(n);
        expect(parseX12Date(toX12Date(date))).toBe(date);
      }),
    );
  });

  test.each(['2026-02-29', '2026-13-01', '2026-1-1', '0001-01-01', 'today', ''])(
    '“%s” is not a date',
    (text) => expect(parseDate(text)).toBeNull(),
  );

  test('a statement printed on the 10th with 14 days to pay is due on the 24th', () => {
    // Common practice, no source.
    expect(addDays(calendarDate('2026-03-10'), 14)).toBe('2026-03-24');
  });

  test('age and words', () => {
    expect(ageOn(calendarDate('2000-02-29'), calendarDate('2026-02-28'))).toBe(25);
    expect(ageOn(calendarDate('2000-02-29'), calendarDate('2026-03-01'))).toBe(26);
    expect(formatDate('2026-03-04')).toBe('4 Mar 2026');
  });
});
