'use client';
import { useMay } from '../../../ui/desk';
import { Button, Checkbox } from 'antd';
import { Link } from '../../../ui/link';
import { useState } from 'react';
import { formatMoneyPlain, sum } from '../../../core/money';
import { counted } from '../../../core/words';
import type { LateRow } from '../../../server/statements/late';
import { useAct, useOnce } from '../../../ui/act';
import { Day, Money } from '../../../ui/figures';
import { Head, Toolbar } from '../../../ui/page';
import { DeskTable } from '../../../ui/table';
import { lateAction } from './actions';
import { StationViews } from './views';

/** Every household that is past due with its late charge, or why it is spared; posted for those that are chosen. */
export function LateCharges({ rows }: { rows: readonly LateRow[] }) {
  const mayPost = useMay()('enter charges');
  const { busy, run } = useAct();
  const press = useOnce();
  const [not, setNot] = useState<number[]>([]);
  const due = rows.filter(({ amount, closed }) => amount > 0 && !closed);
  const chosen = due.filter(({ householdId }) => !not.includes(householdId));
  const post = async (): Promise<void> => {
    const posted = await run(
      () => lateAction({ householdIds: chosen.map(({ householdId }) => householdId), key: press.key() }),
      ({ count, amount }) => `${counted(count, 'late charge')} posted, ${formatMoneyPlain(amount)}`,
    );
    if (posted) press.next();
  };
  return (
    <>
      <Head title="Statements" note={`${counted(rows.length, 'household is', 'households are')} past due`}>
        {mayPost && chosen.length > 0 && (
          <Button type="primary" loading={busy} onClick={() => void post()}>
            Post {counted(chosen.length, 'late charge')},{' '}
            {formatMoneyPlain(sum(chosen.map(({ amount }) => amount)))}
          </Button>
        )}
      </Head>
      <Toolbar>
        <StationViews value="late" mayPrepare />
      </Toolbar>
      <DeskTable<LateRow>
        label="Late charges"
        rows={rows}
        rowKey={(row) => row.householdId}
        empty="Nobody is past due"
        columns={[
          {
            key: 'take',
            title: '',
            width: 40,
            render: (row) =>
              row.amount > 0 &&
              !row.closed && (
                <Checkbox
                  aria-label={`Late charge of ${row.name}`}
                  checked={!not.includes(row.householdId)}
                  onChange={({ target }) =>
                    setNot((now) =>
                      target.checked ? now.filter((id) => id !== row.householdId) : [...now, row.householdId],
                    )
                  }
                />
              ),
          },
          {
            key: 'account',
            title: 'Account',
            width: 90,
            render: (row) => !row.closed && <Link href={`/accounts/${row.householdId}`}>{row.account}</Link>,
          },
          { key: 'name', title: 'Guarantor', cut: true, render: (row) => row.name },
          { key: 'since', title: 'Past due since', width: 120, render: (row) => <Day date={row.since} /> },
          { key: 'last', title: 'Last late charge', width: 130, render: (row) => <Day date={row.last} /> },
          { key: 'spared', title: 'Why not', width: 230, cut: true, render: (row) => row.spared },
          {
            key: 'pastDue',
            title: 'Past due',
            width: 100,
            right: true,
            render: (row) => <Money cents={row.pastDue} />,
          },
          {
            key: 'amount',
            title: 'Late charge',
            width: 100,
            right: true,
            render: (row) => <Money cents={row.amount} strong />,
          },
        ]}
      />
    </>
  );
}
