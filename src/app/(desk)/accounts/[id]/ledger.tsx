'use client';
import { Empty, Table, Tag } from 'antd';
import Link from 'next/link';
import { useEffect, useRef, useState } from 'react';
import { counted } from '../../../../core/words';
import { type Cents, ZERO, add } from '../../../../core/money';
import type { LedgerCharge } from '../../../../server/accounts/ledger';
import type { AccountPage } from '../../../../server/accounts/read';
import { WithReason, useAct } from '../../../../ui/act';
import { Day, FeeStrip, Money, StripKey } from '../../../../ui/figures';
import { chargeEstimateAction, reverseReceiptAction, voidChargeAction } from '../../../actions';
import type { ChargeEstimate } from '../../../../core/estimates/estimate';
import type { Rights } from './rights';

type Row = { key: string; date: string; order: number } & (
  | { kind: 'charge'; charge: LedgerCharge }
  | { kind: 'receipt'; receipt: AccountPage['receipts'][number] }
  | { kind: 'statement'; statement: AccountPage['statements'][number] }
);

interface Props {
  charges: LedgerCharge[];
  receipts: AccountPage['receipts'];
  statements: AccountPage['statements'];
  rights: Rights;
  onStory: (chargeId: number) => void;
  /** The charge that the address points at. */
  lit: number;
}

