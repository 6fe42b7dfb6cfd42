/** What the screen of a keyed remittance shows: its head, its claims with what is expected of each line, what is applied and left. */
import { sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import { idField, textField } from '../../core/fields';
import { type Cents, ZERO, add, least, minus, sum } from '../../core/money';
import { providerAdjustmentsDocument } from '../../core/remittances/document';
import {
  type KeyedLine,
  type KeyedMethod,
  type KeyedOf,
  type KeyedSource,
  expectedLine,
} from '../../core/remittances/keyed';
import { reasonWarnings } from '../../core/remittances/reason-warnings';
import { CLOSED_ACCOUNT } from '../../core/reports/lists';
import type { ProviderAdjustment } from '../../core/x12/remittance835';
import { type Context, Refused, allow, audit } from '../access';
import { isClosed } from '../closed';
import { type CaseDay, estimateEach, inFacility } from '../estimates/door';
import { parseInput } from '../input';
import { keyedClaims, keyedLinesOf } from './keyed-lines';
import { postsNothing } from './matching';
import { reasonUseRules } from './reasons';

/** A line that is keyed, with what is expected of it; null where nothing can be. Amounts in cents. */
export interface KeyedLineShown extends KeyedOf {
  words: string;
  expected: KeyedLine | null;
  keyed: KeyedLine | null;
}
/** A claim that is keyed. Amounts in cents. */
export interface KeyedClaimShown {
  id: number;
  claimId: number | null;
  householdId: number | null;
  controlNumber: string;
  patient: string;
  date: CalendarDate | null;
  status: string;
  payerClaimNumber: string;
  lines: KeyedLineShown[];
  charge: Cents;
  paid: Cents;
  explained: boolean;
  version: number;
  /** It is of an account that is closed to who asks: its sum is said. */
  closed: boolean;
  /** A remittance that speaks of it too and is not posted yet, by its number; empty where there is none. */
  waitsIn: string;
  /** What is to be known of the reason codes that are keyed. */
  warnings: string[];
}
/** A keyed remittance. Amounts in cents. */
export interface KeyedPage {
  id: number;
  payerId: number;
  payer: string;
  amount: Cents;
  method: KeyedMethod;
  trace: string;
  references: string[];
  paymentDate: CalendarDate;
  receivedDate: CalendarDate;
  source: KeyedSource;
  status: 'open' | 'closed' | 'dropped';
  why: string;
  by: string;
  version: number;
  claims: KeyedClaimShown[];
  adjustments: ProviderAdjustment[];
  /** What its claims and adjustments come to, and what of the payment they leave. */
  applied: Cents;
  left: Cents;
  /** Remittances that it made, the last first. */
  made: { id: number; reversed: boolean }[];
}

/** What is known of a line before it is keyed. */
interface Known extends CaseDay {
  claimId: number;
  number: number;
  id: number;
  words: string;
  code: string;
  category: string;
  units: number;
  fee: Cents;
  /** What the claim says that it is charged, with its tax. */
  charge: Cents;
  day: CalendarDate;
  visit: CalendarDate;
  tooth: string;
  modifiers: string[];
  facility: boolean;
  position: number;
  allowed: Cents | null;
  /** What earlier payers paid and reduced. */
  earlier: Cents;
}

/** What is expected of the lines of claims, by claim and number: as if it were typed. A fixed number of queries. */
async function expectedOf(
  context: Context,
  claimIds: readonly number[],
): Promise<Map<string, Known & { line: KeyedLine | null }>> {
  const { rows } = await sql<Known>`
    select l.claim_id as "claimId", l.number, c.id, c.description as words, coalesce(c.code, '') as code,
      coalesce(s.category, '') as category, c.units, c.fee,
      coalesce((
        select (x ->> 'charge')::bigint
        from jsonb_array_elements(m.content -> 'value' -> 'lines') x
        where (x ->> 'number')::integer = l.number
      ), c.billed)::bigint as charge, c.service_date as day, c.service_date as visit,
      c.tooth, c.modifiers, ${inFacility(sql`c.case_id`, sql`c.location_id`)} as facility,
      m.case_id as "caseId", o.position, l.expected_allowed as allowed,
      coalesce((
        select sum(b.paid + b.reduced)
        from payer_balance b
          join coverage x on x.id = b.coverage_id
        where b.charge_id = c.id and x.position < o.position
      ), 0)::bigint as earlier
    from claim_line l
      join claim m on m.id = l.claim_id
      join coverage o on o.id = m.coverage_id
      join charge c on c.id = l.charge_id
      left join service_code s on s.code = c.code
    where l.claim_id = any(${[...claimIds]}::bigint[]) and not l.left_out
    order by c.service_date, l.claim_id, l.number`.execute(context.db);
  const estimates = await estimateEach(context.db, rows);
  return new Map(
    rows.map((row, index) => {
      const part = estimates[index]?.payers[row.position - 1];
      const { charge } = row;
      const of = { charge, contracted: row.allowed !== null };
      const line = !part
        ? null
        : row.position === 1
          ? expectedLine(row.number, of, {
              allowed: row.allowed,
              deductible: part.deductible,
              coinsurance: part.coinsurance,
              copay: part.copay,
              paid: part.pays,
              reasons: [],
            })
          : expectedLine(row.number, of, {
              allowed: null,
              deductible: ZERO,
              coinsurance: ZERO,
              copay: ZERO,
              paid: least(part.pays, minus(charge, row.earlier)),
              reasons: row.earlier > 0 ? [{ group: 'OA' as const, reason: '23', amount: row.earlier }] : [],
            });
      return [`${row.claimId}/${row.number}`, { ...row, line }];
    }),
  );
}

/** Reads a keyed remittance. A claim of an account that is closed to who asks says its sum. */
export async function readKeyed(context: Context, asked: unknown): Promise<KeyedPage> {
  allow(context, 'post remittances');
  const id = parseInput(idField, asked);
  const { db } = context;
  const keyed = await db
    .selectFrom('keyed_remittance as k')
    .innerJoin('payer as y', 'y.id', 'k.payer_id')
    .leftJoin('user as u', 'u.id', 'k.user_id')
    .selectAll('k')
    .select(['y.name as payer', sql<string>`coalesce(u.name, k.user_id)`.as('by')])
    .where('k.id', '=', id)
    .executeTakeFirst();
  if (!keyed) throw new Refused('unknown', 'There is no such remittance');
  await audit(db, context, 'read', { kind: 'keyed remittance', id });
  const claims = await keyedClaims(db, id);
  const ids = claims.map(({ claimId }) => claimId);
  const [rules, ours, known, { rows: about }, { rows: made }] = await Promise.all([
    reasonUseRules(db),
    keyedLinesOf(db, ids),
    expectedOf(context, ids),
    sql<{ id: number; householdId: number; closed: boolean; waitsIn: string }>`
      select m.id, m.household_id as "householdId", ${isClosed(context, sql`m.household_id`)} as closed,
        coalesce((
          select max(r.trace)
          from remittance_claim c
            join remittance r on r.id = c.remittance_id
          where c.claim_id = m.id and c.status = 'ready' and r.keyed_id is distinct from ${id}
        ), '') as "waitsIn"
      from claim m
      where m.id = any(${ids}::bigint[])`.execute(db),
    sql<{ id: number; reversed: boolean }>`
      select r.id, ${postsNothing} as reversed from remittance r where r.keyed_id = ${id} order by r.id desc`.execute(
      db,
    ),
  ]);
  const adjustments =
    keyed.provider_adjustments === null ? [] : providerAdjustmentsDocument.read(keyed.provider_adjustments);
  const applied = minus(sum(claims.map(({ paid }) => paid)), sum(adjustments.map(({ amount }) => amount)));
  return {
    id,
    payerId: keyed.payer_id,
    payer: keyed.payer,
    amount: keyed.amount,
    method: keyed.method as KeyedMethod,
    trace: keyed.trace,
    references: keyed.further,
    paymentDate: keyed.payment_date,
    receivedDate: keyed.received_date,
    source: keyed.source as KeyedSource,
    status: keyed.status,
    why: keyed.why,
    by: keyed.by,
    version: keyed.version,
    claims: claims.map((claim) => {
      const one = about.find((row) => row.id === claim.claimId);
      const lines = ours.get(claim.claimId) ?? [];
      const shown = {
        id: claim.id,
        status: claim.status,
        charge: lines.reduce((total, { charge }) => add(total, charge), ZERO),
        paid: claim.paid,
        explained: claim.explained,
        version: claim.version,
      };
      if (one?.closed !== false)
        return {
          ...shown,
          claimId: null,
          householdId: null,
          controlNumber: '',
          patient: CLOSED_ACCOUNT,
          date: null,
          payerClaimNumber: '',
          lines: [],
          waitsIn: '',
          warnings: [],
          closed: true,
        };
      return {
        ...shown,
        claimId: claim.claimId,
        householdId: one.householdId,
        controlNumber: claim.controlNumber,
        patient: `${claim.patient.first} ${claim.patient.last}`,
        date: lines[0]?.date ?? null,
        payerClaimNumber: claim.payerClaimNumber,
        closed: false,
        waitsIn: one.waitsIn,
        warnings: [
          ...new Set(
            claim.lines.flatMap(({ number, reasons }) =>
              reasonWarnings(reasons, rules, lines.find((line) => line.number === number)?.date ?? null),
            ),
          ),
        ],
        lines: lines.map((line) => {
          const of = known.get(`${claim.claimId}/${line.number}`);
          return {
            ...line,
            words: of?.words ?? '',
            expected: of?.line ?? null,
            keyed: claim.lines.find(({ number }) => number === line.number) ?? null,
          };
        }),
      };
    }),
    adjustments,
    applied,
    left: minus(keyed.amount, applied),
    made,
  };
}

/** A claim that is out at the payer and not keyed yet. `charge` in cents. */
export interface KeyedCandidate {
  id: number;
  controlNumber: string;
  patient: string;
  date: CalendarDate;
  charge: Cents;
}

/** So many of the claims that are out are offered; what is more is found by typing. */
const OFFERED = 50;

/** Claims that are out at the payer of a keyed remittance, the oldest first: those whose number, patient or charge begins as is typed. */
export async function keyedCandidates(
  context: Context,
  asked: { keyedId: unknown; search?: unknown },
): Promise<KeyedCandidate[]> {
  allow(context, 'post remittances');
  const keyedId = parseInput(idField, asked.keyedId);
  const search = parseInput(textField(60), asked.search ?? '').toLowerCase();
  const { rows } = await sql<KeyedCandidate>`
    select m.id, m.control_number as "controlNumber", p.first || ' ' || p.last as patient, m.service_date as date,
      s.charge
    from keyed_remittance k
      join claim m on payer_now(m.payer_id) = k.payer_id and m.purpose = 'bill' and m.status in ('sent', 'accepted')
      join patient p on p.id = m.patient_id
      cross join lateral (
        select coalesce(sum(c.billed), 0)::bigint as charge
        from claim_line l
          join charge c on c.id = l.charge_id
        where l.claim_id = m.id and not l.left_out
      ) s
    where k.id = ${keyedId}
      and not exists (select from keyed_claim x where x.keyed_id = k.id and x.claim_id = m.id)
      and not ${isClosed(context, sql`m.household_id`)}
      and (
        ${search} = ''
          or lower(m.control_number) like ${`${search}%`}
          or lower(p.last || ', ' || p.first) like ${`${search}%`}
          or lower(p.first || ' ' || p.last) like ${`${search}%`}
          or to_char(s.charge / 100.0, 'FM999999990.00') like ${`${search}%`}
      )
    order by m.service_date, m.id
    limit ${OFFERED}`.execute(context.db);
  return rows;
}

/** Payers whose paper is keyed, by name. */
export async function keyedPayers(context: Context): Promise<{ id: number; name: string }[]> {
  allow(context, 'post remittances');
  return context.db
    .selectFrom('payer')
    .select(['id', 'name'])
    .where('merged_into', 'is', null)
    .orderBy('name')
    .orderBy('id')
    .execute();
}
