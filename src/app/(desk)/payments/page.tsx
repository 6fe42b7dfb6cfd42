import { PAGE_SIZE } from '../../../server/accounts/read';
import { listReceipts } from '../../../server/payments/read';
import { signedIn } from '../../session';
import { PaymentList } from './payment-list';

/** What the browser shows as title. */
export const metadata = { title: 'Payments' };

/** The list of receipts. */
export default async function Page({
  searchParams,
}: {
  searchParams: Promise<{ search?: string; page?: string }>;
}) {
  const context = await signedIn();
  const { search = '', page = '1' } = await searchParams;
  return (
    <PaymentList
      {...await listReceipts(context, { search, page: Math.max(1, Number(page) || 1) })}
      search={search}
      pageSize={PAGE_SIZE}
    />
  );
}
