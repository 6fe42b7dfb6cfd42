import { notFound } from 'next/navigation';
import { readList } from '../../../../../server/lists/read';
import { titleOf } from '../../../../../server/search/titles';
import { idOf, signedInFor } from '../../../../session';
import { Seen } from './seen';

/** What the browser shows as title. */
export const metadata = { title: 'Who saw this record' };

/** Who saw or changed the record of a household. */
export default async function Page({
  params,
  searchParams,
}: {
  params: Promise<{ id: string }>;
  searchParams: Promise<{ page?: string; view?: string }>;
}) {
  const context = await signedInFor('read the audit trail');
  const id = String(await idOf(params).catch(() => notFound()));
  const title = (await titleOf(context, 'account', id)) ?? notFound();
  return (
    <Seen list={await readList(context, 'seen', { ...(await searchParams), of: id })} title={title} id={id} />
  );
}
