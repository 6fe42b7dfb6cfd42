'use client';
import { Button } from 'antd';
import { useRouter } from 'next/navigation';
import type { Printed } from '../../../../server/claims/printing';
import { useMay } from '../../../../ui/desk';
import { Day } from '../../../../ui/figures';
import { useKeys } from '../../../../ui/keys';
import { LineTable } from '../../../../ui/line-table';
import { Link } from '../../../../ui/link';
import { Head } from '../../../../ui/page';

/** Prints of claims, each opened again at any time. */
export function PrintsView({ prints }: { prints: Printed[] }) {
  const mayWork = useMay()('work claims');
  const router = useRouter();
  useKeys([{ key: 'Escape', words: 'back to the claims', run: () => router.push('/claims') }]);
  return (
    <>
      <Head title="Printed claims" note={prints.length}>
        <Link href="/claims?view=print">to print</Link>
        {mayWork && <Button href="/api/claims/test-page">Test page for the form</Button>}
      </Head>
      <LineTable
        label="Printed claims"
        fills="list"
        rows={prints}
        rowKey={({ id }) => String(id)}
        empty="Nothing was printed yet: claims of payers that take paper stand under “To print”"
        columns={[
          { key: 'id', title: 'Print', width: 70, render: ({ id }) => id },
          { key: 'on', title: 'Printed', width: 110, render: ({ on }) => <Day date={on} /> },
          { key: 'by', title: 'By', render: ({ by }) => by },
          { key: 'claims', title: 'Claims', width: 80, right: true, render: ({ claims }) => claims },
          { key: 'total', title: 'Charge', width: 110, money: ({ total }) => total },
          {
            key: 'open',
            title: 'Open',
            width: 110,
            render: ({ id }) =>
              mayWork && (
                <a href={`/api/claims/prints/${id}`} target="_blank" rel="noreferrer">
                  PDF of print {id}
                </a>
              ),
          },
        ]}
      />
    </>
  );
}
