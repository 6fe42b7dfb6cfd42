import { calendarDate } from '../calendar';
import { cycleComesRound, dueDateOf } from './policy';

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
});
