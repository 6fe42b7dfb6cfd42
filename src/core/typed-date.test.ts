import fc from 'fast-check';
import { type CalendarDate, addDays, calendarDate } from './calendar';
import { typedDate } from './typed-date';

const today = calendarDate('2026-11-24');

describe('dates as people type them', () => {
  test.each([
    ['t', '2026-11-24'],
    ['T', '2026-11-24'],
    ['+7', '2026-12-01'],
    ['-24', '2026-10-31'],
    ['112426', '2026-11-24'],
    ['11242026', '2026-11-24'],
    ['11/24', '2026-11-24'],
    ['1/5', '2026-01-05'],
    ['1.5.26', '2026-01-05'],
    ['11/24/2026', '2026-11-24'],
    ['2026-11-24', '2026-11-24'],
    // Two digits of a year that would lie more than a year ahead are of the last century.
    ['02/03/27', '2027-02-03'],
    ['02/03/28', '1928-02-03'],
    ['070480', '1980-07-04'],
  ])('“%s” is %s', (typed, expected) => expect(typedDate(typed, today)).toBe(expected));

  test.each(['', 'x', '13/01', '02/30', '22926', '1/1/1', '99999999', '++7', '+99999', '0/0', '11/24/202'])(
    '“%s” is no date',
    (typed) => expect(typedDate(typed, today)).toBeNull(),
  );

  test('a date written out is read as itself, from whatever day', () => {
    const day = fc.integer({ min: -40_000, max: 40_000 }).map((n) => addDays(today, n));
    fc.assert(
      fc.property(day, day, (date, now) => {
        const [year, month, dayOfMonth] = date.split('-');
        expect(typedDate(date, now)).toBe(date);
        expect(typedDate(`${month}/${dayOfMonth}/${year}`, now)).toBe(date);
        expect(typedDate(`${month}${dayOfMonth}${year}`, now)).toBe(date);
      }),
    );
  });

  test('days ahead and back are counted from today', () => {
    fc.assert(
      fc.property(fc.integer({ min: -9999, max: 9999 }), (n) => {
        const wanted: CalendarDate = addDays(today, n);
        expect(typedDate(n < 0 ? String(n) : `+${n}`, today)).toBe(wanted);
      }),
    );
  });
});
