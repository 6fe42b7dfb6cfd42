'use client';
import { Button } from 'antd';
import Link from 'next/link';
import { useEffect, useState } from 'react';
import type { ChargeStory } from '../../../core/statements/story';
import type { RowOf } from '../../../server/lists';
import type { StateOf } from '../../../server/lists/read';
import { Money } from '../../../ui/figures';
import { List } from '../../../ui/list';
import { Head, Notice } from '../../../ui/page';
import { Story } from '../../../ui/story';
import { storyAction } from './actions';

/** The list of accounts. */
export function AccountList({ list, mayRegister }: { list: StateOf<'accounts'>; mayRegister: boolean }) {
  return (
    <>
      <Head title="Accounts" note={list.count}>
        {mayRegister && (
          <Link href="/accounts/new">
            <Button type="primary">New household</Button>
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
          guarantor: { width: 170, ellipsis: true },
          phone: { width: 90 },
          credit: { width: 100 },
          balance: { render: (row) => <Money cents={row.balance} strong /> },
        }}
        peek={(row) => ({
          title: `${row.guarantor} · ${row.number}`,
          body: <AccountPeek key={row.id} row={row} />,
        })}
      />
    </>
  );
}

function AccountPeek({ row }: { row: RowOf<'accounts'> }) {
  const [story, setStory] = useState<{ charges: ChargeStory[]; closing: string } | null>(null);
  useEffect(() => {
    let here = true;
    // A cursor that only passes by asks nothing.
    const timer = setTimeout(
      () =>
        void storyAction({ householdId: row.id }).then(
          (result) => here && result.ok && setStory(result.value),
        ),
      150,
    );
    return () => {
      here = false;
      clearTimeout(timer);
    };
  }, [row.id]);
  return (
    <>
      {row.notice && <Notice>{row.notice}</Notice>}
      <p>
        {row.members} · {row.phone}
      </p>
      {story ? (
        <Story charges={story.charges} closing={story.closing} householdId={row.id} />
      ) : (
        <p className="quiet">Reading the balance story …</p>
      )}
    </>
  );
}
