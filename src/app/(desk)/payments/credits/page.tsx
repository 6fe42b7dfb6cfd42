import { type ListAddress, readList } from '../../../../server/lists/read';
import { signedIn } from '../../../session';
import { CreditsView } from './credits-view';

/** What the browser shows as title. */
export const metadata = { title: 'Credit' };

/** Credit that is held, account by account. */
export default async function Page({ searchParams }: { searchParams: Promise<ListAddress> }) {
  return <CreditsView list={await readList(await signedIn(), 'credits', await searchParams)} />;
}
