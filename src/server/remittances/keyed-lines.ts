/** Reading what is keyed of a remittance, and the lines of our claims that it speaks of. */
import { sql } from 'kysely';
import type { Cents } from '../../core/money';
import { type KeyedLine, type KeyedOf, keyedLinesDocument } from '../../core/remittances/keyed';
import type { Db } from '../../db/connect';
import { postsNothing } from './matching';

/** The lines of claims of ours as a paper names them, by claim. Amounts in cents. One query. */
export async function keyedLinesOf(db: Db, claimIds: readonly number[]): Promise<Map<number, KeyedOf[]>> {
  const { rows } = await sql<KeyedOf & { claimId: number }>`
    select l.claim_id as "claimId", l.number, 'L' || l.id as control, coalesce(c.code, '') as code,
      c.modifiers, c.units, c.service_date as date,
      coalesce((d.line ->> 'charge')::bigint, c.billed)::bigint as charge, n.contracted
    from claim_line l
      join charge c on c.id = l.charge_id
      join claim m on m.id = l.claim_id
      join coverage_plan o on o.id = m.coverage_id
      join insurance_plan n on n.id = o.insurance_plan_id
      left join lateral (
        select x as line
        from jsonb_array_elements(m.content -> 'value' -> 'lines') x
        where (x ->> 'number')::integer = l.number
      ) d
        on true
    where l.claim_id = any(${[...claimIds]}::bigint[]) and not l.left_out
    order by l.claim_id, l.number`.execute(db);
  const found = new Map<number, KeyedOf[]>();
  for (const { claimId, ...line } of rows) found.set(claimId, [...(found.get(claimId) ?? []), line]);
  return found;
}

/** A claim that is keyed. Amounts in cents, below zero where it takes back. */
export interface KeyedClaim {
  id: number;
  number: number;
  claimId: number;
  controlNumber: string;
  status: string;
  payerClaimNumber: string;
  patient: { last: string; first: string; memberId: string };
  lines: KeyedLine[];
  paid: Cents;
  explained: boolean;
  version: number;
}

/** The claims of a keyed remittance, in the order in which they were keyed. */
export async function keyedClaims(db: Db, keyedId: number): Promise<KeyedClaim[]> {
  const rows = await db
    .selectFrom('keyed_claim as k')
    .innerJoin('claim as m', 'm.id', 'k.claim_id')
    .innerJoin('patient as p', 'p.id', 'm.patient_id')
    .innerJoin('covered as o', 'o.id', 'm.coverage_id')
    .select([
      'k.id',
      'k.number',
      'k.claim_id as claimId',
      'm.control_number as controlNumber',
      'k.status',
      'k.payer_claim_number as payerClaimNumber',
      'k.lines',
      'k.paid',
      'k.explained',
      'k.version',
      'p.last',
      'p.first',
      'o.member_id as memberId',
    ])
    .where('k.keyed_id', '=', keyedId)
    .orderBy('k.number')
    .execute();
  return rows.map(({ last, first, memberId, lines, ...row }) => ({
    ...row,
    patient: { last, first, memberId: memberId ?? '' },
    lines: keyedLinesDocument.read(lines),
  }));
}

/** The remittance that a keyed one made last, and whether something of it stands; null where it made none. */
export async function remittanceOfKeyed(
  db: Db,
  keyedId: number,
): Promise<{ id: number; status: string; stands: boolean } | null> {
  const { rows } = await sql<{ id: number; status: string; stands: boolean }>`
    select r.id, r.status, not ${postsNothing} as stands
    from remittance r
    where r.keyed_id = ${keyedId}
    order by r.id desc
    limit 1`.execute(db);
  return rows[0] ?? null;
}
