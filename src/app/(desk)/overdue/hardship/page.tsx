import { type ListAddress, readList } from '../../../../server/lists/read';
import { may } from '../../../../server/access';
import { signedIn } from '../../../session';
import { ContactList } from '../contact-list';

/** What the browser shows as title. */
export const metadata = { title: 'Hardship' };

/** Reductions for who cannot pay: asked for, decided. */
export default async function Page({ searchParams }: { searchParams: Promise<ListAddress> }) {
  const context = await signedIn();
  return (
    <ContactList
      part="hardship"
      list={await readList(context, 'hardship', await searchParams)}
      rights={{
        work: may(context.user.role, 'work overdue'),
        hardship: may(context.user.role, 'approve hardship'),
      }}
    />
  );
}
