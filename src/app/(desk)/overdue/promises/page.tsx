import { type ListAddress, readList } from '../../../../server/lists/read';
import { may } from '../../../../server/access';
import { signedIn } from '../../../session';
import { ContactList } from '../contact-list';

/** What the browser shows as title. */
export const metadata = { title: 'Promises' };

/** Promises: those not yet due, broken, kept. */
export default async function Page({ searchParams }: { searchParams: Promise<ListAddress> }) {
  const context = await signedIn();
  return (
    <ContactList
      part="promises"
      list={await readList(context, 'promises', await searchParams)}
      rights={{
        work: may(context.user.role, 'work overdue'),
        hardship: may(context.user.role, 'approve hardship'),
      }}
    />
  );
}
