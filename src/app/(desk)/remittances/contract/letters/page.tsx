import { type ListAddress, readList } from '../../../../../server/lists/read';
import { signedInFor } from '../../../../session';
import { ContractLetters } from './contract-letters';

/** What the browser shows as title. */
export const metadata = { title: 'Letters to payers' };

/** Letters by which payers were asked for what their contracts say. */
export default async function Page({ searchParams }: { searchParams: Promise<ListAddress> }) {
  const context = await signedInFor('read remittances');
  return <ContractLetters list={await readList(context, 'contract-letters', await searchParams)} />;
}
