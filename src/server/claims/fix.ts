/** Putting right what claims say about a charge, where it comes from. */
import { chargeFixInput } from '../../core/accounts/input';
import { isOurs } from '../../core/claims/life';
import { Refused } from '../access';
import { knownDiagnoses } from '../accounts/charges';
import { refuseOlder } from '../versions';
import { useCase } from '../use-case';
import { refreshClaim } from './check';

const LABELS = {
  diagnoses: 'Diagnoses',
  modifiers: 'Modifiers',
  tooth: 'Tooth',
  surfaces: 'Surfaces',
} as const;

/** Changes what claims say about a charge; refused once a payer has one of them. The fee is changed by voiding and entering anew. */
export const changeCharge = useCase({
  name: 'change charge',
  permission: 'enter charges',
  input: chargeFixInput,
  async run(act, { chargeId, version, ...facts }) {
    const tx = act.db;
    // Every current claim of the charge, whoever its payer is.
    const claims = await tx
      .selectFrom('claim_line as l')
      .innerJoin('claim as m', 'm.id', 'l.claim_id')
      .select(['m.id', 'm.status', 'm.control_number'])
      .where('l.charge_id', '=', chargeId)
      .where('l.current', '=', true)
      .orderBy('m.id')
      .forNoKeyUpdate('m')
      .execute();
    const gone = claims.find((claim) => !isOurs(claim.status));
    if (gone) throw new Refused(`Claim ${gone.control_number} is with the payer already`);
    await knownDiagnoses(tx, facts.diagnoses);
    const before = await tx
      .selectFrom('charge')
      .select(['diagnoses', 'modifiers', 'tooth', 'surfaces', 'version'])
      .where('id', '=', chargeId)
      .where('kind', '=', 'service')
      .where('status', '=', 'done')
      .forNoKeyUpdate()
      .executeTakeFirst();
    if (!before) throw new Refused('There is no such charge');
    refuseOlder(version, before.version, before, facts, LABELS);
    await tx.updateTable('charge').set(facts).where('id', '=', chargeId).execute();
    for (const claim of claims) await refreshClaim(tx, act, claim.id);
    await act.note('changed', { kind: 'charge', id: chargeId }, facts);
  },
});
