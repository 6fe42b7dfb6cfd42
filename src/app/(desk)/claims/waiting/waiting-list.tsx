'use client';
import type { StateOf } from '../../../../server/lists/read';
import { claimWords } from '../../../../ui/claims';
import { Link } from '../../../../ui/link';
import { List } from '../../../../ui/list';
import { Head } from '../../../../ui/page';

/** Charges that wait with payers, the oldest first. */
export function WaitingList({ list }: { list: StateOf<'with-payers'> }) {
  return (
    <>
      <Head title="With payers" note={list.count} />
      <List
        list={list}
        label="With payers"
        hint="Patient, code or payer"
        hrefOf={(row) => `/accounts/${row.householdId}?charge=${row.chargeId}`}
        empty="No charge waits with a payer"
        cells={{
          patient: {
            width: 160,
            ellipsis: true,
            render: (row) => (
              <Link href={`/accounts/${row.householdId}?charge=${row.chargeId}`}>{row.patient}</Link>
            ),
          },
          code: { width: 80 },
          description: { ellipsis: true },
          payer: { ellipsis: true },
          claim: { width: 110 },
          status: { width: 130, render: (row) => (row.status ? claimWords(row.status) : '–') },
        }}
      />
    </>
  );
}
