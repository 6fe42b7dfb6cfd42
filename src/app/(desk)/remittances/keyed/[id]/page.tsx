import { keyedPayers, readKeyed } from '../../../../../server/remittances/keyed-page';
import { idOf, orNotFound, signedInFor } from '../../../../session';
import { KeyedView } from './keyed-view';

/** What the browser shows as title. */
export const metadata = { title: 'Paper remittance' };

/** A remittance that is keyed from paper. */
export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  const context = await signedInFor('post remittances');
  const [keyed, payers] = await Promise.all([
    orNotFound(idOf(params).then((id) => readKeyed(context, id))),
    keyedPayers(context),
  ]);
  return <KeyedView keyed={keyed} payers={payers} />;
}
