import { type ListAddress, readList } from '../../../server/lists/read';
import { readWaiting, waitingIn } from '../../../server/today/read';
import { signedInFor } from '../../session';
import { RemittanceList } from './remittance-list';

/** What the browser shows as title. */
export const metadata = { title: 'Remittances' };

/** The list of remittances by what waits to be done with them. */
export default async function Page({ searchParams }: { searchParams: Promise<ListAddress> }) {
  const context = await signedInFor('read remittances');
  const [list, waiting] = await Promise.all([
    readList(context, 'remittances', await searchParams),
    readWaiting(context, ['follow-ups', 'payer-credit', 'keyed']),
  ]);
  return (
    <RemittanceList
      list={list}
      followUps={waitingIn(waiting, 'follow-ups', 'all')}
      credit={waitingIn(waiting, 'payer-credit', 'adjustments')}
      paper={waitingIn(waiting, 'keyed', 'open')}
    />
  );
}
