/** What is known of households when statements are chosen: one query, which asks only for what the rows weigh. */
import { WAITING } from '../../core/claims/life';
import { claimIn } from '../claim-states';
import { type RawBuilder, sql } from 'kysely';
import { calendarDate } from '../../core/calendar';
import { type Cents, ZERO, sum } from '../../core/money';
import { asksUntil } from '../../core/plans/progress';
import { dueDateOf } from '../../core/statements/policy';
import type { ConditionId, HouseholdFacts, SelectionRow } from '../../core/statements/selection';
import { askedFor } from '../../core/books/owed';
import type { Context } from '../access';
import { aboveEstimates, isUnseen } from '../accounts/door';
import { readOwed } from '../books/owed';
import { readPlans } from '../plans/door';
import type { Policies } from '../setup/statement-policies';

/** Facts that cost more than the household's own row, with the conditions that weigh them. */
const DEARER = {
  payments: ['payer-paid'],
  services: ['new-charge', 'not-seen'],
  unbilled: ['unbilled'],
  claims: ['claims-out'],
  providers: ['provider'],
} as const satisfies Record<string, readonly ConditionId[]>;
type Dearer = keyof typeof DEARER;
/** From so many households on all plans are read. */
const FEW = 1000;

/**
 * Reads the facts of every household with a charge or a credit, or of those named, in the order of their names; patients whose services
 * go to a confidential address stand beside their household, each by itself.
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
  type Row = Omit<HouseholdFacts, 'oldest' | 'installments' | 'aboveEstimate' | keyof PlanFacts> & {
    since: string | null;
    oldestService: string | null;
  };
  // A patient with a confidential address is weighed apart from the household: part 0 is the household without those.
  const part = sql`coalesce(apart.patient_id, 0)`;
  const apart = (patient: string): RawBuilder<unknown> =>
    sql`left join apart on apart.patient_id = ${sql.ref(patient)}`;
  const { rows: found } = await sql<Row>`
    with apart as (
      select a.*, p.household_id, p.last || ', ' || p.first as patient
      from confidential_address a
        join patient p on p.id = a.patient_id
      where a.ended_on is null and ${of('p.household_id')}),
    sent as (
      select s.household_id, coalesce(s.patient_id, 0) as part, max(s.date) as last,
        max(s.date) filter (where p.delivery = 'in-person') as handed
      from statement s
        join mail_piece p on p.id = s.piece_id
      where ${of('s.household_id')} and not exists (select 1 from statement_void v where v.statement_id = s.id)
      group by 1, 2),
    owed as materialized (select o.* from owed_part o where ${of('o.household_id')}),
    elsewhere as (
      select a.household_id, a.patient_id as part, sum(b.on_plan) as on_plan, sum(b.at_agency) as at_agency,
        sum(b.with_payer) as with_payer
      from apart a
        join charge c on c.patient_id = a.patient_id and c.household_id = a.household_id
        join charge_balance b on b.charge_id = c.id
      group by 1, 2),
    held as (
      select b.household_id, 0::bigint as part, b.on_plan - coalesce(sum(x.on_plan), 0) as on_plan,
        b.at_agency - coalesce(sum(x.at_agency), 0) as at_agency,
        b.with_payer - coalesce(sum(x.with_payer), 0) as with_payer
      from household_balance b
        left join elsewhere x on x.household_id = b.household_id
      where ${of('b.household_id')}
      group by b.household_id
      union all select * from elsewhere),
    owing as (
      select c.household_id, ${part} as part, min(y.since) as since, min(c.service_date) as service
      from patient_layer y
        join charge c on c.id = y.charge_id
      left join not_billable n on n.charge_id = y.charge_id
      left join charge_balance b on b.charge_id = y.charge_id ${apart('c.patient_id')}
      where y.amount > 0 and b.with_patient > coalesce(n.amount, 0) and ${of('c.household_id')} group by 1, 2),
    site as (
      select distinct on (c.household_id) c.household_id, c.location_id
      from charge c
      where c.kind = 'service' and c.status <> 'void' and ${of('c.household_id')}
      order by c.household_id, c.service_date desc, c.id desc),
    stop as (
      select s.household_id, array_agg(r.name order by r.name) as names
      from account_stop s
        join stop_reason r on r.id = s.reason_id
      where s.lifted_on is null
        and r.statements
        and s.since <= ${today}::date
        and (s.until is null or s.until >= ${today}::date)
        and ${of('s.household_id')}
      group by 1),
    open as (
      select unnest(array[p.household_id] || p.joined) as household_id, coalesce(p.patient_id, 0) as part,
        coalesce(p.batch_id, 0) as batch
      from mail_piece p
      where p.kind = 'statement' and p.status in ('draft', 'made', 'failed') and p.delivery <> 'in-person')
    ${
      asked('payments')
        ? sql`
      ,
      paid as (
        select c.household_id, ${part} as part, max(e.business_date) as day
        from posting p
          join charge c on c.id = p.charge_id
          join entry e on e.id = p.entry_id ${apart('c.patient_id')}
        where e.kind in ('payer-decision', 'credit-applied')
          and p.account in (select code from book_account where class = 'cash')
          and p.amount > 0
          and ${of('c.household_id')}
        group by 1, 2
      )`
        : sql``
    }
    ${
      asked('services')
        ? sql`
      ,
      service as (
        select c.household_id, ${part} as part, max(c.service_date) as day
        from charge c ${apart('c.patient_id')}
        where c.kind = 'service'
          and c.status = 'done'
          and c.service_date <= ${today}::date
          and ${of('c.household_id')}
        group by 1, 2
      )`
        : sql``
    }
    ${
      asked('unbilled')
        ? sql`
      ,
      unbilled as (
        select c.household_id, ${part} as part, max(c.service_date) as day
        from payer_balance b
          join charge c on c.id = b.charge_id and c.coverage_id = b.coverage_id ${apart('c.patient_id')}
        where b.with_payer > 0
          and c.status = 'done'
          and ${of('c.household_id')}
          and not exists (
            select 1
            from claim_line l
            where l.charge_id = b.charge_id and l.coverage_id = b.coverage_id and l.bills
          )
        group by 1, 2
      )`
        : sql``
    }
    ${
      asked('claims')
        ? sql`
      ,
      claims as (
        select m.household_id, ${part} as part, count(*) as n
        from claim m ${apart('m.patient_id')}
        where ${claimIn(sql`m.status`, WAITING)} and ${of('m.household_id')}
        group by 1, 2
      )`
        : sql``
    }
    ${
      asked('providers')
        ? sql`
      ,
      seen as (
        select c.household_id, ${part} as part, array_agg(distinct c.provider_id::int) as ids
        from charge c ${apart('c.patient_id')}
        where c.kind = 'service' and c.status = 'done' and ${of('c.household_id')}
        group by 1, 2
      )`
        : sql``
    }
    select h.id as "householdId", apart.patient_id as "patientId", h.number as account,
      coalesce(apart.patient, h.last || ', ' || h.first) as name,
      coalesce(h.location_id, site.location_id) as "siteId",
      case when t.part > 0 then h.id else coalesce(h.mailed_with, h.id) end as envelope,
      o.owed, o.forbidden, o.credit, coalesce(held.on_plan, 0)::bigint as "onPlan",
      coalesce(held.at_agency, 0)::bigint as "atAgency", coalesce(held.with_payer, 0)::bigint as "withPayers",
      owing.since, owing.service as "oldestService", sent.last as "lastStatement", sent.handed as "handedOver",
      ${asked('payments') ? sql`paid.day` : sql`null`} as "lastPayerPayment",
      ${asked('services') ? sql`service.day` : sql`null`} as "lastService",
      ${asked('unbilled') ? sql`unbilled.day` : sql`null`} as "unbilledService",
      ${asked('claims') ? sql`coalesce(claims.n, 0)` : sql`0`} as "claimsOut",
      ${asked('providers') ? sql`coalesce(seen.ids, '{}'::int[])` : sql`'{}'::int[]`} as "providerIds", h.category,
      case
        when t.part > 0 then apart.delivery <> 'email' and apart.line1 = ''
        else (m.line1 = '' or m.city = '' or m.state = '' or m.zip = '')
      end as "addressIncomplete",
      case when t.part > 0 then apart.address_returned else m.address_returned end as "addressReturned",
      coalesce(apart.delivery, m.delivery) as delivery,
      case when t.part > 0 then '' else m.delivery_why end as "deliveryWhy",
      coalesce(apart.email, m.email) <> '' as "hasEmail",
      case when t.part > 0 then apart.email_returned else m.email_returned end as "emailReturned",
      h.hold_until as "holdUntil", h.hold_why as "holdWhy", coalesce(stop.names, '{}') as stops,
      open.batch as "openBatch"
    from (
      select id as household_id, 0::bigint as part
      from household
      where ${of('id')}
      union all
      select household_id, patient_id
      from apart
    ) t
      join household h on h.id = t.household_id
      join owed o on o.household_id = t.household_id and o.part = t.part
      join household m on m.id = coalesce(h.mailed_with, h.id)
      left join apart on apart.patient_id = t.part
      left join held on held.household_id = t.household_id and held.part = t.part
      left join sent on sent.household_id = t.household_id and sent.part = t.part
      left join owing on owing.household_id = t.household_id and owing.part = t.part
      left join site on site.household_id = h.id
      left join stop on stop.household_id = h.id
      left join open on open.household_id = t.household_id and open.part = t.part
      ${asked('payments') ? sql`left join paid on paid.household_id = t.household_id and paid.part = t.part` : sql``} ${
        asked('services')
          ? sql`
        left join service on service.household_id = t.household_id and service.part = t.part`
          : sql``
      }
      ${asked('unbilled') ? sql`left join unbilled on unbilled.household_id = t.household_id and unbilled.part = t.part` : sql``} ${
        asked('claims')
          ? sql`
        left join claims on claims.household_id = t.household_id and claims.part = t.part`
          : sql``
      }
      ${asked('providers') ? sql`left join seen on seen.household_id = t.household_id and seen.part = t.part` : sql``}
    where o.credit <> 0
      or exists (select 1 from charge c where c.household_id = h.id and (t.part = 0 or c.patient_id = t.part))
    ${bySite ? sql`order by h.last, h.first, h.id, t.part` : sql`order by t.part`}`.execute(context.db);
  const plans = await plansByHousehold(context, policies, found);
  const above = await aboveByPart(context, found);
  return (await withoutQuiet(context, found)).map(({ since, oldestService, ...rest }) => {
    const plan = rest.patientId === null ? plans.get(rest.householdId) : undefined;
    const facts = {
      ...rest,
      installmentOn: plan?.installmentOn ?? null,
      planBehind: plan?.planBehind ?? null,
      installments: plan?.installments ?? ZERO,
      aboveEstimate: above.get(rest.patientId ?? -rest.householdId) ?? [],
    };
    const oldest = policies.of(facts.siteId).agingFrom === 'service' ? oldestService : since;
    return { ...facts, oldest: oldest === null ? null : calendarDate(oldest) };
  });
}

/** Facts without what is on no statements, of the few households of which there is such. */
async function withoutQuiet<
  Row extends Pick<HouseholdFacts, 'householdId' | 'patientId' | 'owed' | 'credit'> & {
    since: string | null;
    oldestService: string | null;
  },
