'use client';
import { useMay } from '../../../../ui/desk';
import { Button } from 'antd';
import { Link } from '../../../../ui/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
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
  const [chosen, setChosen] = useState<number[]>([]);
  const chargeIds = list.rows.filter(({ id }) => chosen.includes(id)).map(({ chargeId }) => chargeId);
  const which = list.view === 'next' ? 'next' : list.view === 'left' ? 'all' : 'first';
  const build = async (): Promise<void> => {
    const built = await run(
      () => buildClaimsAction(chargeIds.length > 0 ? { chargeIds, which } : { which }),
      (ids) => `${counted(ids.length, 'claim')} built`,
    );
    if (!built) return;
    setChosen([]);
    const [only, ...more] = built.value;
    router.push(only && more.length === 0 ? `/claims/${only}` : '/claims?view=ready');
  };
  // What was left out is billed only where it is chosen.
  const whole = list.view !== 'left' && !list.search && list.narrowed.every(({ value }) => value === null);
  const many = chargeIds.length > 0 ? chargeIds.length : list.count;
  return (
    <>
      <Head title="Unbilled charges" note={list.count}>
        {mayWork && (whole || chargeIds.length > 0) && (
          <Button type="primary" loading={busy} disabled={many === 0} onClick={() => void build()}>
            Build claims from {counted(many, 'charge')}
          </Button>
        )}
      </Head>
      <List
        list={list}
        label="Unbilled charges"
        hint="Patient, code or payer"
        hrefOf={(row) => `/accounts/${row.householdId}?charge=${row.chargeId}`}
        selected={mayWork ? { ids: chosen, set: setChosen } : undefined}
        empty="Every charge that a payer owes is on a claim"
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
          provider: { ellipsis: true, width: 140 },
          payer: { ellipsis: true },
        }}
      />
    </>
  );
}
