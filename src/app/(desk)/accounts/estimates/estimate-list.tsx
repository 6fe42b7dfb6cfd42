'use client';
import type { StateOf } from '../../../../server/lists/read';
import { Money } from '../../../../ui/figures';
import { Link } from '../../../../ui/link';
import { List } from '../../../../ui/list';
import { Head } from '../../../../ui/page';

/** Estimates that were handed over. */
export function EstimateList({ list }: { list: StateOf<'estimates'> }) {
  return (
    <>
      <Head title="Estimates" note={list.count} />
      <List
        list={list}
        label="Estimates"
        hint="Estimate, account or patient"
        hrefOf={(row) => `/accounts/${row.householdId}?case=${row.caseId}&show=treatment&part=given`}
        empty={list.search ? `None found for “${list.search}”` : 'No estimate is here'}
        cells={{
          number: { width: 84 },
          account: {
            width: 84,
            render: (row) => <Link href={`/accounts/${row.householdId}`}>{row.account}</Link>,
          },
          patient: { width: 150, ellipsis: true },
          kind: { width: 92 },
          madeOn: { width: 96 },
          validUntil: { width: 100 },
          bookedFor: { width: 104 },
          anewBy: { width: 150 },
          signedOn: { width: 96 },
          amount: { width: 92 },
          above: { width: 92, render: (row) => <Money cents={row.above} strong /> },
        }}
      />
    </>
  );
}
