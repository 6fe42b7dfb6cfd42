import { type ListAddress, readList } from '../../../server/lists/read';
import { runningPlans } from '../../../server/plans/read';
import { signedIn } from '../../session';
import { PlanBoard } from './plan-board';
import { PlanList } from './plan-list';

/** What the browser shows as title. */
export const metadata = { title: 'Plans' };

/** The plans that run, with where each stands and what is due; or the list of all. */
export default async function Page({
  searchParams,
}: {
  searchParams: Promise<ListAddress & { days?: string }>;
}) {
  const context = await signedIn();
  const address = await searchParams;
  if (address.view !== undefined) return <PlanList list={await readList(context, 'plans', address)} />;
  return <PlanBoard plans={await runningPlans(context)} today={context.today} />;
}
