import { may } from '../../../server/access';
import { PAGE_SIZE } from '../../../server/accounts/read';
import { CLAIM_VIEWS, type ClaimView, listClaims } from '../../../server/claims/read';
import { readWaiting } from '../../../server/today/read';
import { signedInFor } from '../../session';
import { ClaimList } from './claim-list';

/** What the browser shows as title. */
export const metadata = { title: 'Claims' };

/** The list of claims by what waits to be done with them. */
export default async function Page({
  searchParams,
}: {
  searchParams: Promise<{ view?: string; search?: string; page?: string }>;
}) {
  const context = await signedInFor('read claims');
  const { view: wanted = 'all', search = '', page = '1' } = await searchParams;
  const view = (wanted in CLAIM_VIEWS ? wanted : 'all') as ClaimView;
  const [found, waiting] = await Promise.all([
    listClaims(context, { view, search, page: Math.max(1, Number(page) || 1) }),
    readWaiting(context),
  ]);
  return (
    <ClaimList
      {...found}
      view={view}
      search={search}
      pageSize={PAGE_SIZE}
      unbilled={waiting.unbilled}
      ready={waiting.ready}
      mayWork={may(context.user.role, 'work claims')}
    />
  );
}
