import { type ListAddress, readList } from '../../../../server/lists/read';
import { signedIn } from '../../../session';
import { EstimateList } from './estimate-list';

/** What the browser shows as title. */
export const metadata = { title: 'Estimates' };

/** Estimates that were handed over; view, search, order and place in the list come from the address. */
export default async function Page({ searchParams }: { searchParams: Promise<ListAddress> }) {
  const context = await signedIn();
  return <EstimateList list={await readList(context, 'estimates', await searchParams)} />;
}
