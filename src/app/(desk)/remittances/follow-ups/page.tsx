import { may } from '../../../../server/access';
import { PAGE_SIZE } from '../../../../server/accounts/read';
import { listFollowUps } from '../../../../server/remittances/read';
import { signedInFor } from '../../../session';
import { FollowUps } from './follow-ups';

/** What the browser shows as title. */
export const metadata = { title: 'Follow-ups' };

/** Denials, short payments and overpayments that wait for somebody. */
export default async function Page({ searchParams }: { searchParams: Promise<{ page?: string }> }) {
  const context = await signedInFor('read remittances');
  const found = await listFollowUps(context, Math.max(1, Number((await searchParams).page) || 1));
  return (
    <FollowUps
      {...found}
      today={context.today}
      pageSize={PAGE_SIZE}
      mayWriteOff={may(context.user.role, 'reverse entries')}
    />
  );
}
