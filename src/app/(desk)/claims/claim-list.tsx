'use client';
import { Button, Table } from 'antd';
import Link from 'next/link';
import { useState } from 'react';
import { type Cents, ZERO, add, formatMoneyPlain } from '../../../core/money';
import type { ClaimRow, ClaimView } from '../../../server/claims/read';
import { useAct } from '../../../ui/act';
import { ClaimStatus, Findings } from '../../../ui/claims';
import { Day, Money } from '../../../ui/figures';
import { SearchField, Views } from '../../../ui/filters';
import { List } from '../../../ui/list';
import { buildClaimsAction, recheckAction, sendClaimsAction } from '../../actions';

interface Props {
  rows: ClaimRow[];
  count: number;
  total: Cents;
  view: ClaimView;
  search: string;
  pageSize: number;
  unbilled: number;
  ready: number;
  mayWork: boolean;
}

/** The list of claims. */
export function ClaimList({ rows, count, total, view, search, pageSize, unbilled, ready, mayWork }: Props) {
  const { busy, run } = useAct();
  const [chosen, setChosen] = useState<number[]>([]);
  const ids = chosen.filter((id) => rows.some((row) => row.id === id && row.status === 'ready'));
  const chosenTotal = rows
    .filter((row) => ids.includes(row.id))
    .reduce((all, row) => add(all, row.total), ZERO);
  const sending = ids.length > 0 ? ids.length : ready;
  const send = (): Promise<unknown> =>
    run(
      () => sendClaimsAction(ids.length > 0 ? ids : undefined),
      (sent) =>
        sent.length === 0
          ? 'Nothing was sent'
          : `Sent ${sent.reduce((all, item) => all + item.claims, 0)} claims in ${sent.length} file${sent.length === 1 ? '' : 's'}`,
    ).then(() => setChosen([]));
  return (
    <>
      <div className="head">
        <h1>Claims</h1>
        <span className="quiet">{count}</span>
        {mayWork && (
          <span className="push">
            {unbilled > 0 && (
              <Button
                loading={busy}
                onClick={() =>
                  void run(
                    () => buildClaimsAction(),
                    (built) => `${built.length} claims built`,
                  )
                }
              >
                Build claims from {unbilled} charges
              </Button>
            )}
            <Button
              loading={busy}
              onClick={() =>
                void run(
                  () => recheckAction(),
                  (n) => `${n} claims checked`,
                )
              }
            >
              Check again
            </Button>
            <Button type="primary" loading={busy} disabled={sending === 0} onClick={() => void send()}>
              Send {sending} claim{sending === 1 ? '' : 's'}
            </Button>
          </span>
        )}
      </div>
      <div className="toolbar">
        <Views
          name="view"
          value={view}
          options={[
            { value: 'fix', label: 'To fix' },
            { value: 'ready', label: 'Ready' },
            { value: 'sent', label: 'With payer' },
            { value: 'decided', label: 'Decided, open' },
            { value: 'closed', label: 'Closed' },
            { value: 'all', label: 'All' },
          ]}
        />
        <SearchField value={search} hint="Number, patient, payer or account" />
      </div>
      <List
        label="Claims"
        rows={rows}
        count={count}
        pageSize={pageSize}
        hrefOf={(row) => `/claims/${row.id}`}
        empty={
          view === 'fix'
            ? 'Nothing needs fixing'
            : view === 'ready'
              ? 'Nothing is ready: build claims from unbilled charges'
              : 'No claims here'
        }
        selected={mayWork ? { ids: chosen, set: setChosen, may: (row) => row.status === 'ready' } : undefined}
        columns={[
          {
            title: 'Claim',
            dataIndex: 'controlNumber',
            width: 100,
            render: (text: string, row) => <Link href={`/claims/${row.id}`}>{text}</Link>,
          },
          {
            title: 'Patient',
            dataIndex: 'patient',
            ellipsis: true,
            render: (text: string, row) => <Link href={`/accounts/${row.householdId}`}>{text}</Link>,
          },
          { title: 'Payer', dataIndex: 'payer', ellipsis: true },
          { title: 'Form', dataIndex: 'form', width: 88 },
          {
            title: 'Service',
            dataIndex: 'serviceDate',
            width: 100,
            render: (date: string) => <Day date={date} />,
          },
          {
            title: 'Sent',
            dataIndex: 'sentDate',
            width: 100,
            render: (date: string | null) => <Day date={date} />,
          },
          {
            title: 'Status',
            dataIndex: 'status',
            width: 130,
            render: (status: string) => <ClaimStatus status={status} />,
          },
          {
            title: 'What is wrong',
            key: 'wrong',
            ellipsis: true,
            width: 220,
            render: (_, row) => (
              <span title={row.holdReason || row.findings[0]?.words}>
                {row.status === 'rejected' || row.status === 'held'
                  ? row.holdReason
                  : row.stops + row.warnings > 0 && ['draft', 'ready'].includes(row.status)
                    ? `${row.findings[0]?.words}${row.stops + row.warnings > 1 ? ` and ${row.stops + row.warnings - 1} more` : ''}`
                    : ''}
              </span>
            ),
          },
          {
            title: 'Charge',
            dataIndex: 'total',
            align: 'right',
            width: 100,
            render: (cents: number) => <Money cents={cents} />,
          },
        ]}
        summary={() => (
          <Table.Summary.Row>
            <Table.Summary.Cell index={0} colSpan={mayWork ? 9 : 8}>
              {count} claims{ids.length > 0 && ` · ${ids.length} selected, ${formatMoneyPlain(chosenTotal)}`}
            </Table.Summary.Cell>
            <Table.Summary.Cell index={9} align="right">
              <Money cents={total} />
            </Table.Summary.Cell>
          </Table.Summary.Row>
        )}
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
