import { Link } from '../../../ui/link';
import { accountWords } from '../../../core/books/accounts';
import { trialBalance } from '../../../server/books/balances';
import { checkBooks } from '../../../server/books/check';
import { Columns, Head, Panel } from '../../../ui/page';
import { signedInFor } from '../../session';
import css from './books.module.css';
import { TrialBalance } from './trial-balance';

/** What the browser shows as title. */
export const metadata = { title: 'Books' };

/** The trial balance and the invariants, proven while the page is made. */
export default async function Page() {
  const context = await signedInFor('read books');
  const rows = await trialBalance(context);
  const checks = await checkBooks(context.db);
  const failed = checks.filter((check) => check.faults.length > 0);
  return (
    <>
      <Head
        title="Books"
        note={
          <span className={failed.length === 0 ? 'good' : 'stop'}>
            {failed.length === 0
              ? `proven: ${checks.length} invariants hold`
              : `${failed.length} invariants fail`}
          </span>
        }
      >
        <Link href="/books/reports">Reports</Link>
      </Head>
      <Columns>
        <Panel title="Trial balance">
          <TrialBalance rows={rows.map((row) => ({ ...row, words: accountWords(row.account) }))} />
        </Panel>
        <Panel title="What must hold">
          <ul className={css.checks}>
            {checks.map((check) => (
              <li key={check.id}>
                <span className={check.faults.length === 0 ? 'good' : 'stop'}>
                  {check.faults.length === 0 ? '✓ holds' : '■ fails'}
                </span>{' '}
                {check.words}
                {check.faults.slice(0, 5).map((fault) => (
                  <div className="small stop" key={fault}>
                    {fault}
                  </div>
                ))}
              </li>
            ))}
          </ul>
        </Panel>
      </Columns>
    </>
  );
}
