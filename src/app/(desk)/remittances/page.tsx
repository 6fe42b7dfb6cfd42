import { may } from '../../../server/access';
import { PAGE_SIZE } from '../../../server/accounts/read';
import { listRemittances } from '../../../server/remittances/read';
import { readWaiting } from '../../../server/today/read';
import { signedInFor } from '../../session';
import { RemittanceList } from './remittance-list';

/** What the browser shows as title. */
export const metadata = { title: 'Remittances' };

/** The list of remittances by what waits to be done with them. */
export default async function Page({
  searchParams,
}: {
  searchParams: Promise<{ view?: string; search?: string; page?: string }>;
}) {
  const context = await signedInFor('read remittances');
  const { view = 'all', search = '', page = '1' } = await searchParams;
  const [found, waiting] = await Promise.all([
    listRemittances(context, { view, search, page: Math.max(1, Number(page) || 1) }),
    readWaiting(context),
  ]);
  return (
    <RemittanceList
      {...found}
      view={view}
      search={search}
      pageSize={PAGE_SIZE}
      followUps={waiting.followUps}
      mayPost={may(context.user.role, 'post remittances')}
    />
  );
}
