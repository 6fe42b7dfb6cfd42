/** Postings, ledger, claims and statements as CSV or JSON, read with a cursor from one snapshot, so that size does not matter. */
import Papa from 'papaparse';
import { sql } from 'kysely';
import { ENTRY_KINDS } from '../../core/books/kinds';
import { CHARGE_PARTS } from '../../core/books/accounts';
import { guarded } from '../../core/reports/spreadsheet';
import { type Db, readInBatches } from '../../db/connect';

/** What the kinds of entries are called. */
const KIND_WORDS = `case e.kind ${Object.entries(ENTRY_KINDS)
  .map(([kind, { label }]) => `when '${kind}' then '${label}'`)
  .join(' ')} end`;

const QUERIES = {
  postings: `
    select p.id, p.entry_id as entry, e.posting_date, e.business_date, e.kind, ${KIND_WORDS} as what,
      e.reverses as reversed_entry, p.account, a.class, p.amount as amount_cents, h.number as household,
      patient_now(p.patient_id) as patient, p.charge_id as charge, p.coverage_id as coverage,
    y.name as payer, m.control_number as claim, r.trace as remittance, p.receipt_id as receipt,
    p.tender_id as tender, l.name as place, p.deposit_id as deposit,
    case when p.reason_code is null then null else p.reason_group || '-' || p.reason_code end as reason_code
    from posting p
      join entry e on e.id = p.entry_id
      join book_account a on a.code = p.account
      left join household h on h.id = household_now(p.household_id)
      left join payer y on y.id = p.payer_id
      left join claim m on m.id = p.claim_id
      left join remittance r on r.id = p.remittance_id
      left join place l on l.id = p.place_id
    order by p.id`,
  ledger: `
    select c.id, h.number as household, c.kind, c.patient_id as patient, c.service_date, c.code, c.description,
      c.units, c.status, ${CHARGE_PARTS.map((part) => `b.${part} as ${part}_cents`).join(', ')}, b.patient_since
    from charge c
      join charge_balance b on b.charge_id = c.id
      join household h on h.id = c.household_id
    order by c.id`,
  claims: `
    select m.id, m.control_number, m.status, m.form, h.number as household, m.patient_id as patient,
      y.name as payer, m.service_date, m.sent_date, m.total as total_cents, m.payer_claim_number,
      m.hold_reason as reason
    from claim m join household h on h.id = m.household_id join payer y on y.id = m.payer_id order by m.id`,
  rules: `
    select row_number() over (order by x.payer, x.what, x.rule) as id, x.*
    from (
      select y.name as payer, 'rule' as what, r.rule, r.severity from payer_rule r join payer y on y.id = r.payer_id
      union all
      select y.name, 'asks for', n.need, n.severity from payer_need n join payer y on y.id = n.payer_id
      union all
      select 'every payer', 'units of a day', u.code, u.units::text from unit_limit u where u.active
      union all
      select 'every payer', 'not together', t.code || ' ' || t.other,
        case when t.unless_modifier then 'unless a modifier sets it apart' else 'never' end
      from not_together t
      where t.active
    ) x
    order by 1`,
  statements: `
    select s.id, h.number as household, s.date, s.due_date, s.amount as amount_cents, p.delivery,
      case when v.statement_id is not null then 'void' else p.status end as state, p.outcome, p.sent_at, p.pages,
      p.batch_id as batch, p.document as sha256, coalesce(v.why, p.why) as why
    from statement s
      join mail_piece p on p.id = s.piece_id
      join household h on h.id = s.household_id
      left join statement_void v on v.statement_id = s.id
    order by s.id`,
  receipts: `
    select t.id, r.id as receipt, h.number as household, r.patient_id as kept_apart_for, r.received_on, t.kind as tender, t.state,
      t.amount as amount_cents, t.surcharge as surcharge_cents, t.reference, t.brand, t.last_four, t.card_kind, t.card_entry,
      t.approval as "authorization", l.name as place, s.name as site, coalesce(u.name, r.user_id) as taken_by, r.paid_by,
      r.expected_visit_id as visit, t.drawer_id as drawer, t.corrects
    from tender t
      join receipt r on r.id = t.receipt_id
      join household h on h.id = r.household_id
      join place l on l.id = t.place_id
      left join location s on s.id = r.location_id
      left join "user" u on u.id = r.user_id
    order by t.id`,
  credits: `
    select r.id, h.number as household, r.patient_id as kept_apart_for, r.received_on, w.how, k.held as held_cents, s.name as site,
      case when v.id is not null and v.freed_on is null then v.day end as reserved_for
    from receipt r
      join receipt_balance k on k.receipt_id = r.id and k.held > 0
      join receipt_tender w on w.receipt_id = r.id
      join household h on h.id = r.household_id
      left join location s on s.id = r.location_id
      left join expected_visit v on v.id = r.expected_visit_id
    order by r.id`,
  refunds: `
    select r.id, h.number as household, r.received_on as given_back_on, r.refund_of as receipt, t.kind as tender, t.state,
      -t.amount as amount_cents, -t.surcharge as surcharge_cents, t.reference, t.approval as "authorization",
      coalesce(u.name, r.user_id) as given_by, r.handed_to as handed_to_state
    from receipt r
      join tender t on t.receipt_id = r.id
      join household h on h.id = r.household_id
      left join "user" u on u.id = r.user_id
    where r.refund_of is not null
    order by r.id`,
  drawers: `
    select d.id, d.day, coalesce(u.name, d.user_id) as "user", s.name as site, d.opening as opening_cents, d.expected as expected_cents,
      d.counted as counted_cents, d.difference as difference_cents, d.checks_counted, d.why, coalesce(c.name, d.closed_by) as closed_by,
      d.opened_at,
      d.closed_at,
      (select coalesce(sum(o.amount), 0) from drawer_drop o where o.drawer_id = d.id) as dropped_cents
    from drawer d
      join location s on s.id = d.location_id
      left join "user" u on u.id = d.user_id
      left join "user" c on c.id = d.closed_by
    order by d.id`,
  plans: `
    select l.id, l.number, h.number as household, l.status, l.amount as amount_cents, l.down as down_cents,
      l.rate as rate_basis_points, l.every, l.level as level_cents, l.agreed_on, l.first_date,
      l.finance_charge as finance_charge_cents, l.total as total_cents, l.apr as apr_basis_points,
    o.number as replaces, l.accepted_on, l.ended_on, l.ended_why, l.user_name as agreed_by,
    coalesce(
      (select sum(p.amount) from posting p where p.plan_id = l.id and p.account = 'receivable/plan'), 0
    ) as left_cents,
    coalesce(
      (select sum(p.amount) from posting p where p.plan_id = l.id and p.account = 'credit/patient'), 0
    ) as paid_cents
    from payment_plan l
      join household h on h.id = l.household_id
      left join payment_plan o on o.id = l.replaces
    order by l.id`,
  contacts: `
    select c.id, h.number as household, c.business_date as date, c.kind, c.direction, c.outcome, c.whom, n.words as said,
      c.again_on, c.user_name as noted_by, r.amount as promised_cents, r.by_date as promised_by,
      r.ended_why as promise_ended, v.why as void_why
    from contact c
      join household h on h.id = c.household_id
      left join note n on n.contact_id = c.id
      left join promise r on r.contact_id = c.id
      left join contact_void v on v.contact_id = c.id
    order by c.id`,
  notes: `
    select n.id, h.number as household, n.about,
      coalesce(n.follow_up_id, n.receipt_id, n.stop_id, n.contact_id, n.payer_id) as "of", n.patient_id as patient,
      n.case_id as "case", n.on_opening, n.audience, n.pinned, n.words, n.until,
      n.times, n.user_name as noted_by, n.business_date as date, n.ended_on, n.ended_by
    from note n left join household h on h.id = n.household_id
    order by n.id`,
  'follow-ups': `
    select f.id, f.kind, h.number as household, c.patient_id as patient, c.service_date, c.code,
      m.control_number as claim, y.name as payer, f.words as what, f.amount as amount_cents,
      coalesce(b.with_payer, 0) as with_payer_cents, f.due_date, f.owner, f.closed_at, f.outcome,
      (select count(*) from note n where n.follow_up_id = f.id) as notes
    from follow_up f
      left join household h on h.id = f.household_id
      left join charge c on c.id = f.charge_id
      left join claim m on m.id = f.claim_id
      left join coverage_plan o on o.id = f.coverage_id
      left join payer y on y.id = o.payer_id
      left join payer_balance b on b.charge_id = f.charge_id and b.coverage_id = f.coverage_id
    order by f.id`,
  reasons: `
    with used as (
      select p.reason_group, p.reason_code, count(distinct p.charge_id) as lines, -sum(p.amount) as amount,
        max(e.business_date::date) as last_on
      from posting p
        join claim m on m.id = p.claim_id and m.coverage_id = p.coverage_id
        join entry e on e.id = p.entry_id
      where p.account = 'receivable/payer' and p.reason_code is not null and p.remittance_claim_id is not null
      group by 1, 2
    )
    select row_number() over (order by r.code, r.group_code) as id, r.group_code as reason_group, r.code, r.words,
      r.patient_words, r.denial, r.follow_up, r.reduction_account, r.travels_as,
      coalesce(sum(u.lines), 0)::bigint as lines, coalesce(sum(u.amount), 0)::bigint as amount_cents,
      max(u.last_on) as last_on
    from reason_code r
      left join used u on u.reason_code = r.code
        and (
          u.reason_group = r.group_code
          -- A row for every group speaks of those that have none of their own.
          or r.group_code = '*' and not exists (
            select from reason_code o where o.code = u.reason_code and o.group_code = u.reason_group
          )
        )
    group by r.group_code, r.code, r.words, r.patient_words, r.denial, r.follow_up, r.reduction_account, r.travels_as
    order by 1`,
  placements: `
    select l.id, l.number, h.number as household, c.name as agency, l.status, l.amount as amount_cents,
      l.contingency as contingency_basis_points, l.pays, l.proposed_on, l.proposed_by, l.why, l.placed_on,
      l.approved_by, l.ended_on, l.ended_why,
    coalesce(
      (select sum(y.gross) from agency_payment y where y.placement_id = l.id and y.reversed_on is null), 0
    ) as collected_cents,
    coalesce(
      (select sum(y.fee) from agency_payment y where y.placement_id = l.id and y.reversed_on is null), 0
    ) as fee_cents,
    coalesce(
      (select sum(p.amount) from posting p where p.placement_id = l.id and p.account = 'receivable/agency'), 0
    ) as open_cents
    from placement l
      join household h on h.id = l.household_id
      join connection c on c.id = l.connection_id
    order by l.id`,
  charges: `
    select c.id, h.number as household, c.patient_id as patient, c.case_id as "case", c.service_date, v.npi as provider_npi,
      l.name as site, c.code, array_to_string(c.modifiers, ' ') as modifiers, c.description, c.units, c.minutes,
      c.fee as fee_cents, c.fee_why, c.tax as tax_cents, c.contract_off as contract_off_cents, c.expects, c.at_contract, c.tooth,
      c.surfaces, c.area, array_to_string(c.diagnoses, ' ') as diagnoses, c.ndc, c.ndc_measure, c.ndc_thousandths,
      c.kept_from_payers, c.status, c.phase, o.name as treatment_option
    from charge c
      join household h on h.id = c.household_id
      join provider v on v.id = c.provider_id
      join location l on l.id = c.location_id
      left join treatment_option o on o.id = c.option_id
    where c.kind = 'service'
    order by c.id`,
  estimates: `
    select e.number, h.number as household, k.patient_id as patient, e.case_id as "case", e.kind, e.made_on, e.valid_until,
      e.booked_for, e.due_on, o.name as treatment_option, e.amount as patient_cents, e.signed_on, e.signed_by, l.charge_id as charge,
      l.fee as fee_cents, l.write_off as write_off_cents, l.payers as payers_cents, l.patient as line_patient_cents,
      e.document as sha256, e.user_name as made_by
    from treatment_estimate e
      join treatment_estimate_line l on l.estimate_id = e.id
      join care_case k on k.id = e.case_id
      join patient p on p.id = k.patient_id
      join household h on h.id = p.household_id
      left join treatment_option o on o.id = e.option_id
    order by e.id, l.charge_id`,
  production: `
    select e.business_date, v.npi as provider_npi, l.name as site, s.category,
      -sum(p.amount) filter (where a.part = 'fee') as charged_cents,
      sum(p.amount) filter (where p.account = 'reduction/contract') as off_by_contract_cents,
      sum(p.amount) filter (where a.part = 'reduced' and p.account <> 'reduction/contract') as off_otherwise_cents,
      sum(p.amount) filter (where a.part = 'expected') as expected_off_cents,
      sum(p.amount) filter (where a.part in ('payer_paid', 'patient_paid')) as received_cents
    from posting p
      join entry e on e.id = p.entry_id
      join book_account a on a.code = p.account
      join charge c on c.id = p.charge_id and c.kind = 'service'
      join provider v on v.id = c.provider_id
      join location l on l.id = c.location_id
      join service_code s on s.code = c.code
    where a.part in ('fee', 'reduced', 'expected', 'payer_paid', 'patient_paid')
    group by 1, 2, 3, 4
    order by 1, 2, 3, 4`,
  fees: `
    select s.id || '/' || f.code || '/' || coalesce(f.valid_from::text, '') as id, s.name as schedule,
      s.kind, s.standard, f.code, f.valid_from, f.amount as fee_cents,
      f.facility_amount as facility_fee_cents
    from fee f
      join fee_schedule s on s.id = f.fee_schedule_id
    order by s.name, f.code, f.valid_from nulls first`,
  payers: `
    select y.id, y.name, y.payer_id, c.name as connection, y.accepts as claims_go, y.filing_code, y.new_claims, y.bills_as,
      y.corrections, y.accepts_assignment, y.timely_filing_days, y.requires_referring, y.requires_authorization,
      y.phone, y.claim_name, y.line1, y.line2, y.city, y.state, y.zip, y.unfinished, y.retired_on,
      i.name as merged_into
    from payer y
      left join connection c on c.id = y.connection_id
      left join payer i on i.id = y.merged_into
    order by y.id`,
  'insurance-plans': `
    select n.id, n.name, y.name as payer, s.name as fee_schedule, n.contracted, n.coordination
    from insurance_plan n
      join payer y on y.id = n.payer_id
      left join fee_schedule s on s.id = n.fee_schedule_id
    order by n.id`,
  coverages: `
    select o.id, h.number as household, o.patient_id as patient, o.case_id as "case", o.position, y.name as payer,
      o.plan_name as plan, o.policy_id as policy, o.member_id, o.group_number, o.relationship,
      o.subscriber_last as holder_last, o.subscriber_first as holder_first, o.valid_from, o.valid_to, o.bill_patient,
      o.claim_number, o.adjuster, o.assigned, o.signed, o.basis, o.court_order, o.secondary_type, o.exhausted_from
    from covered o
      join patient p on p.id = o.patient_id
      join household h on h.id = p.household_id
      join payer y on y.id = o.payer_id
    order by o.id`,
  limits: `
    select r.id, r.kind,
      case when r.coverage_id is not null then 'coverage' when r.policy_id is not null then 'policy' else 'plan' end as says,
      coalesce(r.coverage_id, r.policy_id, r.insurance_plan_id) as "of", r.category, array_to_string(r.codes, ' ') as codes,
      r.valid_from, r.share as share_basis_points, r.amount as amount_cents, r.quantity, r.measure, r.holder, r.every,
      r.months, r.anchor, r.by_tooth, r.counted_for, r.copay_order, r.then_pays, r.warning, r.age_from, r.age_through,
      r.paid_as, r.modifier, array_to_string(r.shares, ' ') as shares_basis_points
    from benefit_rule r
    order by r.id`,
  cases: `
    select k.id, h.number as household, k.patient_id as patient, k.name, k.kind, k.standing, k.opened_on, k.accident_date,
      k.accident_state, k.onset_date, k.first_treated_date, k.acute_date, k.last_seen_date, k.first_contact_date,
      k.disabled_from, k.disabled_to,
      k.admitted_on, k.released_on, k.referring_role,
      k.referring_npi, k.referred_on, k.came_by, k.came_by_note, k.limits,
      k.statements, k.late_charges, k.claims, k.discharged_on, k.discharge_why,
    (select string_agg(d.code, ' ' order by d.position) from case_diagnosis d where d.case_id = k.id) as diagnoses,
    coalesce((select sum(b.fee + b.tax) from charge c join charge_balance b on b.charge_id = c.id where c.case_id = k.id), 0
    )::bigint as charged_cents
    from care_case k
      join patient p on p.id = k.patient_id
      join household h on h.id = p.household_id
    order by k.id`,
} as const;

