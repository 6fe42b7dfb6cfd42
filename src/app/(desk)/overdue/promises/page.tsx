import { type ListAddress, readList } from '../../../../server/lists/read';
import { signedIn } from '../../../session';
import { ContactList } from '../contact-list';

/** What the browser shows as title. */
export const metadata = { title: 'Promises' };

/** Promises: those not yet due, broken, kept. */
export default async function Page({ searchParams }: { searchParams: Promise<ListAddress> }) {
  const context = await signedIn();
  return <ContactList part="promises" list={await readList(context, 'promises', await searchParams)} />;
}
