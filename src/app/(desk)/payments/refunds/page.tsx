import { type ListAddress, readList } from '../../../../server/lists/read';
import { signedIn } from '../../../session';
import { RefundsView } from './refunds-view';

/** What the browser shows as title. */
export const metadata = { title: 'Refunds to approve' };

/** Refunds that were asked for because they are above what one may give back without a manager. */
export default async function Page({ searchParams }: { searchParams: Promise<ListAddress> }) {
  return <RefundsView list={await readList(await signedIn(), 'refund-requests', await searchParams)} />;
}
