import { notFound } from 'next/navigation';
import { readWork } from '../../../../../server/jobs/read';
import { type ListAddress, readList } from '../../../../../server/lists/read';
import { readBatch } from '../../../../../server/batches/read';
import { idOf, orNotFound, signedIn } from '../../../../session';
import { BatchView } from '../../../statements/batches/[id]/batch-view';

/** What the browser shows as title. */
export const metadata = { title: 'Batch of letters' };

/** One batch of letters: how far it is, and its pieces. */
export default async function Page({
  params,
  searchParams,
}: {
  params: Promise<{ id: string }>;
  searchParams: Promise<ListAddress>;
}) {
  const context = await signedIn();
  const batch = await orNotFound(idOf(params).then((id) => readBatch(context, id)));
  if (batch.kind !== 'letter') notFound();
  const list = await readList(context, 'pieces', { ...(await searchParams), of: String(batch.id) });
  return (
    <BatchView
      batch={batch}
      list={list}
      going={batch.workId === null ? null : await readWork(context, batch.workId)}
    />
  );
}
