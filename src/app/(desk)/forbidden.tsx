import { Link } from '../../ui/link';
import { Head } from '../../ui/page';
import { signedIn } from '../session';

/** What stands in place of a page that is not for this role, or of an account that is closed to who asks. */
export default async function Forbidden() {
  const { role } = (await signedIn()).user;
  return (
    <>
      <Head title="Not open to you" />
      <p>
        Somebody with the role “{role}” does not look at this page, or the account is closed to all but the
        people who are named for it. Whoever needs it asks a manager.
      </p>
      <Link href="/">Go to Today</Link>
    </>
  );
}
