import { may } from '../../../server/access';
import { type ListAddress, readList } from '../../../server/lists/read';
import { readWaiting } from '../../../server/today/read';
import { signedInFor } from '../../session';
import { ClaimList } from './claim-list';

/** What the browser shows as title. */
export const metadata = { title: 'Claims' };

/** The list of claims by what waits to be done with them. */
export default async function Page({ searchParams }: { searchParams: Promise<ListAddress> }) {
  const context = await signedInFor('read claims');
  const [list, { unbilled, ready }] = await Promise.all([
    readList(context, 'claims', await searchParams),
    readWaiting(context),
  ]);
  return (
    <ClaimList
      list={list}
      unbilled={unbilled}
      ready={ready}
      mayWork={may(context.user.role, 'work claims')}
    />
  );
}
