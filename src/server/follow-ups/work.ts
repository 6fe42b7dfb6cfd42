/** Working follow-ups: closing one with what came of it, writing off what a payer denied. */
import { sql } from 'kysely';
import type { BookAccount } from '../../core/books/accounts';
import { writeOffEntry } from '../../core/books/entries';
import { type Cents, ZERO, formatMoneyPlain, sum } from '../../core/money';
import { closeInput, writeOffInput } from '../../core/remittances/input';
import { Refused } from '../access';
import { lockHouseholds, writeEntries } from '../books/journal';
import { byUser, moveClaims, settledStatus } from '../claims/life';
import { useCase } from '../use-case';

/** Closes a follow-up with what came of it. */
export const closeFollowUp = useCase({
  name: 'close follow-up',
  permission: 'work follow-ups',
  input: closeInput,
  async run(act, { followUpId, outcome }) {
    const done = await act.db
      .updateTable('follow_up')
      .set({ closed_at: sql`now()`, outcome, owner: act.user.name })
      .where('id', '=', followUpId)
      .where('closed_at', 'is', null)
      .where('kind', '<>', 'overpaid')
      .returning('id')
      .executeTakeFirst();
    if (!done)
      throw new Refused('This follow-up is closed already, or closes itself when the balance is right');
    await act.note('closed', { kind: 'follow-up', id: followUpId }, { outcome });
  },
});

const REDUCTION: BookAccount = 'reduction/payer';

/**
 * Writes off, with a reason, what payers denied and still hold of a charge, on the claims that are decided; closes the
 * charge's follow-ups with those payers. @returns cents written off
 */
export const writeOffDenied = useCase({
  name: 'write off denied',
  permission: 'reverse entries',
  input: writeOffInput,
  async run(act, { chargeId, coverageId, why }): Promise<Cents> {
    const tx = act.db;
    const charge = await tx.selectFrom('charge').selectAll().where('id', '=', chargeId).executeTakeFirst();
    if (!charge) throw new Refused('There is no such charge');
    await lockHouseholds(tx, [charge.household_id]);
    let query = tx
      .selectFrom('claim_line as l')
      .innerJoin('claim as m', 'm.id', 'l.claim_id')
      .innerJoin('payer_balance as b', (join) =>
        join.onRef('b.charge_id', '=', 'l.charge_id').onRef('b.coverage_id', '=', 'l.coverage_id'),
      )
      .select(['m.id', 'm.status', 'b.payer_id', 'b.coverage_id', 'b.with_payer'])
      .where('l.charge_id', '=', chargeId)
      .where('l.current', '=', true)
      .where('m.status', '=', 'decided')
      .where('b.with_payer', '>', ZERO);
    if (coverageId) query = query.where('l.coverage_id', '=', coverageId);
    const denied = await query.orderBy('m.id').forNoKeyUpdate('m').execute();
    if (denied.length === 0) throw new Refused('Nothing that a payer denied stands open on this charge');
    const amount = sum(denied.map((item) => item.with_payer));
    await writeEntries(
      tx,
      act,
      denied.map((item) =>
        writeOffEntry({
          businessDate: act.today,
          why,
          account: REDUCTION,
          amount: item.with_payer,
          about: {
            chargeId,
            householdId: charge.household_id,
            patientId: charge.patient_id,
            caseId: charge.case_id,
            coverageId: item.coverage_id,
            payerId: item.payer_id,
            claimId: item.id,
            providerId: charge.provider_id,
            locationId: charge.location_id,
          },
        }),
      ),
    );
    await tx
      .updateTable('follow_up')
      .set({
        closed_at: sql`now()`,
        outcome: `Written off ${formatMoneyPlain(amount)}: ${why}`,
        owner: act.user.name,
      })
      .where('charge_id', '=', chargeId)
      .where('closed_at', 'is', null)
      .where(({ eb, or }) =>
        or([
          eb('coverage_id', 'is', null),
          eb(
            'coverage_id',
            'in',
            denied.map((item) => item.coverage_id),
          ),
        ]),
      )
      .execute();
    for (const claim of denied)
      if ((await settledStatus(tx, claim.id)) === 'closed')
        await moveClaims(tx, act, [claim], 'closed', byUser(act), `Written off: ${why}`);
    await act.note('wrote off', { kind: 'charge', id: chargeId }, { amount, why });
    return amount;
  },
});