/** The ledger: charges, receipts and statements in the order of time, newest at the bottom. */
export function Ledger({ charges, receipts, statements, rights, onStory, lit }: Props) {
  const [unfolded, setUnfolded] = useState<string[]>(lit ? [`c${lit}`] : []);
  useEffect(() => {
    if (!lit) return;
    setUnfolded((now) => [...new Set([...now, `c${lit}`])]);
    document.querySelector(`[data-row-key="c${lit}"]`)?.scrollIntoView({ block: 'center' });
  }, [lit]);
  const box = useRef<HTMLDivElement>(null);
  const count = charges.length + receipts.length;
  useEffect(() => {
    // The newest work stands at the bottom, and that is where a person begins.
    const body = box.current?.querySelector('.ant-table-body');
    if (body && !lit) body.scrollTop = body.scrollHeight;
  }, [lit, count]);
  const rows: Row[] = [
    ...charges.map((charge) => ({
      key: `c${charge.id}`,
      date: charge.date,
      order: 0,
      kind: 'charge' as const,
      charge,
    })),
    ...receipts.map((receipt) => ({
      key: `r${receipt.id}`,
      date: receipt.date,
      order: 1,
      kind: 'receipt' as const,
      receipt,
    })),
    ...statements.map((statement) => ({
      key: `s${statement.id}`,
      date: statement.date,
      order: 2,
      kind: 'statement' as const,
      statement,
    })),
  ].sort((a, b) => (a.date === b.date ? a.order - b.order : a.date < b.date ? -1 : 1));
  const sumOf = (
    part: 'fee' | 'payerPaid' | 'patientPaid' | 'reduced' | 'withPayer' | 'withPatient',
  ): Cents => charges.reduce((total, charge) => add(total, charge[part]), ZERO);
  const money = (
    title: string,
    part: 'fee' | 'payerPaid' | 'patientPaid' | 'reduced' | 'withPayer' | 'withPatient',
  ) => ({
    title,
    align: 'right' as const,
    width: 88,
    key: part,
    render: (_: unknown, row: Row) =>
      row.kind === 'charge' ? <Money cents={row.charge[part]} strong={part === 'withPatient'} /> : null,
  });
  return (
    <div ref={box}>
      <Table<Row>
        size="small"
        dataSource={rows}
        pagination={false}
        scroll={{ y: 'max(220px, calc(100vh - 400px))' }}
        locale={{
          emptyText: (
            <Empty
              image={Empty.PRESENTED_IMAGE_SIMPLE}
              description="Nothing is charged yet: enter the first service in the line below"
            />
          ),
        }}
        rowClassName={(row) => (row.key === `c${lit}` ? 'cursor' : '')}
        expandable={{
          expandedRowKeys: unfolded,
          onExpandedRowsChange: (keys) => setUnfolded(keys.map(String)),
          rowExpandable: (row) => row.kind !== 'statement',
          expandedRowRender: (row) =>
            row.kind === 'charge' ? (
              <Entries charge={row.charge} rights={rights} onStory={onStory} />
            ) : row.kind === 'receipt' ? (
              <ReceiptDetail receipt={row.receipt} rights={rights} charges={charges} />
            ) : null,
        }}
        columns={[
          { title: 'Date', key: 'date', width: 96, render: (_, row) => <Day date={row.date} /> },
          {
            title: 'Who',
            key: 'who',
            width: 76,
            render: (_, row) => (row.kind === 'charge' ? row.charge.patient : ''),
          },
          {
            title: 'What',
            key: 'what',
            render: (_, row) => {
              if (row.kind === 'statement')
                return (
                  <a href={`/api/statements/${row.statement.id}`} target="_blank" rel="noreferrer">
                    Statement sent, <Money cents={row.statement.amount} /> due{' '}
                    <Day date={row.statement.dueDate} />
                  </a>
                );
              if (row.kind === 'receipt')
                return (
                  <span className={row.receipt.reversed ? 'quiet' : 'good'}>
                    {row.receipt.reversed ? 'Reversed: ' : 'Received: '}
                    <Money cents={row.receipt.amount} /> {row.receipt.tender} {row.receipt.reference}
                    {row.receipt.left > 0 && (
                      <>
                        {' '}
                        · <Money cents={row.receipt.left} /> held as credit
                      </>
                    )}
                  </span>
                );
              const { charge } = row;
              return (
                <span style={charge.status === 'void' ? { textDecoration: 'line-through' } : undefined}>
                  {charge.code} {charge.description}
                  {charge.units > 1 && ` × ${charge.units}`}
                  {charge.tooth && ` · tooth ${charge.tooth}${charge.surfaces}`}{' '}
                  {charge.claimId && (
                    <Link className="small" href={`/claims/${charge.claimId}`}>
                      {charge.claimStatus}
                    </Link>
                  )}
                </span>
              );
            },
          },
          {
            title: 'Where it is',
            key: 'strip',
            width: 104,
            render: (_, row) => (row.kind === 'charge' ? <FeeStrip totals={row.charge} /> : null),
          },
          money('Fee', 'fee'),
          money('Payer paid', 'payerPaid'),
          money('Patient paid', 'patientPaid'),
          money('Written off', 'reduced'),
          money('Waiting', 'withPayer'),
          money('Owed', 'withPatient'),
        ]}
        summary={() =>
          charges.length > 0 && (
            <Table.Summary.Row>
              <Table.Summary.Cell index={0} colSpan={4}>
                {counted(charges.length, 'charge')}
              </Table.Summary.Cell>
              <Table.Summary.Cell index={4} />
              {(['fee', 'payerPaid', 'patientPaid', 'reduced', 'withPayer', 'withPatient'] as const).map(
                (part, index) => (
                  <Table.Summary.Cell key={part} index={5 + index} align="right">
                    <Money cents={sumOf(part)} />
                  </Table.Summary.Cell>
                ),
              )}
            </Table.Summary.Row>
          )
        }
      />
      <StripKey />
    </div>
  );
}

