/** The one place for what people note: on an account, or beside a follow-up, a payment, a stop or a contact. */
import { type RawBuilder, sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import { endNoteInput, noteInput, seenInput } from '../../core/notes/input';
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
  /** Each user sees it once a day on opening. */
  onOpening: boolean;
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
  | { contact_id: number; household_id: number }
  | { claim_id: number; household_id: number };

const aboutOf = (beside: Beside): NotedAbout =>
  'follow_up_id' in beside
    ? 'follow-up'
    : 'receipt_id' in beside
      ? 'receipt'
      : 'stop_id' in beside
        ? 'stop'
        : 'claim_id' in beside
          ? 'claim'
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

/** @throws Refused when what a note is to be about is not there, or not of the account */
async function isThere(
  tx: Tx,
  {
    householdId,
    patientId,
    caseId,
    payerId,
  }: { householdId?: number; patientId: number | null; caseId: number | null; payerId?: number },
): Promise<void> {
  const table = payerId === undefined ? 'household' : 'payer';
  const there = await tx
    .selectFrom(table)
    .select('id')
    .where('id', '=', payerId ?? householdId!)
    .executeTakeFirst();
  if (!there)
    throw new Refused(
      'unknown',
      payerId === undefined ? 'There is no such account' : 'There is no such payer',
    );
  if (patientId === null) return;
  const person = await tx
    .selectFrom('patient as p')
    .leftJoin('care_case as k', (join) =>
      join.onRef('k.patient_id', '=', 'p.id').on('k.id', '=', caseId ?? 0),
    )
    .select('k.id as caseId')
    .where('p.id', '=', patientId)
    .where('p.household_id', '=', householdId!)
    .executeTakeFirst();
  if (!person) throw new Refused('others', 'This person is not of the account', 'patientId');
  if (caseId !== null && person.caseId === null)
    throw new Refused('others', 'This case is not this person’s', 'caseId');
}

/** Writes a note on an account or a payer, for us or for the patient. @returns its id */
export const addNote = useCase({
  name: 'add note',
  permission: 'write notes',
  input: noteInput,
  once: (data) => data.key,
  async run(
    act,
    { householdId, patientId, caseId, payerId, audience, words, pinned, onOpening, until, times },
  ) {
    if (until !== null && until < act.today) throw new Refused('date', 'This day is past', 'until');
    await isThere(act.db, { householdId, patientId, caseId, payerId });
    const { id } = await act.db
      .insertInto('note')
      .values({
        ...(payerId === undefined ? { household_id: householdId! } : { about: 'payer', payer_id: payerId }),
        patient_id: patientId,
        case_id: caseId,
        audience,
        words,
        pinned,
        on_opening: onOpening,
        until,
        times: times ?? null,
        user_name: act.user.name,
        business_date: act.today,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    await act.note(
      'added a note',
      payerId === undefined ? { kind: 'household', id: householdId! } : { kind: 'payer', id: payerId },
      { for: audience },
    );
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
      .select(['about', 'household_id', 'payer_id', 'ended_on'])
      .where('id', '=', noteId)
      .forUpdate()
      .executeTakeFirst();
    if (!there) throw new Refused('unknown', 'There is no such note');
    if (there.about !== 'account' && there.about !== 'payer')
      throw new Refused('state', 'This note stays with what it is about: write another there');
    if (there.ended_on !== null) throw new Refused('already', 'This note is ended already');
    await act.db
      .updateTable('note')
      .set({ ended_on: act.today, ended_by: act.user.name })
      .where('id', '=', noteId)
      .execute();
    await act.note(
      'ended a note',
      there.about === 'payer'
        ? { kind: 'payer', id: there.payer_id! }
        : { kind: 'household', id: there.household_id! },
    );
  },
});

/** Says that somebody has read notices on opening: they are not shown to them again on this day. */
export const seeNotices = useCase({
  name: 'see notices',
  permission: 'read accounts',
  input: seenInput,
  async run(act, { noteIds }) {
    await sql`
      insert into note_seen (note_id, user_id, day)
      select n.id, ${act.user.id}, ${act.today}::date
      from note n
      where n.id = any(${noteIds}::bigint[]) and n.on_opening
      on conflict do nothing`.execute(act.db);
  },
});

/** The most notes that an account shows. */
const MOST = 300;

/** All that was noted on an account, or on a payer, the newest first; one query. */
export async function readNotes(
  context: Context,
  of: { householdId: number } | { payerId: number },
): Promise<NoteRow[]> {
  allow(context, 'read accounts');
  await allowOpen(context, of);
  const which =
    'payerId' in of ? sql`payer_now(n.payer_id) = ${of.payerId}` : sql`n.household_id = ${of.householdId}`;
  const { rows } = await sql<NoteRow>`
    select n.id, n.about, n.audience, n.pinned, n.on_opening as "onOpening", n.words, n.until, n.times,
      n.business_date as day, n.user_name as by,
      case n.about
        when 'stop' then r.name
        when 'follow-up' then f.words
        when 'receipt' then p.how
        when 'contact' then c.kind
        when 'claim' then m.control_number
        else concat_ws(', ', o.first, k.name)
      end as beside,
      case when n.ended_on is not null then json_build_object('day', n.ended_on, 'by', n.ended_by) end as ended,
      n.ended_on is null and (n.until is null or n.until >= ${context.today}::date) as stands
    from note n
      left join account_stop s on s.id = n.stop_id
      left join stop_reason r on r.id = s.reason_id
      left join follow_up f on f.id = n.follow_up_id
      left join receipt_tender p on p.receipt_id = n.receipt_id
      left join contact c on c.id = n.contact_id
      left join claim m on m.id = n.claim_id
      left join patient o on o.id = n.patient_id
      left join care_case k on k.id = n.case_id
    where ${which}
    order by n.id desc
    limit ${MOST}`.execute(context.db);
  return rows;
}

/** What stands at the head of an account or of a payer. */
export interface Pinned {
  id: number;
  words: string;
  /** Of whom of the account it is, and of which case; empty for all of it. */
  whose: string;
  patientId: number | null;
  caseId: number | null;
  /** It is to be read on opening, by whoever asks, who has not read it today. */
  opens: boolean;
}

const pinned = async (context: Context, which: RawBuilder<unknown>): Promise<Pinned[]> => {
  const { db, today, user } = context;
  const { rows } = await sql<Pinned>`
    select n.id, n.words, concat_ws(', ', o.first, k.name) as whose, n.patient_id as "patientId",
      n.case_id as "caseId",
      n.on_opening
        and not exists (
          select from note_seen s where s.note_id = n.id and s.user_id = ${user.id} and s.day = ${today}::date
        ) as opens
    from note n
      left join patient o on o.id = n.patient_id
      left join care_case k on k.id = n.case_id
    where ${which}
      and n.pinned
      and n.ended_on is null
      and (n.until is null or n.until >= ${today}::date)
    order by n.id`.execute(db);
  return rows;
};

/** What stands at the head of an account. */
export const readPinned = (context: Context, householdId: number): Promise<Pinned[]> =>
  pinned(context, sql`n.household_id = ${householdId}`);

/** What stands at the head of a payer, also of those that were merged into it. */
export const readPayerNotices = (context: Context, payerId: number): Promise<Pinned[]> =>
  pinned(
    context,
    sql`n.payer_id in (select y.id from payer y where coalesce(y.merged_into, y.id) = ${payerId})`,
  );

/** What stands at the head of the payer `y`, as one text; for choices. */
export const PAYER_NOTICES = sql<string>`
  coalesce(
    (
      select string_agg(n.words, ' · ' order by n.id)
      from note n
      where payer_now(n.payer_id) = y.id
        and n.pinned
        and n.ended_on is null
        and (n.until is null or n.until >= (desk_now() at time zone ${sql.lit(zone())})::date)
    ),
    ''
  )`;

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

/** What is often noted, as Setup lists it. */
export async function commonNotices(context: Context): Promise<string[]> {
  allow(context, 'write notes');
  const rows = await context.db.selectFrom('common_notice').select('words').orderBy('words').execute();
  return rows.map(({ words }) => words);
}
