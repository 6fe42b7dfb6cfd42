/** Reading fee schedules: the fees of a day, their history, who uses them, and several beside each other. */
import { sql } from 'kysely';
import { z } from 'zod';
import { type CalendarDate, addMonths } from '../../core/calendar';
import { type Comparison, type FeesBeside, MOST_COMPARED, compared } from '../../core/fees/compare';
import { dateField, idField } from '../../core/fields';
import type { Cents } from '../../core/money';
import { type Context, Refused, allow } from '../access';
import { parseInput } from '../input';

/** A schedule, with what uses it. */
export interface Schedule {
  id: number;
  name: string;
  kind: 'office' | 'contract' | 'discount';
  standard: boolean;
  /** Insurance plans of payers, sites and categories of accounts that go by it. */
  usedBy: { words: string; href: string }[];
  /** The days from which versions of its fees hold, the newest first; null: from the beginning. */
  versions: { from: CalendarDate | null; fees: number }[];
}

/** A service with its fee of a day. Cents. */
export interface ScheduleFee {
  code: string;
  description: string;
  category: string;
  amount: Cents | null;
  facility: Cents | null;
  /** From when that fee holds; null: from the beginning, or there is none. */
  since: CalendarDate | null;
  /** The fee that comes after the day, and when. */
  next: { from: CalendarDate; amount: Cents } | null;
}

/** A schedule with all its fees of a day, by code. */
export interface ScheduleOn extends Schedule {
  on: CalendarDate;
  /** Of its last change: what is shown of an older one is read anew. */
  stamp: number;
  fees: ScheduleFee[];
}

/** All schedules, by kind and name, with how many fees each has today. */
export async function readSchedules(
  context: Context,
): Promise<(Pick<Schedule, 'id' | 'name' | 'kind' | 'standard'> & { fees: number })[]> {
  allow(context, 'read setup');
  const { rows } = await sql<Pick<Schedule, 'id' | 'name' | 'kind' | 'standard'> & { fees: number }>`
    select s.id, s.name, s.kind, s.standard,
      (
        select count(distinct f.code)
        from fee f
        where f.fee_schedule_id = s.id and (f.valid_from is null or f.valid_from <= ${context.today}::date)
      ) as fees
    from fee_schedule s
    order by s.kind = 'office' desc, s.kind, s.standard desc, s.name`.execute(context.db);
  return rows;
}

/** A schedule as it is on a day. @throws Refused when there is none */
export async function readSchedule(
  context: Context,
  scheduleId: number,
  on: CalendarDate,
): Promise<ScheduleOn> {
  allow(context, 'read setup');
  const { db } = context;
  const [head, { rows: fees }, { rows: usedBy }, { rows: versions }, last] = await Promise.all([
    db
      .selectFrom('fee_schedule')
      .select(['id', 'name', 'kind', 'standard'])
      .where('id', '=', scheduleId)
      .executeTakeFirst(),
    sql<ScheduleFee>`
      select s.code, s.description, s.category, f.amount, f.facility_amount as facility, f.valid_from as since,
        (
          select json_build_object('from', n.valid_from, 'amount', n.amount)
          from fee n
          where n.fee_schedule_id = ${scheduleId} and n.code = s.code and n.valid_from > ${on}::date
          order by n.valid_from
          limit 1
        ) as next
      from service_code s
        left join lateral (
          select x.amount, x.facility_amount, x.valid_from
          from fee x
          where x.fee_schedule_id = ${scheduleId}
            and x.code = s.code
            and (x.valid_from is null or x.valid_from <= ${on}::date)
          order by x.valid_from desc nulls last
          limit 1
        ) f on true
      where s.active or f.amount is not null
      order by s.code`.execute(db),
    sql<Schedule['usedBy'][number]>`
      select words, href
      from (
        select 1 as at, y.name || ', ' || n.name as words, '/terms/' || n.id as href
        from insurance_plan n
          join payer y on y.id = n.payer_id
        where n.fee_schedule_id = ${scheduleId}
        union all
        select 2, l.name, '/setup/locations'
        from location l
        where l.fee_schedule_id = ${scheduleId}
        union all
        select 3, g.name, '/setup/categories'
        from account_category g
        where g.fee_schedule_id = ${scheduleId}
      ) u
      order by at, words`.execute(db),
    sql<Schedule['versions'][number]>`
      select valid_from as "from", count(*) as fees
      from fee
      where fee_schedule_id = ${scheduleId}
      group by 1
      order by 1 desc nulls last`.execute(db),
    db
      .selectFrom('fee_change')
      .select(({ fn }) => fn.max('id').as('id'))
      .where('fee_schedule_id', '=', scheduleId)
      .executeTakeFirst(),
  ]);
  if (!head) throw new Refused('unknown', 'There is no such schedule');
  return { ...head, on, stamp: last?.id ?? 0, fees, usedBy, versions };
}

/** What was done to a fee of a schedule: from when, before and after, by whom and when. Cents. */
export interface FeeChange {
  changeId: number;
  from: CalendarDate | null;
  before: Cents | null;
  after: Cents | null;
  words: string;
  by: string;
  on: CalendarDate;
  undone: boolean;
}

