'use client';
/** Posting runs in the background: start it, watch it, read how it ended. */
import { Alert } from 'antd';
import { useRouter } from 'next/navigation';
import { useCallback, useState } from 'react';
import { postAction } from '../app/actions';
import type { WorkRow } from '../server/jobs/queue';
import { useAct } from './act';

/** Starts a posting and follows it. */
export function usePosting(): {
  busy: boolean;
  work: WorkRow | null;
  start: (ids?: number[]) => Promise<void>;
} {
  const router = useRouter();
  const { run } = useAct();
  const [work, setWork] = useState<WorkRow | null>(null);
  const busy = work !== null && (work.status === 'waiting' || work.status === 'running');
  const start = useCallback(
    async (ids?: number[]) => {
      const begun = await run(() => postAction(ids));
      if (!begun) return;
      for (;;) {
        const row = await fetch(`/api/work/${begun.value}`).then(
          async (response) => (response.ok ? ((await response.json()) as WorkRow) : null),
          () => null,
        );
        if (row) setWork(row);
        if (row && row.status !== 'waiting' && row.status !== 'running') break;
        await new Promise((resolve) => setTimeout(resolve, 400));
      }
      router.refresh();
    },
    [run, router],
  );
  return { busy, work, start };
}

/** How far it is, and how it ended, item by item. */
export function Posting({ work }: { work: WorkRow | null }) {
  if (!work) return null;
  const running = work.status === 'waiting' || work.status === 'running';
  if (running) {
    return (
      <div className="panel" role="status" style={{ marginBottom: 8 }}>
        {work.title}: {work.done} of {work.total} done. It goes on if you leave this page.
        <div className="bar">
          <i style={{ width: `${work.total === 0 ? 0 : Math.round((work.done * 100) / work.total)}%` }} />
        </div>
      </div>
    );
  }
  return (
    <Alert
      style={{ marginBottom: 8 }}
      type={work.failed > 0 ? 'warning' : 'success'}
      title={`${work.title}: done`}
      description={work.results.slice(0, 20).map((item) => (
        <div key={item.what}>
          {item.what}: {item.result}
        </div>
      ))}
    />
  );
}
