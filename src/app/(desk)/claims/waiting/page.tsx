import { type ListAddress, readList } from '../../../../server/lists/read';
import { signedInFor } from '../../../session';
import { WaitingList } from './waiting-list';

/** What the browser shows as title. */
export const metadata = { title: 'With payers' };

/** Every charge that waits with a payer. */
export default async function Page({ searchParams }: { searchParams: Promise<ListAddress> }) {
  const context = await signedInFor('read claims');
  return <WaitingList list={await readList(context, 'with-payers', await searchParams)} />;
}
