/** What stands of a payer's decisions on charges. */
import { sql } from 'kysely';
import { type Standing, isNothing } from '../../core/remittances/weigh';
import type { Tx } from '../../db/connect';

/** What stands on the charges of a claim from its coverage's payer, by every decision posted so far, on whichever claim. Cents by charge. */
export async function standingOf(
  tx: Tx,
  claim: { id: number; coverage_id: number },
): Promise<Map<number, Standing>> {
  const { rows } = await sql<Standing & { chargeId: number }>`
    select p.charge_id as "chargeId", coalesce(sum(p.amount) filter (where a.class = 'cash' or p.account = 'credit/payer'), 0) as paid,
      coalesce(sum(p.amount) filter (where a.class = 'reduction'), 0) as reduced,
      coalesce(sum(p.amount) filter (where p.account = 'receivable/patient' or (p.account = 'receivable/payer' and p.coverage_id <> ${claim.coverage_id})), 0) as "passedOn"
    from posting p join book_account a on a.code = p.account join claim m on m.id = p.claim_id
    where p.charge_id in (select charge_id from claim_line where claim_id = ${claim.id}) and (p.remittance_claim_id is not null or p.provider_adjustment_id is not null) and m.coverage_id = ${claim.coverage_id}
    group by p.charge_id`.execute(tx);
  return new Map(rows.map(({ chargeId, ...stands }) => [chargeId, stands]));
}

/** Whether nothing stands on any charge. */
export const standsNothing = (standing: ReadonlyMap<number, Standing>): boolean =>
  [...standing.values()].every(isNothing);
