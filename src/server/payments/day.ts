/** The end of a day: what was taken by whom and how, what waits for the bank, what cards were charged, what went to the bank. */
import { sql } from 'kysely';
import { type CalendarDate, addDays } from '../../core/calendar';
import { dateField } from '../../core/fields';
import { type Cents, sum } from '../../core/money';
import type { PlaceKind, Tender } from '../../core/payments/tenders';
import { type BatchDifference, compareBatch } from '../../core/payments/terminal';
import { type Context, Refused, allow, audit, may } from '../access';
import { parseInput } from '../input';
import { type DrawerRow, readDrawers } from './drawers';
import { readBatch, terminalUrl } from './terminal';

/** What somebody took of one tender on a day, in cents: what came, and what was given back. */
export interface TakenRow {
  by: string;
  site: string;
  tender: Tender;
  words: string;
  count: number;
  came: Cents;
  back: Cents;
  /** The surcharges in both. */
  surcharge: Cents;
}

/** A tender that waits for the bank. `amount` in cents with its surcharge. */
export interface WaitingTender {
  id: number;
  placeId: number;
  tender: Tender;
  reference: string;
  receivedOn: CalendarDate;
  householdId: number;
  account: string;
  from: string;
  by: string;
  amount: Cents;
}

/** A place of money that is not the bank yet, or is the bank. */
export interface MoneyPlace {
  id: number;
  kind: PlaceKind;
  name: string;
  merchant: string;
}

/** A drawer whose difference lies with its cash. */
export interface OpenDifference {
  id: number;
  placeId: number;
  day: CalendarDate;
  words: string;
  amount: Cents;
}

/** A deposit of the day, in cents. */
export interface DepositRow {
  id: number;
  date: CalendarDate;
  number: string;
  to: string;
  by: string;
  amount: Cents;
  tenders: number;
  undone: boolean;
}

/** What the end of a day shows. */
export interface DayPage {
  day: CalendarDate;
  /** Drawers that are open, and those of the day. */
  drawers: DrawerRow[];
  sites: { id: number; name: string }[];
  taken: TakenRow[];
  waiting: WaitingTender[];
  differences: OpenDifference[];
  places: MoneyPlace[];
  deposits: DepositRow[];
  /** Whether who asks may take money to the bank, and sees what others took. */
  whole: boolean;
  merchants: MoneyPlace[];
  /** Who asks, by id. */
  me: string;
}

const closedTo = (context: Context) => sql`
  exists (
    select from household_open_to o
    where o.household_id = h.id
    group by o.household_id
    having not bool_or(o.user_id = ${context.user.id})
  )`;

