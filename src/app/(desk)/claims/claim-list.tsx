'use client';
import { useMay } from '../../../ui/desk';
import { Button } from 'antd';
import { Link } from '../../../ui/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { isOurs } from '../../../core/claims/life';
import { counted } from '../../../core/words';
import type { RowOf } from '../../../server/lists';
import type { StateOf } from '../../../server/lists/read';
import { useAct } from '../../../ui/act';
import { ClaimStatus, Findings } from '../../../ui/claims';
import { Day, Money } from '../../../ui/figures';
import { useKeys } from '../../../ui/keys';
import { List } from '../../../ui/list';
import { Loaded } from '../../../ui/loaded';
import { LineTable } from '../../../ui/line-table';
import { Head } from '../../../ui/page';
import { Work, useWork } from '../../../ui/work';
import {
  buildClaimsAction,
  checkOnlyAction,
  claimPeekAction,
  mergeClaimsAction,
  printClaimsAction,
  recheckAction,
  sendAllAction,
  sendClaimsAction,
} from './actions';

type Row = RowOf<'claims'>;

const EMPTY: Record<string, string> = {
  fix: 'Nothing needs fixing',
  ready: 'Nothing is ready: build claims from unbilled charges',
  print: 'Nothing is to be printed',
  stale: 'Every claim tells what stands',
};

const isReady = (row: Row): boolean => row.status === 'ready' && !row.onPaper;

/** More than so many are sent in the background. */
const MANY = 200;

/** The list of claims. */
export function ClaimList({
  list,
  unbilled,
  ready,
  toPrint,
}: {
  list: StateOf<'claims'>;
  unbilled: number;
  ready: number;
  toPrint: number;
}) {
  const mayWork = useMay()('work claims');
  const { busy, run } = useAct();
  const long = useWork();
  const [chosen, setChosen] = useState<number[]>([]);
  const ids = list.rows.filter((row) => isReady(row) && chosen.includes(row.id)).map((row) => row.id);
  const router = useRouter();
  const check = async (): Promise<void> => {
    const made = await run(() => checkOnlyAction(chosen.length > 0 ? { claimIds: chosen } : {}));
    if (made) router.push(`/claims/checks/${made.value}`);
  };
  const print = async (): Promise<void> => {
    const made = await run(() => printClaimsAction({}), 'Printed: they are with their payers');
    if (made) router.push('/claims/prints');
  };
  const merge = async (): Promise<void> => {
    const made = await run(() => mergeClaimsAction({ claimIds: chosen }), 'Made one claim');
    if (made) router.push(`/claims/${made.value}`);
  };
  const sending = ids.length > 0 ? ids.length : ready;
  const send = async (): Promise<void> => {
    if (ids.length === 0 && ready > MANY) {
      await long.start(() => sendAllAction({}), 'Nothing is ready any more');
      return;
    }
    await run(
      () => sendClaimsAction(ids.length > 0 ? { claimIds: ids } : {}),
      (sent) =>
        sent.length === 0
          ? 'Nothing was sent'
          : `Sent ${counted(
              sent.reduce((all, item) => all + item.claims, 0),
              'claim',
            )} in ${counted(sent.length, 'file')}`,
    );
    setChosen([]);
  };
  useKeys([
    ...(mayWork && sending > 0
      ? [
          {
            key: 's',
            words: ids.length > 0 ? `send the ${ids.length} chosen` : `send all ${ready} that are ready`,
            run: () => void send(),
          },
        ]
      : []),
    ...(mayWork
      ? [
          {
            key: 'c',
            words: chosen.length > 0 ? `check the ${chosen.length} chosen` : 'check all that could be sent',
            run: () => void check(),
          },
        ]
      : []),
  ]);
  return (
    <>
      <Head title="Claims" note={list.count}>
        {mayWork && (
          <>
            {unbilled > 0 && (
              <>
                <Link href="/claims/unbilled">{counted(unbilled, 'charge')} not on a claim</Link>
                <Button
                  loading={busy}
                  onClick={() =>
                    void run(
                      () => buildClaimsAction({}),
                      (built) => `${counted(built.length, 'claim')} built`,
                    )
                  }
                >
                  Build claims from {counted(unbilled, 'charge')}
                </Button>
              </>
            )}
            {toPrint > 0 && (
              <Button loading={busy} onClick={() => void print()}>
                Print {counted(toPrint, 'claim')}
              </Button>
            )}
            {list.view === 'print' && <Link href="/claims/prints">printed before</Link>}
            {chosen.length > 1 && (
              <Button loading={busy} onClick={() => void merge()}>
                Make {chosen.length} one
              </Button>
            )}
            <Button loading={busy} onClick={() => void check()}>
              {chosen.length > 0 ? `Check ${chosen.length} chosen (C)` : 'Check only (C)'}
            </Button>
            <Button
              loading={long.busy}
              onClick={() =>
                void long.start(() => recheckAction({}), 'No claim is still ours: nothing to check')
              }
            >
              Check again
            </Button>
            {sending > 0 && (
              <Button type="primary" loading={busy || long.busy} onClick={() => void send()}>
                Send {ids.length > 0 ? `${ids.length} chosen` : `${ready} ready`} (S)
              </Button>
            )}
          </>
        )}
      </Head>
      <Work work={long.work} />
      <List
        list={list}
        label="Claims"
        hint="Number, patient, payer or account"
        hrefOf={(row) => `/claims/${row.id}`}
        warm={() => import('./[id]/claim-view')}
        empty={EMPTY[list.view] ?? 'No claims here'}
        selected={mayWork ? { ids: chosen, set: setChosen, may: (row) => isOurs(row.status) } : undefined}
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
          status: { width: 120, render: (row) => <ClaimStatus status={row.status} /> },
          wrong: { width: 200, ellipsis: true, render: (row) => <span title={row.wrong}>{row.wrong}</span> },
          total: { width: 100 },
        }}
        peek={(row) => ({ title: `${row.controlNumber} · ${row.patient}`, body: <ClaimPeek row={row} /> })}
      />
    </>
  );
}

/** What decides about a claim: what is wrong, its lines with their amounts, what happened last. */
function ClaimPeek({ row }: { row: Row }) {
  return (
    <>
      <p>
        <ClaimStatus status={row.status} /> {row.payer} · <Day date={row.serviceDate} /> ·{' '}
        <Money cents={row.total} />
      </p>
      <Loaded of={row.id} read={() => claimPeekAction({ claimId: row.id })}>
        {({ lines, findings, last }) => (
          <>
            {isOurs(row.status) && (
              <Findings
                findings={findings}
                claim={row}
                rejected={row.status === 'rejected' ? row.holdReason : undefined}
              />
            )}
            <LineTable
              label="Lines of the claim"
              rows={lines}
              rowKey={(line) => String(line.number)}
              empty="This claim has no lines"
              words={counted(lines.length, 'line')}
              columns={[
                { key: 'service', title: 'Service', render: (line) => `${line.code} ${line.description}` },
                { key: 'charge', title: 'Charge', width: 78, money: (line) => line.charge, sum: true },
                { key: 'paid', title: 'Paid', width: 72, money: (line) => line.paidHere, sum: true },
                { key: 'waiting', title: 'Waiting', width: 78, money: (line) => line.waitingHere, sum: true },
              ]}
            />
            {last && (
              <p className="small">
                <Day date={last.date} />: {last.words} <span className="quiet">({last.cause})</span>
              </p>
            )}
          </>
        )}
      </Loaded>
    </>
  );
}
