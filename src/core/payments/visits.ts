/** Visits to come as another program tells them: a table (CSV) or a calendar (iCalendar, RFC 5545). */
import ICAL from 'ical.js';
import Papa from 'papaparse';
import { type CalendarDate, parseDate } from '../calendar';
import { typedDate } from '../typed-date';

/** A visit to come, as a file says it. `time` is `09:30` or empty; `provider` and `site` in words, as they are called there. */
export interface ToldVisit {
  key: string;
  last: string;
  first: string;
  birthDate: CalendarDate | null;
  day: CalendarDate;
  time: string;
  provider: string;
  site: string;
  reason: string;
  codes: string[];
  /** It is told that it does not come. */
  canceled: boolean;
}

/** What a file says, and what of it cannot be read, each with its row or event. */
export interface ToldVisits {
  visits: ToldVisit[];
  faults: string[];
}

/** The columns of the table; those without which a row says nothing. */
export const VISIT_COLUMNS = {
  key: false,
  last: true,
  first: true,
  'birth date': false,
  day: true,
  time: false,
  provider: false,
  site: false,
  reason: false,
  codes: false,
  canceled: false,
} as const;
type Column = keyof typeof VISIT_COLUMNS;

const TIME = /^([01]?\d|2[0-3]):([0-5]\d)$/;
const timeOf = (text: string): string | null => {
  if (text === '') return '';
  const found = TIME.exec(text);
  return found ? `${found[1]!.padStart(2, '0')}:${found[2]!}` : null;
};
const codesOf = (text: string): string[] =>
  text
    .split(/[\s,;]+/)
    .filter((code) => code !== '')
    .map((code) => code.toUpperCase());

/** A key of a visit that has none: who, when and with whom. */
const ownKey = (visit: Omit<ToldVisit, 'key'>): string =>
  [visit.last, visit.first, visit.birthDate ?? '', visit.day, visit.time, visit.provider]
    .join('|')
    .toLowerCase();

/** Reads a table of visits. The first row names its columns: {@link VISIT_COLUMNS}, in any order. */
export function readVisitTable(text: string, today: CalendarDate): ToldVisits {
  const { data, errors, meta } = Papa.parse<Record<string, string>>(text.replace(/^\uFEFF/, ''), {
    header: true,
    skipEmptyLines: 'greedy',
    transformHeader: (name) => name.trim().toLowerCase(),
  });
  const broken = errors.find(({ type }) => type === 'Quotes');
  if (broken) return { visits: [], faults: [`Row ${(broken.row ?? 0) + 1}: a quote has no end`] };
  const columns = meta.fields ?? [];
  const missing = (Object.keys(VISIT_COLUMNS) as Column[]).filter(
    (name) => VISIT_COLUMNS[name] && !columns.includes(name),
  );
  if (missing.length > 0) return { visits: [], faults: [`Column ${missing.join(', ')} is missing`] };
  const visits: ToldVisit[] = [];
  const faults: string[] = [];
  data.forEach((row, at) => {
    const of = (name: Column): string => (row[name] ?? '').trim();
    const fault = (words: string): void => void faults.push(`Row ${at + 2}: ${words}`);
    const day = typedDate(of('day'), today);
    const birth = of('birth date') === '' ? null : typedDate(of('birth date'), today);
    const time = timeOf(of('time'));
    if (of('last') === '') return fault('last is empty');
    if (day === null) return fault(`day “${of('day').slice(0, 20)}” is no day`);
    if (of('birth date') !== '' && birth === null)
      return fault(`birth date “${of('birth date').slice(0, 20)}” is no day`);
    if (time === null) return fault(`time “${of('time').slice(0, 20)}” is not written like 09:30`);
    const visit = {
      last: of('last'),
      first: of('first'),
      birthDate: birth,
      day,
      time,
      provider: of('provider'),
      site: of('site'),
      reason: of('reason').slice(0, 100),
      codes: codesOf(of('codes')),
      canceled: /^(y|yes|true|1|x)$/i.test(of('canceled')),
    };
    visits.push({ key: of('key') || ownKey(visit), ...visit });
  });
  return { visits, faults };
}

/**
 * Reads a calendar of visits: of each event its UID, beginning, SUMMARY as the person (`Last, First` or `First Last`), LOCATION as the
 * site, ORGANIZER or the first ATTENDEE as the provider, DESCRIPTION as the reason, STATUS. An event that repeats is told as what it
 * is: each visit is an event of its own. A
 * beginning in universal time (with Z) is said as the practice's clock says it.
 */
export function readVisitCalendar(text: string, wall: (moment: Date) => string): ToldVisits {
  let events: ICAL.Component[];
  try {
    events = new ICAL.Component(ICAL.parse(text)).getAllSubcomponents('vevent');
  } catch {
    return { visits: [], faults: ['This is no calendar (iCalendar, RFC 5545)'] };
  }
  const visits: ToldVisit[] = [];
  const faults: string[] = [];
  for (const [at, component] of events.entries()) {
    const textOf = (name: string): string => {
      const value: unknown = component.getFirstPropertyValue(name);
      return typeof value === 'string' ? value.trim() : '';
    };
    const fault = (words: string): void => void faults.push(`Event ${at + 1}: ${words}`);
    if (component.hasProperty('rrule')) {
      fault('it repeats: send each visit as an event of its own');
      continue;
    }
    const start: unknown = component.getFirstPropertyValue('dtstart');
    const said = start instanceof ICAL.Time ? saidHere(start, wall) : null;
    const day = said === null ? null : parseDate(said.day);
    const person = textOf('summary');
    if (day === null) fault('it has no beginning (DTSTART)');
    else if (person === '') fault('it names nobody (SUMMARY)');
    else {
      const [last = '', first = ''] = person.includes(',')
        ? person.split(',', 2).map((part) => part.trim())
        : [person.slice(person.lastIndexOf(' ') + 1), person.slice(0, Math.max(0, person.lastIndexOf(' ')))];
      const provider = component.getFirstProperty('organizer') ?? component.getFirstProperty('attendee');
      const named: unknown = provider?.getParameter('cn');
      const visit = {
        last,
        first,
        birthDate: null,
        day,
        time: said?.time ?? '',
        provider: typeof named === 'string' ? named : '',
        site: textOf('location'),
        reason: textOf('description').slice(0, 100),
        codes: codesOf(textOf('categories')),
        canceled: textOf('status').toUpperCase() === 'CANCELLED',
      };
      visits.push({ key: textOf('uid') || ownKey(visit), ...visit });
    }
  }
  return { visits, faults };
}

/** The day and time of an event as the practice's clock says them. */
function saidHere(at: ICAL.Time, wall: (moment: Date) => string): { day: string; time: string } {
  const said = at.toString();
  if (at.isDate) return { day: said.slice(0, 10), time: '' };
  const local = said.endsWith('Z') ? wall(at.toJSDate()) : said;
  return { day: local.slice(0, 10), time: local.slice(11, 16) };
}

/** Reads a file of visits, by what it begins with. @param wall what the practice's clock says at a moment: `2026-03-16 10:00` */
export const readToldVisits = (
  text: string,
  today: CalendarDate,
  wall: (moment: Date) => string,
): ToldVisits =>
  /^\s*BEGIN:VCALENDAR/i.test(text) ? readVisitCalendar(text, wall) : readVisitTable(text, today);
