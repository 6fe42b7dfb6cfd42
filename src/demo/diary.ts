/** What happens in the scenario besides its weeks, each on its day and in the order of the days. */
import type { CalendarDate } from '../core/calendar';
import { addDays } from '../core/calendar';
import type { Context, Role } from '../server/access';

/** The context of somebody's work on a day of the history. */
export type On = (day: CalendarDate, role?: Role) => Context;

/** Notes what happens so many days before the last one; on the same day in the order in which it was noted. */
export type At = (ago: number, run: (day: CalendarDate) => Promise<unknown>) => void;

/** A diary of what is to happen until the last day. */
export function openDiary(today: CalendarDate): { at: At; until: (day: CalendarDate) => Promise<void> } {
  const noted: { day: CalendarDate; run: (day: CalendarDate) => Promise<unknown> }[] = [];
  return {
    at: (ago, run) => void noted.push({ day: addDays(today, -ago), run }),
    until: async (last) => {
      for (;;) {
        const next = noted
          .filter(({ day }) => day <= last)
          .reduce<(typeof noted)[number] | null>((a, b) => (a === null || b.day < a.day ? b : a), null);
        if (!next) return;
        noted.splice(noted.indexOf(next), 1);
        await next.run(next.day);
      }
    },
  };
}
