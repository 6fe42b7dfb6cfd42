import fc from 'fast-check';
import { addDays, calendarDate } from '../calendar';
import { cents, sum } from '../money';
import { ageByResponsibility, bucketOf } from './aging';

const today = calendarDate('2026-03-16');

describe('aging', () => {
  test('buckets are 0–30, 31–60, 61–90, 91–120 and over 120 days', () => {
    // Common practice, no source.
    expect([0, 30, 31, 60, 61, 90, 91, 120, 121].map(bucketOf)).toEqual([0, 0, 1, 1, 2, 2, 3, 3, 4]);
  });

  test('a payment takes off the oldest responsibility of its charge', () => {
    const at = (days: number, amount: number, chargeId = 1) => ({
      chargeId,
      date: addDays(today, -days),
      amount: cents(amount),
    });
    expect(ageByResponsibility([at(100, 5000), at(40, 2000), at(10, -5500)], today)).toEqual([
      0, 1500, 0, 0, 0,
    ]);
    expect(ageByResponsibility([at(100, 5000), at(10, -5500), at(5, 700, 2)], today)).toEqual([
      200, 0, 0, 0, 0,
    ]);
  });

  test('the buckets always sum to the balance', () => {
    const move = fc.record({
      chargeId: fc.integer({ min: 1, max: 4 }),
      days: fc.integer({ min: 0, max: 400 }),
      amount: fc.integer({ min: -50_000, max: 50_000 }).filter((n) => n !== 0),
    });
    fc.assert(
      fc.property(fc.array(move, { maxLength: 40 }), (moves) => {
        const movements = moves
          .sort((a, b) => b.days - a.days)
          .map((m) => ({ chargeId: m.chargeId, date: addDays(today, -m.days), amount: cents(m.amount) }));
        expect(sum(ageByResponsibility(movements, today))).toBe(sum(movements.map((m) => m.amount)));
      }),
    );
  });
});
