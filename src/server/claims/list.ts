/** The lists of claims, and of charges that are on none yet. */
import { TO_FIX, WAITING, WENT } from '../../core/claims/life';
import { claimIn } from '../claim-states';
import { sql } from 'kysely';
import { addDays } from '../../core/calendar';
import { findingsDocument } from '../../core/claims/document';
import type { ClaimStatus } from '../../core/claims/life';
import type { Finding } from '../../core/claims/rule';
import { day, list, money, textLike, words } from '../lists/list';

/** Days without an answer after which a sent claim waits for somebody. */
const UNANSWERED_DAYS = 14;

/** Why a claim does not go on, in a line. */
function whatIsWrong(status: ClaimStatus, holdReason: string, findings: readonly Finding[]): string {
  if (status === 'rejected' || status === 'held') return holdReason;
  const [first, ...others] = status === 'draft' || status === 'ready' ? findings : [];
  return first ? `${first.words}${others.length > 0 ? ` and ${others.length} more` : ''}` : '';
}

/** A claim goes on paper. */
const ON_PAPER = sql`exists (select from payer o where o.id = m.payer_id and o.accepts = 'paper')`;

/** Claims by what waits to be done with them, searched by number, patient, payer or account. */
export const claimsList = list({
  name: 'claims',
  noun: ['claim', 'claims'],
  permission: 'read claims',
  station: 'Claims',
  path: '/claims',
  // The filter asks claims alone: what is joined for showing need not be joined for counting.
  from: sql`claim m`,
  shown: sql`
    join patient p on p.id = m.patient_id
    join payer y on y.id = m.payer_id
    join household h on h.id = m.household_id`,
  household: sql`m.household_id`,
  id: sql`m.id`,
  columns: {
    controlNumber: words('Claim', sql`m.control_number`),
    patient: words('Patient', sql`p.last || ', ' || p.first`),
    payer: words('Payer', sql`y.name`),
    form: words('Form', sql`m.form`),
    serviceDate: day('Service', sql`m.service_date`),
    sentDate: day('Sent', sql`m.sent_date`),
    status: words('Status', sql<ClaimStatus>`m.status`),
    wrong: words('What is wrong', null),
    total: money('Charge', sql`m.total`),
    account: words('Account', sql`h.number`, { extra: true }),
    frequency: words(
      'Sent as',
      sql`case m.frequency when '1' then 'original' when '7' then 'correction' else 'void' end`,
      { extra: true },
    ),
    payerClaimNumber: words('Payer’s number', sql`m.payer_claim_number`, { extra: true }),
  },
  hidden: {
    householdId: sql<number>`m.household_id`,
    patientId: sql<number>`m.patient_id`,
    coverageId: sql<number>`m.coverage_id`,
    onPaper: sql<boolean>`${ON_PAPER}`,
    stops: sql<number>`m.stops`,
    warnings: sql<number>`m.warnings`,
    holdReason: sql<string>`m.hold_reason`,
    /** Parsed after reading. */
    findings: sql<Finding[]>`m.findings`,
    /** Its charges by line, so that a finding leads to its charge. */
    lines: sql<{ number: number; chargeId: number }[]>`
      (
        select json_agg(json_build_object('number', l.number, 'chargeId', l.charge_id) order by l.number)
        from claim_line l
        where l.claim_id = m.id
      )`,
  },
  filters: { payer: sql`m.payer_id`, provider: sql`m.provider_id`, site: sql`m.location_id` },
  finish(row) {
    const findings = row.findings === null ? [] : findingsDocument.read(row.findings);
    return { findings, wrong: whatIsWrong(row.status, row.holdReason, findings) };
  },
  views: {
    fix: {
      label: 'To fix',
      where: () => claimIn(sql`m.status`, TO_FIX),
      waits: {
        words: ['claim needs fixing or was rejected', 'claims need fixing or were rejected'],
        sum: 'total',
        rail: true,
      },
    },
    ready: {
      label: 'Ready',
      where: () => sql`m.status = 'ready' and not ${ON_PAPER}`,
      waits: { words: ['claim is ready to send', 'claims are ready to send'], sum: 'total', rail: true },
    },
    print: {
      label: 'To print',
      where: () => sql`m.status = 'ready' and ${ON_PAPER}`,
      waits: { words: ['claim is ready to print', 'claims are ready to print'], sum: 'total', rail: true },
    },
    sent: { label: 'With payer', where: () => claimIn(sql`m.status`, WAITING) },
    unanswered: {
      label: 'Unanswered',
      where: ({ today }) =>
        sql`${claimIn(sql`m.status`, WAITING)} and m.sent_date <= ${addDays(today, -UNANSWERED_DAYS)}`,
      waits: {
        words: ['claim is unanswered for two weeks', 'claims are unanswered for two weeks'],
        sum: 'total',
      },
    },
    stale: {
      label: 'Tells the old',
      where: () =>
        sql`
          m.stale_since is not null
            and ${claimIn(sql`m.status`, WENT)}
            and exists (select from claim_line l where l.claim_id = m.id and l.current)`,
      waits: {
        words: [
          'claim tells what an earlier payer has decided anew',
          'claims tell what an earlier payer has decided anew',
        ],
        sum: 'total',
      },
    },
    decided: { label: 'Decided, open', where: () => sql`m.status = 'decided'` },
    closed: { label: 'Settled', where: () => sql`m.status = 'closed'` },
    all: { label: 'All', where: () => sql`m.status <> 'withdrawn'` },
  },
  search: (like) =>
    sql.join(
      [
        textLike(sql`m.control_number`, like),
        sql`m.patient_id in (select id from patient where search like ${like})`,
        sql`m.payer_id in (select id from payer where lower(name) like ${like})`,
        sql`m.household_id in (select id from household where lower(number) like ${like})`,
      ],
      sql` or `,
    ),
  order: sql`m.service_date desc, m.id desc`,
});

