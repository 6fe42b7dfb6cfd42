import { type ListAddress, readList } from '../../../server/lists/read';
import { signedInFor } from '../../session';
import { WorkList } from './work-list';

/** What the browser shows as title. */
export const metadata = { title: 'Background work' };

/** Background work: what runs, what failed and why, what is finished. */
export default async function Page({ searchParams }: { searchParams: Promise<ListAddress> }) {
  const context = await signedInFor('watch work');
  return <WorkList list={await readList(context, 'work', await searchParams)} />;
}
