import { may } from '../../../../../server/access';
import { readPlacement } from '../../../../../server/overdue/placement-page';
import { idOf, orNotFound, signedIn } from '../../../../session';
import { PlacementView } from './placement-view';

/** What the browser shows as title. */
export const metadata = { title: 'Placement' };

/** One placement with its evidence. */
export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  const context = await signedIn();
  const placement = await orNotFound(idOf(params).then((id) => readPlacement(context, id)));
  const { role } = context.user;
  return (
    <PlacementView
      placement={placement}
      today={context.today}
      rights={{
        work: may(role, 'work overdue'),
        approve: may(role, 'approve placements'),
        money: may(role, 'post agency money'),
        reverse: may(role, 'reverse entries'),
        payments: may(role, 'take payments'),
      }}
    />
  );
}