type ExportName = keyof typeof QUERIES;
/** Names of what can be exported. */
export const EXPORTS = Object.keys(QUERIES) as ExportName[];
/** Whether a word names what can be exported. */
export const isExport = (name: string): name is ExportName => Object.hasOwn(QUERIES, name);

/** Rows that are worked out and not kept, as a whole export. Amounts are whole cents. */
export const exportRows = (rows: readonly Record<string, unknown>[], format: 'csv' | 'json'): string =>
  format === 'json'
    ? `${JSON.stringify(rows, null, 1)}\n`
    : `${Papa.unparse(
        rows.map((row) =>
          Object.fromEntries(Object.entries(row).map(([key, value]) => [key, guarded(value)])),
        ),
        { newline: '\n' },
      )}\n`;

const BATCH = 5000;

/** Writes an export piece by piece. Amounts are whole cents. */
export async function* exportTable(db: Db, name: ExportName, format: 'csv' | 'json'): AsyncGenerator<string> {
  const query = sql<Record<string, unknown>>`${sql.raw(QUERIES[name])}`.compile(db);
  let first = true;
  if (format === 'json') yield '[';
  for await (const rows of readInBatches<Record<string, unknown>>(db, query, BATCH)) {
    if (format === 'json')
      yield rows.map((row, index) => `${first && index === 0 ? '\n' : ',\n'}${JSON.stringify(row)}`).join('');
    else
      yield `${Papa.unparse(
        rows.map((row) =>
          Object.fromEntries(Object.entries(row).map(([key, value]) => [key, guarded(value)])),
        ),
        { header: first, newline: '\n' },
      )}\n`;
    first = false;
  }
  if (format === 'json') yield '\n]\n';
}
