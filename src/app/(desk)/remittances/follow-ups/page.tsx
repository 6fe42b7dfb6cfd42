import { type ListAddress, readList } from '../../../../server/lists/read';
import { signedInFor } from '../../../session';
import { workersOf } from '../../../../server/setup/choices';
import { FollowUps } from './follow-ups';

/** What the browser shows as title. */
export const metadata = { title: 'Follow-ups' };

/** Denials, short payments and overpayments that wait for somebody. */
export default async function Page({ searchParams }: { searchParams: Promise<ListAddress> }) {
  const context = await signedInFor('read remittances');
  return (
    <FollowUps
      list={await readList(context, 'follow-ups', await searchParams)}
      today={context.today}
      owners={await workersOf(context, 'work follow-ups')}
    />
  );
}
