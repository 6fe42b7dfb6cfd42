/** Dates as people type them. */
import { type CalendarDate, addDays, parseDate } from './calendar';

const two = (text: string): string => text.padStart(2, '0');

/** The year of two digits: this century, unless that lies more than a year ahead; then the last one. */
function fullYear(text: string, today: CalendarDate): string {
  if (text.length === 4) return text;
  const century = today.slice(0, 2);
  const near = `${century}${text}`;
  return Number(near) > Number(today.slice(0, 4)) + 1 ? `${Number(century) - 1}${text}` : near;
}

/**
 * Reads a date as it is typed: `t` today, `+7` and `-3` days from today, `112426` and `11242026`, `11/24` (of this year),
 * `11/24/26`, `11/24/2026`, `2026-11-24`.
 * @returns null when there is no such date
 */
export function typedDate(typed: string, today: CalendarDate): CalendarDate | null {
  const text = typed.trim().toLowerCase();
  if (text === 't') return today;
  if (/^[+-]\d{1,4}$/.test(text)) return addDays(today, Number(text));
  const digits = /^(\d\d)(\d\d)(\d\d|\d{4})$/.exec(text);
  const parted = /^(\d{1,2})[/.](\d{1,2})(?:[/.](\d\d|\d{4}))?$/.exec(text);
  const found = digits ?? parted;
  if (!found) return parseDate(text);
  const [, month = '', day = '', year] = found;
  return parseDate(`${year ? fullYear(year, today) : today.slice(0, 4)}-${two(month)}-${two(day)}`);
}
