/** Reversing what a remittance posted: the whole of it, or one claim. */
import { sql } from 'kysely';
import { reverseInput } from '../../core/remittances/input';
import type { Tx } from '../../db/connect';
import { Refused } from '../access';
import { endHoldsOf, keepingPlaces, wordsOfEntries } from '../books/holds';
import { entriesOf, reverseEntries } from '../books/journal';
import { byUser, moveClaims, statusAsDecided, tellNextPayers } from '../claims/door';
import { type Act, useCase } from '../use-case';
import { afterReversal } from '../settle';
import { afterUndoing } from './credit';
import { bringBackSettled, endRaised } from './raise';

/**
 * Reverses what one claim of a remittance posted, or the whole remittance; the rest stays and both stay visible.
 * @returns how many entries
 */
export const reverseRemittance = useCase({
  name: 'reverse remittance',
  permission: 'reverse entries',
  input: reverseInput,
  async run(act, { remittanceId, remittanceClaimId, why }) {
    const tx = act.db;
    const remit = await tx
      .selectFrom('remittance')
      .select(['id', 'status'])
      .where('id', '=', remittanceId)
      .forNoKeyUpdate()
      .executeTakeFirst();
    if (remit?.status !== 'posted') throw new Refused('limit', 'Only a posted remittance can be reversed');
    const entries = await entriesOf(tx, { remittanceId, remittanceClaimId });
    const reversed = await keepingPlaces(
      tx,
      act,
      await wordsOfEntries(tx, entries),
      { remittanceClaimId: remittanceClaimId ?? null },
      () => reverseEntries(tx, act, entries, why),
    );
    await endHoldsOf(tx, act, reversed);
    await afterUndoing(tx, act, reversed, why);
    await afterReversal(tx, act, reversed, why);
    let query = tx
      .selectFrom('remittance_claim')
      .select(['id', 'claim_id', 'status'])
      .where('remittance_id', '=', remittanceId)
      .where('status', 'in', ['posted', 'unmatched', 'noted', 'returned', 'kept']);
    if (remittanceClaimId) query = query.where('id', '=', remittanceClaimId);
    const rows = await query.orderBy('id').forNoKeyUpdate().execute();
    // One that names no claim has its provider adjustments alone.
    if (rows.length === 0 && reversed.length === 0) throw new Refused('already', 'This was reversed before');
    await tx
      .updateTable('remittance_claim')
      .set({ status: 'reversed' })
      .where('id', '=', sql<number>`any(${rows.map((row) => row.id)})`)
      .execute();
    const decided = rows.flatMap((row) => (row.status === 'posted' && row.claim_id ? row.claim_id : []));
    await endRaised(
      tx,
      rows.map(({ id }) => id),
      `Its decision was reversed: ${why}`,
    );
    await takeBack(act, decided, why);
    const charges = await chargesOf(tx, decided);
    await bringBackSettled(tx, act, charges);
    // Also where nothing had moved, as with a denial.
    await tellNextPayers(tx, act, charges);
    await act.note(
      'reversed',
      { kind: 'remittance', id: remittanceId },
      { why, claim: remittanceClaimId ?? null },
    );
    return reversed.length;
  },
});

/** Claims whose decision was reversed: accepted again, unless another posted decision or a claim in their place stands. */
async function takeBack(act: Act, claimIds: readonly number[], why: string): Promise<void> {
  const tx = act.db;
  if (claimIds.length === 0) return;
  const claims = await tx
    .selectFrom('claim')
    .select(['id', 'status'])
    .where('id', 'in', claimIds)
    .orderBy('id')
    .forNoKeyUpdate()
    .execute();
  for (const claim of claims)
    await moveClaims(
      tx,
      act,
      [claim],
      await statusAsDecided(tx, claim.id),
      byUser(act),
      `The posted decision was reversed: ${why}`,
    );
}

/** The charges that claims are about. */
const chargesOf = async (tx: Tx, claimIds: readonly number[]): Promise<number[]> =>
  (
    await tx
      .selectFrom('claim_line')
      .select('charge_id')
      .where('claim_id', '=', sql<number>`any(${[...claimIds]}::bigint[])`)
      .execute()
  ).map(({ charge_id }) => charge_id);
