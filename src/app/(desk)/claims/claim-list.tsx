'use client';
import { Button } from 'antd';
import Link from 'next/link';
import { useState } from 'react';
import { counted } from '../../../core/words';
import type { ClaimRow } from '../../../server/claims/read';
import type { ListState } from '../../../server/lists/read';
import { useAct } from '../../../ui/act';
import { ClaimStatus, Findings } from '../../../ui/claims';
import { Day, Money } from '../../../ui/figures';
import { SearchField, Views } from '../../../ui/filters';
import { Head } from '../../../ui/head';
import { List } from '../../../ui/list';
import { buildClaimsAction, recheckAction, sendClaimsAction } from '../../actions';

const EMPTY: Record<string, string> = {
  fix: 'Nothing needs fixing',
  ready: 'Nothing is ready: build claims from unbilled charges',
};

/** The list of claims. */
export function ClaimList({
  list,
  unbilled,
  ready,
  mayWork,
}: {
  list: ListState<'claims'>;
  unbilled: number;
  ready: number;
  mayWork: boolean;
}) {
  const { busy, run } = useAct();
  const [chosen, setChosen] = useState<number[]>([]);
  const isReady = (row: ClaimRow): boolean => row.status === 'ready';
  const ids = list.rows.filter((row) => isReady(row) && chosen.includes(row.id)).map((row) => row.id);
  const sending = ids.length > 0 ? ids.length : ready;
  const send = (): Promise<unknown> =>
    run(
      () => sendClaimsAction(ids.length > 0 ? ids : undefined),
      (sent) =>
        sent.length === 0
          ? 'Nothing was sent'
          : `Sent ${counted(
              sent.reduce((all, item) => all + item.claims, 0),
              'claim',
            )} in ${counted(sent.length, 'file')}`,
    ).then(() => setChosen([]));
  return (
    <>
      <Head title="Claims" note={list.count}>
        {mayWork && (
          <>
            {unbilled > 0 && (
              <Button
                loading={busy}
                onClick={() =>
                  void run(
                    () => buildClaimsAction(),
                    (built) => `${counted(built.length, 'claim')} built`,
                  )
                }
              >
                Build claims from {counted(unbilled, 'charge')}
              </Button>
            )}
            <Button
              loading={busy}
              onClick={() =>
                void run(
                  () => recheckAction(),
                  (n) => `${counted(n, 'claim')} checked`,
                )
              }
            >
              Check again
            </Button>
            <Button type="primary" loading={busy} disabled={sending === 0} onClick={() => void send()}>
              Send {counted(sending, 'claim')}
            </Button>
          </>
        )}
      </Head>
      <List
        list={list}
        label="Claims"
        filters={
          <>
            <Views
              value={list.view || 'all'}
              options={[
                { value: 'fix', label: 'To fix' },
                { value: 'ready', label: 'Ready' },
                { value: 'sent', label: 'With payer' },
                { value: 'decided', label: 'Decided, open' },
                { value: 'closed', label: 'Closed' },
                { value: 'all', label: 'All' },
              ]}
            />
            <SearchField value={list.search} hint="Number, patient, payer or account" />
          </>
        }
        hrefOf={(row) => `/claims/${row.id}`}
        empty={EMPTY[list.view] ?? 'No claims here'}
        selected={mayWork ? { ids: chosen, set: setChosen, may: isReady } : undefined}
        cells={{
          controlNumber: {
            width: 100,
            render: (row) => <Link href={`/claims/${row.id}`}>{row.controlNumber}</Link>,
          },
          patient: {
            ellipsis: true,
            render: (row) => <Link href={`/accounts/${row.householdId}`}>{row.patient}</Link>,
          },
          payer: { ellipsis: true },
          form: { width: 100 },
          serviceDate: { width: 100 },
          sentDate: { width: 100 },
          status: { width: 110, render: (row) => <ClaimStatus status={row.status} /> },
          wrong: { width: 210, ellipsis: true, render: (row) => <span title={row.wrong}>{row.wrong}</span> },
          total: { width: 100 },
        }}
        peek={(row) => ({
          title: `${row.controlNumber} · ${row.patient}`,
          body: (
            <>
              <p>
                {row.payer} · <Day date={row.serviceDate} /> · <Money cents={row.total} />
              </p>
              <p>
                <ClaimStatus status={row.status} /> {row.holdReason}
              </p>
              {['draft', 'ready', 'rejected', 'held'].includes(row.status) && (
                <Findings
                  findings={row.findings}
                  claim={row}
                  rejected={row.status === 'rejected' ? row.holdReason : undefined}
                />
              )}
            </>
          ),
        })}
      />
    </>
  );
}
