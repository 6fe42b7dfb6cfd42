import { type ListAddress, readList } from '../../../../server/lists/read';
import { signedInFor } from '../../../session';
import { setupPages } from '../pages';
import { Added } from './added';

/** What the browser shows as title. */
export const metadata = { title: 'Codes added while entering' };

/** Codes that were missing while visits were entered, for a manager to look at. */
export default async function Page({ searchParams }: { searchParams: Promise<ListAddress> }) {
  const context = await signedInFor('change setup');
  return (
    <Added
      list={await readList(context, 'added-codes', await searchParams)}
      tables={setupPages(context.user.role)}
    />
  );
}
