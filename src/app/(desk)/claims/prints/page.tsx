import { readPrints } from '../../../../server/claims/printing';
import { signedInFor } from '../../../session';
import { PrintsView } from './prints-view';

/** What the browser shows as title. */
export const metadata = { title: 'Printed claims' };

/** Claims that were printed together, the newest first. */
export default async function Page() {
  return <PrintsView prints={await readPrints(await signedInFor('read claims'))} />;
}
