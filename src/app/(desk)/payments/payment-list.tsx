'use client';
import { Button } from 'antd';
import Link from 'next/link';
import { counted } from '../../../core/words';
import type { ListState } from '../../../server/lists/read';
import { Money } from '../../../ui/figures';
import { SearchField } from '../../../ui/filters';
import { Head } from '../../../ui/head';
import { List } from '../../../ui/list';

/** Receipts, newest first. A payment is taken on the account that it is for. */
export function PaymentList({ list }: { list: ListState<'receipts'> }) {
  return (
    <>
      <Head title="Payments" note={counted(list.count, 'receipt')}>
        <Link href="/accounts?view=credit">
          <Button>Credit not applied</Button>
        </Link>
        <Link href="/accounts?view=owes">
          <Button type="primary">Take a payment</Button>
        </Link>
      </Head>
      <List
        list={list}
        label="Receipts"
        filters={<SearchField value={list.search} hint="Guarantor, account or check number" />}
        hrefOf={(row) => `/accounts/${row.householdId}`}
        empty={list.search ? `No receipt found for “${list.search}”` : 'No money was taken yet'}
        cells={{
          account: {
            width: 90,
            render: (row) => <Link href={`/accounts/${row.householdId}`}>{row.account}</Link>,
          },
          tender: { width: 90 },
          reference: { width: 110 },
          by: { width: 140 },
          state: { width: 90 },
          left: { width: 130 },
          amount: { render: (row) => <Money cents={row.amount} strong /> },
        }}
      />
    </>
  );
}
