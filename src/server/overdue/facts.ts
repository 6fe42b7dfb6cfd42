/** What is known of accounts that are past due: one query for the charges, one for what else is weighed, whatever their number. */
import { WAITING } from '../../core/claims/life';
import { claimIn } from '../claim-states';
import { type RawBuilder, sql } from 'kysely';
import { type CalendarDate, calendarDate } from '../../core/calendar';
import { type Cents, sum } from '../../core/money';
import { PLACEMENT_STATES, type PlacementStatus } from '../../core/overdue/agency';
import type { OverdueFacts, PastDueCharge, SentLetter } from '../../core/overdue/stage';
import { CHANCE_AGES, CHANCE_DAYS, type PaidHistory } from '../../core/overdue/score';
import type { Db } from '../../db/connect';
import type { Context } from '../access';
import { readOwed } from '../books/owed';
import { readPlans } from '../plans/door';

/** An account that is past due, or the part of it that goes to a patient’s confidential address. */
export interface OverdueAccount {
  householdId: number;
  /** The patient alone whose services go to a confidential address; null for the rest of the household. */
  patientId: number | null;
  account: string;
  name: string;
  phone: string;
  email: string;
  siteId: number | null;
  delivery: 'mail' | 'print-shop' | 'email' | 'none';
  deliveryWhy: string;
  addressIncomplete: boolean;
  returned: CalendarDate | null;
  state: string;
  zip: string;
  /** Who works it. */
  ownerId: string | null;
  owner: string;
  lastContact: CalendarDate | null;
  /** The promise that stands, by its id. */
  promiseId: number | null;
  facts: OverdueFacts;
}

/** Rows of some households, or of all. */
const within = (column: string, ids: readonly number[] | undefined): RawBuilder<unknown> =>
  ids ? sql`${sql.ref(column)} = any(${[...ids]}::bigint[])` : sql`true`;

/** Whose a charge is when it is written about: a household’s, or a patient’s with an address apart. */
const keyOf = (householdId: number, part: number): string => `${householdId}/${part}`;

/** What is past due, by account and charge. */
async function pastDueCharges(
  context: Context,
  ids?: readonly number[],
): Promise<Map<string, PastDueCharge[]>> {
  const found = new Map<string, PastDueCharge[]>();
  for (const { householdId, patientId, charges } of await readOwed(context, ids, 'past due')) {
    const late = charges.flatMap(({ chargeId, pastDue: [first, ...more] }): PastDueCharge[] =>
      first
        ? [{ chargeId, amount: sum([first, ...more].map(({ amount }) => amount)), since: first.since }]
        : [],
    );
    if (late.length > 0) found.set(keyOf(householdId, patientId ?? 0), late);
  }
  return found;
}

type AccountRow = Omit<OverdueAccount, 'facts'> & {
  part: number;
  lastPayment: CalendarDate | null;
  promised: Cents | null;
  madeOn: CalendarDate | null;
  promisedBy: CalendarDate | null;
  paid: Cents | null;
  hardshipAsked: CalendarDate | null;
  claimsOut: number;
  stops: string[];
  stopsAgency: boolean;
  openLetter: boolean;
  placement: 'none' | 'proposed' | 'placed';
  endedOn: CalendarDate | null;
  ended: PlacementStatus | null;
  againOn: CalendarDate | null;
  letters: { stageId: number | null; position: number; date: string; chargeIds: number[] }[] | null;
};

