import { plansForForms } from '../../../../server/setup/choices';
import { signedInFor } from '../../../session';
import { NewHousehold } from './new-household';

export const metadata = { title: 'New household' };

export default async function Page() {
  const context = await signedInFor('register people');
  return <NewHousehold plans={await plansForForms(context)} />;
}
