import fc from 'fast-check';
import { addDays, calendarDate } from '../calendar';
import { cents, sum } from '../money';
import { ageOwed, bucketOf } from './aging';

const today = calendarDate('2026-03-16');
const owed = (days: number | null, amount: number) => ({
  owed: cents(amount),
  since: days === null ? null : addDays(today, -days),
});

describe('aging', () => {
  test('buckets are 0–30, 31–60, 61–90, 91–120 and over 120 days', () => {
    // Common practice, no source.
    expect([0, 30, 31, 60, 61, 90, 91, 120, 121].map(bucketOf)).toEqual([0, 0, 1, 1, 2, 2, 3, 3, 4]);
  });

  test('each charge has the age of its responsibility; what nobody was responsible for yet is new', () => {
    expect(ageOwed([owed(100, 5000), owed(40, 2000), owed(41, 1), owed(null, 300)], today)).toEqual([
      300, 2001, 0, 5000, 0,
    ]);
  });

  test('what is below zero counts as new, however old the charge is', () => {
    expect(ageOwed([owed(400, -700), owed(400, 200)], today)).toEqual([-700, 0, 0, 0, 200]);
  });

  test('the buckets always sum to what is owed', () => {
    const charge = fc.record({
      days: fc.option(fc.integer({ min: -5, max: 400 })),
      amount: fc.integer({ min: -50_000, max: 50_000 }),
    });
    fc.assert(
      fc.property(fc.array(charge, { maxLength: 40 }), (charges) => {
        const rows = charges.map(({ days, amount }) => owed(days, amount));
        expect(sum(ageOwed(rows, today))).toBe(sum(rows.map((row) => row.owed)));
      }),
    );
  });
});
