import { type ListAddress, readList } from '../../../../server/lists/read';
import { signedInFor } from '../../../session';
import { PayerCredit } from './payer-credit';

/** What the browser shows as title. */
export const metadata = { title: 'Payer credit' };

/** What is in the payers' credit: provider adjustments, and claims whose money is held. */
export default async function Page({ searchParams }: { searchParams: Promise<ListAddress> }) {
  const context = await signedInFor('read remittances');
  return <PayerCredit list={await readList(context, 'payer-credit', await searchParams)} />;
}
