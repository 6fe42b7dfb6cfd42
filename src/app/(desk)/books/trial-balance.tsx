'use client';
import type { TrialRow } from '../../../server/books/balances';
import { LineTable } from '../../../ui/line-table';

/** Debits, credits and balance of each book account. */
export const TrialBalance = ({ rows }: { rows: (TrialRow & { words: string })[] }) => (
  <LineTable
    label="Trial balance"
    rows={rows}
    rowKey={(row) => row.account}
    empty="Nothing is booked yet"
    words="Together"
    columns={[
      { key: 'account', title: 'Account', width: 170, render: (row) => row.words },
      { key: 'debits', title: 'Debits', width: 104, money: (row) => row.debits, sum: true },
      { key: 'credits', title: 'Credits', width: 104, money: (row) => row.credits, sum: true },
      { key: 'balance', title: 'Balance', width: 104, money: (row) => row.balance, sum: true },
    ]}
  />
);
