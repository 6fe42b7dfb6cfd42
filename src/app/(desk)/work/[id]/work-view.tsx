'use client';
import { Button } from 'antd';
import { useRouter } from 'next/navigation';
import { counted } from '../../../../core/words';
import type { WorkPage } from '../../../../server/jobs/read';
import { useAct } from '../../../../ui/act';
import { useKeys } from '../../../../ui/keys';
import { LineTable } from '../../../../ui/line-table';
import { Head, Line, Notice } from '../../../../ui/page';
import { WorkStatus, isGoing, useFollowed } from '../../../../ui/work';
import { resumeWorkAction, stopWorkAction } from '../actions';
import { Tag, type Tone } from '../../../../ui/tag';

const ITEM: Record<WorkPage['items'][number]['status'], { words: string; tone?: Tone }> = {
  waiting: { words: 'waits' },
  done: { words: 'done' },
  failed: { words: 'failed', tone: 'stop' },
};

/** One piece of work: how far it is, how it ended, item by item. */
export function WorkView({ work: first }: { work: WorkPage }) {
  const work = useFollowed(first);
  const router = useRouter();
  const { busy, run } = useAct();
  useKeys([{ key: 'Escape', words: 'back to the list', run: () => router.push('/work') }]);
  const going = isGoing(work.status);
  const resume = async (): Promise<void> => {
    if (await run(() => resumeWorkAction({ workId: work.id }), 'It goes on')) router.refresh();
  };
  return (
    <>
      <Head
        title={work.title}
        note={
          <Line>
            <WorkStatus status={work.status} />
            <span>
              {work.done} of {work.total} · started by {work.by}
            </span>
          </Line>
        }
      >
        {work.mine && going && (
          <Button
            loading={busy}
            disabled={work.status === 'stopping'}
            onClick={() =>
              void run(() => stopWorkAction({ workId: work.id }), 'It stops after what it is just doing')
            }
          >
            Stop
          </Button>
        )}
        {work.mine && (work.status === 'failed' || work.status === 'stopped') && (
          <Button type="primary" loading={busy} onClick={() => void resume()}>
            Go on
          </Button>
        )}
      </Head>
      {work.fault && <Notice>{work.fault}</Notice>}
      <LineTable
        label="Items"
        fills="page"
        rows={work.items}
        rowKey={(item) => String(item.number)}
        empty="This work has no items"
        words={counted(work.items.length, 'item')}
        columns={[
          { key: 'words', title: 'What', render: (item) => item.words },
          {
            key: 'status',
            title: 'Status',
            width: 90,
            render: (item) => <Tag tone={ITEM[item.status].tone}>{ITEM[item.status].words}</Tag>,
          },
          { key: 'done', title: 'Done', width: 100, render: (item) => `${item.done} of ${item.size}` },
          { key: 'result', title: 'What came of it', render: (item) => item.result },
        ]}
      />
    </>
  );
}
