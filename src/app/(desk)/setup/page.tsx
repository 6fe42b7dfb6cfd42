import { redirect } from 'next/navigation';
import { signedInFor } from '../../session';

/** Setup begins with the practice itself. */
export default async function Page() {
  await signedInFor('read setup');
  redirect('/setup/practice');
}
