/** Reading claims: the list, one claim, its text as X12. */
import { sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import type { ClaimContent } from '../../core/claims/content';
import type { Finding } from '../../core/claims/rules';
import type { Cents } from '../../core/money';
import { write837 } from '../../core/x12/claim837';
import type { Db } from '../../db/connect';
import { type Context, Refused, allow, audit } from '../access';
import { type Found, type ListQuery, findRows, likeText } from '../lists/find';

/** The views of the claims list, by the statuses in them. */
const CLAIM_VIEWS = {
  fix: ['draft', 'rejected', 'held'],
  ready: ['ready'],
  sent: ['sent', 'accepted'],
  decided: ['decided'],
  closed: ['closed'],
} as const;
const isView = (text: string): text is keyof typeof CLAIM_VIEWS => Object.hasOwn(CLAIM_VIEWS, text);

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
  payerClaimNumber: string;
  /** Why it does not go on, in a line; empty when nothing is wrong. */
  wrong: string;
  /** Its charges by line, so that a finding leads to its charge. */
  lines: { number: number; chargeId: number }[];
}

const claims = (db: Db) => db.selectFrom('claim as m');

/** Claims with what is shown beside them: patient, payer and household. */
const withNames = (query: ReturnType<typeof claims>) =>
  query
    .innerJoin('patient as p', 'p.id', 'm.patient_id')
    .innerJoin('payer as y', 'y.id', 'm.payer_id')
    .innerJoin('household as h', 'h.id', 'm.household_id');

/** What list and page both show of a claim. */
const SHOWN = [
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
  'm.payer_claim_number as payerClaimNumber',
] as const;

/** Why a claim does not go on, in a line. */
function whatIsWrong(row: Omit<ClaimRow, 'wrong'>): string {
  if (row.status === 'rejected' || row.status === 'held') return row.holdReason;
  const [first, ...others] = ['draft', 'ready'].includes(row.status) ? row.findings : [];
  return first ? `${first.words}${others.length > 0 ? ` and ${others.length} more` : ''}` : '';
}

/** Claims of a view, searched by number, patient, payer or account. */
export async function listClaims(context: Context, ask: ListQuery): Promise<Found<ClaimRow>> {
  allow(context, 'read claims');
  const view = ask.view ?? 'all';
  const like = likeText(ask.search);
  // The filter asks claims alone: what is joined for showing need not be joined for counting.
  let query = claims(context.db);
  query = isView(view)
    ? query.where('m.status', 'in', [...CLAIM_VIEWS[view]])
    : query.where('m.status', '<>', 'withdrawn');
  if (like)
    query = query.where(({ eb, or, selectFrom }) =>
      or([
        eb(sql`lower(m.control_number)`, 'like', like),
        eb('m.patient_id', 'in', selectFrom('patient').select('id').where('search', 'like', like)),
        eb(
          'm.payer_id',
          'in',
          selectFrom('payer')
            .select('id')
            .where(sql`lower(name)`, 'like', like),
        ),
        eb(
          'm.household_id',
          'in',
          selectFrom('household')
            .select('id')
            .where(sql`lower(number)`, 'like', like),
        ),
      ]),
    );
  const found: Found<Omit<ClaimRow, 'wrong'>> = await findRows(
    'claims',
    ask,
    query,
    { total: sql`m.total` },
    withNames(query)
      .select([
        ...SHOWN,
        sql`(select json_agg(json_build_object('number', l.number, 'chargeId', l.charge_id) order by l.number) from claim_line l where l.claim_id = m.id)`.as(
          'lines',
        ),
      ])
      .orderBy('m.service_date', 'desc')
      .orderBy('m.id', 'desc'),
  );
  return { ...found, rows: found.rows.map((row) => ({ ...row, wrong: whatIsWrong(row) })) };
}

/** One claim with its lines' money, its life and its findings. Amounts in cents. */
export interface ClaimPage extends Omit<ClaimRow, 'lines' | 'wrong'> {
  content: ClaimContent;
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
  const claim = await withNames(claims(db))
    .leftJoin('transmission as t', 't.id', 'm.transmission_id')
    .select([...SHOWN, 'm.content', 't.id as tid', 't.file_name', 't.interchange_answer', 't.group_answer'])
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
