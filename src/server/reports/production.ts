/** What was earned, with the write-offs of contracts counted both ways, and what came of it; and what providers are paid of that. */
import { type RawBuilder, sql } from 'kysely';
import { PRODUCTION_BY } from '../../core/reports/production';
import { WRITE_OFFS_COUNT } from '../../core/books/expected';
import type { CalendarDate } from '../../core/calendar';
import type { Cents } from '../../core/money';
import type { Context } from '../access';
import { day, money, number, words } from '../lists/list';
import { period, report } from './report';

/**
 * What moved in production, a row a posting or a date: the fee, what contracts took off and what else came off, what came in, and what
 * is expected to come off. That stands in the books where a practice counts it on the day of service; of other charges it is what the
 * contract was to take off, from the day of service until a decision stands. Cents.
 */
const MOVES = sql`(
  select p.charge_id, e.business_date as on_day, case when a.part = 'fee' then -p.amount else 0 end as gross,
    case when p.account = 'reduction/contract' then p.amount else 0 end as contract,
    case when a.part = 'reduced' and p.account <> 'reduction/contract' then p.amount else 0 end as other,
    case when a.part = 'expected' then p.amount else 0 end as expected,
    case when a.part = 'payer_paid' then p.amount else 0 end as payers,
    case when a.part = 'patient_paid' then p.amount else 0 end as patients,
    (e.kind = 'charge' and not exists (select from entry r where r.reverses = e.id))::integer as services,
    coalesce(h.provider_id, c.provider_id) as provider_id, coalesce(h.location_id, c.location_id) as location_id
  from posting p
    join entry e on e.id = p.entry_id
    join book_account a on a.code = p.account
    join charge c on c.id = p.charge_id
    left join charge_change h on h.charge_id = p.charge_id and p.entry_id > h.after_entry and p.entry_id <= h.last_entry
  where a.part in ('fee', 'reduced', 'expected', 'payer_paid', 'patient_paid')
  union all
  -- What moved until it was put right who did it goes to that one on the day on which it was.
  select h.charge_id, h.on_day, s.sign * t.gross, s.sign * t.contract, s.sign * t.other, s.sign * t.expected,
    s.sign * t.payers, s.sign * t.patients, s.sign * t.services, s.provider_id, s.location_id
  from charge_change h
    join charge c on c.id = h.charge_id
    left join charge_change n on n.charge_id = h.charge_id and n.after_entry = h.last_entry and n.id > h.id
    cross join lateral (
      values (-1, h.provider_id, h.location_id),
        (1, coalesce(n.provider_id, c.provider_id), coalesce(n.location_id, c.location_id))
    ) s (sign, provider_id, location_id)
    cross join lateral (
      select coalesce(sum(-p.amount) filter (where a.part = 'fee'), 0) as gross,
        coalesce(sum(p.amount) filter (where p.account = 'reduction/contract'), 0) as contract,
        coalesce(sum(p.amount) filter (where a.part = 'reduced' and p.account <> 'reduction/contract'), 0) as other,
        coalesce(sum(p.amount) filter (where a.part = 'expected'), 0) as expected,
        coalesce(sum(p.amount) filter (where a.part = 'payer_paid'), 0) as payers,
        coalesce(sum(p.amount) filter (where a.part = 'patient_paid'), 0) as patients,
        count(*) filter (
          where e.kind = 'charge' and a.part = 'fee' and not exists (select from entry r where r.reverses = e.id)
        ) as services
      from posting p
        join entry e on e.id = p.entry_id
        join book_account a on a.code = p.account
      where p.charge_id = h.charge_id and p.entry_id <= h.last_entry
    ) t
  union all
  select c.id, c.service_date, 0, 0, 0, c.contract_off, 0, 0, 0, c.provider_id, c.location_id
  from charge c
  where c.status = 'done' and c.contract_off > 0 and not c.expects
  union all
  select c.id, d.on_day, 0, 0, 0, -c.contract_off, 0, 0, 0, c.provider_id, c.location_id
  from charge c
    cross join lateral (
      select max(e.business_date) as on_day
      from posting p
        join entry e on e.id = p.entry_id
      where p.charge_id = c.id
        and p.claim_id is not null
        and (p.remittance_claim_id is not null or p.provider_adjustment_id is not null)
        and not exists (select from entry r where r.reverses = e.id)
        and e.reverses is null
    ) d
  where c.status = 'done'
    and c.contract_off > 0
    and not c.expects
    and d.on_day is not null
    and exists (
      select
      from posting p
        join claim m on m.id = p.claim_id
      where p.charge_id = c.id and (p.remittance_claim_id is not null or p.provider_adjustment_id is not null)
      group by m.coverage_id, p.account, p.coverage_id
      having sum(p.amount) <> 0
    )
)`;
const FROM = sql`
  ${MOVES} m
    join charge c on c.id = m.charge_id
    join provider v on v.id = m.provider_id
    join location l on l.id = m.location_id
    left join service_code s on s.code = c.code`;
