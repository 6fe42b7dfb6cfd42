/** Matching a held claim of a posted remittance to a claim of ours. */
import { matchInput } from '../../core/remittances/input';
import { Refused } from '../access';
import { useCase } from '../use-case';
import { postClaim } from './post-claim';
import { readReasons } from './reasons';

/** Posts a held claim on one of ours: its money leaves the payer's credit. */
export const matchHeld = useCase({
  name: 'match held claim',
  permission: 'post remittances',
  input: matchInput,
  async run(act, { remittanceClaimId, controlNumber }) {
    // Locked, so that it is not reversed as a whole while one of its claims is matched.
    const remit = await act.db
      .selectFrom('remittance as r')
      .innerJoin('remittance_claim as c', 'c.remittance_id', 'r.id')
      .selectAll('r')
      .where('c.id', '=', remittanceClaimId)
      .forNoKeyUpdate('r')
      .executeTakeFirst();
    const claim = await act.db
      .selectFrom('claim')
      .select('id')
      .where('control_number', '=', controlNumber)
      .executeTakeFirst();
    if (!remit || !claim) throw new Refused(`No claim has the number ${controlNumber}`, 'controlNumber');
    const outcome = await postClaim(
      act.db,
      act,
      remit,
      remittanceClaimId,
      await readReasons(act.db),
      claim.id,
    );
    if (outcome === 'before') throw new Refused('This was matched already');
    await act.note('matched', { kind: 'remittance claim', id: remittanceClaimId }, { claim: claim.id });
  },
});
