import { Link } from '../../../../ui/link';
import { may } from '../../../../server/access';
import { REPORTS } from '../../../../server/reports';
import { Head, Panel } from '../../../../ui/page';
import { signedInFor } from '../../../session';

/** What the browser shows as title. */
export const metadata = { title: 'Reports' };

/** Every report that the role may read, with what it says. */
export default async function Page() {
  const { user } = await signedInFor('read books');
  const reports = REPORTS.filter((report) => may(user.role, report.permission));
  return (
    <>
      <Head title="Reports" note={reports.length} />
      <Panel>
        <ul>
          {reports.map(({ name, title, about }) => (
            <li key={name}>
              <Link href={`/books/reports/${name}`}>{title}</Link> <span className="quiet">{about}</span>
            </li>
          ))}
        </ul>
      </Panel>
    </>
  );
}
