import { plansForForms } from '../../../../server/setup/choices';
import { signedInFor } from '../../../session';
import { NewHousehold } from './new-household';

/** What the browser shows as title. */
export const metadata = { title: 'New household' };

/** Registration of a household. */
export default async function Page() {
  const context = await signedInFor('register people');
  return <NewHousehold plans={await plansForForms(context)} />;
}