/** The history of one fee of a schedule: its versions, and what was done to them, the newest first. */
export interface FeeHistory {
  versions: { from: CalendarDate | null; amount: Cents; facility: Cents | null }[];
  changes: FeeChange[];
}

const historyAsked = z.object({ scheduleId: idField, code: z.string().trim().toUpperCase().min(1) });

/** Reads it. */
export async function readFeeHistory(
  context: Context,
  input: z.input<typeof historyAsked>,
): Promise<FeeHistory> {
  allow(context, 'read setup');
  const { scheduleId, code } = parseInput(historyAsked, input);
  const [versions, changes] = await Promise.all([
    context.db
      .selectFrom('fee')
      .select(['valid_from as from', 'amount', 'facility_amount as facility'])
      .where('fee_schedule_id', '=', scheduleId)
      .where('code', '=', code)
      .orderBy('valid_from', (order) => order.desc().nullsLast())
      .execute(),
    context.db
      .selectFrom('fee_change as c')
      .innerJoin('fee_change_line as l', 'l.change_id', 'c.id')
      .select([
        'c.id as changeId',
        'c.valid_from as from',
        'l.before',
        'l.after',
        'c.words',
        'c.user_name as by',
        'c.made_on as on',
        sql<boolean>`c.undone_on is not null`.as('undone'),
      ])
      .where('c.fee_schedule_id', '=', scheduleId)
      .where('l.code', '=', code)
      .orderBy('c.id', 'desc')
      .execute(),
  ]);
  return { versions, changes };
}

/** The changes of a schedule, the newest first. */
export interface ScheduleChange {
  id: number;
  from: CalendarDate | null;
  fees: number;
  words: string;
  by: string;
  on: CalendarDate;
  undone: boolean;
}

/** Reads the last changes of a schedule. */
export async function readScheduleChanges(context: Context, scheduleId: number): Promise<ScheduleChange[]> {
  allow(context, 'read setup');
  const { rows } = await sql<ScheduleChange>`
    select c.id, c.valid_from as "from", count(l.code) as fees, c.words, c.user_name as by, c.made_on as on,
      c.undone_on is not null as undone
    from fee_change c
      join fee_change_line l on l.change_id = c.id
    where c.fee_schedule_id = ${scheduleId}
    group by c.id
    order by c.id desc
    limit 50`.execute(context.db);
  return rows;
}

const compareAsked = z.object({
  scheduleIds: z.array(idField).min(2, 'are at least two').max(MOST_COMPARED, `are at most ${MOST_COMPARED}`),
  on: dateField,
  differing: z.boolean().default(false),
  billed: z.boolean().default(false),
});

/** Schedules side by side, by what each is called. */
export interface ComparedSchedules extends Comparison {
  on: CalendarDate;
  schedules: { id: number; name: string }[];
}

/** The rows of a comparison: every service that one of the schedules has a fee for, with its units of the last year. One query. */
export async function feesBeside(
  context: Context,
  scheduleIds: readonly number[],
  on: CalendarDate,
): Promise<FeesBeside[]> {
  const { rows } = await sql<FeesBeside>`
    with held as (
      select distinct on (f.fee_schedule_id, f.code) f.fee_schedule_id, f.code, f.amount
      from fee f
      where f.fee_schedule_id = any(${[...scheduleIds]}::bigint[])
        and (f.valid_from is null or f.valid_from <= ${on}::date)
      order by f.fee_schedule_id, f.code, f.valid_from desc nulls last
    ),
    billed as (
      select code, sum(units) as units
      from charge
      where status = 'done'
        and kind = 'service'
        and service_date > ${addMonths(on, -12)}::date
        and service_date <= ${on}::date
      group by code
    )
    select s.code, s.description, s.category,
      json_agg(h.amount order by k.at) as fees, coalesce(max(b.units), 0) as units
    from service_code s
      cross join unnest(${[...scheduleIds]}::bigint[]) with ordinality k (id, at)
      left join held h on h.fee_schedule_id = k.id and h.code = s.code
      left join billed b on b.code = s.code
    where s.code in (select code from held)
    group by s.code
    order by s.code`.execute(context.db);
  return rows;
}

/** Compares schedules on a day. @throws Refused when one is not there, or stands there twice */
export async function compareSchedules(
  context: Context,
  input: z.input<typeof compareAsked>,
): Promise<ComparedSchedules> {
  allow(context, 'read setup');
  const { scheduleIds, on, ...only } = parseInput(compareAsked, input);
  const all = await readSchedules(context);
  const schedules = scheduleIds.map((id) => {
    const found = all.find((one) => one.id === id);
    if (!found) throw new Refused('unknown', 'There is no such schedule');
    return { id, name: found.name };
  });
  if (new Set(scheduleIds).size < scheduleIds.length)
    throw new Refused('invalid', 'A schedule is not compared with itself', 'scheduleIds');
  return { on, schedules, ...compared(await feesBeside(context, scheduleIds, on), only) };
}
