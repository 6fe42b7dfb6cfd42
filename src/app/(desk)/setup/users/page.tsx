import { type ListAddress, readList } from '../../../../server/lists/read';
import { signedInFor } from '../../../session';
import { setupPages } from '../pages';
import { Users } from './users';

/** What the browser shows as title. */
export const metadata = { title: 'Users' };

/** Who may sign in. */
export default async function Page({ searchParams }: { searchParams: Promise<ListAddress> }) {
  const context = await signedInFor('manage users');
  return (
    <Users
      list={await readList(context, 'users', await searchParams)}
      tables={setupPages(context.user.role)}
      me={context.user.id}
    />
  );
}
