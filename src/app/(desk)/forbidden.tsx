import { Link } from '../../ui/link';
import { Head } from '../../ui/page';
import { signedIn } from '../session';

/** What stands in place of a page that is not for this role. */
export default async function Forbidden() {
  const { role } = (await signedIn()).user;
  return (
    <>
      <Head title="Not for your role" />
      <p>Somebody with the role “{role}” does not look at this page. Whoever needs it asks a manager.</p>
      <Link href="/">Go to Today</Link>
    </>
  );
}
