'use client';
import type { AccountSection } from '../section';

/** Who saw the record. */
export const trail: AccountSection = {
  acts: ({ account, may }) => [
    may('read the audit trail') && {
      words: 'Who saw it',
      key: 'w',
      kind: 'record',
      does: { href: `/accounts/${account.household.id}/seen` },
    },
  ],
};
