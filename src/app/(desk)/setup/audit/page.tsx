import { type ListAddress, readList } from '../../../../server/lists/read';
import { signedInFor } from '../../../session';
import { setupPages } from '../pages';
import { Trail } from './trail';

/** What the browser shows as title. */
export const metadata = { title: 'Audit trail' };

/** Everything that was read and changed. */
export default async function Page({ searchParams }: { searchParams: Promise<ListAddress> }) {
  const context = await signedInFor('read the audit trail');
  return (
    <Trail
      list={await readList(context, 'audit', await searchParams)}
      tables={setupPages(context.user.role)}
    />
  );
}