/** A charge was left out of a claim that corrected what its payer had. */
const LEFT_OUT = sql`exists (
  select
  from claim_line l
    join claim m on m.id = l.claim_id
  where l.charge_id = c.id and l.coverage_id = b.coverage_id and l.left_out and m.status <> 'withdrawn'
)`;

/** Done services that wait with a payer and are on no claim to it yet: with their first one, or passed on to a next one. */
export const unbilledList = list({
  name: 'unbilled',
  noun: ['charge', 'charges'],
  permission: 'read claims',
  station: 'Claims',
  path: '/claims/unbilled',
  from: sql`payer_balance b join charge c on c.id = b.charge_id`,
  shown: sql`
    join patient p on p.id = c.patient_id
    join payer y on y.id = b.payer_id
    join household h on h.id = c.household_id
    join provider v on v.id = c.provider_id`,
  always: () =>
    sql`
      b.with_payer > 0
        and c.status = 'done'
        and not exists (
          select 1 from claim_line l where l.charge_id = b.charge_id and l.coverage_id = b.coverage_id and l.bills
        )`,
  household: sql`c.household_id`,
  // A charge may wait with several payers, whose coverages are numbered near each other.
  id: sql`b.charge_id * 100000 + b.coverage_id % 100000`,
  columns: {
    date: day('Service', sql`c.service_date`),
    patient: words('Patient', sql`p.last || ', ' || p.first`),
    code: words('Code', sql`c.code`),
    description: words('What', sql`c.description`),
    provider: words('Provider', sql`v.last || ', ' || v.first`),
    payer: words('Payer', sql`y.name`),
    amount: money('With payer', sql`b.with_payer`),
    account: words('Account', sql`h.number`, { extra: true }),
  },
  hidden: { householdId: sql<number>`c.household_id`, chargeId: sql<number>`c.id` },
  filters: { payer: sql`b.payer_id`, provider: sql`c.provider_id`, site: sql`c.location_id` },
  views: {
    all: {
      label: 'First payers',
      where: () => sql`c.coverage_id = b.coverage_id and not ${LEFT_OUT}`,
      waits: { words: ['charge is not on a claim yet', 'charges are not on a claim yet'], sum: 'amount' },
    },
    next: {
      label: 'Passed on',
      where: () => sql`c.coverage_id is distinct from b.coverage_id and not ${LEFT_OUT}`,
      waits: {
        words: [
          'charge was passed on and is on no claim yet',
          'charges were passed on and are on no claim yet',
        ],
        sum: 'amount',
      },
    },
    left: {
      label: 'Left out',
      where: () => LEFT_OUT,
      waits: {
        words: [
          'charge was left out of a correction: void it or bill it',
          'charges were left out of corrections: void them or bill them',
        ],
        sum: 'amount',
      },
    },
  },
  search: (like) =>
    sql.join(
      [
        sql`c.patient_id in (select id from patient where search like ${like})`,
        textLike(sql`c.code`, like),
        sql`b.payer_id in (select id from payer where lower(name) like ${like})`,
      ],
      sql` or `,
    ),
  order: sql`c.service_date, c.id`,
});

/** Every charge that waits with a payer, on a claim or not: what “with payers” is the sum of. */
export const waitingList = list({
  name: 'with-payers',
  noun: ['charge', 'charges'],
  permission: 'read claims',
  station: 'Claims',
  path: '/claims/waiting',
  from: sql`payer_balance b join charge c on c.id = b.charge_id`,
  shown: sql`
    join patient p on p.id = c.patient_id
    join payer y on y.id = b.payer_id
    join household h on h.id = c.household_id
    join provider v on v.id = c.provider_id
    left join claim_line l on l.charge_id = b.charge_id and l.coverage_id = b.coverage_id and l.bills
    left join claim m on m.id = l.claim_id`,
  always: () => sql`b.with_payer <> 0`,
  // A charge may wait with several payers, whose coverages are numbered near each other.
  household: sql`c.household_id`,
  id: sql`b.charge_id * 100000 + b.coverage_id % 100000`,
  columns: {
    date: day('Service', sql`c.service_date`),
    patient: words('Patient', sql`p.last || ', ' || p.first`),
    code: words('Code', sql`c.code`),
    description: words('What', sql`c.description`),
    payer: words('Payer', sql`y.name`),
    claim: words('Claim', sql`coalesce(m.control_number, 'on none')`),
    status: words('Claim is', sql<ClaimStatus | null>`m.status`),
    amount: money('With payer', sql`b.with_payer`),
    provider: words('Provider', sql`v.last || ', ' || v.first`, { extra: true }),
    account: words('Account', sql`h.number`, { extra: true }),
  },
  hidden: { householdId: sql<number>`c.household_id`, chargeId: sql<number>`c.id` },
  filters: { payer: sql`b.payer_id`, provider: sql`c.provider_id`, site: sql`c.location_id` },
  views: {
    all: { label: 'All' },
    old: {
      label: 'Older than 60 days',
      where: ({ today }) => sql`c.service_date < ${addDays(today, -60)}`,
    },
  },
  search: (like) =>
    sql.join(
      [
        sql`c.patient_id in (select id from patient where search like ${like})`,
        textLike(sql`c.code`, like),
        sql`b.payer_id in (select id from payer where lower(name) like ${like})`,
      ],
      sql` or `,
    ),
  order: sql`c.service_date, c.id, b.coverage_id`,
});
