/** Reading one claim, and its text as X12. */
import { sql } from 'kysely';
import type { ChargeTotals } from '../../core/books/strip';
import type { CalendarDate } from '../../core/calendar';
import type { ClaimContent } from '../../core/claims/content';
import { claimDocument, findingsDocument } from '../../core/claims/document';
import { type ClaimStatus, isOurs } from '../../core/claims/life';
import type { Finding } from '../../core/claims/rules';
import { type Cents, ZERO } from '../../core/money';
import { claimSegments, write837 } from '../../core/x12/claim837';
import { type Pinned, readPayerNotices } from '../notes/notes';
import { type Context, Refused, allow } from '../access';
import { opened } from '../closed';
import { TOTALS_OF_B } from '../books/balances';
import { type Correction, readCorrection } from './correction';

/** One line of a claim: what was charged and expected, and what its own payer did; the totals are the charge's. Cents. */
export interface ClaimPageLine extends ChargeTotals {
  number: number;
  /** A correction says it no more. */
  leftOut: boolean;
  chargeId: number;
  coverageId: number;
  code: string;
  description: string;
  charge: Cents;
  expectedAllowed: Cents | null;
  expectedPaid: Cents;
  /** Paid, taken off and still held by the payer of this claim. */
  paidHere: Cents;
  reducedHere: Cents;
  waitingHere: Cents;
}

/** One claim with its lines' money, its life and its findings. Amounts in cents. */
export interface ClaimPage {
  id: number;
  controlNumber: string;
  status: ClaimStatus;
  form: 'professional' | 'dental';
  patient: string;
  patientId: number;
  householdId: number;
  caseId: number;
  /** The name of the case, empty where it is the standing one. */
  caseName: string;
  /** The coverage that is billed. */
  coverageId: number;
  payer: string;
  payerId: number;
  /** What stands at the head of the payer. */
  notices: Pinned[];
  serviceDate: CalendarDate;
  sentDate: CalendarDate | null;
  total: Cents;
  stops: number;
  warnings: number;
  holdReason: string;
  payerClaimNumber: string;
  /** 1 original, 7 correction, 8 void. */
  frequency: '1' | '7' | '8';
  /** The claim that this one corrects or voids, and the one that corrects or voids it. */
  replaces: { id: number; controlNumber: string } | null;
  replacedBy: { id: number; controlNumber: string; frequency: '1' | '7' | '8' } | null;
  /** Why it is late (CLM20), if it is said; since when it tells what stands no more of a payer before. */
  delayReason: string;
  staleSince: CalendarDate | null;
  /** How it went. */
  sentBy: '' | 'file' | 'payer-before' | 'telephone' | 'paper';
  /** Who did it, and where, of ours. */
  providerId: number;
  locationId: number;
  /** Its payer takes paper: it is printed. */
  onPaper: boolean;
  /** How its payer has a claim put right. */
  corrections: 'replaced' | 'reopened' | 'new';
  /** The payer could not process it (MA130). */
  unprocessable: boolean;
  /** What it corrects, of a draft in the place of another claim. */
  correction: Correction | null;
  /** It stands for its charges: no other claim took its place, and no void of it is done. */
  current: boolean;
  content: ClaimContent;
  findings: Finding[];
  lines: ClaimPageLine[];
  events: {
    at: Date;
    date: CalendarDate;
    status: ClaimStatus;
    cause: string;
    causeKind: string;
    words: string;
  }[];
  /** What people noted on it, the newest first. */
  noted: { id: number; day: CalendarDate; by: string; words: string }[];
  transmission: {
    id: number;
    file: string;
    /** Sent to try the way: no payer decides it (ISA15 T). */
    test: boolean;
    interchangeAnswer: string;
    groupAnswer: string;
  } | null;
}

