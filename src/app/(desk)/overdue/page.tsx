import { type ListAddress, readList } from '../../../server/lists/read';
import { workers } from '../../../server/overdue/contacts';
import { readAgencies } from '../../../server/overdue/placement-page';
import { signedIn } from '../../session';
import { OverdueList } from './overdue-list';

/** What the browser shows as title. */
export const metadata = { title: 'Overdue' };

/** The accounts that are past due, what is worth doing first at the top. */
export default async function Page({ searchParams }: { searchParams: Promise<ListAddress> }) {
  const context = await signedIn();
  const [list, people, agencies] = await Promise.all([
    readList(context, 'overdue', await searchParams),
    workers(context),
    readAgencies(context),
  ]);
  return (
    <OverdueList
      list={list}
      people={people}
      agencies={agencies.map(({ id, name }) => ({ value: id, label: name }))}
    />
  );
}
