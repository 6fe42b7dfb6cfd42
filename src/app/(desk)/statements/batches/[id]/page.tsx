import { redirect } from 'next/navigation';
import { readWork } from '../../../../../server/jobs/read';
import { type ListAddress, readList } from '../../../../../server/lists/read';
import { readBatch } from '../../../../../server/batches/read';
import { idOf, orNotFound, signedIn } from '../../../../session';
import { BatchView } from './batch-view';

/** What the browser shows as title. */
export const metadata = { title: 'Statement batch' };

/** One batch: how far it is, and its pieces. */
export default async function Page({
  params,
  searchParams,
}: {
  params: Promise<{ id: string }>;
  searchParams: Promise<ListAddress>;
}) {
  const context = await signedIn();
  const batch = await orNotFound(idOf(params).then((id) => readBatch(context, id)));
  if (batch.kind === 'letter') redirect(`/overdue/batches/${batch.id}`);
  const address = await searchParams;
  const list = await readList(context, 'pieces', { ...address, of: String(batch.id) });
  return (
    <BatchView
      batch={batch}
      list={list}
      going={batch.workId === null ? null : await readWork(context, batch.workId)}
    />
  );
}
