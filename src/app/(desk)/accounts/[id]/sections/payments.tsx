'use client';
import dynamic from 'next/dynamic';
import { formatMoneyPlain } from '../../../../../core/money';
import type { AccountSection } from '../section';

// Loaded when they are opened.
const CreditDrawer = dynamic(() => import('../credit-drawer').then((all) => all.CreditDrawer));
const PaymentDrawer = dynamic(() => import('../payment-drawer').then((all) => all.PaymentDrawer));

/** Taking a payment, and using or giving back what is held as credit. */
export const payments: AccountSection = {
  acts: ({ account, may, open }) => [
    may('take payments') && {
      words: 'Take payment',
      key: 'p',
      kind: 'money',
      rank: 'main',
      does: () => open('payment'),
    },
    may('take payments') &&
      account.figures.credit > 0 && {
        words: `Credit ${formatMoneyPlain(account.figures.credit)}`,
        key: 'u',
        kind: 'money',
        rank: 'waits',
        does: () => open('credit'),
      },
  ],
  dialogs: {
    payment: {
      may: 'take payments',
      draw: ({ account, params, close }) => (
        <PaymentDrawer
          account={account}
          pays={(params.get('pays') ?? '').split(',').map(Number)}
          onClose={close}
        />
      ),
    },
    credit: {
      may: 'take payments',
      draw: ({ account, may, close }) => (
        <CreditDrawer account={account} mayRefund={may('reverse entries')} onClose={close} />
      ),
    },
  },
};
