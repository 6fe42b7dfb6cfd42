/** The audit trail as a list, and who saw the record of a person. */
import { sql } from 'kysely';
import { zone } from '../access';
import { parseDate } from '../../core/calendar';
import { list, textLike, words } from '../lists/list';

const WHEN = sql<string>`to_char(a.at at time zone ${zone()}, 'YYYY-MM-DD HH24:MI:SS')`;
const ABOUT = sql<string>`coalesce((select p.last || ', ' || p.first from patient p where p.id = a.patient_id),
  (select h.last || ', ' || h.first from household h where h.id = a.household_id),
  (select o.email from "user" o where a.subject_kind = 'user' and o.id = a.subject_id), '')`;
/** What changed says before and after; anything else its name and value, as far as there is one. */
const DETAIL = sql<string>`coalesce((select string_agg(case when jsonb_typeof(d.value) = 'object' and d.value ? 'to'
    then d.key || ': ' || coalesce(
      nullif(d.value ->> 'from', ''), '–'
    ) || ' → ' || coalesce(nullif(d.value ->> 'to', ''), '–')
    else d.key || ' ' || (d.value #>> '{}') end, ', ') from jsonb_each(a.detail) d where coalesce(d.value #>> '{}',
    '') not in ('', '[]')), '')`;

const DOOR = [
  'signed in',
  'failed to sign in',
  'had to wait at sign-in',
  'signed out',
  'ended sessions',
  'set a password by link',
  'changed the password',
];
const FILES = ['exported', 'backed up', 'restored'];

/** What grows without end is counted no further. */
const COUNTED = 10_000;

/**
 * Everything that was read and changed, the newest first. Searched by a day (2026-03-16), by a user where there is an @ in
 * it, else by the name or account number of a person.
 */
export const trailList = list({
  name: 'audit',
  noun: ['row', 'rows'],
  permission: 'read the audit trail',
  station: 'Setup',
  path: '/setup/audit',
  from: sql`audit a`,
  household: null,
  id: sql`a.id`,
  columns: {
    at: words('When', WHEN),
    name: words('Who', sql`coalesce((select u.name from "user" u where u.id = a.user_id), a.user_id)`),
    account: words('Account', sql`a.account`),
    action: words('What', sql`a.action`),
    kind: words('Of what', sql`a.subject_kind`),
    subject: words('Number', sql`case when a.subject_kind = 'user' then '' else a.subject_id end`),
    about: words('About', ABOUT),
    detail: words('Detail', DETAIL),
    address: words('Address', sql`a.address`, { extra: true }),
    session: words('Session', sql`a.session_id`, { extra: true }),
  },
  hidden: { householdId: sql<number | null>`a.household_id` },
  views: {
    all: { label: 'All' },
    door: {
      label: 'Sign-in',
      where: () => sql`a.action = any(${DOOR}::text[])`,
    },
    refused: { label: 'Refused', where: () => sql`a.action = 'was refused'` },
    users: { label: 'Users', where: () => sql`a.subject_kind = 'user'` },
    files: { label: 'Files', where: () => sql`a.action = any(${FILES}::text[])` },
  },
  search: (like, text) => {
    if (/^\d{4}-\d\d-\d\d$/.test(text)) {
      const day = parseDate(text);
      return day
        ? sql`
          a.at >= ${day}::timestamp at time zone ${zone()}
            and a.at < (${day}::timestamp + interval '1 day') at time zone ${zone()}`
        : sql`false`;
    }
    return text.includes('@')
      ? sql`a.user_id = any(array(select u.id from "user" u where lower(u.email) like ${like} limit 20))`
      : sql`
        a.household_id = any(array(select h.id from household h where h.number = upper(${text}) or ${textLike(
          sql`
          h.last || ', ' || h.first`,
          like,
        )}
          or exists (select 1 from patient p where p.household_id = h.id and p.search like ${like}) limit 20))`;
  },
  order: sql`a.at desc, a.id desc`,
  countUpTo: COUNTED,
});

/**
 * Who saw or changed the record of a household and its people: pages, documents and changes. Lists and searches that named
 * many people are not in it; they stand on the audit trail.
 */
export const seenList = list({
  name: 'seen',
  noun: ['time', 'times'],
  permission: 'read the audit trail',
  station: 'Accounts',
  path: '/accounts',
  from: sql`audit a`,
  household: null,
  id: sql`a.id`,
  always: () => sql`a.household_id is not null`,
  columns: {
    at: words('When', WHEN),
    name: words('Who', sql`coalesce((select u.name from "user" u where u.id = a.user_id), 'Wergeld')`),
    account: words('Account', sql`a.account`),
    action: words('What', sql`a.action`),
    kind: words('Of what', sql`a.subject_kind`),
    about: words('About', ABOUT),
    address: words('Address', sql`a.address`, { extra: true }),
  },
  views: { all: { label: 'All' }, people: { label: 'By people', where: () => sql`a.user_id <> 'wergeld'` } },
  within: (of) =>
    sql`a.household_id in (select h.id from household h where ${of} in (h.id::text, h.merged_into::text))`,
  order: sql`a.at desc, a.id desc`,
  countUpTo: COUNTED,
});
