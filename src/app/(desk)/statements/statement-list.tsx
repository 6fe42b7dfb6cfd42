'use client';
import { Button } from 'antd';
import { useState } from 'react';
import { Link } from '../../../ui/link';
import { counted } from '../../../core/words';
import type { RowOf } from '../../../server/lists';
import type { StateOf } from '../../../server/lists/read';
import { Money } from '../../../ui/figures';
import { List } from '../../../ui/list';
import { Head } from '../../../ui/page';
import { HandOver } from './hand-over';
import { StationViews } from './views';

/** Households that are due a statement. */
export function StatementsDue({
  list,
  mayPrepare,
}: {
  list: StateOf<'statements-due'>;
  mayPrepare: boolean;
}) {
  const [making, setMaking] = useState<RowOf<'statements-due'> | null>(null);
  return (
    <>
      <Head title="Statements" note={`${list.count} due`} />
      <List
        list={list}
        label="Statements due"
        hint="Guarantor or account"
        filters={<StationViews value="due" mayPrepare={mayPrepare} />}
        hrefOf={(row) => `/accounts/${row.householdId}`}
        empty={list.search ? `Nobody found for “${list.search}”` : 'Nobody is due a statement'}
        cells={{
          account: {
            width: 90,
            render: (row) => <Link href={`/accounts/${row.householdId}`}>{row.account}</Link>,
          },
          lastStatement: { width: 130 },
          why: { ellipsis: true, render: (row) => <span title={row.why}>{row.why}</span> },
          amount: { width: 120, render: (row) => <Money cents={row.amount} strong /> },
        }}
        rowKeys={[{ key: 's', words: 'make a statement', run: setMaking }]}
        act={{
          width: 150,
          render: (row) => (
            <Button size="small" onClick={() => setMaking(row)}>
              Make statement
            </Button>
          ),
        }}
      />
      {making && (
        <HandOver
          householdId={making.householdId}
          patientId={making.patientId}
          name={making.guarantor}
          onClose={() => setMaking(null)}
        />
      )}
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
