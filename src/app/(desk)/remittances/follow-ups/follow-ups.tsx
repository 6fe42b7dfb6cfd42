'use client';
import { Table, Tag } from 'antd';
import Link from 'next/link';
import { type Cents, formatMoneyPlain } from '../../../../core/money';
import type { FollowUpRow } from '../../../../server/remittances/read';
import { WithReason, useAct } from '../../../../ui/act';
import { Day, Money } from '../../../../ui/figures';
import { List } from '../../../../ui/list';
import { closeFollowUpAction, writeOffAction } from '../../../actions';

/** Denials and short payments to work, the most pressing first. */
export function FollowUps({
  rows,
  count,
  total,
  today,
  pageSize,
  mayWriteOff,
}: {
  rows: FollowUpRow[];
  count: number;
  total: Cents;
  today: string;
  pageSize: number;
  mayWriteOff: boolean;
}) {
  const { run } = useAct();
  return (
    <>
      <div className="head">
        <h1>Follow-ups</h1>
        <span className="quiet">{count} open</span>
      </div>
      <List
        label="Follow-ups"
        rows={rows}
        count={count}
        pageSize={pageSize}
        empty="Nothing to follow up"
        hrefOf={(row) => (row.claimId ? `/claims/${row.claimId}` : `/accounts/${row.householdId}`)}
        columns={[
          {
            title: 'Due',
            dataIndex: 'dueDate',
            width: 100,
            render: (date: string) => (
              <span className={date < today ? 'stop' : ''}>
                <Day date={date} />
              </span>
            ),
          },
          {
            title: 'Kind',
            dataIndex: 'kind',
            width: 110,
            render: (kind: string) => (
              <Tag color={kind === 'denial' ? 'volcano' : 'gold'}>{kind.replace('-', ' ')}</Tag>
            ),
          },
          { title: 'What', dataIndex: 'words', width: 270 },
          {
            title: 'Patient and service',
            key: 'patient',
            render: (_, row) => (
              <>
                <Link href={`/accounts/${row.householdId}?charge=${row.chargeId ?? ''}`}>
                  {row.patient ?? row.account}
                </Link>{' '}
                <span className="quiet small">{row.service}</span>
              </>
            ),
          },
          {
            title: 'Claim',
            key: 'claim',
            width: 96,
            render: (_, row) =>
              row.claimId && <Link href={`/claims/${row.claimId}`}>{row.controlNumber}</Link>,
          },
          {
            title: 'Amount',
            dataIndex: 'amount',
            align: 'right',
            width: 90,
            render: (cents: number) => <Money cents={cents} />,
          },
          {
            title: 'With payer',
            dataIndex: 'waiting',
            align: 'right',
            width: 90,
            render: (cents: number) => <Money cents={cents} />,
          },
          {
            title: '',
            key: 'act',
            width: 150,
            render: (_, row) => (
              <span style={{ display: 'inline-flex', gap: 6 }}>
                <WithReason
                  words="Done"
                  ask="What came of it?"
                  act={(outcome) => run(() => closeFollowUpAction(row.id, outcome), 'Closed')}
                />
                {mayWriteOff && row.kind === 'denial' && row.waiting > 0 && row.chargeId && (
                  <WithReason
                    words="Write off"
                    ask="Why is it written off?"
                    act={(why) =>
                      run(
                        () => writeOffAction(row.chargeId, why),
                        (cents) => `${formatMoneyPlain(cents as Cents)} written off`,
                      )
                    }
                  />
                )}
              </span>
            ),
          },
        ]}
        summary={() => (
          <Table.Summary.Row>
            <Table.Summary.Cell index={0} colSpan={5}>
              {count} follow-ups
            </Table.Summary.Cell>
            <Table.Summary.Cell index={6} align="right">
              <Money cents={total} />
            </Table.Summary.Cell>
            <Table.Summary.Cell index={7} colSpan={2} />
          </Table.Summary.Row>
        )}
      />
    </>
  );
}
