/** Reading claims: the list, one claim, its text as X12. */
import { sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import type { ClaimContent } from '../../core/claims/content';
import type { Finding } from '../../core/claims/rules';
import type { Cents } from '../../core/money';
import { write837 } from '../../core/x12/claim837';
import { type Context, Refused, allow, audit } from '../access';
import { PAGE_SIZE, likeText } from '../accounts/read';

/** The views of the claims list, by the statuses in them. */
export const CLAIM_VIEWS = {
  fix: ['draft', 'rejected', 'held'],
  ready: ['ready'],
  sent: ['sent', 'accepted'],
  decided: ['decided'],
  closed: ['closed'],
} as const;
/** A view of the claims list. */
export type ClaimView = keyof typeof CLAIM_VIEWS | 'all';

/** One row of the claims list. `total` in cents. */
export interface ClaimRow {
  id: number;
  controlNumber: string;
  status: string;
  form: string;
  patient: string;
  householdId: number;
  account: string;
  payer: string;
  serviceDate: CalendarDate;
  sentDate: string | null;
  total: Cents;
  stops: number;
  warnings: number;
  findings: Finding[];
  holdReason: string;
  patientId: number;
  /** Its charges by line, so that a finding leads to its charge. */
  lines: { number: number; chargeId: number }[];
}

/** Claims of a view, searched by number, patient or payer. */
export async function listClaims(
  context: Context,
  filter: { view?: ClaimView; search?: string; page?: number },
): Promise<{ rows: ClaimRow[]; count: number; total: Cents }> {
  allow(context, 'read claims');
  let query = context.db
    .selectFrom('claim as m')
    .innerJoin('patient as p', 'p.id', 'm.patient_id')
    .innerJoin('payer as y', 'y.id', 'm.payer_id')
    .innerJoin('household as h', 'h.id', 'm.household_id');
  const view = filter.view ?? 'all';
  query =
    view === 'all'
      ? query.where('m.status', '<>', 'withdrawn')
      : query.where('m.status', 'in', [...CLAIM_VIEWS[view]]);
  const search = (filter.search ?? '').trim().toLowerCase();
  if (search) {
    const like = `%${likeText(search)}%`;
    query = query.where((eb) =>
      eb.or([
        eb(sql`lower(m.control_number)`, 'like', like),
        eb('p.search', 'like', like),
        eb(sql`lower(y.name)`, 'like', like),
        eb(sql`lower(h.number)`, 'like', like),
      ]),
    );
  }
  const totals = await query
    .select([sql<number>`count(*)`.as('count'), sql<number>`coalesce(sum(m.total), 0)`.as('total')])
    .executeTakeFirstOrThrow();
  const rows = await query
    .select([
      'm.id',
      'm.control_number as controlNumber',
      'm.status',
      'm.form',
      sql<string>`p.last || ', ' || p.first`.as('patient'),
      'm.household_id as householdId',
      'h.number as account',
      'y.name as payer',
      'm.service_date as serviceDate',
      'm.sent_date as sentDate',
      'm.total',
      'm.stops',
      'm.warnings',
      'm.findings',
      'm.hold_reason as holdReason',
      'm.patient_id as patientId',
      sql<
        ClaimRow['lines']
      >`(select json_agg(json_build_object('number', l.number, 'chargeId', l.charge_id) order by l.number) from claim_line l where l.claim_id = m.id)`.as(
        'lines',
      ),
    ])
    .orderBy('m.service_date', 'desc')
    .orderBy('m.id', 'desc')
    .limit(PAGE_SIZE)
    .offset(((filter.page ?? 1) - 1) * PAGE_SIZE)
    .execute();
  return { rows: rows as ClaimRow[], count: totals.count, total: totals.total as Cents };
}

/** One claim with its lines' money, its life and its findings. Amounts in cents. */
export interface ClaimPage extends Omit<ClaimRow, 'lines'> {
  content: ClaimContent;
  payerClaimNumber: string;
  lines: {
    number: number;
    chargeId: number;
    code: string;
    description: string;
    charge: Cents;
    expectedAllowed: Cents | null;
    expectedPaid: Cents;
    payerPaid: Cents;
    reduced: Cents;
    withPayer: Cents;
    withPatient: Cents;
    patientPaid: Cents;
    onPlan: Cents;
    atAgency: Cents;
  }[];
  events: { at: Date; date: CalendarDate; status: string; cause: string; causeKind: string; words: string }[];
  transmission: { id: number; file: string; interchangeAnswer: string; groupAnswer: string } | null;
}

/** Reads a claim whole. */
export async function readClaim(context: Context, claimId: number): Promise<ClaimPage> {
  allow(context, 'read claims');
  const { db } = context;
  const claim = await db
    .selectFrom('claim as m')
    .innerJoin('patient as p', 'p.id', 'm.patient_id')
    .innerJoin('payer as y', 'y.id', 'm.payer_id')
    .innerJoin('household as h', 'h.id', 'm.household_id')
    .leftJoin('transmission as t', 't.id', 'm.transmission_id')
    .select([
      'm.id',
      'm.control_number as controlNumber',
      'm.status',
      'm.form',
      sql<string>`p.last || ', ' || p.first`.as('patient'),
      'p.id as patientId',
      'm.household_id as householdId',
      'h.number as account',
      'y.name as payer',
      'm.service_date as serviceDate',
      'm.sent_date as sentDate',
      'm.total',
      'm.stops',
      'm.warnings',
      'm.findings',
      'm.hold_reason as holdReason',
      'm.content',
      'm.payer_claim_number as payerClaimNumber',
      't.id as tid',
      't.file_name',
      't.interchange_answer',
      't.group_answer',
    ])
    .where('m.id', '=', claimId)
    .executeTakeFirst();
  if (!claim) throw new Refused('There is no such claim');
  await audit(db, context, 'read', { kind: 'claim', id: claimId });
  const [lines, events] = await Promise.all([
    db
      .selectFrom('claim_line as l')
      .innerJoin('charge as c', 'c.id', 'l.charge_id')
      .innerJoin('charge_balance as b', 'b.charge_id', 'c.id')
      .select([
        'l.number',
        'c.id as chargeId',
        'c.code',
        'c.description',
        'c.fee as charge',
        'l.expected_allowed as expectedAllowed',
        'l.expected_paid as expectedPaid',
        'b.payer_paid as payerPaid',
        'b.reduced',
        'b.with_payer as withPayer',
        'b.with_patient as withPatient',
        'b.patient_paid as patientPaid',
        'b.on_plan as onPlan',
        'b.at_agency as atAgency',
      ])
      .where('l.claim_id', '=', claimId)
      .orderBy('l.number')
      .execute(),
    db
      .selectFrom('claim_event')
      .select(['at', 'business_date as date', 'status', 'cause', 'cause_kind as causeKind', 'words'])
      .where('claim_id', '=', claimId)
      .orderBy('id')
      .execute(),
  ]);
  const { tid, file_name, interchange_answer, group_answer, ...rest } = claim;
  return {
    ...(rest as unknown as ClaimPage),
    lines: lines as ClaimPage['lines'],
    events: events as ClaimPage['events'],
    transmission: tid
      ? {
          id: tid,
          file: file_name ?? '',
          interchangeAnswer: interchange_answer ?? '',
          groupAnswer: group_answer ?? '',
        }
      : null,
  };
}

/** The claim as X12, one segment a line: as it would be sent now, alone in a file. */
export function claimText(content: ClaimContent): string {
  return write837({
    interchange: {
      senderQualifier: 'ZZ',
      sender: 'SENDER',
      receiverQualifier: 'ZZ',
      receiver: 'RECEIVER',
      controlNumber: '000000001',
      date: '000101',
      time: '1200',
      usage: 'T',
    },
    controlNumber: '1',
    date: '20000101',
    time: '1200',
    submitter: {
      name: content.billing.organization ?? content.billing.last ?? '',
      contact: 'Billing desk',
      phone: '5550100',
    },
    receiverName: content.payer.name,
    claims: [content],
  }).replaceAll('~', '~\n');
}
