import { Link } from '../../ui/link';
import { Head } from '../../ui/page';

/** What stands in place of a page that is not there. */
export default function Missing() {
  return (
    <>
      <Head title="There is nothing here" />
      <p>The address is mistyped, or what was there is gone.</p>
      <Link href="/">Go to Today</Link>
    </>
  );
}
