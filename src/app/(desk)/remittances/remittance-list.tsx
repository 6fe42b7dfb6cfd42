'use client';
import { App, Button, Tag } from 'antd';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useRef, useState } from 'react';
import { counted } from '../../../core/words';
import type { ListState } from '../../../server/lists/read';
import type { RemittanceRow } from '../../../server/remittances/read';
import { Day, Money } from '../../../ui/figures';
import { SearchField, Views } from '../../../ui/filters';
import { Head } from '../../../ui/head';
import { List } from '../../../ui/list';
import { Posting, usePosting } from '../../../ui/posting';

const WORDS: Record<string, { words: string; color?: string }> = {
  ready: { words: 'ready to post' },
  posting: { words: 'being posted', color: 'gold' },
  held: { words: 'held', color: 'volcano' },
  posted: { words: 'posted' },
};

/** A remittance's status in words. */
export const RemitStatus = ({ status }: { status: string }) => (
  <Tag color={WORDS[status]?.color}>{WORDS[status]?.words ?? status}</Tag>
);

const EMPTY: Record<string, string> = {
  held: 'Every remittance balances',
  ready: 'Nothing waits to be posted',
};

/** The list of remittances. */
export function RemittanceList({
  list,
  followUps,
  mayPost,
}: {
  list: ListState<'remittances'>;
  followUps: number;
  mayPost: boolean;
}) {
  const posting = usePosting();
  const [chosen, setChosen] = useState<number[]>([]);
  const isReady = (row: RemittanceRow): boolean => row.status === 'ready' || row.status === 'posting';
  const ready = list.rows.filter(isReady);
  const picked = ready.filter((row) => chosen.includes(row.id));
  const toPost = picked.length > 0 ? picked : ready;
  const claims = toPost.reduce((all, row) => all + row.claims, 0);
  return (
    <>
      <Head title="Remittances" note={list.count}>
        <Link href="/remittances/follow-ups">
          <Button>Follow-ups: {followUps}</Button>
        </Link>
        {mayPost && <Upload />}
        {mayPost && (
          <Button
            type="primary"
            loading={posting.busy}
            disabled={claims === 0}
            onClick={() => void posting.start(toPost.map((row) => row.id))}
          >
            Post {counted(claims, 'claim')}
          </Button>
        )}
      </Head>
      <Posting work={posting.work} />
      <List
        list={list}
        label="Remittances"
        filters={
          <>
            <Views
              value={list.view || 'all'}
              options={[
                { value: 'ready', label: 'Ready' },
                { value: 'held', label: 'Held' },
                { value: 'unmatched', label: 'With claims not ours' },
                { value: 'posted', label: 'Posted' },
                { value: 'all', label: 'All' },
              ]}
            />
            <SearchField value={list.search} hint="Trace number or payer" />
          </>
        }
        hrefOf={(row) => `/remittances/${row.id}`}
        empty={EMPTY[list.view] ?? 'No remittances here: they come through the inbox, or bring in a file'}
        selected={mayPost ? { ids: chosen, set: setChosen, may: isReady } : undefined}
        cells={{
          trace: { width: 150, render: (row) => <Link href={`/remittances/${row.id}`}>{row.trace}</Link> },
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
                <p className="sentence" key={index}>
                  {reason}
                </p>
              ))}
              {row.holdReasons.length === 0 && <p className="good">Lines, claims and payment balance.</p>}
            </>
          ),
        })}
      />
    </>
  );
}

function Upload() {
  const { message } = App.useApp();
  const router = useRouter();
  const field = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState(false);
  const send = async (file: File): Promise<void> => {
    setBusy(true);
    try {
      const response = await fetch(`/api/remittances?name=${encodeURIComponent(file.name)}`, {
        method: 'POST',
        body: file,
      });
      const intake = (await response.json()) as {
        message?: string;
        outcomes?: { kind: string; trace: string; why: string }[];
      };
      const words =
        intake.outcomes?.map((item) => `${item.kind} ${item.trace}: ${item.why}`).join('; ') ??
        intake.message ??
        'The file could not be read';
      void (response.ok
        ? message.success({ content: words, duration: 6 })
        : message.error({
            content: `${file.name} was not taken in. ${words}. Nothing was changed.`,
            duration: 10,
          }));
      router.refresh();
    } catch {
      void message.error('The server could not be reached: try again.');
    } finally {
      setBusy(false);
      if (field.current) field.current.value = '';
    }
  };
  return (
    <>
      <input
        ref={field}
        type="file"
        hidden
        aria-label="Remittance file"
        onChange={(event) => event.target.files?.[0] && void send(event.target.files[0])}
      />
      <Button loading={busy} onClick={() => field.current?.click()}>
        Bring in a file
      </Button>
    </>
  );
}
