'use client';
import { Button, Input, Table, Tag } from 'antd';
import Link from 'next/link';
import { usePathname, useRouter } from 'next/navigation';
import { useState } from 'react';
import { counted } from '../../../../core/words';
import { type Cents, formatMoneyPlain } from '../../../../core/money';
import type { Adjustment } from '../../../../core/x12/remittance835';
import type { RemittanceClaimRow, RemittancePage } from '../../../../server/remittances/read';
import { WithReason, useAct } from '../../../../ui/act';
import { Day, Figure, Money } from '../../../../ui/figures';
import { Posting, usePosting } from '../../../../ui/posting';
import { matchAction, reverseRemittanceAction } from '../../../actions';
import { RemitStatus } from '../remittance-list';

const CLAIM_WORDS: Record<string, { words: string; color?: string }> = {
  ready: { words: 'ready' },
  held: { words: 'held', color: 'volcano' },
  posted: { words: 'posted' },
  unmatched: { words: 'not ours', color: 'gold' },
  reversed: { words: 'reversed' },
};

/** A remittance whole: what it says in words, what is posted, what is left. */
export function RemittanceView({
  remit,
  pageSize,
  mayPost,
  mayReverse,
}: {
  remit: RemittancePage;
  pageSize: number;
  mayPost: boolean;
  mayReverse: boolean;
}) {
  const posting = usePosting();
  const router = useRouter();
  const path = usePathname();
  const { run } = useAct();
  const plb = remit.providerAdjustments.reduce((all, item) => all + item.amount, 0);
  const toPost = remit.status === 'ready' || remit.status === 'posting';
  return (
    <>
      <div className="head">
        <h1>{remit.payer}</h1>
        <RemitStatus status={remit.status} />
        <span className="quiet">
          {remit.trace} · <Day date={remit.date} /> · {counted(remit.claims, 'claim')} ·{' '}
          {remit.file || 'keyed'}
        </span>
        <span className="push">
          {mayReverse && remit.status === 'posted' && (
            <WithReason
              words="Reverse all"
              ask="Why is it reversed?"
              danger
              act={(why) =>
                run(
                  () => reverseRemittanceAction(remit.id, why),
                  (n) => `${counted(n, 'entry', 'entries')} reversed`,
                )
              }
            />
          )}
          {mayPost && toPost && (
            <Button type="primary" loading={posting.busy} onClick={() => void posting.start([remit.id])}>
              Post {counted(remit.claims, 'claim')}
            </Button>
          )}
        </span>
      </div>
      <Posting work={posting.work} />
      {remit.holdReasons.length > 0 && (
        <div className="notice" style={{ marginBottom: 10 }}>
          <strong>This remittance is kept but not posted:</strong>
          {remit.holdReasons.map((reason, index) => (
            <div key={index}>{reason}</div>
          ))}
          <div className="quiet">Ask the payer for a corrected file: it takes this one’s place.</div>
        </div>
      )}
      <div className="figures" style={{ marginBottom: 10, width: 'fit-content' }}>
        <Figure words="Payment" cents={remit.amount} />
        <Figure words="Posted to claims" cents={remit.posted} />
        <Figure words="Held, not ours" cents={remit.held} />
        <Figure words="Provider adjustments" cents={-plb} />
        <Figure
          words="Not posted yet"
          cents={remit.status === 'posted' ? 0 : remit.amount - remit.posted - remit.held + plb}
          owed
        />
      </div>
      {remit.providerAdjustments.map((item, index) => (
        <p key={index} className="small">
          Provider adjustment {item.code} {item.reference}: {formatMoneyPlain((-item.amount || 0) as Cents)}{' '}
          {item.code === 'L6' ? '(interest)' : ''}
        </p>
      ))}
      <Table<RemittanceClaimRow>
        size="small"
        rowKey="id"
        dataSource={remit.rows}
        pagination={
          remit.claims > pageSize
            ? {
                total: remit.claims,
                pageSize,
                showSizeChanger: false,
                onChange: (next) => router.push(`${path}?page=${next}`),
              }
            : false
        }
        expandable={{
          defaultExpandAllRows: remit.rows.length <= 8,
          expandedRowRender: (row) => <Lines row={row} words={remit.words} />,
        }}
        columns={[
          {
            title: 'Claim',
            key: 'claim',
            width: 110,
            render: (_, row) =>
              row.claimId ? (
                <Link href={`/claims/${row.claimId}`}>{row.controlNumber}</Link>
              ) : (
                row.controlNumber
              ),
          },
          {
            title: 'Patient',
            key: 'patient',
            render: (_, row) => {
              const name = `${row.content.patient.last}, ${row.content.patient.first}`;
              return row.householdId ? <Link href={`/accounts/${row.householdId}`}>{name}</Link> : name;
            },
          },
          {
            title: 'Payer says',
            key: 'says',
            width: 110,
            render: (_, row) =>
              ({ '1': 'primary', '2': 'secondary', '3': 'tertiary', '4': 'denied', '22': 'reversal' })[
                row.content.status
              ] ?? `status ${row.content.status}`,
          },
          {
            title: 'Here',
            dataIndex: 'status',
            width: 90,
            render: (status: string) => (
              <Tag color={CLAIM_WORDS[status]?.color}>{CLAIM_WORDS[status]?.words}</Tag>
            ),
          },
          {
            title: '',
            key: 'act',
            width: 250,
            render: (_, row) =>
              row.status === 'unmatched' && mayPost ? (
                <Match row={row} />
              ) : row.status === 'posted' && remit.status === 'posted' && mayReverse ? (
                <WithReason
                  words="Reverse"
                  ask="Why is it reversed?"
                  act={(why) =>
                    run(
                      () => reverseRemittanceAction(remit.id, why, row.id),
                      (n) => `${counted(n, 'entry', 'entries')} reversed; the rest stays`,
                    )
                  }
                />
              ) : (
                <span className="quiet small">{row.holdReason}</span>
              ),
          },
          {
            title: 'Charge',
            dataIndex: 'charge',
            align: 'right',
            width: 100,
            render: (cents: number) => <Money cents={cents} />,
          },
          {
            title: 'Paid',
            dataIndex: 'paid',
            align: 'right',
            width: 100,
            render: (cents: number) => <Money cents={cents} strong />,
          },
          {
            title: 'To patient',
            key: 'patientPart',
            align: 'right',
            width: 100,
            render: (_, row) => <Money cents={row.content.patientResponsibility} />,
          },
        ]}
      />
    </>
  );
}

