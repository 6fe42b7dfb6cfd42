import { type ListAddress, readList } from '../../../server/lists/read';
import { signedIn } from '../../session';
import { PaymentList } from './payment-list';

/** What the browser shows as title. */
export const metadata = { title: 'Payments' };

/** The list of receipts. */
export default async function Page({ searchParams }: { searchParams: Promise<ListAddress> }) {
  return <PaymentList list={await readList(await signedIn(), 'receipts', await searchParams)} />;
}
