import { PAGE_SIZE, listAccounts } from '../../../server/accounts/read';
import { may } from '../../../server/access';
import { signedIn } from '../../session';
import { AccountList } from './account-list';

/** What the browser shows as title. */
export const metadata = { title: 'Accounts' };

/** The list of accounts; search, filter, order and place in it come from the address. */
export default async function Page({
  searchParams,
}: {
  searchParams: Promise<{ search?: string; only?: string; page?: string }>;
}) {
  const context = await signedIn();
  const { search = '', only = '', page = '1' } = await searchParams;
  const found = await listAccounts(context, { search, only, page: Math.max(1, Number(page) || 1) });
  return (
    <AccountList
      {...found}
      search={search}
      only={only}
      pageSize={PAGE_SIZE}
      mayRegister={may(context.user.role, 'register people')}
    />
  );
}
