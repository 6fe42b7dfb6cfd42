import { readCheck } from '../../../../../server/claims/check-only';
import { idOf, orNotFound, signedInFor } from '../../../../session';
import { CheckView } from './check-view';

/** What the browser shows as title. */
export const metadata = { title: 'Check of claims' };

/** What a check has found, by what mends it, and how far it is mended. */
export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  const context = await signedInFor('read claims');
  return <CheckView check={await orNotFound(idOf(params).then((id) => readCheck(context, id)))} />;
}
