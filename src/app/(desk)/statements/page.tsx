import { type ListAddress, readList } from '../../../server/lists/read';
import { signedIn } from '../../session';
import { StatementList, StatementsDue } from './statement-list';

/** What the browser shows as title. */
export const metadata = { title: 'Statements' };

/** Households that are due a statement, and the statements sent. */
export default async function Page({ searchParams }: { searchParams: Promise<ListAddress> }) {
  const context = await signedIn();
  const address = await searchParams;
  return address.view === 'sent' ? (
    <StatementList list={await readList(context, 'statements', address)} />
  ) : (
    <StatementsDue list={await readList(context, 'statements-due', address)} today={context.today} />
  );
}
