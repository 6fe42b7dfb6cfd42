'use client';
import { Button } from 'antd';
import Link from 'next/link';
import { useEffect, useState } from 'react';
import type { AccountRow } from '../../../server/accounts/read';
import type { ChargeStory } from '../../../core/statements/story';
import type { ListState } from '../../../server/lists/read';
import { Money } from '../../../ui/figures';
import { SearchField, Views } from '../../../ui/filters';
import { Head } from '../../../ui/head';
import { List } from '../../../ui/list';
import { Story } from '../../../ui/story';
import { storyAction } from '../../actions';

/** The list of accounts. */
export function AccountList({ list, mayRegister }: { list: ListState<'accounts'>; mayRegister: boolean }) {
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
        filters={
          <>
            <SearchField value={list.search} hint="Name, account, birth date or phone" />
            <Views
              value={list.view}
              options={[
                { value: '', label: 'All' },
                { value: 'owes', label: 'Patient owes' },
                { value: 'credit', label: 'Holds credit' },
              ]}
            />
          </>
        }
        hrefOf={(row) => `/accounts/${row.id}`}
        empty={list.search ? `Nobody found for “${list.search}”` : 'No household is registered yet'}
        cells={{
          number: { width: 90, render: (row) => <Link href={`/accounts/${row.id}`}>{row.number}</Link> },
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

function AccountPeek({ row }: { row: AccountRow }) {
  const [story, setStory] = useState<{ charges: ChargeStory[]; closing: string } | null>(null);
  useEffect(() => {
    let here = true;
    // A cursor that only passes by asks nothing.
    const timer = setTimeout(
      () => void storyAction(row.id).then((result) => here && result.ok && setStory(result.value)),
      150,
    );
    return () => {
      here = false;
      clearTimeout(timer);
    };
  }, [row.id]);
  return (
    <>
      {row.notice && <p className="notice">{row.notice}</p>}
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
