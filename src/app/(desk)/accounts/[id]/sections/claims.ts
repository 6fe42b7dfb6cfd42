'use client';
import { waitsForClaim } from '../../../../../core/accounts/unbilled';
import { counted } from '../../../../../core/words';
import { buildClaimsAction } from '../../../claims/actions';
import { shownCharges } from '../shown-charges';
import { chosenToBill } from '../to-bill';
import type { AccountSection } from '../section';

/** Charges that wait to be put on a claim: those chosen in the ledger, or all of the household, the person or the case that is shown. */
export const claims: AccountSection = {
  acts: (desk) => {
    const { account, may, run, busy, member, shownCase, params, set, go } = desk;
    const chosen = chosenToBill(account.charges, params);
    const part = shownCharges({ ...desk, view: 'all' }).filter(waitsForClaim);
    const whole = member === 0 && shownCase === null;
    const many = chosen.length > 0 ? chosen.length : whole ? account.unbilled : part.length;
    const scope = shownCase
      ? { caseId: shownCase.id }
      : member > 0
        ? { patientId: member }
        : { householdId: account.household.id };
    const build = async (): Promise<void> => {
      const built = await run(
        () =>
          buildClaimsAction({
            ...(chosen.length > 0 ? { chargeIds: chosen.map(({ id }) => id) } : scope),
            which: 'all',
          }),
        (ids) => `${counted(ids.length, 'claim')} built`,
      );
      if (!built) return;
      const [only, ...more] = built.value;
      if (only && more.length === 0) go(`/claims/${only}`);
      else if (chosen.length > 0) set('bill', '');
    };
    return [
      may('work claims') &&
        many > 0 && {
          words:
            chosen.length > 0
              ? `Build claims from ${counted(many, 'chosen charge', 'chosen charges')}`
              : `Build claims from ${counted(many, 'charge')}`,
          key: 'c',
          kind: 'claims',
          rank: 'waits',
          busy,
          does: () => void build(),
        },
    ];
  },
};
