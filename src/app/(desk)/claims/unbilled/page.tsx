import { type ListAddress, readList } from '../../../../server/lists/read';
import { signedInFor } from '../../../session';
import { UnbilledList } from './unbilled-list';

/** What the browser shows as title. */
export const metadata = { title: 'Unbilled charges' };

/** Charges that wait with a payer and are on no claim yet. */
export default async function Page({ searchParams }: { searchParams: Promise<ListAddress> }) {
  const context = await signedInFor('read claims');
  return <UnbilledList list={await readList(context, 'unbilled', await searchParams)} />;
}
