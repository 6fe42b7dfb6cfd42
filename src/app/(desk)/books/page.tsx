import { Suspense } from 'react';
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

/** The trial balance at once, and the invariants, proven while the page is looked at. */
export default async function Page() {
  const context = await signedInFor('read books');
  // Begun before the balance is read, and waited for where it is shown.
  const proving = checkBooks(context.db);
  proving.catch(() => undefined);
  const rows = await trialBalance(context);
  return (
    <>
      <Head
        title="Books"
        note={
          <Suspense fallback="proving the books …">
            <Proven proving={proving} />
          </Suspense>
        }
      >
        <Link href="/books/contracts">Contracts</Link>
        <Link href="/books/reports">Reports</Link>
      </Head>
      <Columns>
        <Panel title="Trial balance">
          <TrialBalance rows={rows.map((row) => ({ ...row, words: accountWords(row.account) }))} />
        </Panel>
        <Panel title="What must hold">
          <Suspense fallback={<p className="quiet">Proving …</p>}>
            <Invariants proving={proving} />
          </Suspense>
        </Panel>
      </Columns>
    </>
  );
}

type Proving = ReturnType<typeof checkBooks>;

async function Proven({ proving }: { proving: Proving }) {
  const checks = await proving;
  const failed = checks.filter((check) => check.faults.length > 0).length;
  return (
    <span className={failed === 0 ? 'good' : 'stop'}>
      {failed === 0 ? `proven: ${checks.length} invariants hold` : `${failed} invariants fail`}
    </span>
  );
}

async function Invariants({ proving }: { proving: Proving }) {
  return (
    <ul className={css.checks}>
      {(await proving).map((check) => (
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
  );
}
