'use client';
import { Button } from 'antd';
import { Link } from '../../../ui/link';
import type { StateOf } from '../../../server/lists/read';
import { useMay } from '../../../ui/desk';
import { useDialog } from '../../../ui/dialog';
import { Money } from '../../../ui/figures';
import { List } from '../../../ui/list';
import { Head } from '../../../ui/page';
import { ContactDrawer } from './contact-drawer';
import { OverdueViews } from './views';

/** What was said about accounts and is listed apart. */
const PARTS = {
  promises: { title: 'Promises', path: '/overdue/promises', empty: 'No promise here' },
  hardship: { title: 'Hardship', path: '/overdue/hardship', empty: 'No reduction here' },
} as const;

/** Promises, or reductions for who cannot pay: each is worked where the account’s contacts are. */
export function ContactList({
  part,
  list,
}: {
  part: keyof typeof PARTS;
  list: StateOf<'promises' | 'hardship'>;
}) {
  const mayWork = useMay()('work overdue');
  const { dialog, params, open, close } = useDialog();
  const { title, path, empty } = PARTS[part];
  const contact = ({ householdId }: { householdId: number }): void =>
    open('contact', { of: String(householdId) });
  return (
    <>
      <Head title={title} note={list.count}>
        <OverdueViews value={path} />
      </Head>
      <List
        list={list}
        label={title}
        hint="Guarantor or account"
        hrefOf={(row) => `/accounts/${row.householdId}`}
        empty={empty}
        cells={{
          account: {
            width: 90,
            render: (row) => <Link href={`/accounts/${row.householdId}`}>{row.account}</Link>,
          },
          guarantor: { ellipsis: true },
          amount: { render: (row) => <Money cents={row.amount} strong /> },
        }}
        rowKeys={[{ key: 'c', words: mayWork ? 'note a contact' : 'contacts', run: contact }]}
        act={{
          width: 92,
          render: (row) => (
            <Button size="small" onClick={() => contact(row)}>
              Contact
            </Button>
          ),
        }}
      />
      {dialog === 'contact' && <ContactDrawer householdId={Number(params.get('of')) || 0} onClose={close} />}
    </>
  );
}
