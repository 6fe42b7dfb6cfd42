'use client';
import dynamic from 'next/dynamic';
import type { AccountSection } from '../section';

const ContactDrawer = dynamic(() =>
  import('../../../overdue/contact-drawer').then((all) => all.ContactDrawer),
);

/** What was said on the telephone, what was promised, hardship. */
export const contacts: AccountSection = {
  acts: ({ open }) => [
    { words: 'Contacts', key: 'o', kind: 'record', rank: 'often', does: () => open('contact') },
  ],
  dialogs: {
    contact: {
      draw: ({ account, close }) => <ContactDrawer householdId={account.household.id} onClose={close} />,
    },
  },
};
