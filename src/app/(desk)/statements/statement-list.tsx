'use client';
import { Button } from 'antd';
import { Link } from '../../../ui/link';
import { counted } from '../../../core/words';
import type { RowOf } from '../../../server/lists';
import type { StateOf } from '../../../server/lists/read';
import { useAct } from '../../../ui/act';
import { Money } from '../../../ui/figures';
import { List } from '../../../ui/list';
import { Head } from '../../../ui/page';
import { statementAction } from './actions';
import { StationViews } from './views';

/** Households that are due a statement. */
export function StatementsDue({
  list,
  today,
  mayPrepare,
}: {
  list: StateOf<'statements-due'>;
  today: string;
  mayPrepare: boolean;
}) {
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
        filters={<StationViews value="due" mayPrepare={mayPrepare} />}
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
export function StatementList({ list, mayPrepare }: { list: StateOf<'statements'>; mayPrepare: boolean }) {
  return (
    <>
      <Head title="Statements" note={`${list.count} sent`} />
      <List
        list={list}
        label="Statements sent"
        hint="Guarantor or account"
        filters={<StationViews value="sent" mayPrepare={mayPrepare} />}
        hrefOf={(row) => `/accounts/${row.householdId}`}
        empty={list.search ? `Nobody found for “${list.search}”` : 'No statement was sent yet'}
        cells={{
          account: {
            width: 90,
            render: (row) => <Link href={`/accounts/${row.householdId}`}>{row.account}</Link>,
          },
          delivery: { width: 110 },
          outcome: { ellipsis: true, render: (row) => <span title={row.outcome}>{row.outcome}</span> },
          amount: { width: 120, render: (row) => <Money cents={row.amount} strong /> },
        }}
        act={{
          width: 100,
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

/** Batches of statements. */
export function BatchList({ list, mayPrepare }: { list: StateOf<'batches'>; mayPrepare: boolean }) {
  return (
    <>
      <Head title="Statements" note={counted(list.count, 'batch', 'batches')} />
      <List
        list={list}
        label="Batches"
        hint="Batch or user"
        filters={<StationViews value="open" mayPrepare={mayPrepare} />}
        hrefOf={(row) => `/statements/batches/${row.id}`}
        empty={list.view === 'open' ? 'Every batch is out' : 'No batch was prepared yet'}
        cells={{
          title: { render: (row) => <Link href={`/statements/batches/${row.id}`}>{row.title}</Link> },
          by: { width: 150, ellipsis: true },
        }}
      />
    </>
  );
}
