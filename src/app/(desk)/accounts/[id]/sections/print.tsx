'use client';
import dynamic from 'next/dynamic';
import type { AccountSection } from '../section';

const PrintDrawer = dynamic(() => import('../print-drawer').then((all) => all.PrintDrawer));

/** The ledger and itemized receipts on paper. */
export const print: AccountSection = {
  acts: ({ open }) => [{ words: 'Print', key: 'l', kind: 'paper', does: () => open('print') }],
  dialogs: {
    print: {
      draw: ({ account, forms, view, member, shownCase, close }) => (
        <PrintDrawer
          account={account}
          sites={forms.sites}
          view={view}
          member={shownCase?.patientId ?? member}
          shownCase={shownCase?.id ?? 0}
          onClose={close}
        />
      ),
    },
  },
};
