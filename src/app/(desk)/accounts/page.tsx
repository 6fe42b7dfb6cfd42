import { type ListAddress, readList } from '../../../server/lists/read';
import { signedIn } from '../../session';
import { AccountList } from './account-list';

/** What the browser shows as title. */
export const metadata = { title: 'Accounts' };

/** The list of accounts; view, search, order and place in it come from the address. */
export default async function Page({ searchParams }: { searchParams: Promise<ListAddress> }) {
  const context = await signedIn();
  const list = await readList(context, 'accounts', await searchParams);
  return <AccountList list={list} />;
}
