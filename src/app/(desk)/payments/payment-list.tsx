'use client';
import { Button } from 'antd';
import { Link } from '../../../ui/link';
import { useRouter } from 'next/navigation';
import { counted } from '../../../core/words';
import type { StateOf } from '../../../server/lists/read';
import { Money } from '../../../ui/figures';
import { List } from '../../../ui/list';
import { useKeys } from '../../../ui/keys';
import { Head } from '../../../ui/page';
import { PersonField } from '../../../ui/person-field';

/** Receipts, newest first. A payment is taken on the account that it is for. */
export function PaymentList({ list }: { list: StateOf<'receipts'> }) {
  const router = useRouter();
  useKeys([
    {
      key: 'n',
      words: 'take a payment',
      run: (event) => {
        event.preventDefault();
        document.getElementById('payment-from')?.focus();
      },
    },
  ]);
  return (
    <>
      <Head title="Payments" note={counted(list.count, 'receipt')}>
        <Link href="/payments/visits">
          <Button>Expected visits</Button>
        </Link>
        <Link href="/payments/day">
          <Button>Day’s end</Button>
        </Link>
        <Link href="/payments/credits">
          <Button>Credit not applied</Button>
        </Link>
        <PersonField
          id="payment-from"
          label="Take a payment from …"
          choose={(href) => router.push(`${href}?show=payment`)}
        />
      </Head>
      <List
        list={list}
        label="Receipts"
        hint="Guarantor, account or check number"
        hrefOf={(row) => `/accounts/${row.householdId}`}
        empty={list.search ? `No receipt found for “${list.search}”` : 'No money was taken yet'}
        cells={{
          account: {
            width: 90,
            render: (row) => <Link href={`/accounts/${row.householdId}`}>{row.account}</Link>,
          },
          guarantor: { ellipsis: true },
          tender: { width: 90 },
          reference: { width: 110 },
          by: { width: 140, ellipsis: true },
          state: { width: 90 },
          left: { width: 130 },
          amount: { render: (row) => <Money cents={row.amount} strong /> },
        }}
      />
    </>
  );
}
