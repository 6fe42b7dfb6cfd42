'use client';
import { App, Button } from 'antd';
import { formatMoneyPlain } from '../../../../core/money';
import { counted } from '../../../../core/words';
import type { StateOf } from '../../../../server/lists/read';
import { WithReason, useAct } from '../../../../ui/act';
import { useMay } from '../../../../ui/desk';
import { Money } from '../../../../ui/figures';
import { Link } from '../../../../ui/link';
import { List } from '../../../../ui/list';
import { Head } from '../../../../ui/page';
import { settleRefundAction } from '../actions';

type Row = StateOf<'refund-requests'>['rows'][number];

/** Refunds above the limit: a manager approves each, and it goes back then, or refuses it with a reason. */
export function RefundsView({ list }: { list: StateOf<'refund-requests'> }) {
  const mayDecide = useMay()('approve refunds');
  return (
    <>
      <Head title="Refunds to approve" note={counted(list.count, 'refund')} />
      <List
        list={list}
        label="Refunds to approve"
        hint="Guarantor or account"
        hrefOf={(row) => `/accounts/${row.householdId}?show=credit`}
        empty={
          list.search
            ? `No refund found for “${list.search}”`
            : list.view === 'asked'
              ? 'No refund waits for a manager'
              : 'Nothing was asked for yet'
        }
        cells={{
          account: {
            width: 90,
            render: (row) => <Link href={`/accounts/${row.householdId}?show=credit`}>{row.account}</Link>,
          },
          guarantor: { width: 150, ellipsis: true },
          askedOn: { width: 96 },
          askedBy: { width: 110, ellipsis: true },
          tender: { width: 120, ellipsis: true },
          amount: { render: (row) => <Money cents={row.amount} strong /> },
          decided: { width: 140, ellipsis: true },
        }}
        act={
          mayDecide
            ? { width: 300, render: (row) => row.status === 'asked' && <Decide row={row} /> }
            : undefined
        }
      />
      <p className="quiet small">
        Above what Setup lets one give back without a manager. Approved, it goes back as it was asked for: a
        card through its terminal.
      </p>
    </>
  );
}

function Decide({ row }: { row: Row }) {
  const { message } = App.useApp();
  const { busy, run } = useAct();
  const decide = async (approve: boolean, why = ''): Promise<unknown> => {
    const done = await run(
      (sure) => settleRefundAction({ ...sure, refundRequestId: row.id, approve, why, reference: '' }),
      ({ card }) => (card ? '' : approve ? `${formatMoneyPlain(row.amount)} given back` : 'Refused'),
    );
    const card = done?.value.card;
    if (card)
      void message[card.state === 'approved' ? 'success' : 'warning']({ content: card.words, duration: 6 });
    return done;
  };
  return (
    <>
      <Button size="small" type="primary" loading={busy} onClick={() => void decide(true)}>
        Approve
      </Button>{' '}
      <WithReason words="Refuse" ask="Why is it refused?" act={(why) => decide(false, why)} />
    </>
  );
}
