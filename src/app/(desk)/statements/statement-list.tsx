'use client';
import { Button, Table } from 'antd';
import Link from 'next/link';
import type { Cents } from '../../../core/money';
import type { StatementRow } from '../../../server/statements/read';
import { useAct } from '../../../ui/act';
import { Day, Money } from '../../../ui/figures';
import { Views } from '../../../ui/filters';
import { List } from '../../../ui/list';
import { statementAction } from '../../actions';

/** Households that are due a statement, and statements sent. */
export function StatementList({
  rows,
  count,
  total,
  view,
  today,
  pageSize,
}: {
  rows: StatementRow[];
  count: number;
  total: Cents;
  view: 'due' | 'sent';
  today: string;
  pageSize: number;
}) {
  const { busy, run } = useAct();
  const make = async (row: StatementRow): Promise<void> => {
    const made = await run(() =>
      statementAction(row.householdId, `${row.householdId}-${today}-${row.amount}`),
    );
    if (made) window.open(`/api/statements/${made.value}`, '_blank');
  };
  return (
    <>
      <div className="head">
        <h1>Statements</h1>
        <span className="quiet">{count}</span>
      </div>
      <div className="toolbar">
        <Views
          name="view"
          value={view}
          options={[
            { value: 'due', label: 'Due' },
            { value: 'sent', label: 'Sent' },
          ]}
        />
      </div>
      <List
        label="Statements"
        rows={rows}
        count={count}
        pageSize={pageSize}
        hrefOf={(row) => `/accounts/${row.householdId}`}
        empty={view === 'due' ? 'Nobody is due a statement' : 'No statement was sent yet'}
        columns={[
          {
            title: 'Account',
            dataIndex: 'account',
            width: 90,
            render: (text: string, row) => <Link href={`/accounts/${row.householdId}`}>{text}</Link>,
          },
          { title: 'Guarantor', dataIndex: 'guarantor' },
          {
            title: view === 'due' ? 'Last statement' : 'Date',
            dataIndex: 'date',
            width: 130,
            render: (date: string | null) => <Day date={date} />,
          },
          ...(view === 'sent'
            ? [
                {
                  title: 'Due',
                  dataIndex: 'dueDate',
                  width: 120,
                  render: (date: string | null) => <Day date={date} />,
                },
              ]
            : []),
          {
            title: 'Amount due',
            dataIndex: 'amount',
            align: 'right' as const,
            width: 120,
            render: (cents: number) => <Money cents={cents} strong />,
          },
          {
            title: '',
            key: 'act',
            width: 150,
            render: (_: unknown, row: StatementRow) =>
              view === 'sent' ? (
                <a href={`/api/statements/${row.id}`} target="_blank" rel="noreferrer">
                  Open PDF
                </a>
              ) : (
                <Button size="small" loading={busy} onClick={() => void make(row)}>
                  Make statement
                </Button>
              ),
          },
        ]}
        summary={() => (
          <Table.Summary.Row>
            <Table.Summary.Cell index={0} colSpan={view === 'sent' ? 4 : 3}>
              {count}
            </Table.Summary.Cell>
            <Table.Summary.Cell index={4} align="right">
              <Money cents={total} />
            </Table.Summary.Cell>
            <Table.Summary.Cell index={5} />
          </Table.Summary.Row>
        )}
      />
    </>
  );
}
