/** Taking back what was taken off, or passed on from a payer, by decision. */
import { DECIDED, isIn } from '../../core/claims/life';
import { sql } from 'kysely';
import { undoWriteOffInput } from '../../core/overdue/input';
import { Refused } from '../access';
import { answerHolds, keepingPlaces } from '../books/holds';
import { lockHouseholds, reverseEntries } from '../books/journal';
import { byUser, isReplaced, moveClaims, settledStatus } from '../claims/door';
import { bringBackSettled } from '../remittances/door';
import { afterReversal } from '../settle';
import { useCase } from '../use-case';

/**
 * Takes a write-off back, or what was passed from a payer to the patient or the next payer, for a stated reason: it
 * is owed where it was. What waits with a payer again is followed as before, and its claim is open.
 */
export const undoWriteOff = useCase({
  name: 'undo write-off',
  permission: 'reverse entries',
  input: undoWriteOffInput,
  async run(act, { entryId, why }) {
    const tx = act.db;
    const postings = await tx
      .selectFrom('entry as e')
      .innerJoin('posting as p', 'p.entry_id', 'e.id')
      .select(['e.kind', 'p.charge_id', 'p.coverage_id', 'p.claim_id'])
      .select(sql<number | null>`household_now(p.household_id)`.as('household_id'))
      .where('e.id', '=', entryId)
      .where('p.account', 'in', ['receivable/patient', 'receivable/payer'])
      .execute();
    const [entry] = postings;
    if (!entry || !['write-off', 'bad-debt', 'to-patient', 'to-next-payer'].includes(entry.kind))
      throw new Refused('state', 'This is no write-off, and nothing that was passed on');
    const householdId = entry.household_id!;
    await lockHouseholds(tx, [householdId]);
    if (entry.kind === 'bad-debt') {
      const { rows } = await sql`
        select 1
        from posting p
        where p.account = 'reduction/bad-debt-recovered'
          and p.charge_id in (select charge_id from posting where entry_id = ${entryId})
        group by p.charge_id having sum(p.amount) <> 0 limit 1`.execute(tx);
      if (rows.length > 0)
        throw new Refused('blocked', 'Some of it was recovered: reverse that payment first');
    }
    const parts = postings.flatMap(({ charge_id: chargeId, coverage_id: coverageId, claim_id: claimId }) =>
      chargeId === null || coverageId === null ? [] : [{ chargeId, coverageId, claimId, householdId }],
    );
    // Where it was put before the next payer, the word is that of the payer with the claim.
    const payers = entry.kind === 'to-next-payer' ? parts.filter((one) => one.claimId !== null) : parts;
    const reversed = await keepingPlaces(tx, act, payers, { remittanceClaimId: null }, () =>
      reverseEntries(tx, act, [entryId], why),
    );
    // Passed to the patient by mistake, it never was the patient's: nothing of it is kept for a word to come.
    await answerHolds(tx, payers);
    if (reversed.length === 0) throw new Refused('already', 'This was taken back before');
    await afterReversal(tx, act, reversed, why);
    for (const claimId of new Set(payers.flatMap((one) => one.claimId ?? []))) {
      const claim = await tx
        .selectFrom('claim')
        .select(['id', 'status'])
        .where('id', '=', claimId)
        .forNoKeyUpdate()
        .executeTakeFirstOrThrow();
      if (isIn(DECIDED, claim.status))
        await moveClaims(
          tx,
          act,
          [claim],
          (await isReplaced(tx, claimId)) ? 'closed' : await settledStatus(tx, claimId),
          byUser(act),
          `What was settled was taken back: ${why}`,
        );
    }
    await bringBackSettled(
      tx,
      act,
      payers.map(({ chargeId }) => chargeId),
    );
    await act.note('took back a write-off', { kind: 'household', id: householdId }, { why });
  },
});
