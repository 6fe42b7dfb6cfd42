/** What a patient paid too much once the payer has corrected itself: it becomes credit of the household at once. */
import { sql } from 'kysely';
import { overpaidEntry } from '../../core/books/entries/patients';
import { type Cents, least, minus, negate } from '../../core/money';
import type { Tx } from '../../db/connect';
import type { Context } from '../access';
import { lockHouseholds, writeEntries } from '../books/journal';

/** Gives back to credit what was paid too much on the charges that a remittance, or one claim of it, decided. */
export async function creditOverpaid(
  tx: Tx,
  context: Context,
  of: { remittanceId: number; remittanceClaimId?: number },
): Promise<void> {
  const one = of.remittanceClaimId ?? null;
  const { rows } = await sql<{ householdId: number; chargeId: number }>`
    select distinct c.household_id as "householdId", c.id as "chargeId" from posting p join charge c on c.id = p.charge_id join charge_balance b on b.charge_id = c.id
    where p.remittance_id = ${of.remittanceId} and (${one}::bigint is null or p.remittance_claim_id = ${one}) and b.with_patient < 0 and b.patient_paid > 0 order by 1, 2`.execute(
    tx,
  );
  await lockHouseholds(
    tx,
    rows.map(({ householdId }) => householdId),
  );
  for (const { householdId, chargeId } of rows) await giveBack(tx, context, householdId, chargeId);
}

/** The newest receipts give back first. */
async function giveBack(tx: Tx, context: Context, householdId: number, chargeId: number): Promise<void> {
  const balance = await tx
    .selectFrom('charge_balance')
    .select('with_patient')
    .where('charge_id', '=', chargeId)
    .executeTakeFirstOrThrow();
  const { rows: receipts } = await sql<{ receiptId: number; paid: Cents }>`
    select p.receipt_id as "receiptId", sum(p.amount) as paid from posting p where p.charge_id = ${chargeId} and p.account = 'credit/patient' and p.receipt_id is not null
    group by p.receipt_id having sum(p.amount) > 0 order by p.receipt_id desc`.execute(tx);
  let left = negate(balance.with_patient);
  for (const { receiptId, paid } of receipts) {
    if (left <= 0) return;
    const amount = least(left, paid);
    left = minus(left, amount);
    await writeEntries(tx, context, [
      overpaidEntry({
        businessDate: context.today,
        memo: 'Less is the patient’s after the payer’s correction',
        about: { householdId, chargeId, receiptId },
        amount,
      }),
    ]);
  }
}
