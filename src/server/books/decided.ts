/** What stands of a payer's decisions on charges. */
import { type RawBuilder, sql } from 'kysely';
import { type DecidedParts, isNothing } from '../../core/remittances/verdict';
import type { Db, Tx } from '../../db/connect';

/**
 * What stands on a charge from a coverage's payer, by every decision posted so far, on whichever claim: a subquery of one row, whose
 * amounts are null where nothing was ever decided. Cents.
 */
export const decidedOn = (
  charge: RawBuilder<unknown>,
  coverageId: number | RawBuilder<number>,
): RawBuilder<unknown> => sql`(
    select sum(p.amount) filter (where a.class = 'cash' or p.account = 'credit/payer') as paid,
      sum(p.amount) filter (where a.part = 'reduced') as reduced,
      sum(p.amount) filter (
        where p.account = 'receivable/patient'
          or (p.account = 'receivable/payer' and p.coverage_id <> ${coverageId})
      ) as passed_on
    from posting p join book_account a on a.code = p.account join claim m on m.id = p.claim_id
    where p.charge_id = ${charge}
      and (p.remittance_claim_id is not null or p.provider_adjustment_id is not null)
      and m.coverage_id = ${coverageId})`;

/**
 * What stands on the charges of a claim from its coverage's payer, by every decision posted so far, on whichever
 * claim. Cents by charge.
 */
export async function decidedOf(
  tx: Db | Tx,
  claim: { id: number; coverage_id: number },
): Promise<Map<number, DecidedParts>> {
  const { rows } = await sql<DecidedParts & { chargeId: number }>`
    select l.charge_id as "chargeId", coalesce(s.paid, 0) as paid, coalesce(s.reduced, 0) as reduced,
      coalesce(s.passed_on, 0) as "passedOn"
    from claim_line l
      cross join lateral ${decidedOn(sql`l.charge_id`, claim.coverage_id)} s
    where l.claim_id = ${claim.id}`.execute(tx);
  return new Map(rows.map(({ chargeId, ...stands }) => [chargeId, stands]));
}

/**
 * Whether no decision of a payer stands on a charge: of all that payers decided and took back nothing is left, wherever its amount
 * is now. @param charge its id in a query
 */
export const isUndecided = (charge: RawBuilder<unknown>): RawBuilder<boolean> => sql<boolean>`
  not exists (
    select 1
    from posting p
      join claim m on m.id = p.claim_id
    where p.charge_id = ${charge} and (p.remittance_claim_id is not null or p.provider_adjustment_id is not null)
    group by m.coverage_id, p.account, p.coverage_id
    having sum(p.amount) <> 0
  )`;

/** Whether nothing stands on any charge. */
export const standsNothing = (decidedSoFar: ReadonlyMap<number, DecidedParts>): boolean =>
  [...decidedSoFar.values()].every(isNothing);
