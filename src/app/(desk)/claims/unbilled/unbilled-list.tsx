'use client';
import { useMay } from '../../../../ui/desk';
import { Button } from 'antd';
import { Link } from '../../../../ui/link';
import { useRouter } from 'next/navigation';
import { counted } from '../../../../core/words';
import type { StateOf } from '../../../../server/lists/read';
import { useAct } from '../../../../ui/act';
import { List } from '../../../../ui/list';
import { Head } from '../../../../ui/page';
import { buildClaimsAction } from '../actions';

/** Charges that are on no claim yet, oldest first. */
export function UnbilledList({ list }: { list: StateOf<'unbilled'> }) {
  const mayWork = useMay()('work claims');
  const router = useRouter();
  const { busy, run } = useAct();
  const build = async (): Promise<void> => {
    const built = await run(
      () => buildClaimsAction({}),
      (ids) => `${counted(ids.length, 'claim')} built`,
    );
    if (built) router.push('/claims?view=ready');
  };
  return (
    <>
      <Head title="Unbilled charges" note={list.count}>
        {mayWork && !list.search && list.narrowed.every(({ value }) => value === null) && (
          <Button type="primary" loading={busy} disabled={list.count === 0} onClick={() => void build()}>
            Build claims from {counted(list.count, 'charge')}
          </Button>
        )}
      </Head>
      <List
        list={list}
        label="Unbilled charges"
        hint="Patient, code or payer"
        hrefOf={(row) => `/accounts/${row.householdId}?charge=${row.id}`}
        empty="Every charge that a payer owes is on a claim"
        cells={{
          patient: {
            width: 160,
            ellipsis: true,
            render: (row) => (
              <Link href={`/accounts/${row.householdId}?charge=${row.id}`}>{row.patient}</Link>
            ),
          },
          code: { width: 80 },
          description: { ellipsis: true },
          provider: { ellipsis: true, width: 140 },
          payer: { ellipsis: true },
        }}
      />
    </>
  );
}
