'use client';
import { useMay } from '../../../ui/desk';
import { Button } from 'antd';
import { Link } from '../../../ui/link';
import { useState } from 'react';
import { counted } from '../../../core/words';
import type { RowOf } from '../../../server/lists';
import type { StateOf } from '../../../server/lists/read';
import { Day, Money } from '../../../ui/figures';
import { useKeys } from '../../../ui/keys';
import { List } from '../../../ui/list';
import { Head, Notice } from '../../../ui/page';
import { RemitStatus } from '../../../ui/remittances';
import { Work, useWork } from '../../../ui/work';
import { postAction } from './actions';
import { Upload } from './upload';

const EMPTY: Record<string, string> = {
  held: 'Every remittance balances',
  ready: 'Nothing waits to be posted',
};

const isReady = (row: RowOf<'remittances'>): boolean => row.status === 'ready' || row.status === 'posting';

/** The list of remittances. */
export function RemittanceList({
  list,
  followUps,
  credit,
  paper,
}: {
  list: StateOf<'remittances'>;
  followUps: number;
  /** Open provider adjustments in the payers' credit. */
  credit: number;
  /** Paper remittances that are not closed. */
  paper: number;
}) {
  const mayPost = useMay()('post remittances');
  const posting = useWork();
  const [chosen, setChosen] = useState<number[]>([]);
  const ready = list.rows.filter(isReady);
  const picked = ready.filter((row) => chosen.includes(row.id));
  const toPost = picked.length > 0 ? picked : ready;
  const claims = toPost.reduce((all, row) => all + row.claims, 0);
  const post = (): void => {
    void posting.start(() => postAction({ remittanceIds: toPost.map((row) => row.id) }));
    setChosen([]);
  };
  useKeys(
    mayPost && claims > 0 && !posting.busy
      ? [{ key: 's', words: `post ${counted(claims, 'claim')}`, run: post }]
      : [],
  );
  return (
    <>
      <Head title="Remittances" note={list.count}>
        <Link href="/remittances/follow-ups">
          <Button>Follow-ups: {followUps}</Button>
        </Link>
        <Link href="/remittances/credit">
          <Button>Payer credit: {credit}</Button>
        </Link>
        {mayPost && (
          <Link href="/remittances/keyed">
            <Button>From paper: {paper}</Button>
          </Link>
        )}
        {mayPost && <Upload />}
        {mayPost && claims > 0 && (
          <Button type="primary" loading={posting.busy} onClick={post}>
            Post {counted(claims, 'claim')} (S)
          </Button>
        )}
      </Head>
      <Work work={posting.work} />
      <List
        list={list}
        label="Remittances"
        hint="Trace number or payer"
        hrefOf={(row) => `/remittances/${row.id}`}
        warm={() => import('./[id]/remittance-view')}
        empty={EMPTY[list.view] ?? 'No remittances here: they come through the inbox, or bring in a file'}
        selected={mayPost ? { ids: chosen, set: setChosen, may: isReady } : undefined}
        cells={{
          trace: { width: 150, render: (row) => <Link href={`/remittances/${row.id}`}>{row.trace}</Link> },
          payer: { ellipsis: true },
          method: { width: 90 },
          status: { width: 120, render: (row) => <RemitStatus status={row.status} /> },
          why: { ellipsis: true, render: (row) => <span title={row.why}>{row.why}</span> },
          amount: { render: (row) => <Money cents={row.amount} strong /> },
        }}
        peek={(row) => ({
          title: `${row.payer} · ${row.trace}`,
          body: (
            <>
              <p>
                <RemitStatus status={row.status} /> {counted(row.claims, 'claim')},{' '}
                <Money cents={row.amount} />, <Day date={row.date} />
              </p>
              {row.holdReasons.map((reason, index) => (
                <Notice key={index}>{reason}</Notice>
              ))}
              {row.holdReasons.length === 0 && <p className="good">Lines, claims and payment balance.</p>}
            </>
          ),
        })}
      />
    </>
  );
}
