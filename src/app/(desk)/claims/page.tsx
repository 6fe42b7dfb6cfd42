import { type ListAddress, readList } from '../../../server/lists/read';
import { readWaiting, waitingIn } from '../../../server/today/read';
import { signedInFor } from '../../session';
import { ClaimList } from './claim-list';

/** What the browser shows as title. */
export const metadata = { title: 'Claims' };

/** The list of claims by what waits to be done with them. */
export default async function Page({ searchParams }: { searchParams: Promise<ListAddress> }) {
  const context = await signedInFor('read claims');
  const [list, waiting] = await Promise.all([
    readList(context, 'claims', await searchParams),
    readWaiting(context, ['unbilled', 'claims']),
  ]);
  return (
    <ClaimList
      list={list}
      unbilled={waitingIn(waiting, 'unbilled', 'all')}
      ready={waitingIn(waiting, 'claims', 'ready')}
      toPrint={waitingIn(waiting, 'claims', 'print')}
    />
  );
}
