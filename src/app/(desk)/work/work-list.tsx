'use client';
import { Link } from '../../../ui/link';
import type { StateOf } from '../../../server/lists/read';
import { List } from '../../../ui/list';
import { Head } from '../../../ui/page';
import { WorkStatus } from '../../../ui/work';

const EMPTY: Record<string, string> = {
  running: 'Nothing runs in the background',
  failed: 'Nothing failed',
};

/** Background work, newest first. */
export function WorkList({ list }: { list: StateOf<'work'> }) {
  return (
    <>
      <Head title="Background work" note={list.count} />
      <List
        list={list}
        label="Background work"
        hint="What, or who started it"
        hrefOf={(row) => `/work/${row.id}`}
        empty={EMPTY[list.view] ?? 'No work was done in the background yet'}
        cells={{
          title: { render: (row) => <Link href={`/work/${row.id}`}>{row.title}</Link> },
          by: { width: 130, ellipsis: true },
          started: { width: 140 },
          status: { width: 110, render: (row) => <WorkStatus status={row.status} /> },
          fault: { ellipsis: true, render: (row) => <span title={row.fault}>{row.fault}</span> },
        }}
      />
    </>
  );
}
