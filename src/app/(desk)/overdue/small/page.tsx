import { type ListAddress, readList } from '../../../../server/lists/read';
import { signedIn } from '../../../session';
import { SmallList } from './small-list';

/** What the browser shows as title. */
export const metadata = { title: 'Small balances' };

/** Balances that are small and old, written off many at once. */
export default async function Page({ searchParams }: { searchParams: Promise<ListAddress> }) {
  const context = await signedIn();
  return <SmallList list={await readList(context, 'small-balances', await searchParams)} />;
}
