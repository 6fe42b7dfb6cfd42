'use client';
import { Button, Table, Tag } from 'antd';
import Link from 'next/link';
import type { Cents } from '../../../core/money';
import type { ReceiptRow } from '../../../server/payments/read';
import { Day, Money } from '../../../ui/figures';
import { SearchField } from '../../../ui/filters';
import { List } from '../../../ui/list';

/** Receipts, newest first. A payment is taken on the account that it is for. */
export function PaymentList({
  rows,
  count,
  total,
  search,
  pageSize,
}: {
  rows: ReceiptRow[];
  count: number;
  total: Cents;
  search: string;
  pageSize: number;
}) {
  return (
    <>
      <div className="head">
        <h1>Payments</h1>
        <span className="quiet">{count} receipts</span>
        <span className="push">
          <Link href="/accounts?only=credit">
            <Button>Credit not applied</Button>
          </Link>
          <Link href="/accounts?only=owes">
            <Button type="primary">Take a payment</Button>
          </Link>
        </span>
      </div>
      <div className="toolbar">
        <SearchField value={search} hint="Guarantor, account or check number" />
      </div>
      <List
        label="Receipts"
        rows={rows}
        count={count}
        pageSize={pageSize}
        hrefOf={(row) => `/accounts/${row.householdId}`}
        empty={search ? `No receipt found for “${search}”` : 'No money was taken yet'}
        columns={[
          { title: 'Date', dataIndex: 'date', width: 110, render: (date: string) => <Day date={date} /> },
          {
            title: 'Account',
            dataIndex: 'account',
            width: 90,
            render: (text: string, row) => <Link href={`/accounts/${row.householdId}`}>{text}</Link>,
          },
          { title: 'From', dataIndex: 'guarantor' },
          {
            title: 'Tender',
            key: 'tender',
            width: 140,
            render: (_, row) => `${row.tender} ${row.reference}`,
          },
          { title: 'Taken by', dataIndex: 'by', width: 140 },
          { title: '', key: 'state', width: 100, render: (_, row) => row.reversed && <Tag>reversed</Tag> },
          {
            title: 'Held as credit',
            dataIndex: 'left',
            align: 'right',
            width: 120,
            render: (cents: number) => <Money cents={cents} />,
          },
          {
            title: 'Amount',
            dataIndex: 'amount',
            align: 'right',
            width: 110,
            render: (cents: number) => <Money cents={cents} strong />,
          },
        ]}
        summary={() => (
          <Table.Summary.Row>
            <Table.Summary.Cell index={0} colSpan={7}>
              {count} receipts
            </Table.Summary.Cell>
            <Table.Summary.Cell index={7} align="right">
              <Money cents={total} />
            </Table.Summary.Cell>
          </Table.Summary.Row>
        )}
      />
    </>
  );
}
