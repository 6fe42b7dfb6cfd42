/** What needs a decision now: counts for the rail, figures for Today, and the search field. */
import { sql } from 'kysely';
import { addDays } from '../../core/calendar';
import type { Cents } from '../../core/money';
import { type Context, allow, may } from '../access';
import { likeText } from '../lists/find';

/** Counts and amounts (cents) of what waits. */
export interface Waiting {
  fix: number;
  fixTotal: Cents;
  ready: number;
  readyTotal: Cents;
  unbilled: number;
  unbilledTotal: Cents;
  unanswered: number;
  unansweredTotal: Cents;
  remitReady: number;
  remitReadyTotal: Cents;
  remitHeld: number;
  remitHeldTotal: Cents;
  unmatched: number;
  unmatchedTotal: Cents;
  followUps: number;
  followUpsTotal: Cents;
  credits: number;
  creditsTotal: Cents;
  owing: number;
  owingTotal: Cents;
  statementsDue: number;
  statementsDueTotal: Cents;
}

/** Days without an answer after which a sent claim waits for somebody. */
const UNANSWERED_DAYS = 14;
/** Days after a statement before the next is due. */
const STATEMENT_DAYS = 28;

/** Counts everything that waits, in one query. */
export async function readWaiting(context: Context): Promise<Waiting> {
  const since = addDays(context.today, -UNANSWERED_DAYS);
  const statement = addDays(context.today, -STATEMENT_DAYS);
  const { rows } = await sql<Waiting>`
    select c.*, u.*, r.*, x.*, f.*, h.*, s.* from
    (select count(*) filter (where status in ('draft', 'rejected', 'held')) as fix, coalesce(sum(total) filter (where status in ('draft', 'rejected', 'held')), 0) as "fixTotal",
      count(*) filter (where status = 'ready') as ready, coalesce(sum(total) filter (where status = 'ready'), 0) as "readyTotal",
      count(*) filter (where status in ('sent', 'accepted') and sent_date <= ${since}) as unanswered, coalesce(sum(total) filter (where status in ('sent', 'accepted') and sent_date <= ${since}), 0) as "unansweredTotal"
      from claim where status in ('draft', 'rejected', 'held', 'ready', 'sent', 'accepted')) c,
    (select count(*) as unbilled, coalesce(sum(c.fee), 0) as "unbilledTotal" from charge c join charge_balance b on b.charge_id = c.id where c.coverage_id is not null and c.status = 'done' and b.with_payer > 0
      and not exists (select 1 from claim_line l where l.charge_id = c.id and l.coverage_id = c.coverage_id and l.current)) u,
    (select count(*) filter (where status in ('ready', 'posting')) as "remitReady", coalesce(sum(amount) filter (where status in ('ready', 'posting')), 0) as "remitReadyTotal", count(*) filter (where status = 'held') as "remitHeld", coalesce(sum(amount) filter (where status = 'held'), 0) as "remitHeldTotal" from remittance where status <> 'posted') r,
    (select count(*) as unmatched, coalesce(sum(paid), 0) as "unmatchedTotal" from remittance_claim where status = 'unmatched') x,
    (select count(*) as "followUps", coalesce(sum(amount), 0) as "followUpsTotal" from follow_up where closed_at is null) f,
    (select count(*) filter (where credit > 0) as credits, coalesce(sum(credit) filter (where credit > 0), 0) as "creditsTotal", count(*) filter (where with_patient > 0) as owing, coalesce(sum(with_patient) filter (where with_patient > 0), 0) as "owingTotal" from household_balance) h,
    (select count(*) as "statementsDue", coalesce(sum(b.with_patient), 0) as "statementsDueTotal" from household_balance b where b.with_patient > 0 and not exists (select 1 from statement s where s.household_id = b.household_id and s.date > ${statement})) s`.execute(
    context.db,
  );
  return rows[0]!;
}

/** The figures of Today: what came in and went out by month, and the age of what patients owe. Cents. */
export interface TodayFigures {
  months: { month: string; charged: Cents; payers: Cents; patients: Cents; written: Cents }[];
  withPayers: Cents;
  withPatients: Cents;
  credit: Cents;
  receivedThisWeek: Cents;
  /** What patients owe by days since the charge last passed to them. */
  aging: { bucket: string; amount: Cents }[];
  /** What payers hold by days since service. */
  payerAging: { bucket: string; amount: Cents }[];
}