const PROVIDER = sql`trim(v.last || ', ' || v.first || ' ' || v.suffix)`;
const sums = (of: RawBuilder<unknown>) => sql<Cents>`coalesce(sum(${of}), 0)`;

const NET = {
  answer: sql`m.gross - m.contract - m.other`,
  service: sql`m.gross - m.contract - m.other - m.expected`,
};

/** Which way the practice counts, in words. */
async function policyWords({ db }: Context): Promise<string> {
  const practice = await db.selectFrom('practice').select('write_offs_count').executeTakeFirst();
  const way = WRITE_OFFS_COUNT[(practice?.write_offs_count ?? 'answer') as 'answer'];
  return `This practice counts write-offs of contracts ${way}, but where a plan says otherwise.`;
}

/** What the rows say beside their figures, by what they are made by. */
const TOLD: Readonly<Record<string, readonly string[]>> = {
  provider: ['provider', 'location'],
  day: ['on'],
  category: ['category'],
  visit: ['provider', 'on', 'category'],
};

/** Charged, written off and received in a period, by provider and site, by day, or by kind of service. */
export const production = report({
  name: 'production',
  title: 'Production',
  about:
    'By business date. Net of what contracts take off: counted on the day of service as it is expected, and by the difference when the payer answers; or counted when the payer answers. What was reversed is taken off again; payments count for the provider of the charge they went to. Expected, change: what is newly expected to come off, less what no longer is since a payer has answered.',
  says: policyWords,
  permission: 'read books',
  parameters: { ...period(30), by: { label: 'By', kind: 'choice', choices: PRODUCTION_BY } },
  columns: {
    provider: words('Provider', sql`case when m.by in ('provider', 'visit') then ${PROVIDER} else 'all' end`),
    location: words('Location', sql`case when m.by = 'provider' then l.name else '' end`),
    on: day('Day', sql`case when m.by in ('day', 'visit') then m.on_day end`),
    category: words(
      'Kind of service',
      sql`case when m.by in ('category', 'visit') then coalesce(s.category, '') else '' end`,
    ),
    services: number('Services', sql`sum(m.services)`),
    charged: money('Charged', sums(sql`m.gross`)),
    contract: money('Off by contract', sums(sql`m.contract`)),
    reduced: money('Off otherwise', sums(sql`m.other`)),
    answered: money('Net when answered', sums(NET.answer)),
    expected: money('Expected, change', sums(sql`m.expected`)),
    net: money('Net on the day', sums(NET.service)),
    payers: money('From payers', sums(sql`m.payers`)),
    patients: money('From patients', sums(sql`m.patients`)),
  },
  silent: ({ by }) => ['provider', 'location', 'on', 'category'].filter((key) => !TOLD[by]!.includes(key)),
  filters: { provider: sql`m.provider_id`, site: sql`m.location_id` },
  groups: ['location', 'provider', 'category'],
  chart: { along: 'provider', draws: ['net', 'payers', 'patients'] },
  household: null,
  from: ({ by }) => sql`
    (select x.*, ${by}::text as by from ${MOVES} x) m
      join charge c on c.id = m.charge_id
      join provider v on v.id = m.provider_id
      join location l on l.id = m.location_id
      left join service_code s on s.code = c.code`,
  where: ({ from, to }) => sql`m.on_day between ${from} and ${to}`,
  rowBy: sql`1, 2, 3, 4`,
  order: sql`2, 1, 3, 4`,
});

