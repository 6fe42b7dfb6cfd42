/** The one place for what people note: on an account, or beside a follow-up, a payment, a stop or a contact. */
import { type RawBuilder, sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import { endNoteInput, noteInput } from '../../core/notes/input';
import type { Audience, NotedAbout } from '../../core/notes/notes';
import type { Db, Tx } from '../../db/connect';
import { type Context, Refused, allow, zone } from '../access';
import { allowOpen } from '../closed';
import { useCase } from '../use-case';

/** A note as the account shows it. */
export interface NoteRow {
  id: number;
  about: NotedAbout;
  /** In words what it stands beside, such as the reason of a stop; empty for the account itself. */
  beside: string;
  audience: Audience;
  pinned: boolean;
  words: string;
  until: CalendarDate | null;
  /** How often it prints; null for until its day. */
  times: number | null;
  day: CalendarDate;
  by: string;
  /** When it was ended, and by whom; null while it stands. */
  ended: { day: CalendarDate; by: string } | null;
  /** It stands today: it is not ended, and its day is not past. */
  stands: boolean;
}

/** What a note stands beside, by the column of its key. */
type Beside =
  | { follow_up_id: number; household_id: number | null }
  | { receipt_id: number; household_id: number }
  | { stop_id: number; household_id: number }
  | { contact_id: number; household_id: number };

const aboutOf = (beside: Beside): NotedAbout =>
  'follow_up_id' in beside
    ? 'follow-up'
    : 'receipt_id' in beside
      ? 'receipt'
      : 'stop_id' in beside
        ? 'stop'
        : 'contact';

/** Notes something beside what it is about, in the transaction that does that; nothing where nothing is said. */
export async function noteBeside(
  { db: tx, user, today }: Context & { db: Tx },
  beside: Beside,
  words: string,
): Promise<void> {
  if (words === '') return;
  await tx
    .insertInto('note')
    .values({ ...beside, about: aboutOf(beside), words, user_name: user.name, business_date: today })
    .execute();
}

/** The words noted beside a row. @param column of the note, such as `stop_id` @param id of the row */
export const wordsBeside = (
  column: 'receipt_id' | 'stop_id' | 'contact_id',
  id: RawBuilder<unknown>,
): RawBuilder<string> =>
  sql<string>`coalesce((select n.words from note n where n.${sql.ref(column)} = ${id}), '')`;

/** Writes a note on an account, for us or for the patient. @returns its id */
export const addNote = useCase({
  name: 'add note',
  permission: 'write notes',
  input: noteInput,
  once: (data) => data.key,
  async run(act, { householdId, audience, words, pinned, until, times }) {
    if (until !== null && until < act.today) throw new Refused('date', 'This day is past', 'until');
    const household = await act.db
      .selectFrom('household')
      .select('id')
      .where('id', '=', householdId)
      .executeTakeFirst();
    if (!household) throw new Refused('unknown', 'There is no such account');
    const { id } = await act.db
      .insertInto('note')
      .values({
        household_id: householdId,
        audience,
        words,
        pinned,
        until,
        times: times ?? null,
        user_name: act.user.name,
        business_date: act.today,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    await act.note('added a note', { kind: 'household', id: householdId }, { for: audience });
    return id;
  },
});

/** Ends a note: it prints no more, and stands at the head of nothing. What it said stays on the record. */
export const endNote = useCase({
  name: 'end note',
  permission: 'write notes',
  input: endNoteInput,
  async run(act, { noteId }) {
    const there = await act.db
      .selectFrom('note')
      .select(['about', 'household_id', 'ended_on'])
      .where('id', '=', noteId)
      .forUpdate()
      .executeTakeFirst();
    if (!there) throw new Refused('unknown', 'There is no such note');
    if (there.about !== 'account')
      throw new Refused('state', 'This note stays with what it is about: write another there');
    if (there.ended_on !== null) throw new Refused('already', 'This note is ended already');
    await act.db
      .updateTable('note')
      .set({ ended_on: act.today, ended_by: act.user.name })
      .where('id', '=', noteId)
      .execute();
    await act.note('ended a note', { kind: 'household', id: there.household_id! });
  },
});

/** The most notes that an account shows. */
const MOST = 300;

/** All that was noted on an account, the newest first; one query. */
export async function readNotes(context: Context, householdId: number): Promise<NoteRow[]> {
  allow(context, 'read accounts');
  await allowOpen(context, { householdId });
  const { rows } = await sql<NoteRow>`
    select n.id, n.about, n.audience, n.pinned, n.words, n.until, n.times, n.business_date as day,
      n.user_name as by,
      case n.about
        when 'stop' then r.name
        when 'follow-up' then f.words
        when 'receipt' then concat_ws(' ', p.tender, p.reference)
        when 'contact' then c.kind
        else ''
      end as beside,
      case when n.ended_on is not null then json_build_object('day', n.ended_on, 'by', n.ended_by) end as ended,
      n.ended_on is null and (n.until is null or n.until >= ${context.today}::date) as stands
    from note n
      left join account_stop s on s.id = n.stop_id
      left join stop_reason r on r.id = s.reason_id
      left join follow_up f on f.id = n.follow_up_id
      left join receipt_tender p on p.receipt_id = n.receipt_id
      left join contact c on c.id = n.contact_id
    where n.household_id = ${householdId}
    order by n.id desc
    limit ${MOST}`.execute(context.db);
  return rows;
}

/** What stands at the head of an account. */
export async function readPinned(
  { db, today }: Context,
  householdId: number,
): Promise<{ id: number; words: string }[]> {
  return db
    .selectFrom('note')
    .select(['id', 'words'])
    .where('household_id', '=', householdId)
    .where('pinned', '=', true)
    .where('ended_on', 'is', null)
    .where(({ or, eb }) => or([eb('until', 'is', null), eb('until', '>=', today)]))
    .orderBy('id')
    .execute();
}

/** What stands at the head of a household `h`, as one text; for lists. */
export const PINNED = sql<string>`
  coalesce(
    (select string_agg(n.words, ' · ' order by n.id)
      from note n
      where n.household_id = h.id and n.pinned and n.ended_on is null
        and (n.until is null or n.until >= (desk_now() at time zone ${sql.lit(zone())})::date)), '')`;

/** Notes for the patient that still print, by household. */
export async function notesToPrint(
  { db, today }: { db: Db; today: CalendarDate },
  householdIds: readonly number[],
): Promise<Map<number, string[]>> {
  const { rows } = await sql<{ householdId: number; words: string }>`
    select n.household_id as "householdId", n.words
    from note n
    where n.household_id = any(${[...householdIds]}::bigint[]) and n.audience = 'patient' and n.ended_on is null
      and (n.until is null or n.until >= ${today}::date)
      and (
        n.times is null
        or n.times > (
          select count(*)
          from statement s
          where s.household_id = n.household_id
            and s.patient_id is null
            and s.created_at >= n.at
            and not exists (select 1 from statement_void v where v.statement_id = s.id)
        )
      )
    order by n.id`.execute(db);
  const byHousehold = new Map<number, string[]>();
  for (const { householdId, words } of rows)
    byHousehold.set(householdId, [...(byHousehold.get(householdId) ?? []), words]);
  return byHousehold;
}
