/** What is known of households when statements are chosen: one query, which asks only for what the rows weigh. */
import { type RawBuilder, sql } from 'kysely';
import { calendarDate } from '../../core/calendar';
import type { ConditionId, HouseholdFacts, SelectionRow } from '../../core/statements/selection';
import type { Context } from '../access';
import type { Policies } from './policies';

/** Facts that cost more than the household's own row, with the conditions that weigh them. */
const DEARER = {
  payments: ['payer-paid'],
  services: ['new-charge', 'not-seen'],
  unbilled: ['unbilled'],
  claims: ['claims-out'],
  providers: ['provider'],
} as const satisfies Record<string, readonly ConditionId[]>;
type Dearer = keyof typeof DEARER;

/** Claims that are out and not decided. */
const OUT = sql`('sent', 'accepted')`;

/**
 * Reads the facts of every household with a charge or a credit, or of those named, in the order of their names.
 * @param rows what is going to weigh them
 */
export async function readFacts(
  context: Context,
  policies: Policies,
  rows: readonly SelectionRow[],
  ids?: readonly number[],
): Promise<HouseholdFacts[]> {
  const asked = (part: Dearer): boolean =>
    rows.some(({ what }) => (DEARER[part] as readonly ConditionId[]).includes(what));
  const of = (column: string): RawBuilder<unknown> =>
    ids ? sql`${sql.ref(column)} = any(${[...ids]}::bigint[])` : sql`true`;
  const { today } = context;
  const bySite = ids === undefined || ids.length > 1;
  type Row = Omit<HouseholdFacts, 'oldest'> & { since: string | null; oldestService: string | null };
  const { rows: found } = await sql<Row>`
    with sent as (
      select s.household_id, max(s.date) as last, max(s.date) filter (where p.delivery = 'in-person') as handed
      from statement s join mail_piece p on p.id = s.piece_id where ${of('s.household_id')} and not exists (select 1 from statement_void v where v.statement_id = s.id) group by 1),
    owing as (
      select c.household_id, min(b.patient_since) as since, min(c.service_date) as service from charge_balance b join charge c on c.id = b.charge_id
      where b.with_patient > 0 and ${of('c.household_id')} group by 1),
    site as (
      select distinct on (c.household_id) c.household_id, c.location_id from charge c where c.kind = 'service' and c.status <> 'void' and ${of('c.household_id')}
      order by c.household_id, c.service_date desc, c.id desc),
    stop as (
      select s.household_id, array_agg(r.name order by r.name) as names from account_stop s join stop_reason r on r.id = s.reason_id
      where s.lifted_on is null and r.statements and s.since <= ${today}::date and (s.until is null or s.until >= ${today}::date) and ${of('s.household_id')} group by 1)
    ${asked('payments') ? sql`, paid as (select p.household_id, max(e.business_date) as day from posting p join entry e on e.id = p.entry_id where e.kind in ('payer-decision', 'credit-applied') and p.account like 'cash/%' and p.amount > 0 and ${of('p.household_id')} group by 1)` : sql``}
    ${asked('services') ? sql`, service as (select c.household_id, max(c.service_date) as day from charge c where c.kind = 'service' and c.status = 'done' and c.service_date <= ${today}::date and ${of('c.household_id')} group by 1)` : sql``}
    ${asked('unbilled') ? sql`, unbilled as (select c.household_id, max(c.service_date) as day from payer_balance b join charge c on c.id = b.charge_id and c.coverage_id = b.coverage_id where b.with_payer > 0 and c.status = 'done' and ${of('c.household_id')} and not exists (select 1 from claim_line l where l.charge_id = b.charge_id and l.coverage_id = b.coverage_id and l.current) group by 1)` : sql``}
    ${asked('claims') ? sql`, claims as (select m.household_id, count(*) as n from claim m where m.status in ${OUT} and ${of('m.household_id')} group by 1)` : sql``}
    ${asked('providers') ? sql`, seen as (select c.household_id, array_agg(distinct c.provider_id::int) as ids from charge c where c.kind = 'service' and c.status = 'done' and ${of('c.household_id')} group by 1)` : sql``}
    select h.id as "householdId", h.number as account, h.last || ', ' || h.first as name, coalesce(h.location_id, site.location_id) as "siteId",
      b.with_patient as owed, b.credit, owing.since, owing.service as "oldestService", sent.last as "lastStatement", sent.handed as "handedOver",
      ${asked('payments') ? sql`paid.day` : sql`null`} as "lastPayerPayment", ${asked('services') ? sql`service.day` : sql`null`} as "lastService",
      ${asked('unbilled') ? sql`unbilled.day` : sql`null`} as "unbilledService", ${asked('claims') ? sql`coalesce(claims.n, 0)` : sql`0`} as "claimsOut",
      ${asked('providers') ? sql`coalesce(seen.ids, '{}'::int[])` : sql`'{}'::int[]`} as "providerIds", h.category,
      (h.line1 = '' or h.city = '' or h.state = '' or h.zip = '') as "addressIncomplete", h.address_returned as "addressReturned", h.delivery, h.delivery_why as "deliveryWhy",
      h.email <> '' as "hasEmail", h.email_returned as "emailReturned", h.hold_until as "holdUntil", h.hold_why as "holdWhy", coalesce(stop.names, '{}') as stops,
      (select coalesce(p.batch_id, 0) from mail_piece p where p.household_id = h.id and p.kind = 'statement' and p.status in ('draft', 'made', 'failed')) as "openBatch"
    from household h join household_balance b on b.household_id = h.id
      left join sent on sent.household_id = h.id left join owing on owing.household_id = h.id left join site on site.household_id = h.id left join stop on stop.household_id = h.id
      ${asked('payments') ? sql`left join paid on paid.household_id = h.id` : sql``} ${asked('services') ? sql`left join service on service.household_id = h.id` : sql``}
      ${asked('unbilled') ? sql`left join unbilled on unbilled.household_id = h.id` : sql``} ${asked('claims') ? sql`left join claims on claims.household_id = h.id` : sql``}
      ${asked('providers') ? sql`left join seen on seen.household_id = h.id` : sql``}
    where ${of('h.id')} and (b.credit <> 0 or exists (select 1 from charge c where c.household_id = h.id))
    ${bySite ? sql`order by h.last, h.first, h.id` : sql``}`.execute(context.db);
  return found.map(({ since, oldestService, ...facts }) => {
    const oldest = policies.of(facts.siteId).agingFrom === 'service' ? oldestService : since;
    return { ...facts, oldest: oldest === null ? null : calendarDate(oldest) };
  });
}
