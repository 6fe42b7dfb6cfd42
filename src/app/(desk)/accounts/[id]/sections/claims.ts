'use client';
import { counted } from '../../../../../core/words';
import { buildClaimsAction } from '../../../claims/actions';
import type { AccountSection } from '../section';

/** Charges that wait for their first claim. */
export const claims: AccountSection = {
  acts: ({ account: { household, unbilled }, may, run, busy }) => [
    may('work claims') &&
      unbilled > 0 && {
        words: `Build claims from ${counted(unbilled, 'charge')}`,
        key: 'c',
        kind: 'claims',
        rank: 'waits',
        busy,
        does: () =>
          void run(
            () => buildClaimsAction({ householdId: household.id }),
            (ids) => `${counted(ids.length, 'claim')} built`,
          ),
      },
  ],
};
