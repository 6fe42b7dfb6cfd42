'use client';
/** Background work: start it, watch it, stop it, read how it ended. */
import { Alert, Button } from 'antd';
import { Link } from './link';
import { useRouter } from 'next/navigation';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { Answer } from '../core/answer';
import type { WorkPage } from '../server/jobs/read';
import { useAct } from './act';
import { useDesk } from './desk';
import css from './work.module.css';
import { Tag, type Tone } from './tag';

const STATUS: Record<WorkPage['status'], { words: string; tone?: Tone }> = {
  waiting: { words: 'waits', tone: 'look' },
  running: { words: 'runs', tone: 'look' },
  stopping: { words: 'is stopping', tone: 'look' },
  stopped: { words: 'stopped' },
  finished: { words: 'finished' },
  failed: { words: 'failed', tone: 'stop' },
};

/** How work stands, in words. */
export const WorkStatus = ({ status }: { status: WorkPage['status'] }) => (
  <Tag tone={STATUS[status].tone}>{STATUS[status].words}</Tag>
);

/** Work that goes on. */
export const isGoing = (status: WorkPage['status']): boolean =>
  status === 'waiting' || status === 'running' || status === 'stopping';

const POLL_MS = 400;

/** Where a piece of work stands; asked for again as long as it goes on. */
async function follow(id: number, here: () => boolean, see: (work: WorkPage) => void): Promise<void> {
  while (here()) {
    const work = await fetch(`/api/work/${id}`).then(
      async (response) => (response.ok ? ((await response.json()) as WorkPage) : null),
      () => null,
    );
    if (work && here()) see(work);
    if (work && !isGoing(work.status)) return;
    await new Promise((resolve) => setTimeout(resolve, POLL_MS));
  }
}

/** Starts work and follows it; it goes on when the page is left. */
export function useWork(): {
  busy: boolean;
  work: WorkPage | null;
  start: (action: () => Promise<Answer<number | null>>, nothing?: string) => Promise<void>;
} {
  const router = useRouter();
  const { run } = useAct();
  const [work, setWork] = useState<WorkPage | null>(null);
  const here = useRef(true);
  useEffect(() => {
    here.current = true;
    return () => {
      here.current = false;
    };
  }, []);
  const start = useCallback(
    async (action: () => Promise<Answer<number | null>>, nothing?: string) => {
      const begun = await run(action, (id) => (id === null ? (nothing ?? '') : ''));
      if (!begun || begun.value === null) return;
      await follow(begun.value, () => here.current, setWork);
      if (here.current) router.refresh();
    },
    [run, router],
  );
  return { busy: work !== null && isGoing(work.status), work, start };
}

/** Follows a piece of work that is already there. */
export function useFollowed(first: WorkPage): WorkPage {
  const [work, setWork] = useState(first);
  useEffect(() => {
    setWork(first);
    if (!isGoing(first.status)) return;
    let here = true;
    void follow(first.id, () => here, setWork);
    return () => {
      here = false;
    };
  }, [first]);
  return work;
}

/** How far it is, and how it ended, item by item. */
export function Work({ work }: { work: WorkPage | null }) {
  const { stopWork } = useDesk();
  const { busy, run } = useAct();
  if (!work) return null;
  if (isGoing(work.status)) {
    return (
      <div className={css.going} role="status">
        <span>
          {work.title}: {work.done} of {work.total} done. It goes on if you leave this page.
        </span>
        <Button
          size="small"
          loading={busy}
          disabled={work.status === 'stopping'}
          onClick={() =>
            void run(() => stopWork({ workId: work.id }), 'It stops after what it is just doing')
          }
        >
          Stop
        </Button>
        <progress className={css.bar} max={Math.max(1, work.total)} value={work.done} />
      </div>
    );
  }
  return (
    <Alert
      className={css.ended}
      type={work.status === 'finished' ? 'success' : 'warning'}
      title={`${work.title}: ${work.status === 'finished' ? 'done' : STATUS[work.status].words}`}
      description={
        <>
          {work.items.slice(0, 20).map((item) => (
            <div key={item.number}>
              {item.words}: {item.result || 'not done'}
            </div>
          ))}
          {work.items.length > 20 && <Link href={`/work/${work.id}`}>All {work.items.length} items</Link>}
        </>
      }
    />
  );
}
