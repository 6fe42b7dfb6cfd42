import { readPlacement } from '../../../../../server/overdue/placement-page';
import { idOf, orNotFound, signedIn } from '../../../../session';
import { PlacementView } from './placement-view';

/** What the browser shows as title. */
export const metadata = { title: 'Placement' };

/** One placement with its evidence. */
export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  const context = await signedIn();
  const placement = await orNotFound(idOf(params).then((id) => readPlacement(context, id)));
  return <PlacementView placement={placement} today={context.today} />;
}
