import fc from 'fast-check';
import { addDays, calendarDate } from '../calendar';
import { ZERO, cents } from '../money';
import { cycleComesRound, dueDateOf, pastDueOf } from './policy';

const day = calendarDate;

describe('the policy of statements', () => {
  test('a statement of the 10th with 14 days to pay is due on the 24th', () => {
    // Common practice, no source.
    expect(dueDateOf(day('2026-03-10'), 14)).toBe('2026-03-24');
    expect(dueDateOf(day('2026-02-20'), 14)).toBe('2026-03-06');
    expect(dueDateOf(day('2026-03-10'), 0)).toBe('2026-03-10');
  });

  test.each([
    // Every 28 days.
    ['days', 28, null, '2026-03-16', true],
    ['days', 28, '2026-02-16', '2026-03-16', true],
    ['days', 28, '2026-02-17', '2026-03-16', false],
    // On the 10th: a run of the 16th is for the 10th, one of the 9th still for the 10th of the month before.
    ['monthly', 10, null, '2026-03-09', true],
    ['monthly', 10, '2026-02-10', '2026-03-16', true],
    ['monthly', 10, '2026-03-10', '2026-03-16', false],
    ['monthly', 10, '2026-03-09', '2026-03-10', true],
    ['monthly', 10, '2026-02-10', '2026-03-09', false],
    ['monthly', 28, '2026-01-28', '2026-02-28', true],
    ['monthly', 1, '2025-12-31', '2026-01-01', true],
  ] as const)('%s %d after %s on %s: %s', (cycle, cycleNumber, last, today, round) =>
    expect(cycleComesRound({ cycle, cycleNumber }, last === null ? null : day(last), day(today))).toBe(round),
  );

  test('past due begins on the day after due date and grace, with what the statement showed', () => {
    const shown = [{ due: day('2026-03-24'), owed: cents(5000) }];
    expect(pastDueOf(cents(5000), shown, 10, day('2026-04-03'))).toBe(0);
    expect(pastDueOf(cents(5000), shown, 10, day('2026-04-04'))).toBe(5000);
    expect(pastDueOf(cents(5000), shown, 0, day('2026-03-24'))).toBe(0);
    expect(pastDueOf(cents(5000), shown, 0, day('2026-03-25'))).toBe(5000);
  });

  test('what was never on a statement, or is paid, is not past due; what came later waits for its own', () => {
    const late = day('2027-01-01');
    expect(pastDueOf(cents(5000), [], 0, late)).toBe(0);
    expect(pastDueOf(cents(2000), [{ due: day('2026-03-24'), owed: cents(5000) }], 0, late)).toBe(2000);
    expect(pastDueOf(cents(9000), [{ due: day('2026-03-24'), owed: cents(5000) }], 0, late)).toBe(5000);
    expect(pastDueOf(cents(-100), [{ due: day('2026-03-24'), owed: cents(5000) }], 0, late)).toBe(0);
    // A payment that was returned gives back what the first statement showed.
    expect(
      pastDueOf(
        cents(5000),
        [
          { due: day('2026-03-24'), owed: cents(5000) },
          { due: day('2026-04-24'), owed: cents(1000) },
        ],
        0,
        late,
      ),
    ).toBe(5000);
  });

  test('never more than is owed, never below zero, and it only grows with time', () => {
    const shown = fc.array(
      fc.record({
        due: fc.integer({ min: 0, max: 400 }).map((n) => addDays(day('2026-01-01'), n)),
        owed: fc.integer({ min: 0, max: 100_000 }).map(cents),
      }),
      { maxLength: 8 },
    );
    fc.assert(
      fc.property(
        shown,
        fc.integer({ min: -5000, max: 100_000 }).map(cents),
        fc.integer({ min: 0, max: 400 }),
        fc.integer({ min: 0, max: 60 }),
        (all, owed, at, grace) => {
          const today = addDays(day('2026-01-01'), at);
          const past = pastDueOf(owed, all, grace, today);
          expect(past).toBeGreaterThanOrEqual(0);
          expect(past).toBeLessThanOrEqual(Math.max(owed, ZERO));
          expect(pastDueOf(owed, all, grace, addDays(today, 1))).toBeGreaterThanOrEqual(past);
        },
      ),
    );
  });
});
