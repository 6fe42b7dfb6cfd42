'use client';
import { Button, Table } from 'antd';
import Link from 'next/link';
import { useEffect, useState } from 'react';
import type { AccountRow } from '../../../server/accounts/read';
import type { ChargeStory } from '../../../core/statements/story';
import { Day, Money } from '../../../ui/figures';
import { SearchField, Views } from '../../../ui/filters';
import { List } from '../../../ui/list';
import { Story } from '../../../ui/story';
import { storyAction } from '../../actions';

interface Props {
  rows: AccountRow[];
  count: number;
  sums: { withPayer: number; withPatient: number; credit: number; balance: number };
  search: string;
  only: string;
  pageSize: number;
  mayRegister: boolean;
}

/** The list of accounts. */
export function AccountList({ rows, count, sums, search, only, pageSize, mayRegister }: Props) {
  return (
    <>
      <div className="head">
        <h1>Accounts</h1>
        <span className="quiet">{count}</span>
        {mayRegister && (
          <span className="push">
            <Link href="/accounts/new">
              <Button type="primary">New household</Button>
            </Link>
          </span>
        )}
      </div>
      <div className="toolbar">
        <SearchField value={search} hint="Name, account, birth date or phone" />
        <Views
          name="only"
          value={only}
          options={[
            { value: '', label: 'All' },
            { value: 'owes', label: 'Patient owes' },
            { value: 'credit', label: 'Holds credit' },
          ]}
        />
      </div>
      <List
        label="Accounts"
        rows={rows}
        count={count}
        pageSize={pageSize}
        hrefOf={(row) => `/accounts/${row.id}`}
        empty={search ? `Nobody found for “${search}”` : 'No household is registered yet'}
        columns={[
          {
            title: 'Account',
            dataIndex: 'number',
            width: 90,
            render: (text: string, row) => <Link href={`/accounts/${row.id}`}>{text}</Link>,
          },
          { title: 'Guarantor', dataIndex: 'guarantor' },
          { title: 'Members', dataIndex: 'members' },
          { title: 'Phone', dataIndex: 'phone', width: 90 },
          {
            title: 'Last visit',
            dataIndex: 'lastVisit',
            width: 110,
            render: (date: string | null) => <Day date={date} />,
          },
          {
            title: 'With payers',
            dataIndex: 'withPayer',
            align: 'right',
            width: 110,
            render: (cents: number) => <Money cents={cents} />,
          },
          {
            title: 'Owes now',
            dataIndex: 'withPatient',
            align: 'right',
            width: 110,
            render: (cents: number) => <Money cents={cents} />,
          },
          {
            title: 'Credit',
            dataIndex: 'credit',
            align: 'right',
            width: 100,
            render: (cents: number) => <Money cents={cents} />,
          },
          {
            title: 'Balance',
            dataIndex: 'balance',
            align: 'right',
            width: 110,
            render: (cents: number) => <Money cents={cents} strong />,
          },
        ]}
        summary={() => (
          <Table.Summary.Row>
            <Table.Summary.Cell index={0} colSpan={5}>
              {count} accounts
            </Table.Summary.Cell>
            {[sums.withPayer, sums.withPatient, sums.credit, sums.balance].map((cents, index) => (
              <Table.Summary.Cell index={5 + index} key={index} align="right">
                <Money cents={cents} />
              </Table.Summary.Cell>
            ))}
          </Table.Summary.Row>
        )}
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
