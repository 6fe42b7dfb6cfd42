/** The clock of the tests: it begins on the morning of one day, and goes on. */
import { type CalendarDate, calendarDate } from '../core/calendar';
import { setClock } from '../db/clock';
import { zone } from '../server/access';
import type { TestDatabase } from './database';

/** The business date of the tests. */
export const TODAY = calendarDate('2026-03-16');

/** The time of the tests' beginning, as the practice's clocks on the wall say it. */
export const BEGINNING = `${TODAY}T10:00`;

/** The morning of a day at the practice of the tests: ten o'clock in summer, nine in winter. */
export const morningOf = (day: CalendarDate): Date => new Date(`${day}T17:00:00Z`);

/** Runs something while the clock of a test's database goes on from a local time, such as 2026-03-08T01:59:50. */
export async function at<T>(t: TestDatabase, local: string, run: () => Promise<T>): Promise<T> {
  await setClock(t.pool, local, zone());
  try {
    return await run();
  } finally {
    await setClock(t.pool, BEGINNING, zone());
  }
}
