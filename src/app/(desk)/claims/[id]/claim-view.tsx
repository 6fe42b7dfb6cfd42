'use client';
import { Button, Table, Tabs, Timeline } from 'antd';
import Link from 'next/link';
import { useRouter, useSearchParams } from 'next/navigation';
import { useEffect } from 'react';
import { counted } from '../../../../core/words';
import { formatDate } from '../../../../core/calendar';
import { type Cents, ZERO, add, formatMoneyPlain } from '../../../../core/money';
import type { ClaimPage } from '../../../../server/claims/read';
import { WithReason, useAct } from '../../../../ui/act';
import { ClaimStatus, Findings } from '../../../../ui/claims';
import { Day, FeeStrip, Money } from '../../../../ui/figures';
import { useFilter } from '../../../../ui/filters';
import { holdClaimAction, sendClaimsAction, withdrawClaimAction, writeOffAction } from '../../../actions';

type Claim = Omit<ClaimPage, 'events'> & {
  events: (Omit<ClaimPage['events'][number], 'at'> & { at: string })[];
};

/** One claim: what it says, what is wrong, where its money is, what happened. */
export function ClaimView({
  claim,
  text,
  mayWork,
  mayWriteOff,
}: {
  claim: Claim;
  text: string;
  mayWork: boolean;
  mayWriteOff: boolean;
}) {
  const router = useRouter();
  const params = useSearchParams();
  const setPart = useFilter();
  const { busy, run } = useAct();
  const { content: c } = claim;
  const ours = ['draft', 'ready', 'rejected'].includes(claim.status);
  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      if (
        event.key === 'Escape' &&
        !(event.target instanceof HTMLElement && /^(INPUT|TEXTAREA)$/.test(event.target.tagName))
      )
        router.push('/claims?view=fix');
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [router]);
  const expected = claim.lines.reduce((all, line) => add(all, line.expectedPaid), ZERO);
  const sum = (part: 'charge' | 'payerPaid' | 'reduced' | 'withPayer' | 'withPatient'): Cents =>
    claim.lines.reduce((all, line) => add(all, line[part]), ZERO);
  return (
    <>
      <div className="head">
        <h1>Claim {claim.controlNumber}</h1>
        <ClaimStatus status={claim.status} />
        <span className="quiet">
          <Link href={`/accounts/${claim.householdId}`}>{claim.patient}</Link> · {claim.payer} ·{' '}
          <Day date={claim.serviceDate} /> · {formatMoneyPlain(claim.total)}
        </span>
        {mayWork && (
          <span className="push">
            {ours && (
              <WithReason
                words="Withdraw"
                ask="Why is it withdrawn?"
                act={(reason) =>
                  run(
                    () => withdrawClaimAction(claim.id, reason),
                    'Withdrawn; its charges can be billed again',
                  )
                }
              />
            )}
            {['draft', 'ready'].includes(claim.status) && (
              <WithReason
                words="Hold"
                ask="Why is it held?"
                act={(reason) => run(() => holdClaimAction(claim.id, reason), 'On hold')}
              />
            )}
            {claim.status === 'held' && (
              <Button size="small" onClick={() => void run(() => holdClaimAction(claim.id, ''), 'Let go')}>
                Let go
              </Button>
            )}
            {ours && (
              <Button
                type="primary"
                size="small"
                loading={busy}
                disabled={claim.stops > 0}
                onClick={() => void run(() => sendClaimsAction([claim.id]), 'Sent')}
              >
                {claim.status === 'rejected' ? 'Send again' : 'Send'}
              </Button>
            )}
          </span>
        )}
      </div>
      {claim.holdReason && <p className="notice">{claim.holdReason}</p>}
      <Tabs
        size="small"
        activeKey={params.get('part') ?? 'claim'}
        onChange={(key) => setPart('part', key)}
        items={[
          {
            key: 'claim',
            label: 'The claim',
            children: (
              <>
                <div className="columns wide">
                  <div className="panel">
                    <dl className="facts">
                      <dt>Patient</dt>
                      <dd>
                        {c.patient.first} {c.patient.last}, born {formatDate(c.patient.birthDate)},{' '}
                        {c.patient.sex}
                      </dd>
                      <dt>Address</dt>
                      <dd>
                        {c.patient.address.line1}, {c.patient.address.city} {c.patient.address.state}{' '}
                        {c.patient.address.zip}
                      </dd>
                      <dt>Subscriber</dt>
                      <dd>
                        {c.relationship === 'self'
                          ? 'the patient'
                          : `${c.subscriber.first} ${c.subscriber.last}`}
                        , member {c.subscriber.memberId || '–'}, group {c.subscriber.groupNumber || '–'}
                      </dd>
                      <dt>Payer</dt>
                      <dd>
                        {c.payer.name}, id {c.payer.payerId || '–'}
                        {claim.payerClaimNumber && <>, its number {claim.payerClaimNumber}</>}
                      </dd>
                      <dt>Billed by</dt>
                      <dd>
                        {c.billing.organization ?? `${c.billing.first} ${c.billing.last}`}, NPI{' '}
                        {c.billing.npi}
                      </dd>
                      <dt>Rendered by</dt>
                      <dd>
                        {c.rendering?.first} {c.rendering?.last}, NPI {c.rendering?.npi}
                      </dd>
                      <dt>Diagnoses</dt>
                      <dd>
                        {c.diagnoses.map((code, index) => `${index + 1}. ${code}`).join('  ') || 'none'}
                      </dd>
                      {claim.transmission && (
                        <>
                          <dt>File</dt>
                          <dd>
                            {claim.transmission.file} · TA1 {claim.transmission.interchangeAnswer || 'waits'}{' '}
                            · 999 {claim.transmission.groupAnswer || 'waits'}
                          </dd>
                        </>
                      )}
                    </dl>
                  </div>
                  <div className="panel">
                    {ours || claim.status === 'held' ? (
                      <>
                        <h2>What is wrong</h2>
                        <Findings
                          findings={claim.findings}
                          claim={claim}
                          rejected={claim.status === 'rejected' ? claim.holdReason : undefined}
                        />
                      </>
                    ) : claim.status === 'withdrawn' ? (
                      <>
                        <h2>Withdrawn</h2>
                        <p className="quiet">This claim was withdrawn; its charges can be billed again.</p>
                      </>
                    ) : (
                      <>
                        <h2>With the payer</h2>
                        <p className="quiet">Sent as it stands here; later changes do not change it.</p>
                      </>
                    )}
                  </div>
                </div>
                <Table
                  style={{ marginTop: 12 }}
                  size="small"
                  pagination={false}
                  rowKey="number"
                  dataSource={claim.lines}
                  columns={[
                    { title: '#', dataIndex: 'number', width: 36 },
                    {
                      title: 'Service',
                      key: 'service',
                      render: (_, line) => {
                        const sent = c.lines.find((item) => item.number === line.number);
                        return (
                          <>
                            {line.code}
                            {sent && sent.modifiers.length > 0 && ` ${sent.modifiers.join(' ')}`}{' '}
                            {line.description}
                            {sent?.tooth && ` · tooth ${sent.tooth}${sent.surfaces}`}
                            {sent && sent.pointers.length > 0 && (
                              <span className="quiet"> · points to {sent.pointers.join(', ')}</span>
                            )}
                          </>
                        );
                      },
                    },
                    {
                      title: 'Where it is',
                      key: 'strip',
                      width: 110,
                      render: (_, line) => <FeeStrip totals={{ ...line, fee: line.charge }} />,
                    },
                    {
                      title: 'Charge',
                      dataIndex: 'charge',
                      align: 'right',
                      width: 90,
                      render: (v: number) => <Money cents={v} />,
                    },
                    {
                      title: 'Expected',
                      dataIndex: 'expectedPaid',
                      align: 'right',
                      width: 90,
                      render: (v: number) => <Money cents={v} />,
                    },
                    {
                      title: 'Paid',
                      dataIndex: 'payerPaid',
                      align: 'right',
                      width: 90,
                      render: (v: number) => <Money cents={v} />,
                    },
                    {
                      title: 'Written off',
                      dataIndex: 'reduced',
                      align: 'right',
                      width: 90,
                      render: (v: number) => <Money cents={v} />,
                    },
                    {
                      title: 'To patient',
                      key: 'patient',
                      align: 'right',
                      width: 90,
                      render: (_, line) => <Money cents={line.withPatient + line.patientPaid} />,
                    },
                    {
                      title: 'Waiting',
                      dataIndex: 'withPayer',
                      align: 'right',
                      width: 90,
                      render: (v: number) => <Money cents={v} />,
                    },
                    ...(mayWriteOff && claim.status === 'decided'
                      ? [
                          {
                            title: '',
                            key: 'act',
                            width: 90,
                            render: (_: unknown, line: Claim['lines'][number]) =>
                              line.withPayer > 0 ? (
                                <WithReason
                                  words="Write off"
                                  ask="Why is it written off?"
                                  act={(why) =>
                                    run(
                                      () => writeOffAction(line.chargeId, why),
                                      (cents) => `${formatMoneyPlain(cents as Cents)} written off`,
                                    )
                                  }
                                />
                              ) : null,
                          },
                        ]
                      : []),
                  ]}
                  summary={() => (
                    <Table.Summary.Row>
                      <Table.Summary.Cell index={0} colSpan={3}>
                        {counted(claim.lines.length, 'line')}
                      </Table.Summary.Cell>
                      <Table.Summary.Cell index={3} align="right">
                        <Money cents={sum('charge')} />
                      </Table.Summary.Cell>
                      <Table.Summary.Cell index={4} align="right">
                        <Money cents={expected} />
                      </Table.Summary.Cell>
                      <Table.Summary.Cell index={5} align="right">
                        <Money cents={sum('payerPaid')} />
                      </Table.Summary.Cell>
                      <Table.Summary.Cell index={6} align="right">
                        <Money cents={sum('reduced')} />
                      </Table.Summary.Cell>
                      <Table.Summary.Cell index={7} align="right">
                        <Money
                          cents={claim.lines.reduce(
                            (all, line) => add(all, add(line.withPatient, line.patientPaid)),
                            ZERO,
                          )}
                        />
                      </Table.Summary.Cell>
                      <Table.Summary.Cell index={8} align="right">
                        <Money cents={sum('withPayer')} />
                      </Table.Summary.Cell>
                    </Table.Summary.Row>
                  )}
                />
              </>
            ),
          },
          { key: 'x12', label: 'As X12', children: <pre className="x12">{text}</pre> },
          {
            key: 'life',
            label: 'What happened',
            children: (
              <Timeline
                style={{ marginTop: 10 }}
                items={claim.events.map((event) => ({
                  color: event.status === 'rejected' ? 'red' : 'green',
                  content: (
                    <>
                      <strong>{event.status}</strong> · {formatDate(event.date)} · {event.words}{' '}
                      <span className="quiet">({event.cause})</span>
                    </>
                  ),
                }))}
              />
            ),
          },
        ]}
      />
    </>
  );
}
