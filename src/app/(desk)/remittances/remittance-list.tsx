'use client';
import { App, Button, Table, Tag } from 'antd';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useRef, useState } from 'react';
import type { Cents } from '../../../core/money';
import type { RemittanceRow } from '../../../server/remittances/read';
import { Day, Money } from '../../../ui/figures';
import { SearchField, Views } from '../../../ui/filters';
import { List } from '../../../ui/list';
import { Posting, usePosting } from '../../../ui/posting';

interface Props {
  rows: RemittanceRow[];
  count: number;
  total: Cents;
  view: string;
  search: string;
  pageSize: number;
  followUps: number;
  mayPost: boolean;
}

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

/** The list of remittances. */
export function RemittanceList({ rows, count, total, view, search, pageSize, followUps, mayPost }: Props) {
  const posting = usePosting();
  const [chosen, setChosen] = useState<number[]>([]);
  const isReady = (row: RemittanceRow): boolean => row.status === 'ready' || row.status === 'posting';
  const ready = rows.filter(isReady);
  const ids = chosen.filter((id) => ready.some((row) => row.id === id));
  const toPost = ids.length > 0 ? ready.filter((row) => ids.includes(row.id)) : ready;
  const claims = toPost.reduce((all, row) => all + row.claims, 0);
  return (
    <>
      <div className="head">
        <h1>Remittances</h1>
        <span className="quiet">{count}</span>
        <span className="push">
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
              Post {claims} claim{claims === 1 ? '' : 's'}
            </Button>
          )}
        </span>
      </div>
      <Posting work={posting.work} />
      <div className="toolbar">
        <Views
          name="view"
          value={view}
          options={[
            { value: 'ready', label: 'Ready' },
            { value: 'held', label: 'Held' },
            { value: 'unmatched', label: 'With claims not ours' },
            { value: 'posted', label: 'Posted' },
            { value: 'all', label: 'All' },
          ]}
        />
        <SearchField value={search} hint="Trace number or payer" />
      </div>
      <List
        label="Remittances"
        rows={rows}
        count={count}
        pageSize={pageSize}
        hrefOf={(row) => `/remittances/${row.id}`}
        empty={
          view === 'held'
            ? 'Every remittance balances'
            : view === 'ready'
              ? 'Nothing waits to be posted'
              : 'No remittances here: they come through the inbox, or upload a file'
        }
        selected={mayPost ? { ids: chosen, set: setChosen, may: isReady } : undefined}
        columns={[
          {
            title: 'Trace',
            dataIndex: 'trace',
            width: 150,
            render: (text: string, row) => <Link href={`/remittances/${row.id}`}>{text}</Link>,
          },
          { title: 'Payer', dataIndex: 'payer' },
          { title: 'Paid on', dataIndex: 'date', width: 110, render: (date: string) => <Day date={date} /> },
          {
            title: 'How',
            dataIndex: 'method',
            width: 90,
            render: (text: string) => (text === 'CHK' ? 'check' : text === 'NON' ? 'no payment' : 'transfer'),
          },
          {
            title: 'Status',
            dataIndex: 'status',
            width: 120,
            render: (status: string) => <RemitStatus status={status} />,
          },
          {
            title: 'Why it waits',
            key: 'why',
            ellipsis: true,
            render: (_, row) =>
              row.holdReasons[0] ??
              (row.unmatched > 0
                ? `${row.unmatched} claim${row.unmatched === 1 ? ' is' : 's are'} not ours; the money is held`
                : ''),
          },
          { title: 'Claims', dataIndex: 'claims', align: 'right', width: 70 },
          {
            title: 'Payment',
            dataIndex: 'amount',
            align: 'right',
            width: 110,
            render: (cents: number) => <Money cents={cents} strong />,
          },
        ]}
        summary={() => (
          <Table.Summary.Row>
            <Table.Summary.Cell index={0} colSpan={mayPost ? 8 : 7}>
              {count} remittances
            </Table.Summary.Cell>
            <Table.Summary.Cell index={8} align="right">
              <Money cents={total} />
            </Table.Summary.Cell>
          </Table.Summary.Row>
        )}
        peek={(row) => ({
          title: `${row.payer} · ${row.trace}`,
          body: (
            <>
              <p>
                <RemitStatus status={row.status} /> {row.claims} claims, <Money cents={row.amount} />,{' '}
                <Day date={row.date} />
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
