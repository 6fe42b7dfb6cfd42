'use client';
import { useMay } from '../../../../ui/desk';
import { Button } from 'antd';
import { Link } from '../../../../ui/link';
import { useState } from 'react';
import { cents, formatMoneyPlain, sum } from '../../../../core/money';
import { counted } from '../../../../core/words';
import type { StateOf } from '../../../../server/lists/read';
import { useAct, useOnce } from '../../../../ui/act';
import { Money } from '../../../../ui/figures';
import { List } from '../../../../ui/list';
import { Head } from '../../../../ui/page';
import { writeOffSmallAction } from '../actions';
import { OverdueViews } from '../views';

/** Small balances: looked through, those that stay are unselected, the rest is written off. */
export function SmallList({ list }: { list: StateOf<'small-balances'> }) {
  const mayWriteOff = useMay()('write off small balances');
  const { busy, run } = useAct();
  const press = useOnce();
  const [chosen, setChosen] = useState<number[]>(
    list.rows.filter(({ closed }) => !closed).map(({ id }) => id),
  );
  const rows = list.rows.filter(({ id }) => chosen.includes(id));
  const amount = sum(rows.map((row) => cents(row.amount)));
  const writeOff = async (): Promise<void> => {
    const done = await run(
      (sure) =>
        writeOffSmallAction({
          householdIds: rows.map(({ id }) => id),
          seen: amount,
          key: press.key(),
          ...sure,
        }),
      ({ count, amount: off }) => `${counted(count, 'balance')} written off, ${formatMoneyPlain(off)}`,
    );
    if (done) press.next();
  };
  return (
    <>
      <Head title="Small balances" note={counted(list.count, 'account')}>
        <OverdueViews value="/overdue/small" />
        {mayWriteOff && rows.length > 0 && (
          <Button type="primary" loading={busy} onClick={() => void writeOff()}>
            Write off {counted(rows.length, 'balance')}, {formatMoneyPlain(amount)}
          </Button>
        )}
      </Head>
      <List
        list={list}
        label="Small balances"
        hint="Guarantor or account"
        hrefOf={(row) => `/accounts/${row.id}`}
        selected={mayWriteOff ? { ids: chosen, set: setChosen } : undefined}
        empty="No balance is small and old: the policy in Setup says what that is"
        cells={{
          account: { width: 90, render: (row) => <Link href={`/accounts/${row.id}`}>{row.account}</Link> },
          guarantor: { ellipsis: true },
          amount: { render: (row) => <Money cents={row.amount} strong /> },
        }}
      />
      <p className="quiet small">
        Each is an entry of its own on its account, and is taken back there by itself.
      </p>
    </>
  );
}
