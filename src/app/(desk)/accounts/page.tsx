import { PAGE_SIZE, listAccounts } from '../../../server/accounts/read';
import { may } from '../../../server/access';
import { signedIn } from '../../session';
import { AccountList } from './account-list';

export const metadata = { title: 'Accounts' };

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
