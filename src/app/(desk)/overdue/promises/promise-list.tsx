'use client';
import { Button } from 'antd';
import Link from 'next/link';
import type { StateOf } from '../../../../server/lists/read';
import { useDialog } from '../../../../ui/dialog';
import { Money } from '../../../../ui/figures';
import { List } from '../../../../ui/list';
import { Head } from '../../../../ui/page';
import { ContactDrawer } from '../contact-drawer';
import { OverdueViews } from '../views';

/** Promises. */
export function PromiseList({
  list,
  rights,
}: {
  list: StateOf<'promises'>;
  rights: { work: boolean; hardship: boolean };
}) {
  const { dialog, params, open, close } = useDialog();
  return (
    <>
      <Head title="Promises" note={list.count}>
        <OverdueViews value="/overdue/promises" />
      </Head>
      <List
        list={list}
        label="Promises"
        hint="Guarantor or account"
        hrefOf={(row) => `/accounts/${row.householdId}`}
        empty="No promise here"
        cells={{
          account: {
            width: 90,
            render: (row) => <Link href={`/accounts/${row.householdId}`}>{row.account}</Link>,
          },
          guarantor: { ellipsis: true },
          amount: { render: (row) => <Money cents={row.amount} strong /> },
        }}
        act={{
          width: 92,
          render: (row) => (
            <Button size="small" onClick={() => open('contact', { of: String(row.householdId) })}>
              Contact
            </Button>
          ),
        }}
      />
      {dialog === 'contact' && (
        <ContactDrawer
          householdId={Number(params.get('of')) || 0}
          mayWork={rights.work}
          mayDecide={rights.hardship}
          onClose={close}
        />
      )}
    </>
  );
}
