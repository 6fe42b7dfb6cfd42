import { type ListAddress, readList } from '../../../../server/lists/read';
import { signedIn } from '../../../session';
import { ContactList } from '../contact-list';

/** What the browser shows as title. */
export const metadata = { title: 'Hardship' };

/** Reductions for who cannot pay: asked for, decided. */
export default async function Page({ searchParams }: { searchParams: Promise<ListAddress> }) {
  const context = await signedIn();
  return <ContactList part="hardship" list={await readList(context, 'hardship', await searchParams)} />;
}