function Reasons({ list, words }: { list: Adjustment[]; words: Record<string, string> }) {
  return (
    <>
      {list.map((item, index) => (
        <div key={index} className="small">
          <Tag>
            {item.group}-{item.reason}
          </Tag>
          {words[`${item.group}-${item.reason}`] ??
            words[`*-${item.reason}`] ??
            'not in the reason code table'}{' '}
          <Money cents={item.amount} />
        </div>
      ))}
    </>
  );
}

function Lines({ row, words }: { row: RemittanceClaimRow; words: Record<string, string> }) {
  const { content } = row;
  return (
    <table className="entries">
      <tbody>
        {content.adjustments.length > 0 && (
          <tr>
            <td>Whole claim</td>
            <td>
              <Reasons list={content.adjustments} words={words} />
            </td>
            <td />
            <td />
            <td />
          </tr>
        )}
        {content.lines.map((line, index) => (
          <tr key={index}>
            <td style={{ width: 150 }}>
              {line.code} {line.modifiers.join(' ')}{' '}
              {line.date && (
                <span className="quiet">
                  <Day date={line.date} />
                </span>
              )}
            </td>
            <td>
              <Reasons list={line.adjustments} words={words} />
              {line.remarks.length > 0 && (
                <span className="quiet small">Remarks {line.remarks.join(', ')}</span>
              )}
            </td>
            <td className="money" style={{ width: 100 }}>
              <Money cents={line.charge} />
            </td>
            <td className="money" style={{ width: 100 }}>
              <Money cents={line.paid} strong />
            </td>
            <td className="money" style={{ width: 100 }}>
              <Money
                cents={line.adjustments.reduce(
                  (all, item) => (item.group === 'PR' ? all + item.amount : all),
                  0,
                )}
              />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Match({ row }: { row: RemittanceClaimRow }) {
  const { busy, run } = useAct();
  const [number, setNumber] = useState('');
  const go = (): Promise<unknown> => run(() => matchAction(row.id, number), 'Matched and posted');
  return (
    <span style={{ display: 'flex', gap: 6 }} title={row.holdReason}>
      <Input
        size="small"
        placeholder="Our claim number"
        aria-label="Our claim number"
        value={number}
        onChange={(event) => setNumber(event.target.value)}
        onKeyDown={(event) => event.key === 'Enter' && void go()}
      />
      <Button size="small" loading={busy} disabled={!number.trim()} onClick={() => void go()}>
        Match
      </Button>
    </span>
  );
}