>(context: Context, found: Row[]): Promise<Row[]> {
  const { rows } = await sql<{ id: number }>`
    select distinct p.household_id as id
    from care_case k
      join patient p on p.id = k.patient_id
    where not k.statements
      and p.household_id = any(${found.map(({ householdId }) => householdId)}::bigint[])`.execute(context.db);
  if (rows.length === 0) return found;
  const ids = rows.map(({ id }) => id);
  const accounts = await readOwed(context, ids);
  const first = (days: readonly string[]): string | null => [...days].sort()[0] ?? null;
  return found.map((row) => {
    const account = accounts.find(
      ({ householdId, patientId }) => householdId === row.householdId && patientId === row.patientId,
    );
    if (!ids.includes(row.householdId) || !account) return row;
    const { owed, credit, charges } = askedFor(account);
    return {
      ...row,
      owed,
      credit,
      since: first(charges.flatMap(({ remaining }) => remaining.map(({ since }) => since))),
      oldestService: first(charges.map(({ date }) => date)),
    };
  });
}

/**
 * What is charged so much above an estimate that it may be disputed, and nobody has looked at: by the patient who is weighed apart, or by
 * the household below zero.
 */
async function aboveByPart(
  context: Context,
  households: readonly Pick<HouseholdFacts, 'householdId' | 'patientId'>[],
): Promise<Map<number, string[]>> {
  const ids = [...new Set(households.map(({ householdId }) => householdId))];
  const which = ids.length < FEW ? sql`p.household_id = any(${ids}::bigint[])` : sql`true`;
  const apart = new Set(households.map(({ patientId }) => patientId));
  const found = new Map<number, string[]>();
  for (const one of await aboveEstimates(context.db, which)) {
    if (!one.owed || !isUnseen(one)) continue;
    const part = apart.has(one.patientId) ? one.patientId : -one.householdId;
    found.set(part, [...(found.get(part) ?? []), ...one.words]);
  }
  return found;
}

