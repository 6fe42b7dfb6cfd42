'use client';
import { useMay } from '../../../../ui/desk';
import { Button } from 'antd';
import { Link } from '../../../../ui/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { RowOf } from '../../../../server/lists';
import type { StateOf } from '../../../../server/lists/read';
import { Day, Money } from '../../../../ui/figures';
import { List } from '../../../../ui/list';
import { Head } from '../../../../ui/page';
import { SettleCredit } from '../settle-credit';

type Row = RowOf<'payer-credit'>;

/** The credit of payers: what came, or was taken, and is not explained yet. */
export function PayerCredit({ list }: { list: StateOf<'payer-credit'> }) {
  const maySettle = useMay()('post remittances');
  const router = useRouter();
  const [settling, setSettling] = useState<number | null>(null);
  const row = list.rows.find(({ id, kind }) => kind === 'adjustment' && id === settling);
  const settle = (item: Row): void => setSettling(item.id);
  return (
    <>
      <Head title="Payer credit" note={`${list.count} open`}>
        <Link href="/remittances">
          <Button>Remittances</Button>
        </Link>
      </Head>
      <List
        list={list}
        label="Payer credit"
        hint="Trace, reference or payer"
        empty="Nothing is in the payers’ credit"
        hrefOf={(item) => `/remittances/${item.remittanceId}`}
        cells={{
          payer: { ellipsis: true },
          trace: {
            width: 150,
            render: (item) => <Link href={`/remittances/${item.remittanceId}`}>{item.trace}</Link>,
          },
          reference: {
            render: (item) =>
              item.claim ? <Link href={`/claims/${item.claim.id}`}>{item.reference}</Link> : item.reference,
          },
          open: { render: (item) => <Money cents={item.open} strong /> },
        }}
        rowKeys={
          maySettle
            ? [
                {
                  key: 'g',
                  words: 'settle it',
                  // What is held of a claim is decided where it came.
                  run: (item) =>
                    item.kind === 'adjustment'
                      ? settle(item)
                      : router.push(`/remittances/${item.remittanceId}`),
                },
              ]
            : []
        }
        peek={(item) => ({
          title: `${item.payer} · ${item.trace}`,
          body: (
            <p>
              {item.what} {item.reference}, paid on <Day date={item.date} />:{' '}
              {item.open > 0 ? 'held for the payer' : 'taken by the payer'} <Money cents={item.open} strong />
            </p>
          ),
        })}
        act={{
          width: 110,
          render: (item) =>
            item.kind === 'adjustment' ? (
              maySettle && (
                <Button size="small" onClick={() => settle(item)}>
                  Settle
                </Button>
              )
            ) : (
              <Link href={`/remittances/${item.remittanceId}`}>{maySettle ? 'decide' : 'look at it'}</Link>
            ),
        }}
      />
      {row && <SettleCredit key={row.id} item={{ ...row, id: row.of }} onClose={() => setSettling(null)} />}
    </>
  );
}
