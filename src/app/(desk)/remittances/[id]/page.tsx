import { PAGE_SIZE } from '../../../../server/lists/list';
import { placeOfCharge, readRemittance } from '../../../../server/remittances/read';
import { titleOf } from '../../../../server/search/titles';
import { idOf, orNotFound, signedInFor } from '../../../session';
import { RemittanceView } from './remittance-view';

/** What the browser shows as title. */
export async function generateMetadata({ params }: { params: Promise<{ id: string }> }) {
  const context = await signedInFor('read remittances');
  return { title: (await titleOf(context, 'remittance', (await params).id)) ?? 'Remittance' };
}

/** A number out of an address; 0 where it is none. */
const numberOf = (text: string | undefined): number =>
  text !== undefined && /^\d{1,15}$/.test(text) ? Number(text) : 0;

/** One remittance: what the payer decided, what is posted and what is left. */
export default async function Page({
  params,
  searchParams,
}: {
  params: Promise<{ id: string }>;
  searchParams: Promise<{ page?: string; account?: string; charge?: string }>;
}) {
  const context = await signedInFor('read remittances');
  const { page: asked, account, charge } = await searchParams;
  const from = numberOf(account);
  const at = await orNotFound(
    idOf(params).then((id) => (from === 0 ? null : placeOfCharge(context, id, numberOf(charge)))),
  );
  const page = Math.max(1, numberOf(asked) || (at?.page ?? 1));
  const remit = await orNotFound(idOf(params).then((id) => readRemittance(context, id, page)));
  return (
    <RemittanceView
      remit={remit}
      page={page}
      pageSize={PAGE_SIZE}
      from={from === 0 ? null : { account: from, charge: numberOf(charge), row: at?.row ?? null }}
    />
  );
}
