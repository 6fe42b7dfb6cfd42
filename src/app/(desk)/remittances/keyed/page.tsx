import { type ListAddress, readList } from '../../../../server/lists/read';
import { keyedPayers } from '../../../../server/remittances/keyed-page';
import { signedInFor } from '../../../session';
import { KeyedList } from './keyed-list';

/** What the browser shows as title. */
export const metadata = { title: 'Paper remittances' };

/** Remittances that are keyed from paper. */
export default async function Page({
  searchParams,
}: {
  searchParams: Promise<ListAddress & { new?: string }>;
}) {
  const context = await signedInFor('post remittances');
  const { new: begin, ...address } = await searchParams;
  const [list, payers] = await Promise.all([readList(context, 'keyed', address), keyedPayers(context)]);
  return <KeyedList list={list} payers={payers} begin={begin !== undefined} />;
}
