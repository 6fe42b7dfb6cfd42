import { PAGE_SIZE } from '../../../server/accounts/read';
import { listStatements } from '../../../server/statements/read';
import { signedIn } from '../../session';
import { StatementList } from './statement-list';

/** What the browser shows as title. */
export const metadata = { title: 'Statements' };

/** The list of statements, and households with a balance that have had none lately. */
export default async function Page({
  searchParams,
}: {
  searchParams: Promise<{ view?: string; page?: string }>;
}) {
  const context = await signedIn();
  const { view, page = '1' } = await searchParams;
  const chosen = view === 'sent' ? 'sent' : 'due';
  return (
    <StatementList
      {...await listStatements(context, { view: chosen, page: Math.max(1, Number(page) || 1) })}
      view={chosen}
      today={context.today}
      pageSize={PAGE_SIZE}
    />
  );
}