function Entries({
  charge,
  rights,
  onStory,
}: {
  charge: LedgerCharge;
  rights: Rights;
  onStory: (id: number) => void;
}) {
  const { run } = useAct();
  return (
    <div>
      <table className="entries">
        <tbody>
          {charge.entries.map((entry) => (
            <tr key={entry.entryId} id={`entry-${entry.entryId}`} className={entry.undone ? 'undone' : ''}>
              <td style={{ width: 96 }}>
                <Day date={entry.date} />
              </td>
              <td style={{ width: 112 }} className="quiet">
                {entry.kind.replace('-', ' ')}
              </td>
              <td>
                {entry.memo}{' '}
                {entry.remittanceId && (
                  <Link href={`/remittances/${entry.remittanceId}`}>whole remittance</Link>
                )}
                {entry.reasons.map((reason, index) => (
                  <div key={index} className="small">
                    <Tag>{reason.code}</Tag>
                    {reason.words} <Money cents={reason.amount} />
                  </div>
                ))}
              </td>
              <td className="money">
                {entry.kind === 'charge' ? (
                  <Money cents={charge.fee} />
                ) : entry.paidByPayer + entry.paidByPatient !== 0 ? (
                  <Money cents={entry.paidByPayer + entry.paidByPatient} />
                ) : null}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {charge.status === 'done' && charge.withPayer > 0 && charge.withPayer === charge.fee && (
        <Expected charge={charge} />
      )}
      <div style={{ display: 'flex', gap: 8, padding: '4px 8px', alignItems: 'center' }}>
        <a
          role="button"
          tabIndex={0}
          onClick={() => onStory(charge.id)}
          onKeyDown={(event) => event.key === 'Enter' && onStory(charge.id)}
        >
          Tell this charge
        </a>
        {charge.diagnoses.length > 0 && (
          <span className="quiet small">
            Diagnoses {charge.diagnoses.join(', ')} · {charge.provider}
          </span>
        )}
        {rights.charges && charge.status === 'done' && !charge.claimId && (
          <WithReason
            words="Void"
            ask="Why is it void?"
            danger
            act={(why) => run(() => voidChargeAction(charge.id, why), 'Charge voided')}
          />
        )}
      </div>
    </div>
  );
}

/** What is expected of an undecided charge, with the steps that lead there. */
function Expected({ charge }: { charge: LedgerCharge }) {
  const [estimate, setEstimate] = useState<ChargeEstimate | null>(null);
  useEffect(() => {
    let here = true;
    void chargeEstimateAction(charge.caseId, charge.id).then(
      (result) => here && result.ok && setEstimate(result.value),
    );
    return () => {
      here = false;
    };
  }, [charge.caseId, charge.id]);
  if (!estimate) return null;
  return (
    <table className="entries" aria-label="Estimate">
      <tbody>
        {estimate.steps.map((step, index) => (
          <tr key={index}>
            <td style={{ width: 96 }} />
            <td style={{ width: 112 }} className="quiet">
              {index === 0 ? 'estimate' : ''}
            </td>
            <td>{step.words}</td>
            <td className="money">
              <Money cents={step.amount} strong={index === estimate.steps.length - 1} />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function ReceiptDetail({
  receipt,
  rights,
  charges,
}: {
  receipt: AccountPage['receipts'][number];
  rights: Rights;
  charges: LedgerCharge[];
}) {
  const { run } = useAct();
  const paid = charges.flatMap((charge) =>
    charge.entries
      .filter((entry) => entry.receiptId === receipt.id && entry.kind === 'allocation')
      .map((entry) => ({ charge, entry })),
  );
  return (
    <div>
      <table className="entries">
        <tbody>
          {paid.map(({ charge, entry }) => (
            <tr key={entry.entryId} className={entry.undone ? 'undone' : ''}>
              <td style={{ width: 96 }}>
                <Day date={charge.date} />
              </td>
              <td>
                {charge.patient} · {charge.code} {charge.description}
              </td>
              <td className="money">
                <Money cents={entry.paidByPatient} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {rights.reverse && !receipt.reversed && (
        <div style={{ padding: '4px 8px' }}>
          <WithReason
            words="Reverse receipt"
            ask="Why is it reversed?"
            danger
            act={(why) =>
              run(() => reverseReceiptAction(receipt.id, why), 'Receipt reversed; its charges are open again')
            }
          />
        </div>
      )}
    </div>
  );
}
