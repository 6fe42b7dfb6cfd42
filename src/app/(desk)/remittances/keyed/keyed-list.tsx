'use client';
import { Button } from 'antd';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { counted } from '../../../../core/words';
import type { StateOf } from '../../../../server/lists/read';
import { Money } from '../../../../ui/figures';
import { useKeys } from '../../../../ui/keys';
import { Link } from '../../../../ui/link';
import { List } from '../../../../ui/list';
import { Head } from '../../../../ui/page';
import { startKeyedAction } from '../actions';
import { HeadForm } from './head-form';

const EMPTY: Record<string, string> = {
  open: 'Every paper remittance is closed',
  closed: 'No paper remittance is closed yet',
  dropped: 'None was dropped',
};

/** The list of remittances that are keyed from paper. */
export function KeyedList({
  list,
  payers,
  begin,
}: {
  list: StateOf<'keyed'>;
  payers: { id: number; name: string }[];
  /** The form for another one is open from the beginning. */
  begin: boolean;
}) {
  const router = useRouter();
  const [adding, setAdding] = useState(begin);
  useKeys([
    {
      key: 'n',
      words: 'key a paper remittance',
      run: (event) => {
        event.preventDefault();
        setAdding(true);
      },
    },
  ]);
  return (
    <>
      <Head title="Paper remittances" note={counted(list.count, 'remittance')}>
        <Button type="primary" onClick={() => setAdding(true)}>
          Key a remittance (N)
        </Button>
      </Head>
      {adding && (
        <HeadForm
          title="Key a remittance from paper"
          words="Go on to its claims"
          payers={payers}
          once
          action={startKeyedAction}
          done={(id) => router.push(`/remittances/keyed/${id}`)}
          onClose={() => setAdding(false)}
        />
      )}
      <List
        list={list}
        label="Paper remittances"
        hint="Number, reference, payer, amount or claim"
        hrefOf={(row) => `/remittances/keyed/${row.id}`}
        empty={
          list.search ? `Nothing found for “${list.search}”` : (EMPTY[list.view] ?? 'Nothing was keyed yet')
        }
        cells={{
          trace: {
            width: 150,
            render: (row) => <Link href={`/remittances/keyed/${row.id}`}>{row.trace}</Link>,
          },
          payer: { ellipsis: true },
          source: { width: 90 },
          by: { width: 120, ellipsis: true },
          claims: { width: 70 },
          amount: { render: (row) => <Money cents={row.amount} strong /> },
        }}
      />
    </>
  );
}