type PlanFacts = Pick<HouseholdFacts, 'installmentOn' | 'planBehind'> & { installments: Cents };

/** What of the running plans of households is weighed: what they ask for until a statement of today would be due. */
async function plansByHousehold(
  context: Context,
  policies: Policies,
  households: readonly { householdId: number; siteId: number | null }[],
): Promise<Map<number, PlanFacts>> {
  const found = new Map<number, PlanFacts>();
  const sites = new Map(households.map(({ householdId, siteId }) => [householdId, siteId]));
  const which =
    households.length < FEW ? sql`l.household_id = any(${[...sites.keys()]}::bigint[])` : sql`true`;
  for (const plan of await readPlans(context, sql`l.status = 'accepted' and ${which}`)) {
    const before = found.get(plan.householdId);
    const { dueDays } = policies.of(sites.get(plan.householdId) ?? null);
    const next = plan.oldest?.date ?? plan.next?.date ?? null;
    const earlier = before?.installmentOn ?? null;
    found.set(plan.householdId, {
      installmentOn: earlier !== null && (next === null || earlier < next) ? earlier : next,
      planBehind: Math.max(before?.planBehind ?? 0, plan.daysBehind),
      installments: sum([
        before?.installments ?? ZERO,
        ...asksUntil(plan, dueDateOf(context.today, dueDays)).map(({ amount }) => amount),
      ]),
    });
  }
  return found;
}
