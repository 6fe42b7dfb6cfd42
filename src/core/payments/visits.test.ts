/** Visits to come by table and calendar (RFC 5545, examples made up in its form). */
import { calendarDate } from '../calendar';
import { readToldVisits } from './visits';

const today = calendarDate('2026-03-16');
/** Winter time of Los Angeles, eight hours behind: enough for the days of this test. */
const losAngeles = (moment: Date): string =>
  new Date(moment.getTime() - 8 * 3_600_000).toISOString().slice(0, 16).replace('T', ' ');
const read = (text: string) => readToldVisits(text, today, losAngeles);

test('a table: columns in any order, times, birth dates and codes as people write them', () => {
  const { visits, faults } = read(
    '\uFEFFDay,Last,First,Birth Date,Time,Codes,Provider,Site,Key,Canceled\r\n2026-03-17,Sato,Haruka,5/4/1991,9:05,"99213; d0120",Tamura,Mill Lane,X1,\r\n"3/18/2026","de la Cruz, Jr.",Ana,,,,,,,yes\r\n',
  );
  expect(faults).toEqual([]);
  expect(visits).toMatchObject([
    {
      key: 'X1',
      last: 'Sato',
      first: 'Haruka',
      birthDate: '1991-05-04',
      day: '2026-03-17',
      time: '09:05',
      codes: ['99213', 'D0120'],
      provider: 'Tamura',
      site: 'Mill Lane',
      canceled: false,
    },
    { last: 'de la Cruz, Jr.', day: '2026-03-18', time: '', canceled: true },
  ]);
  // Without a key of its own, who, when and with whom.
  expect(visits[1]!.key).toContain('de la cruz, jr.|ana||2026-03-18');
});

test('what cannot be read is named by its row, and the rest is taken', () => {
  const { visits, faults } = read(
    'last,first,day,time\nSato,Haruka,30 February,\nSato,Haruka,2026-03-17,25:00\n,Nobody,2026-03-17,\nIbarra,Luz,2026-03-17,10:00\n',
  );
  expect(visits.map(({ last }) => last)).toEqual(['Ibarra']);
  expect(faults).toEqual([
    'Row 2: day “30 February” is no day',
    'Row 3: time “25:00” is not written like 09:30',
    'Row 4: last is empty',
  ]);
  expect(read('first,day\nA,2026-03-17').faults).toEqual(['Column last is missing']);
  expect(read('')).toEqual({ visits: [], faults: ['Column last, first, day is missing'] });
  expect(read('last,first,day\n"Sato,Haruka,2026-03-17').faults).toEqual(['Row 2: a quote has no end']);
});

const calendar = (...events: string[]) =>
  `BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//test//EN\r\n${events.map((event) => `BEGIN:VEVENT\r\n${event}\r\nEND:VEVENT\r\n`).join('')}END:VCALENDAR\r\n`;

test('a calendar: folded lines, names both ways round, canceled ones', () => {
  const { visits, faults } = read(
    calendar(
      'UID:u1@example.com\r\nDTSTART;TZID=America/Los_Angeles:20260317T093000\r\nSUMMARY:Sato\\, Haruka\r\nLOCATION:Harbor\r\n  Street\r\nORGANIZER;CN=Emi Tamura:mailto:t@example.com\r\nDESCRIPTION:knee\r\nSTATUS:CANCELLED',
      'UID:u2@example.com\r\nDTSTART;VALUE=DATE:20260318\r\nSUMMARY:Luz Maria Ibarra',
    ),
  );
  expect(faults).toEqual([]);
  expect(visits).toMatchObject([
    {
      key: 'u1@example.com',
      last: 'Sato',
      first: 'Haruka',
      day: '2026-03-17',
      time: '09:30',
      site: 'Harbor Street',
      provider: 'Emi Tamura',
      reason: 'knee',
      canceled: true,
    },
    { key: 'u2@example.com', last: 'Ibarra', first: 'Luz Maria', day: '2026-03-18', time: '' },
  ]);
});

test('a beginning in universal time is the practice’s time, and its day', () => {
  const { visits } = read(
    calendar(
      'UID:z\r\nDTSTART:20260106T003000Z\r\nSUMMARY:Sato\\, Haruka',
      'UID:f\r\nDTSTART:20260106T003000\r\nSUMMARY:Sato\\, Haruka',
    ),
  );
  expect(visits.map(({ day, time }) => [day, time])).toEqual([
    ['2026-01-05', '16:30'],
    ['2026-01-06', '00:30'],
  ]);
});

test('an event without a beginning or a person, and one that repeats, are named', () => {
  const { visits, faults } = read(
    calendar(
      'UID:a\r\nSUMMARY:Sato\\, H',
      'UID:b\r\nDTSTART:20260317T100000Z',
      'UID:c\r\nDTSTART:20260317T100000Z\r\nSUMMARY:Sato\\, H\r\nRRULE:FREQ=WEEKLY',
    ),
  );
  expect(visits).toEqual([]);
  expect(faults).toEqual([
    'Event 1: it has no beginning (DTSTART)',
    'Event 2: it names nobody (SUMMARY)',
    'Event 3: it repeats: send each visit as an event of its own',
  ]);
  expect(read('BEGIN:VCALENDAR\nnonsense').faults).toEqual(['This is no calendar (iCalendar, RFC 5545)']);
});