/** Reads every account that is past due, or those of the households named, in the order of their ids. */
export async function readOverdue(context: Context, ids?: readonly number[]): Promise<OverdueAccount[]> {
  const charges = await pastDueCharges(context, ids);
  if (charges.size === 0) return [];
  const { db, today } = context;
  const keys = [...charges.keys()].map((key) => key.split('/').map(Number) as [number, number]);
  const households = [...new Set(keys.map(([id]) => id))];
  const of = (column: string): RawBuilder<unknown> => within(column, households);
  const active = sql`
    o.lifted_on is null and o.since <= ${today}::date and (o.until is null or o.until >= ${today}::date)`;
  const [{ rows }, plans] = await Promise.all([
    sql<AccountRow>`
      with k as (
        select *
        from unnest(
          ${keys.map(([id]) => id)}::bigint[], ${keys.map(([, part]) => part)}::bigint[]
        ) as k (household_id, part)
      ),
      -- Money that is booked of a receipt that stands, or that an agency sent.
      last_paid as (select x.household_id, max(x.day) as day from (
          select r.household_id, r.received_on as day
          from receipt r
            join receipt_balance b on b.receipt_id = r.id
          where b.booked > 0 and r.placement_id is null and ${of('r.household_id')}
          union all select l.household_id, e.business_date from posting p join entry e on e.id = p.entry_id
            join placement l on l.id = p.placement_id
            where p.placement_id is not null
              and p.account in (select code from book_account where class = 'cash')
              and p.amount > 0
              and ${of('l.household_id')}
              and not exists (select 1 from entry r where r.reverses = e.id)) x group by 1),
      talked as (
        select distinct on (c.household_id) c.household_id, c.business_date as day, c.again_on
        from contact c
        where ${of('c.household_id')}
        and not exists (select 1 from contact_void v where v.contact_id = c.id)
        order by c.household_id, c.at desc, c.id desc),
      out as (
        select m.household_id, count(*) as n
        from claim m
        where ${claimIn(sql`m.status`, WAITING)} and ${of('m.household_id')}
        group by 1
      ),
      stop as (
        select o.household_id, array_agg(r.name order by r.name) filter (where r.letters) as names,
          bool_or(r.agency) as agency
        from account_stop o
          join stop_reason r on r.id = o.reason_id
        where ${active} and ${of('o.household_id')}
        group by 1),
      sent as (
        select l.household_id, coalesce(l.patient_id, 0) as part,
          json_agg(json_build_object('stageId', l.stage_id, 'position', l.position, 'date', l.date,
          'chargeIds',
          (
            select json_agg(c.charge_id) from letter_charge c where c.piece_id = l.piece_id
          )) order by l.date, l.piece_id) as letters
        from letter l
          join mail_piece p on p.id = l.piece_id
        where p.status <> 'void' and l.position > 0 and ${of('l.household_id')}
        group by 1, 2),
      open as (
        select p.household_id, coalesce(p.patient_id, 0) as part
        from mail_piece p
        where p.kind = 'letter' and p.status in ('draft', 'made', 'failed') and ${of('p.household_id')}
      ),
      placed as (
        select distinct on (g.household_id) g.household_id,
          case when g.status = 'proposed' then 'proposed' else 'placed' end as state
        from placement g
        where g.ended_on is null and ${of('g.household_id')} order by g.household_id, g.id desc),
      ended as (select distinct on (g.household_id) g.household_id, g.ended_on as day, g.status from placement g
        where g.ended_on is not null and g.status <> 'paid' and ${of('g.household_id')}
        order by g.household_id, g.ended_on desc, g.id desc)
      select k.household_id as "householdId", k.part, nullif(k.part, 0) as "patientId", h.number as account,
        case
          when a.id is null then h.last || ', ' || h.first
          else q.last || ', ' || q.first || ' (confidential)'
        end as name,
        h.phone, coalesce(a.email, m.email) as email, h.location_id as "siteId",
        coalesce(a.delivery, m.delivery) as delivery,
        case when a.id is null then m.delivery_why else '' end as "deliveryWhy",
        case
          when a.id is null then (m.line1 = '' or m.city = '' or m.state = '' or m.zip = '')
          else a.delivery <> 'email' and a.line1 = ''
        end as "addressIncomplete",
        case when a.id is null then m.address_returned else a.address_returned end as returned,
        coalesce(nullif(a.state, ''), h.state) as state, coalesce(nullif(a.zip, ''), h.zip) as zip,
        w.user_id as "ownerId", coalesce(u.name, '') as owner, t.day as "lastContact", t.again_on as "againOn",
        l.day as "lastPayment",
        r.id as "promiseId", r.amount as promised, r.made_on as "madeOn", r.by_date as "promisedBy",
        case when r.id is null then null else paid_since(r.household_id, r.made_at, r.by_date) end as paid,
        y.asked_on as "hardshipAsked", coalesce(out.n, 0) as "claimsOut", coalesce(stop.names, '{}') as stops,
        -- What is reserved for a visit to come keeps the hand-over waiting.
        coalesce(stop.agency, false)
          or exists (select from reserved_part v where v.household_id = k.household_id) as "stopsAgency",
        exists (select 1 from open where open.household_id = k.household_id and open.part = k.part) as "openLetter",
        coalesce(placed.state, 'none') as placement, ended.day as "endedOn", ended.status as ended, sent.letters
      from k join household h on h.id = k.household_id join household m on m.id = coalesce(h.mailed_with, h.id)
        left join confidential_address a on a.patient_id = k.part and a.ended_on is null
        left join patient q on q.id = a.patient_id
        left join last_paid l on l.household_id = h.id
        left join talked t on t.household_id = h.id
        left join promise r on r.household_id = h.id and r.ended_on is null
        left join hardship y on y.household_id = h.id and y.status = 'asked'
        left join out on out.household_id = h.id
        left join stop on stop.household_id = h.id
        left join sent on sent.household_id = k.household_id and sent.part = k.part
        left join placed on placed.household_id = h.id
        left join ended on ended.household_id = h.id
        left join overdue_owner w on w.household_id = h.id
        left join "user" u on u.id = w.user_id
      order by k.household_id, k.part`.execute(db),
    readPlans(context, sql`l.status = 'accepted' and l.household_id = any(${households}::bigint[])`),
  ]);
  const behind = new Map<number, number>();
  for (const plan of plans)
    behind.set(plan.householdId, Math.max(behind.get(plan.householdId) ?? 0, plan.daysBehind));
  // Written out, for there are tens of thousands: copying them takes longer than reading them.
  return rows.map((row) => ({
    householdId: row.householdId,
    patientId: row.patientId,
    account: row.account,
    name: row.name,
    phone: row.phone,
    email: row.email,
    siteId: row.siteId,
    delivery: row.delivery,
    deliveryWhy: row.deliveryWhy,
    addressIncomplete: row.addressIncomplete,
    returned: row.returned,
    state: row.state,
    zip: row.zip,
    ownerId: row.ownerId,
    owner: row.owner,
    lastContact: row.lastContact,
    promiseId: row.promiseId,
    facts: {
      charges: charges.get(keyOf(row.householdId, row.part))!,
      letters: (row.letters ?? []).map(({ stageId, position, date, chargeIds }): SentLetter => ({
        stageId,
        position,
        date: calendarDate(date),
        chargeIds,
      })),
      lastPayment: row.lastPayment,
      promise:
        row.promised === null
          ? null
          : { amount: row.promised, madeOn: row.madeOn!, by: row.promisedBy!, paid: row.paid! },
      hardshipAsked: row.hardshipAsked,
      planBehind: behind.get(row.householdId) ?? null,
      claimsOut: row.claimsOut,
      stops: row.stops,
      stopsAgency: row.stopsAgency,
      openLetter: row.openLetter,
      placement: row.placement,
      cameBack: row.ended && { on: row.endedOn!, words: PLACEMENT_STATES[row.ended] },
      againOn: row.againOn,
    },
  }));
}

