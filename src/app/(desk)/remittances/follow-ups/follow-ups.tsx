'use client';
import { Tag } from 'antd';
import Link from 'next/link';
import { formatMoneyPlain } from '../../../../core/money';
import type { RowOf } from '../../../../server/lists';
import type { StateOf } from '../../../../server/lists/read';
import { WithReason, useAct } from '../../../../ui/act';
import { Day } from '../../../../ui/figures';
import { List } from '../../../../ui/list';
import { Head, Line } from '../../../../ui/page';
import { closeFollowUpAction, writeOffAction } from '../actions';

/** Denials and short payments to work, the most pressing first. */
export function FollowUps({
  list,
  today,
  mayWriteOff,
}: {
  list: StateOf<'follow-ups'>;
  today: string;
  mayWriteOff: boolean;
}) {
  return (
    <>
      <Head title="Follow-ups" note={`${list.count} open`} />
      <List
        list={list}
        label="Follow-ups"
        hint="What, claim or patient"
        empty="Nothing to follow up"
        hrefOf={(row) => (row.claimId ? `/claims/${row.claimId}` : `/accounts/${row.householdId}`)}
        cells={{
          dueDate: {
            width: 100,
            render: (row) => (
              <span className={row.dueDate !== null && row.dueDate < today ? 'stop' : ''}>
                <Day date={row.dueDate} />
              </span>
            ),
          },
          kind: {
            width: 112,
            render: (row) => <Tag color={row.kind === 'denial' ? 'volcano' : 'gold'}>{row.kind}</Tag>,
          },
          words: { width: 185 },
          patient: {
            width: 125,
            render: (row) => (
              <Link href={`/accounts/${row.householdId}?charge=${row.chargeId ?? ''}`}>
                {row.patient ?? row.account}
              </Link>
            ),
          },
          controlNumber: {
            width: 92,
            render: (row) => row.claimId && <Link href={`/claims/${row.claimId}`}>{row.controlNumber}</Link>,
          },
          amount: { width: 80 },
          waiting: { width: 92 },
        }}
        act={{ width: 150, render: (row) => <Ways row={row} mayWriteOff={mayWriteOff} /> }}
      />
    </>
  );
}

/** The ways out of a follow-up. */
function Ways({ row, mayWriteOff }: { row: RowOf<'follow-ups'>; mayWriteOff: boolean }) {
  const { run } = useAct();
  const { id: followUpId, chargeId, coverageId } = row;
  return (
    <Line>
      {/* What is overpaid closes itself when the balance is right. */}
      {row.kind !== 'overpaid' && (
        <WithReason
          words="Done"
          ask="What came of it?"
          act={(outcome) => run(() => closeFollowUpAction({ followUpId, outcome }), 'Closed')}
        />
      )}
      {mayWriteOff && row.kind === 'denial' && row.waiting > 0 && chargeId && (
        <WithReason
          words="Write off"
          ask="Why is it written off?"
          act={(why) =>
            run(
              () => writeOffAction({ chargeId, coverageId: coverageId ?? undefined, why }),
              (amount) => `${formatMoneyPlain(amount)} written off`,
            )
          }
        />
      )}
    </Line>
  );
}
