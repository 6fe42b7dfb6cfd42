'use client';
import { Button } from 'antd';
import { useState } from 'react';
import { cents, formatMoneyPlain, sum } from '../../../../core/money';
import { counted } from '../../../../core/words';
import type { StateOf } from '../../../../server/lists/read';
import { useAct, useOnce } from '../../../../ui/act';
import { useMay } from '../../../../ui/desk';
import { Money } from '../../../../ui/figures';
import { Link } from '../../../../ui/link';
import { List } from '../../../../ui/list';
import { Head } from '../../../../ui/page';
import { applyCreditsAction } from '../actions';

/** Credit by account: what of it can pay something is paid for many at once. */
export function CreditsView({ list }: { list: StateOf<'credits'> }) {
  const mayApply = useMay()('take payments');
  const { busy, run } = useAct();
  const press = useOnce();
  const [chosen, setChosen] = useState<number[]>([]);
  const rows = list.rows.filter(({ id, closed }) => chosen.includes(id) && !closed);
  const amount = sum(rows.map((row) => cents(row.proposed)));
  const apply = async (): Promise<void> => {
    const done = await run(
      () =>
        applyCreditsAction({ householdIds: rows.map(({ householdId }) => householdId), key: press.key() }),
      ({ accounts, amount: used }) =>
        `${formatMoneyPlain(used)} of credit used on ${counted(accounts, 'account')}`,
    );
    if (!done) return;
    press.next();
    setChosen([]);
  };
  return (
    <>
      <Head title="Credit" note={counted(list.count, 'account')}>
        <Link href="/payments/refunds">
          <Button>Refunds to approve</Button>
        </Link>
        <Link href="/payments/unclaimed">
          <Button>Unclaimed</Button>
        </Link>
        {mayApply && rows.length > 0 && (
          <Button type="primary" loading={busy} disabled={amount <= 0} onClick={() => void apply()}>
            Pay {formatMoneyPlain(amount)} with the credit of {counted(rows.length, 'account')}
          </Button>
        )}
      </Head>
      <List
        list={list}
        label="Credit"
        hint="Guarantor or account"
        hrefOf={(row) => `/accounts/${row.householdId}?show=credit`}
        selected={mayApply ? { ids: chosen, set: setChosen } : undefined}
        empty={list.search ? `No credit found for “${list.search}”` : 'No credit is held here'}
        cells={{
          account: {
            width: 84,
            render: (row) => <Link href={`/accounts/${row.householdId}?show=credit`}>{row.account}</Link>,
          },
          guarantor: { ellipsis: true },
          apart: { width: 92, ellipsis: true },
          since: { width: 92 },
          site: { width: 92, ellipsis: true },
          held: { width: 82 },
          reserved: { width: 82 },
          owed: { width: 82 },
          proposed: { width: 82, render: (row) => <Money cents={row.proposed} strong /> },
        }}
      />
      <p className="quiet small">
        Credit is somebody’s money: it pays what is open of the same account, or goes back. It never becomes
        income.
      </p>
    </>
  );
}
