/** Keeping a claim back, letting it go, withdrawing it. */
import { claimInput, claimNoteInput, holdInput, withdrawInput } from '../../core/claims/input';
import { mayMove } from '../../core/claims/life';
import { Refused } from '../access';
import { follow } from '../accounts/door';
import { lockHouseholds } from '../books/journal';
import { noteBeside } from '../notes/notes';
import { type Act, useCase } from '../use-case';
import { CASE_KEEPS, refreshClaims } from './check';
import { byUser, moveClaims } from './life';
import { reopenAnswered, restoreReplaced } from './replace';

const locked = (act: Act, claimId: number) =>
  act.db
    .selectFrom('claim')
    .select(['id', 'status', 'hold_reason', 'control_number', 'replaces'])
    .where('id', '=', claimId)
    .forNoKeyUpdate()
    .executeTakeFirst();

/** Holds a claim that was not sent, with a reason. */
export const holdClaim = useCase({
  name: 'hold claim',
  permission: 'work claims',
  input: holdInput,
  async run(act, { claimId, why }) {
    const claim = await locked(act, claimId);
    if (!claim || (claim.status !== 'held' && !mayMove(claim.status, 'held')))
      throw new Refused('limit', 'Only a claim that has not been sent can be held');
    if (claim.status === 'held' && claim.hold_reason === why) return;
    await moveClaims(act.db, act, [claim], 'held', byUser(act), why, { holdReason: why });
    await act.note('held', { kind: 'claim', id: claimId }, { why });
  },
});

/** Notes something on a claim, answered or not. @returns the claim's id */
export const noteOnClaim = useCase({
  name: 'note on claim',
  permission: 'work claims',
  input: claimNoteInput,
  once: (data) => data.key,
  async run(act, { claimId, words }) {
    const claim = await act.db
      .selectFrom('claim')
      .select('household_id')
      .where('id', '=', claimId)
      .executeTakeFirst();
    if (!claim) throw new Refused('unknown', 'There is no such claim');
    await noteBeside(act, { claim_id: claimId, household_id: claim.household_id }, words);
    await act.note('noted', { kind: 'claim', id: claimId });
    return claimId;
  },
});

/** Lets a held claim go: it is checked again and becomes ready when nothing is wrong. */
export const releaseClaim = useCase({
  name: 'release claim',
  permission: 'work claims',
  input: claimInput,
  async run(act, { claimId }) {
    const claim = await locked(act, claimId);
    if (claim?.status !== 'held') throw new Refused('state', 'This claim is not on hold');
    if (claim.hold_reason === CASE_KEEPS)
      throw new Refused('blocked', `${CASE_KEEPS}: switch that on at the case, and it goes on by itself`);
    await moveClaims(act.db, act, [claim], 'draft', byUser(act), 'Let go', { holdReason: '' });
    await refreshClaims(act.db, act, [claimId]);
    await act.note('released', { kind: 'claim', id: claimId });
  },
});

/** Withdraws, with a reason, a claim that the payer does not have: its charges can be billed again. */
export const withdrawClaim = useCase({
  name: 'withdraw claim',
  permission: 'work claims',
  input: withdrawInput,
  async run(act, { claimId, why }) {
    const whose = await act.db
      .selectFrom('claim')
      .select(['household_id', 'patient_id as id', 'case_id'])
      .where('id', '=', claimId)
      .executeTakeFirst();
    if (whose) await lockHouseholds(act.db, [whose.household_id]);
    const claim = await locked(act, claimId);
    if (!whose || !claim || !mayMove(claim.status, 'withdrawn'))
      throw new Refused('state', 'A claim that the payer has cannot be withdrawn');
    await act.db.updateTable('claim_line').set({ current: false }).where('claim_id', '=', claimId).execute();
    await moveClaims(act.db, act, [claim], 'withdrawn', byUser(act), `Withdrawn: ${why}`);
    await restoreReplaced(act, claim);
    await reopenAnswered(act, claimId);
    // Coverage may have changed since it was built.
    await follow(act, whose);
    await act.note('withdrew', { kind: 'claim', id: claimId }, { why });
  },
});
