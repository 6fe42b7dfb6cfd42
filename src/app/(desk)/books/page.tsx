import { ZERO, add } from '../../../core/money';
import { checkBooks } from '../../../server/books/check';
import { trialBalance } from '../../../server/books/read';
import { Money } from '../../../ui/figures';
import { signedInFor } from '../../session';

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
      <div className="head">
        <h1>Books</h1>
        <span className={failed.length === 0 ? 'good' : 'stop'}>
          {failed.length === 0
            ? `proven: ${checks.length} invariants hold`
            : `${failed.length} invariants fail`}
        </span>
      </div>
      <div className="columns">
        <section className="panel" aria-label="Trial balance">
          <h2>Trial balance</h2>
          <table className="entries">
            <thead>
              <tr>
                <td>Account</td>
                <td className="money quiet">Debits</td>
                <td className="money quiet">Credits</td>
                <td className="money quiet">Balance</td>
              </tr>
            </thead>
            <tbody>
              {rows.map((row) => (
                <tr key={row.account}>
                  <td>{row.account}</td>
                  <td className="money">
                    <Money cents={row.debits} />
                  </td>
                  <td className="money">
                    <Money cents={row.credits} />
                  </td>
                  <td className="money">
                    <Money cents={row.balance} />
                  </td>
                </tr>
              ))}
              <tr>
                <td>
                  <strong>Together</strong>
                </td>
                <td className="money">
                  <Money strong cents={rows.reduce((all, row) => add(all, row.debits), ZERO)} />
                </td>
                <td className="money">
                  <Money strong cents={rows.reduce((all, row) => add(all, row.credits), ZERO)} />
                </td>
                <td className="money">
                  <Money strong cents={rows.reduce((all, row) => add(all, row.balance), ZERO)} />
                </td>
              </tr>
            </tbody>
          </table>
        </section>
        <section className="panel" aria-label="Invariants">
          <h2>What must hold</h2>
          <ul style={{ margin: 0, paddingLeft: 0, listStyle: 'none' }}>
            {checks.map((check) => (
              <li key={check.id} style={{ padding: '3px 0' }}>
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
        </section>
      </div>
      <p className="quiet small">Day sheet, deposits, period close and reports are coming here.</p>
    </>
  );
}