/** So many days back the history is read. */
const HISTORY_DAYS = 1100;

/**
 * What patients owed when their debts reached each age, and what of it they paid within the next 90 days, by the practice’s own
 * history of the last three years. Cents, by the order of CHANCE_AGES.
 */
export async function readPaidHistory(db: Db, today: CalendarDate): Promise<PaidHistory> {
  // Of each debt and age: what was paid before, and within the days after it.
  const paid = CHANCE_AGES.map(
    ({ from }, at) => sql`
      coalesce(sum(y.amount) filter (where y.day < ${sql.lit(from)}), 0) as ${sql.ref(`before${at}`)},
      coalesce(
        sum(y.amount) filter (where y.day >= ${sql.lit(from)} and y.day < ${sql.lit(from + CHANCE_DAYS)}), 0
      ) as ${sql.ref(`within${at}`)}`,
  );
  const totals = CHANCE_AGES.map(({ from }, at) => {
    const reached = sql`d.total - ${sql.ref(`w.before${at}`)}`;
    const old = sql`filter (where d.since + ${sql.lit(from + CHANCE_DAYS)} <= ${today}::date)`;
    return sql`json_build_object('reached', coalesce(sum(greatest(0, ${reached})) ${old}, 0),
      'paid', coalesce(sum(greatest(0, least(${reached}, ${sql.ref(`w.within${at}`)}))) ${old}, 0))`;
  });
  const { rows } = await sql<{ history: { reached: Cents; paid: Cents }[] }>`
    with debt as materialized (select d.charge_id, min(d.since) as since, sum(d.raised) as total from debt_layer d
        where d.raised > 0
          and d.since between ${today}::date - ${HISTORY_DAYS}::int and ${today}::date - ${CHANCE_DAYS}::int
        group by 1)
    select json_build_array(${sql.join(totals)}) as history from debt d cross join lateral (
      select ${sql.join(paid)} from (
        select p.amount, e.business_date - d.since as day from posting p join entry e on e.id = p.entry_id
        where p.charge_id = d.charge_id and p.account in ('credit/patient', 'credit/agency')) y) w`.execute(
    db,
  );
  return rows[0]!.history;
}
