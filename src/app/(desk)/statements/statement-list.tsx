'use client';
import { Button } from 'antd';
import Link from 'next/link';
import type { RowOf } from '../../../server/lists';
import type { StateOf } from '../../../server/lists/read';
import { useAct } from '../../../ui/act';
import { Money } from '../../../ui/figures';
import { Views } from '../../../ui/filters';
import { List } from '../../../ui/list';
import { Head } from '../../../ui/page';
import { statementAction } from './actions';

const views = (value: 'due' | 'sent') => (
  <Views
    value={value}
    options={[
      { value: 'due', label: 'Due' },
      { value: 'sent', label: 'Sent' },
    ]}
  />
);

/** Households that are due a statement. */
export function StatementsDue({ list, today }: { list: StateOf<'statements-due'>; today: string }) {
  const { busy, run } = useAct();
  const make = async (row: RowOf<'statements-due'>): Promise<void> => {
    const made = await run(() =>
      statementAction({ householdId: row.id, key: `${row.id}-${today}-${row.amount}` }),
    );
    if (made) window.open(`/api/statements/${made.value}`, '_blank');
  };
  return (
    <>
      <Head title="Statements" note={`${list.count} due`} />
      <List
        list={list}
        label="Statements due"
        hint="Guarantor or account"
        filters={views('due')}
        hrefOf={(row) => `/accounts/${row.id}`}
        empty={list.search ? `Nobody found for “${list.search}”` : 'Nobody is due a statement'}
        cells={{
          account: { width: 90, render: (row) => <Link href={`/accounts/${row.id}`}>{row.account}</Link> },
          lastStatement: { width: 130 },
          amount: { width: 120, render: (row) => <Money cents={row.amount} strong /> },
        }}
        rowKeys={[{ key: 's', words: 'make a statement', run: (row) => void make(row) }]}
        act={{
          width: 150,
          render: (row) => (
            <Button size="small" loading={busy} onClick={() => void make(row)}>
              Make statement
            </Button>
          ),
        }}
      />
    </>
  );
}

/** Statements sent. */
export function StatementList({ list }: { list: StateOf<'statements'> }) {
  return (
    <>
      <Head title="Statements" note={`${list.count} sent`} />
      <List
        list={list}
        label="Statements sent"
        hint="Guarantor or account"
        filters={views('sent')}
        hrefOf={(row) => `/accounts/${row.householdId}`}
        empty={list.search ? `Nobody found for “${list.search}”` : 'No statement was sent yet'}
        cells={{
          account: {
            width: 90,
            render: (row) => <Link href={`/accounts/${row.householdId}`}>{row.account}</Link>,
          },
          amount: { width: 120, render: (row) => <Money cents={row.amount} strong /> },
        }}
        act={{
          width: 150,
          render: (row) => (
            <a href={`/api/statements/${row.id}`} target="_blank" rel="noreferrer">
              Open PDF
            </a>
          ),
        }}
      />
    </>
  );
}
