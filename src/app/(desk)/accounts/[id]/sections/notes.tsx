'use client';
import dynamic from 'next/dynamic';
import { Notices } from '../../../notices';
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
      draw: ({ account, close }) => (
        <NotesDrawer of={{ householdId: account.household.id }} people={account.members} onClose={close} />
      ),
    },
  },
};

function Pinned() {
  const { account, member, shownCase } = useAccount();
  // What is of one person or case stands where that is shown.
  const here = account.pinned.filter(
    ({ patientId, caseId }) =>
      (patientId === null || member === 0 || patientId === member) &&
      (caseId === null || shownCase === null || caseId === shownCase.id),
  );
  return <Notices notices={here} />;
}
