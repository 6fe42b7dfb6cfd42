import { may } from '../../../../server/access';
import { type ListAddress, readList } from '../../../../server/lists/read';
import { readAgencyStatements } from '../../../../server/overdue/agency-statement';
import { readAgencies } from '../../../../server/overdue/placement-page';
import { signedIn } from '../../../session';
import { PlacementList } from './placement-list';

/** What the browser shows as title. */
export const metadata = { title: 'Agencies' };

/** Placements with agencies, what is owed to them, and their monthly statements against our books. */
export default async function Page({ searchParams }: { searchParams: Promise<ListAddress> }) {
  const context = await signedIn();
  const { role } = context.user;
  const mayRead = may(role, 'read books');
  const [list, agencies, statements] = await Promise.all([
    readList(context, 'placements', await searchParams),
    readAgencies(context),
    mayRead ? readAgencyStatements(context) : [],
  ]);
  return <PlacementList list={list} agencies={agencies} statements={statements} />;
}
