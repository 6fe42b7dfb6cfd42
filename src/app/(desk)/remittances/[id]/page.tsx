import { PAGE_SIZE } from '../../../../server/lists/list';
import { readRemittance } from '../../../../server/remittances/read';
import { titleOf } from '../../../../server/search/titles';
import { idOf, orNotFound, signedInFor } from '../../../session';
import { RemittanceView } from './remittance-view';

/** What the browser shows as title. */
export async function generateMetadata({ params }: { params: Promise<{ id: string }> }) {
  const context = await signedInFor('read remittances');
  return { title: (await titleOf(context, 'remittance', (await params).id)) ?? 'Remittance' };
}

/** One remittance: what the payer decided, what is posted and what is left. */
export default async function Page({
  params,
  searchParams,
}: {
  params: Promise<{ id: string }>;
  searchParams: Promise<{ page?: string }>;
}) {
  const context = await signedInFor('read remittances');
  const page = Math.max(1, Math.trunc(Number((await searchParams).page)) || 1);
  const remit = await orNotFound(idOf(params).then((id) => readRemittance(context, id, page)));
  return <RemittanceView remit={remit} page={page} pageSize={PAGE_SIZE} />;
}
