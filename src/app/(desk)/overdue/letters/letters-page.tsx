'use client';
import { useMay } from '../../../../ui/desk';
import { Button } from 'antd';
import { Link } from '../../../../ui/link';
import { formatDate } from '../../../../core/calendar';
import { counted } from '../../../../core/words';
import type { StateOf } from '../../../../server/lists/read';
import type { LetterRow } from '../../../../server/overdue/letters';
import { List } from '../../../../ui/list';
import { Head, Panel } from '../../../../ui/page';
import { DeskTable } from '../../../../ui/table';
import { OverdueViews } from '../views';

/** Batches of letters, newest first, and the letters themselves with their stages. */
export function LettersPage({ list, letters }: { list: StateOf<'letter-batches'>; letters: LetterRow[] }) {
  const mayChange = useMay()('change setup');
  return (
    <>
      <Head title="Letters" note={counted(letters.length, 'letter')}>
        <OverdueViews value="/overdue/letters" />
        {mayChange && (
          <Link href="/overdue/letters/new">
            <Button>Write a letter</Button>
          </Link>
        )}
      </Head>
      <Panel title="The letters">
        <DeskTable<LetterRow>
          label="The letters"
          rows={letters}
          rowKey={(row) => row.id}
          empty="No letter was written yet"
          columns={[
            {
              key: 'name',
              title: 'Letter',
              width: 220,
              render: (row) => <Link href={`/overdue/letters/${row.id}`}>{row.name}</Link>,
            },
            { key: 'subject', title: 'Subject', cut: true, render: (row) => row.subject },
            {
              key: 'stages',
              title: 'Stage',
              width: 180,
              cut: true,
              render: (row) => row.stages.join(', ') || <span className="quiet">none</span>,
            },
            { key: 'number', title: 'Version', width: 80, right: true, render: (row) => row.number },
            { key: 'sent', title: 'Sent', width: 70, right: true, render: (row) => row.sent },
            {
              key: 'changed',
              title: 'Changed',
              width: 190,
              cut: true,
              render: (row) => `${formatDate(row.changedOn)}, ${row.changedBy}`,
            },
          ]}
        />
      </Panel>
      <Panel title="Batches" below>
        <List
          list={list}
          label="Batches of letters"
          hint="Batch or user"
          hrefOf={(row) => `/overdue/batches/${row.id}`}
          empty={list.view === 'open' ? 'Every batch is out' : 'No letters were prepared yet'}
          cells={{
            title: { render: (row) => <Link href={`/overdue/batches/${row.id}`}>{row.title}</Link> },
            by: { width: 150, ellipsis: true },
          }}
        />
      </Panel>
    </>
  );
}
