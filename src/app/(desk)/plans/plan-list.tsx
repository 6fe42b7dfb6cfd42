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
          guarantor: { ellipsis: true },
          why: { ellipsis: true },
          left: { render: (row) => <Money cents={row.left} strong /> },
        }}
      />
    </>
  );
}
