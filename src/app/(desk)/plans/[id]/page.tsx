import { readPlan } from '../../../../server/plans/read';
import { idOf, orNotFound, signedIn } from '../../../session';
import { PlanView } from './plan-view';

/** What the browser shows as title. */
export const metadata = { title: 'Plan' };

/** One plan: what was agreed, where it stands, its installments. */
export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  const context = await signedIn();
  const plan = await orNotFound(idOf(params).then((id) => readPlan(context, id)));
  return <PlanView plan={plan} />;
}
