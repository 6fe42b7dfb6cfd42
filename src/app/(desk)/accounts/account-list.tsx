'use client';
import { useMay } from '../../../ui/desk';
import { Button } from 'antd';
import { Link } from '../../../ui/link';
import { useRouter } from 'next/navigation';
import type { RowOf } from '../../../server/lists';
import type { StateOf } from '../../../server/lists/read';
import { Money } from '../../../ui/figures';
import { useKeys } from '../../../ui/keys';
import { List } from '../../../ui/list';
import { Loaded } from '../../../ui/loaded';
import { Head, Notice } from '../../../ui/page';
import { Story } from '../../../ui/story';
import { storyAction } from './actions';

/** The list of accounts. */
export function AccountList({ list }: { list: StateOf<'accounts'> }) {
  const mayRegister = useMay()('register people');
  const router = useRouter();
  useKeys(mayRegister ? [{ key: 'n', words: 'new household', run: () => router.push('/accounts/new') }] : []);
  return (
    <>
      <Head title="Accounts" note={list.count}>
        <Link href="/accounts/estimates">Estimates</Link>
        {mayRegister && (
          <Link href="/accounts/new">
            <Button type="primary">New household (N)</Button>
          </Link>
        )}
      </Head>
      <List
        list={list}
        label="Accounts"
        hint="Name, account, birth date or phone"
        hrefOf={(row) => `/accounts/${row.id}`}
        warm={() => import('./[id]/account-view')}
        empty={list.search ? `Nobody found for “${list.search}”` : 'No household is registered yet'}
        cells={{
          number: { width: 90, render: (row) => <Link href={`/accounts/${row.id}`}>{row.number}</Link> },
          guarantor: { width: 160, ellipsis: true },
          members: { ellipsis: true },
          phone: { width: 88 },
          lastVisit: { width: 104 },
          withPayer: { width: 104 },
          withPatient: { width: 96 },
          elsewhere: { width: 104 },
          credit: { width: 100 },
          balance: { width: 104, render: (row) => <Money cents={row.balance} strong /> },
        }}
        peek={(row) => ({
          title: `${row.guarantor} · ${row.number}`,
          body: <AccountPeek key={row.id} row={row} />,
        })}
      />
    </>
  );
}

/** What decides about an account: its open charges and how they came about. */
function AccountPeek({ row }: { row: RowOf<'accounts'> }) {
  return (
    <>
      {row.notice && <Notice>{row.notice}</Notice>}
      <p>
        {row.members} · {row.phone}
      </p>
      <Loaded of={row.id} read={() => storyAction({ householdId: row.id })}>
        {(story) => <Story charges={story.charges} closing={story.closing} householdId={row.id} />}
      </Loaded>
    </>
  );
}
