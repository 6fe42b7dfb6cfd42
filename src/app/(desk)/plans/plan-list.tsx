'use client';
import { Link } from '../../../ui/link';
import type { StateOf } from '../../../server/lists/read';
import { Money } from '../../../ui/figures';
import { List } from '../../../ui/list';
import { Head } from '../../../ui/page';
import { PlanViews } from './views';

/** All plans, proposed, running and ended. */
export function PlanList({ list }: { list: StateOf<'plans'> }) {
  return (
    <>
      <Head title="Plans" note={list.count}>
        <PlanViews value="all" />
      </Head>
      <List
        list={list}
        label="Plans"
        hint="Plan, account or guarantor"
        hrefOf={(row) => `/plans/${row.id}`}
        empty="No plan was agreed yet: an account that owes has the way to one"
        cells={{
          number: { width: 84, render: (row) => <Link href={`/plans/${row.id}`}>{row.number}</Link> },
          account: {
            width: 84,
            render: (row) => <Link href={`/accounts/${row.householdId}`}>{row.account}</Link>,
          },
          guarantor: { width: 120, ellipsis: true },
          state: { width: 84 },
          agreedOn: { width: 96 },
          by: { width: 104, ellipsis: true },
          why: { width: 132, ellipsis: true },
          amount: { width: 88 },
          level: { width: 92 },
          paid: { width: 84 },
          left: { width: 88, render: (row) => <Money cents={row.left} strong /> },
        }}
      />
    </>
  );
}
