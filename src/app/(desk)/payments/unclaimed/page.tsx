import { type ListAddress, readList } from '../../../../server/lists/read';
import { signedIn } from '../../../session';
import { UnclaimedView } from './unclaimed-view';

/** What the browser shows as title. */
export const metadata = { title: 'Unclaimed credit' };

/** Credit whose owner is not heard of. */
export default async function Page({ searchParams }: { searchParams: Promise<ListAddress> }) {
  return <UnclaimedView list={await readList(await signedIn(), 'unclaimed', await searchParams)} />;
}