/** Reads the figures from the postings. */
export async function readToday(context: Context): Promise<TodayFigures> {
  allow(context, 'read accounts');
  const from = addDays(context.today, -365);
  const buckets = sql.raw(
    `case when d <= 30 then 0 when d <= 60 then 1 when d <= 90 then 2 when d <= 120 then 3 else 4 end`,
  );
  const [months, totals, aging] = await Promise.all([
    sql<TodayFigures['months'][number]>`
      select to_char(date_trunc('month', e.business_date), 'YYYY-MM') as month, coalesce(-sum(p.amount) filter (where p.account = 'income/fees'), 0) as charged,
        coalesce(sum(p.amount) filter (where p.account like 'cash/%' and p.receipt_id is null), 0) as payers, coalesce(sum(p.amount) filter (where p.account like 'cash/%' and p.receipt_id is not null), 0) as patients,
        coalesce(sum(p.amount) filter (where p.account like 'reduction/%'), 0) as written
      from posting p join entry e on e.id = p.entry_id where e.business_date > ${from} group by 1 order by 1`.execute(
      context.db,
    ),
    sql<{ withPayers: Cents; withPatients: Cents; credit: Cents; receivedThisWeek: Cents }>`
      select coalesce(sum(with_payer), 0) as "withPayers", coalesce(sum(with_patient), 0) as "withPatients", coalesce(sum(credit), 0) as credit,
        (select coalesce(sum(p.amount), 0) from posting p join entry e on e.id = p.entry_id where p.account like 'cash/%' and e.posting_date > ${addDays(context.today, -7)}) as "receivedThisWeek" from household_balance`.execute(
      context.db,
    ),
    sql<{ kind: string; bucket: number; amount: Cents }>`
      select kind, ${buckets} as bucket, sum(amount) as amount from (
        select 'patient' as kind, b.with_patient as amount, ${context.today}::date - (select max(e.business_date) from posting p join entry e on e.id = p.entry_id where p.charge_id = b.charge_id and p.account = 'receivable/patient' and p.amount > 0) as d from charge_balance b where b.with_patient <> 0
        union all select 'payer', b.with_payer, ${context.today}::date - c.service_date from charge_balance b join charge c on c.id = b.charge_id where b.with_payer <> 0) t group by 1, 2`.execute(
      context.db,
    ),
  ]);
  const names = ['0–30', '31–60', '61–90', '91–120', 'over 120'];
  const of = (kind: string) =>
    names.map((bucket, index) => ({
      bucket,
      amount: (aging.rows.find((row) => row.kind === kind && row.bucket === index)?.amount ?? 0) as Cents,
    }));
  return { months: months.rows, ...totals.rows[0]!, aging: of('patient'), payerAging: of('payer') };
}

/** One thing that the search field found. */
export interface Hit {
  kind: 'account' | 'claim' | 'remittance' | 'code';
  title: string;
  detail: string;
  href: string;
}

/** Searches people, accounts, claims, checks and codes, as far as the role may see them. */
export async function searchEverything(context: Context, text: string): Promise<Hit[]> {
  allow(context, 'read accounts');
  const like = likeText(text);
  if (!like || text.trim().length < 2) return [];
  const { db } = context;
  const people = await sql<Hit>`
    select 'account' as kind, p.last || ', ' || p.first as title, h.number || ' · born ' || p.birth_date as detail, '/accounts/' || h.id as href from patient p join household h on h.id = p.household_id
    where p.search like ${like} or lower(h.number) like ${like} order by p.last, p.first limit 8`.execute(db);
  const claims = may(context.user.role, 'read claims')
    ? await sql<Hit>`select 'claim' as kind, m.control_number as title, m.status || ' · ' || y.name as detail, '/claims/' || m.id as href from claim m join payer y on y.id = m.payer_id where lower(m.control_number) like ${like} order by m.id desc limit 5`.execute(
        db,
      )
    : { rows: [] };
  const remits = may(context.user.role, 'read remittances')
    ? await sql<Hit>`select 'remittance' as kind, trace as title, payer_name || ' · ' || payment_date as detail, '/remittances/' || id as href from remittance where lower(trace) like ${like} order by id desc limit 5`.execute(
        db,
      )
    : { rows: [] };
  const codes =
    await sql<Hit>`select 'code' as kind, code || ' ' || description as title, category as detail, '/setup/services?search=' || code as href from service_code where lower(code) like ${like} or lower(description) like ${like} order by code limit 4`.execute(
      db,
    );
  return [
    ...people.rows,
    ...claims.rows,
    ...remits.rows,
    ...(may(context.user.role, 'read setup') ? codes.rows : []),
  ];
}