/** What makes the two ways of counting differ in a period, a charge a line. */
export const productionLines = report({
  name: 'production-lines',
  title: 'Why production differs both ways',
  about:
    'Each service of which something is expected to come off in the period, or was and is no longer since its payer has answered: what the two ways of counting differ by.',
  says: policyWords,
  permission: 'read books',
  parameters: period(30),
  columns: {
    account: words('Account', sql`h.number`),
    patient: words('Patient', sql`i.last || ', ' || i.first`),
    service: words('Service', sql`concat_ws(' ', c.code, c.description)`),
    provider: words('Provider', PROVIDER),
    on: day('Done on', sql<CalendarDate>`c.service_date`),
    fee: money('Fee', sql<Cents>`c.fee`),
    off: money('Contract takes off', sql<Cents>`c.contract_off`),
    contract: money('Came off', sums(sql`m.contract`)),
    expected: money('Differs by', sums(sql`m.expected`)),
    why: words(
      'Why',
      sql`
        case
          when sum(m.expected) > 0 then 'expected, and not answered in the period'
          else 'answered, and expected before the period'
        end`,
    ),
  },
  filters: { provider: sql`m.provider_id`, site: sql`m.location_id` },
  groups: ['provider', 'why'],
  leads: sql`'/accounts/' || h.id`,
  household: sql`h.id`,
  from: () => sql`
    ${FROM}
    join household h on h.id = c.household_id
    join patient i on i.id = c.patient_id`,
  where: ({ from, to }) => sql`m.on_day between ${from} and ${to}`,
  rowBy: sql`c.id, h.id, i.id, v.id`,
  having: sql`sum(m.expected) <> 0`,
  order: sql`c.service_date, c.id`,
});

/** What providers are paid of what was earned or came in, by kind of service: a page for each on paper. */
export const providerPay = report({
  name: 'provider-pay',
  title: 'Pay of providers',
  about: 'By business date, and by the share that held on the day. What was reversed is taken off again.',
  says: policyWords,
  permission: 'read books',
  parameters: period(30),
  columns: {
    provider: words('Provider', PROVIDER),
    category: words('Kind of service', sql`coalesce(s.category, '')`),
    services: number('Services', sql`sum(m.services)`),
    basis: words(
      'Of',
      sql`
        case w.basis
          when 'service' then 'production on the day'
          when 'answer' then 'production when answered'
          when 'collected' then 'what came in'
          else 'no share'
        end`,
    ),
    earned: money(
      'Base',
      sums(sql`
        case w.basis
          when 'service' then ${NET.service}
          when 'answer' then ${NET.answer}
          when 'collected' then m.payers + m.patients
          else 0
        end`),
    ),
    share: words('Share', sql`coalesce(trim_scale(w.share / 100.0)::text || ' %', '–')`),
    pay: money(
      'Pay',
      sql<Cents>`
        round(
          coalesce(
            sum(
              case w.basis
                when 'service' then ${NET.service}
                when 'answer' then ${NET.answer}
                when 'collected' then m.payers + m.patients
                else 0
              end
            ), 0
          ) * coalesce(w.share, 0) / 10000.0
        )::bigint`,
    ),
  },
  filters: { provider: sql`m.provider_id`, site: sql`m.location_id` },
  groups: ['provider'],
  pages: 'group',
  household: null,
  from: () => sql`
    ${FROM}
    left join lateral (
      select x.basis, x.share
      from provider_share x
      where x.provider_id = v.id
        and x.active
        and (x.category is null or x.category = s.category)
        and (x.valid_from is null or x.valid_from <= m.on_day)
      order by x.category is null, x.valid_from desc nulls last
      limit 1
    ) w on true`,
  where: ({ from, to }) => sql`m.on_day between ${from} and ${to}`,
  rowBy: sql`v.id, s.category, w.basis, w.share`,
  having: sql`
    bool_or(
      0 <> any(array[m.services, m.gross, m.contract, m.other, m.expected, m.payers, m.patients])
    )`,
  order: sql`v.last, v.first, v.id, coalesce(s.category, ''), w.basis, w.share`,
});
