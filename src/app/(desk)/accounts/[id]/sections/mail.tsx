'use client';
import dynamic from 'next/dynamic';
import type { AccountSection } from '../section';

const HandOver = dynamic(() => import('../../../statements/hand-over').then((all) => all.HandOver));
const MailDrawer = dynamic(() => import('../mail-drawer').then((all) => all.MailDrawer));

/** A statement now, what was sent, and what is stopped. */
export const mail: AccountSection = {
  acts: ({ may, open }) => [
    may('send statements') && {
      words: 'Statement',
      key: 's',
      kind: 'paper',
      rank: 'often',
      does: () => open('statement'),
    },
    may('send statements') && {
      words: 'Mail and stops',
      key: 'm',
      kind: 'paper',
      does: () => open('statements'),
    },
  ],
  dialogs: {
    statement: {
      may: 'send statements',
      draw: ({ account: { household: h }, close }) => (
        <HandOver householdId={h.id} name={`${h.first} ${h.last}`} onClose={close} />
      ),
    },
    statements: {
      may: 'send statements',
      draw: ({ account, may, close }) => (
        <MailDrawer householdId={account.household.id} mayStop={may('work follow-ups')} onClose={close} />
      ),
    },
  },
};