/** Reads the end of a day: of what others took only for who deposits money. */
export async function readDay(context: Context, asked: unknown): Promise<DayPage> {
  allow(context, 'take payments');
  const day = asked === undefined ? context.today : parseInput(dateField, asked);
  const { db } = context;
  const whole = may(context.user.role, 'deposit money');
  const [drawers, sites, taken, waiting, differences, places, deposits] = await Promise.all([
    readDrawers(context, day),
    db.selectFrom('location').select(['id', 'name']).orderBy('id').execute(),
    sql<TakenRow>`
      select coalesce(u.name, r.user_id) as by, coalesce(l.name, '') as site, t.kind as tender, k.words, count(*) as count,
        coalesce(sum(t.amount + t.surcharge) filter (where t.amount > 0), 0)::bigint as came,
        coalesce(sum(t.amount + t.surcharge) filter (where t.amount < 0), 0)::bigint as back,
        coalesce(sum(t.surcharge), 0)::bigint as surcharge
      from tender t
        join receipt r on r.id = t.receipt_id
        join tender_kind k on k.code = t.kind
        left join location l on l.id = r.location_id
        left join "user" u on u.id = r.user_id
      where r.received_on = ${day}::date and t.state = 'taken' and (${whole} or r.user_id = ${context.user.id})
      group by 1, 2, 3, 4
      order by 1, 2, 4`.execute(db),
    whole
      ? sql<WaitingTender>`
          select t.id, t.place_id as "placeId", t.kind as tender,
            case when t.last_four = '' then t.reference else t.brand || ' ' || t.last_four || ', ' || t.approval end as reference,
            r.received_on as "receivedOn", h.id as "householdId",
            case when ${closedTo(context)} then '' else h.number end as account,
            case when ${closedTo(context)} then 'a closed account' else h.last || ', ' || h.first end as from,
            coalesce(u.name, r.user_id) as by, t.amount + t.surcharge as amount
          from tender t
            join place p on p.id = t.place_id and p.kind in ('undeposited', 'clearing')
            join receipt r on r.id = t.receipt_id
            join household h on h.id = r.household_id
            left join "user" u on u.id = r.user_id
          where t.state = 'taken'
          order by t.kind, r.received_on, t.id
          limit ${MOST}`.execute(db)
      : { rows: [] },
    whole
      ? sql<OpenDifference>`
          select d.id, p.place_id as "placeId", d.day, p.amount,
            coalesce(u.name, d.user_id) || ', ' || l.name || ', ' || to_char(d.day, 'FMDD Mon YYYY') || ': ' || d.why as words
          from drawer d
            join entry e on e.key = 'drawer:' || d.id
            join posting p on p.entry_id = e.id and p.account = 'cash/cash'
            join location l on l.id = d.location_id
            left join "user" u on u.id = d.user_id
          where d.closed_at is not null and d.deposit_id is null and d.difference <> 0
          order by d.id`.execute(db)
      : { rows: [] },
    db
      .selectFrom('place')
      .select(['id', 'kind', 'name', 'merchant'])
      .where('kind', '<>', 'drawer')
      .where(({ or, eb }) => or([eb('closed_on', 'is', null), eb('closed_on', '>', day)]))
      .orderBy('name')
      .execute(),
    whole
      ? sql<DepositRow>`
          select d.id, d.date, d.number, p.name as to, coalesce(u.name, d.user_id) as by,
            case when d.undone_on is null then coalesce(sum(o.amount), 0) else 0 end::bigint as amount,
            count(distinct o.tender_id) as tenders,
            d.undone_on is not null as undone
          from deposit d
            join place p on p.id = d.place_id
            left join "user" u on u.id = d.user_id
            left join (
              select o.deposit_id, o.place_id, o.amount, o.tender_id
              from posting o
                join entry e on e.id = o.entry_id and e.reverses is null
            ) o
              on o.deposit_id = d.id and o.place_id = d.place_id
          where d.date = ${day}::date
          group by d.id, p.name, u.name
          order by d.id desc`.execute(db)
      : { rows: [] },
  ]);
  await audit(db, context, 'looked at the day', { kind: 'day', id: day });
  return {
    day,
    me: context.user.id,
    drawers,
    sites,
    taken: taken.rows,
    waiting: waiting.rows,
    differences: differences.rows,
    places,
    deposits: deposits.rows,
    whole,
    merchants: whole && terminalUrl() !== null ? places.filter(({ merchant }) => merchant !== '') : [],
  };
}

/** So many tenders that wait for the bank are shown; what is more waits for the next deposit. */
const MOST = 2000;

/** A terminal's list of a day against ours. Sums in cents. */
export interface BatchPage {
  place: string;
  theirs: Cents;
  ours: Cents;
  count: number;
  differences: BatchDifference[];
}

/** Compares the list of a merchant account with what is booked of it, row by row. A terminal's day is by its own clock. */
export async function compareDay(
  context: Context,
  { placeId, day: asked }: { placeId: number; day: string },
): Promise<BatchPage> {
  allow(context, 'deposit money');
  const day = parseInput(dateField, asked);
  const place = await context.db
    .selectFrom('place')
    .select(['name', 'merchant'])
    .where('id', '=', placeId)
    .where('merchant', '<>', '')
    .executeTakeFirst();
  if (!place) throw new Refused('unknown', 'There is no such merchant account');
  const theirs = await readBatch(place.merchant, day);
  const { rows: ours } = await sql<{ key: string; amount: Cents; authorization: string }>`
    select a.key, a.approval as authorization,
      (case when a.what = 'void' then -1 else 1 end * (t.amount + t.surcharge))::bigint as amount
    from attempt a
      join tender t on t.id = a.tender_id
    where a.merchant = ${place.merchant}
      and a.state = 'approved'
      and (
        a.key = any(${theirs.map(({ key }) => key)}::text[])
        or a.answered_at >= ${day}::date and a.answered_at < ${addDays(day, 1)}::date
      )
    order by a.id`.execute(context.db);
  const total = (rows: readonly { amount: Cents }[]): Cents => sum(rows.map(({ amount }) => amount));
  await audit(context.db, context, 'compared cards', { kind: 'place', id: placeId }, { day });
  return {
    place: place.name,
    theirs: total(theirs),
    ours: total(ours),
    count: theirs.length,
    differences: compareBatch(theirs, ours),
  };
}
