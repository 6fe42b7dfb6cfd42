/** Our claim that a remittance decides: read and locked, with its lines. */
import { sql } from 'kysely';
import type { ClaimStatus } from '../../core/claims/life';
import type { CalendarDate } from '../../core/calendar';
import type { Cents } from '../../core/money';
import type { OurLine } from '../../core/remittances/decide';
import type { Tx } from '../../db/connect';

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
      sql<Next>`(select json_build_object('coverageId', x.id, 'payerId', n.payer_id, 'payer', y.name) from coverage x join plan n on n.id = x.plan_id join payer y on y.id = n.payer_id
        where x.id = coverage_on(o.case_id, o.position + 1, m.service_date))`.as('next'),
    ])
    .where('m.id', '=', claimId)
    .forNoKeyUpdate('m')
    .executeTakeFirst();

/** A line of our claim, with what its postings are about. */
export interface Line extends OurLine {
  providerId: number | null;
  locationId: number | null;
  void: boolean;
}

/** The lines of a claim in their order, with what earlier payers paid and reduced. Cents. */
export async function ourLines(tx: Tx, claim: ClaimRow): Promise<Line[]> {
  const before = sql`from payer_balance b join coverage o on o.id = b.coverage_id where b.charge_id = l.charge_id and o.position < ${claim.position}`;
  const rows = await tx
    .selectFrom('claim_line as l')
    .innerJoin('charge as c', 'c.id', 'l.charge_id')
    .select([
      'l.id',
      'l.charge_id',
      'c.code',
      'c.fee',
      'c.status',
      'c.provider_id',
      'c.location_id',
      'l.expected_allowed',
      sql<Cents>`coalesce((select sum(b.paid) ${before}), 0)`.as('paidBefore'),
      sql<Cents>`coalesce((select sum(b.reduced) ${before}), 0)`.as('reducedBefore'),
    ])
    .where('l.claim_id', '=', claim.id)
    .orderBy('l.number')
    .execute();
  return rows.map((row) => ({
    chargeId: row.charge_id,
    control: `L${row.id}`,
    code: row.code ?? '',
    charge: row.fee,
    void: row.status === 'void',
    providerId: row.provider_id,
    locationId: row.location_id,
    expectedAllowed: row.expected_allowed,
    earlier: claim.position > 1 ? { paid: row.paidBefore, reduced: row.reducedBefore } : null,
  }));
}
