/** Our claim that a remittance decides: read and locked, with its lines. */
import { sql } from 'kysely';
import type { ClaimStatus } from '../../core/claims/life';
import type { CalendarDate } from '../../core/calendar';
import { type Cents, ZERO } from '../../core/money';
import type { OurLine } from '../../core/remittances/decide';
import type { DecidedParts } from '../../core/remittances/verdict';
import type { Tx } from '../../db/connect';
import { SETTLING } from '../books/journal';
import { decidedOn } from '../books/decided';

/** A claim of ours that is decided, locked. */
export interface ClaimRow {
  id: number;
  status: ClaimStatus;
  control_number: string;
  position: number;
  household_id: number;
  patient_id: number;
  case_id: number;
  coverage_id: number;
  payer_id: number;
  service_date: CalendarDate;
  /** The claim that it corrects or voids. */
  replaces: number | null;
  /** The coverage that comes after its own on the day of the service: what passes on goes there. */
  next: Next;
}

/** A coverage that what passes on goes to, with its payer; null when there is none. */
export type Next = { coverageId: number; payerId: number; payer: string } | null;

/** Reads and locks one of our claims, with the coverage that comes after its own. @returns undefined when there is none */
export const lockClaim = (tx: Tx, claimId: number): Promise<ClaimRow | undefined> =>
  tx
    .selectFrom('claim as m')
    .innerJoin('coverage as o', 'o.id', 'm.coverage_id')
    .select([
      'm.id',
      'm.status',
      'm.control_number',
      'm.household_id',
      'm.patient_id',
      'm.case_id',
      'm.coverage_id',
      'm.payer_id',
      'm.service_date',
      'm.replaces',
      'o.position',
      sql<Next>`
        (
          select json_build_object('coverageId', x.id, 'payerId', x.payer_id, 'payer', y.name)
          from coverage_plan x
            join payer y on y.id = x.payer_id
        where x.id = coverage_on(o.case_id, o.position + 1, m.service_date))`.as('next'),
    ])
    .where('m.id', '=', claimId)
    .forNoKeyUpdate('m')
    .executeTakeFirst();

/** A line of our claim, with what stands on it from its payer and what its postings are about. */
export interface Line extends OurLine {
  decidedSoFar: DecidedParts;
  providerId: number | null;
  locationId: number | null;
  void: boolean;
  /** Whether we settled ourselves something of what waited with this payer. */
  settled: boolean;
  /** Whether a word of this payer was taken back and its new one is waited for. */
  held: boolean;
}

/**
 * The lines of a claim in their order, with what stands of its payer's decisions, what earlier payers paid and
 * reduced (cents), and whether something of ours or of an earlier word gives way to a new one: asked here, for most
 * words meet neither.
 */
export async function ourLines(tx: Tx, claim: ClaimRow): Promise<Line[]> {
  const before = sql`
    from payer_balance b
      join coverage o on o.id = b.coverage_id
    where b.charge_id = l.charge_id and o.position < ${claim.position}`;
  const rows = await tx
    .selectFrom('claim_line as l')
    .innerJoin('charge as c', 'c.id', 'l.charge_id')
    .innerJoinLateral(
      sql<{
        paid: Cents | null;
        reduced: Cents | null;
        passed_on: Cents | null;
      }>`${decidedOn(sql`l.charge_id`, claim.coverage_id)}`.as('s'),
      (join) => join.onTrue(),
    )
    .select([
      's.paid',
      's.reduced',
      's.passed_on',
      'l.id',
      'l.charge_id',
      'c.code',
      // What that claim said, which a correction of it may not say any more.
      sql<Cents>`coalesce((d.line ->> 'charge')::bigint, c.billed)::bigint`.as('billed'),
      sql<Cents>`coalesce((d.line ->> 'tax')::bigint, 0)`.as('tax'),
      'c.status',
      'c.provider_id',
      'c.location_id',
      'l.expected_allowed',
      sql<Cents>`(select y.short_tolerance from payer y where y.id = ${claim.payer_id})`.as('tolerance'),
      sql<Cents>`coalesce((select sum(b.paid) ${before}), 0)`.as('paidBefore'),
      sql<Cents>`coalesce((select sum(b.reduced) ${before}), 0)`.as('reducedBefore'),
      sql<boolean>`
        exists (
          select 1
          from posting p
            join entry e on e.id = p.entry_id
          where p.charge_id = l.charge_id
            and p.coverage_id = ${claim.coverage_id}
            and e.kind = any(${SETTLING}::text[])
        )`.as('settled'),
      sql<boolean>`
        exists (
          select 1
          from part_hold h
          where h.charge_id = l.charge_id and h.coverage_id = ${claim.coverage_id} and h.ended_on is null
        )`.as('held'),
    ])
    .leftJoinLateral(
      sql<{ line: Record<string, unknown> | null }>`(
        select x as line
        from claim m
          cross join jsonb_array_elements(m.content -> 'value' -> 'lines') x
        where m.id = l.claim_id and (x ->> 'number')::integer = l.number
      )`.as('d'),
      (join) => join.onTrue(),
    )
    .where('l.claim_id', '=', claim.id)
    .where('l.left_out', '=', false)
    .orderBy('l.number')
    .execute();
  return rows.map((row) => ({
    chargeId: row.charge_id,
    control: `L${row.id}`,
    code: row.code ?? '',
    charge: row.billed,
    tax: row.tax,
    void: row.status === 'void',
    providerId: row.provider_id,
    locationId: row.location_id,
    expectedAllowed: row.expected_allowed,
    tolerance: row.tolerance,
    decidedSoFar: { paid: row.paid ?? ZERO, reduced: row.reduced ?? ZERO, passedOn: row.passed_on ?? ZERO },
    settled: row.settled,
    held: row.held,
    earlier: claim.position > 1 ? { paid: row.paidBefore, reduced: row.reducedBefore } : null,
  }));
}