/** Reads a claim whole. */
export async function readClaim(context: Context, claimId: number): Promise<ClaimPage> {
  allow(context, 'read claims');
  const { db } = context;
  const claim = await db
    .selectFrom('claim as m')
    .innerJoin('patient as p', 'p.id', 'm.patient_id')
    .innerJoin('payer as y', 'y.id', 'm.payer_id')
    .leftJoin('transmission as t', 't.id', 'm.transmission_id')
    .select([
      'm.id',
      'm.control_number as controlNumber',
      'm.status',
      'm.form',
      sql<string>`p.last || ', ' || p.first`.as('patient'),
      'm.patient_id as patientId',
      'm.household_id as householdId',
      'm.case_id as caseId',
      sql<string>`(select case when k.standing then '' else k.name end from care_case k where k.id = m.case_id)`.as(
        'caseName',
      ),
      'm.coverage_id as coverageId',
      'y.name as payer',
      'y.id as payerId',
      'm.service_date as serviceDate',
      'm.sent_date as sentDate',
      'm.total',
      'm.stops',
      'm.warnings',
      'm.hold_reason as holdReason',
      'm.delay_reason as delayReason',
      'm.stale_since as staleSince',
      'm.sent_by as sentBy',
      'm.payer_claim_number as payerClaimNumber',
      'm.frequency',
      sql<
        ClaimPage['replaces']
      >`(select json_build_object('id', o.id, 'controlNumber', o.control_number) from claim o where o.id = m.replaces)`.as(
        'replaces',
      ),
      sql<ClaimPage['replacedBy']>`
        (
          select json_build_object('id', o.id, 'controlNumber', o.control_number, 'frequency', o.frequency)
          from claim o
          where o.replaces = m.id and o.status <> 'withdrawn'
        )`.as('replacedBy'),
      sql<boolean>`exists (select 1 from claim_line l where l.claim_id = m.id and l.current)`.as('current'),
      'm.content',
      'm.findings',
      'm.provider_id as providerId',
      'm.location_id as locationId',
      'y.corrections',
      sql<boolean>`y.accepts = 'paper'`.as('onPaper'),
      sql<boolean>`coalesce(
        (
          select c.content -> 'value' -> 'remarks' ? 'MA130'
            or exists (
              select from jsonb_array_elements(c.content -> 'value' -> 'lines') x where x -> 'remarks' ? 'MA130'
            )
          from remittance_claim c
          where c.claim_id = m.id and c.status = 'posted'
          order by c.id desc
          limit 1
        ),
        false
      )`.as('unprocessable'),
      't.id as tid',
      't.file_name',
      't.usage as file_usage',
      't.interchange_answer',
      't.group_answer',
    ])
    .where('m.id', '=', claimId)
    .executeTakeFirst();
  if (!claim) throw new Refused('unknown', 'There is no such claim');
  await opened(context, { kind: 'claim', id: claimId });
  const [lines, notes, events] = await Promise.all([
    db
      .selectFrom('claim_line as l')
      .innerJoin('charge as c', 'c.id', 'l.charge_id')
      .innerJoin('charge_balance as b', 'b.charge_id', 'c.id')
      .leftJoin('payer_balance as w', (join) =>
        join.onRef('w.charge_id', '=', 'l.charge_id').onRef('w.coverage_id', '=', 'l.coverage_id'),
      )
      .select([
        'l.number',
        'l.left_out as leftOut',
        'c.id as chargeId',
        'l.coverage_id as coverageId',
        sql<string>`coalesce(c.code, '')`.as('code'),
        'c.description',
        'c.billed as charge',
        'l.expected_allowed as expectedAllowed',
        'l.expected_paid as expectedPaid',
        ...TOTALS_OF_B,
        sql<Cents>`coalesce(w.paid, ${ZERO})`.as('paidHere'),
        sql<Cents>`coalesce(w.reduced, ${ZERO})`.as('reducedHere'),
        sql<Cents>`coalesce(w.with_payer, ${ZERO})`.as('waitingHere'),
      ])
      .where('l.claim_id', '=', claimId)
      .orderBy('l.number')
      .execute(),
    db
      .selectFrom('note')
      .select(['id', 'business_date as day', 'user_name as by', 'words'])
      .where('claim_id', '=', claimId)
      .orderBy('id', 'desc')
      .limit(200)
      .execute(),
    db
      .selectFrom('claim_event')
      .select(['at', 'business_date as date', 'status', 'cause', 'cause_kind as causeKind', 'words'])
      .where('claim_id', '=', claimId)
      .orderBy('id')
      .execute(),
  ]);
  const { tid, file_name, file_usage, interchange_answer, group_answer, content, findings, ...rest } = claim;
  const says = claimDocument.read(content);
  return {
    ...rest,
    notices: await readPayerNotices(context, rest.payerId),
    correction:
      rest.replaces && rest.frequency !== '8' && isOurs(rest.status)
        ? await readCorrection(context, { ...rest, replaces: rest.replaces }, says, lines)
        : null,
    content: says,
    findings: findings === null ? [] : findingsDocument.read(findings),
    // What this claim says, which a correction of it may not say any more.
    lines: lines.map((line) => ({
      ...line,
      charge: says.lines.find(({ number }) => number === line.number)?.charge ?? line.charge,
    })),
    events,
    noted: notes,
    transmission: tid
      ? {
          id: tid,
          file: file_name ?? '',
          test: file_usage === 'T',
          interchangeAnswer: interchange_answer ?? '',
          groupAnswer: group_answer ?? '',
        }
      : null,
  };
}

/** The claim as X12, one segment a line: the very segments that were sent, or as it would be sent now, alone in a file. */
export async function claimText(
  context: Context,
  claim: Pick<ClaimPage, 'content' | 'controlNumber' | 'transmission'>,
): Promise<string> {
  allow(context, 'read claims');
  if (!claim.transmission) return previewText(claim.content);
  const { content } = await context.db
    .selectFrom('transmission')
    .select('content')
    .where('id', '=', claim.transmission.id)
    .executeTakeFirstOrThrow();
  return claimSegments(content, claim.controlNumber) ?? previewText(claim.content);
}

/** A claim that was not sent yet, in an envelope that stands for the real one. */
function previewText(content: ClaimContent): string {
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
