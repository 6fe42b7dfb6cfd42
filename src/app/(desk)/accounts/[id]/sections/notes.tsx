'use client';
import dynamic from 'next/dynamic';
import { Notice } from '../../../../../ui/page';
import { type AccountSection, useAccount } from '../section';

const NotesDrawer = dynamic(() => import('../notes-drawer').then((all) => all.NotesDrawer));

/** What was noted: at the head what must be known before anything is done, all of it in a drawer. */
export const notes: AccountSection = {
  Panel: Pinned,
  acts: ({ open }) => [
    { words: 'Notes', key: 'e', kind: 'record', rank: 'often', does: () => open('notes') },
  ],
  dialogs: {
    notes: {
      draw: ({ account, close }) => <NotesDrawer householdId={account.household.id} onClose={close} />,
    },
  },
};

function Pinned() {
  const { pinned } = useAccount().account;
  return pinned.map(({ id, words }) => <Notice key={id}>{words}</Notice>);
}
