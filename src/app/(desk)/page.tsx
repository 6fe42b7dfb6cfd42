import { Link } from '../../ui/link';
import { may } from '../../server/access';
import { readToday, readWaiting } from '../../server/today/read';
import { AgingChart, MonthChart } from '../../ui/charts';
import { Figure, Figures, Money } from '../../ui/figures';
import { Columns, Head, Panel } from '../../ui/page';
import { signedIn } from '../session';
import css from './today.module.css';

/** What the browser shows as title. */
export const metadata = { title: 'Today' };

/** Today: what waits at each station, money to and fro, and aging. */
export default async function Page() {
  const context = await signedIn();
  const [waiting, figures] = await Promise.all([readWaiting(context), readToday(context)]);
  return (
    <>
      <Head title="Today" />
      <Figures label="What is open">
        <Figure
          words="Expected from payers"
          cents={figures.withPayers}
          href={may(context.user.role, 'read claims') ? '/claims/waiting' : undefined}
        />
        <Figure words="Owed by patients" cents={figures.withPatients} href="/accounts?view=owes" />
        <Figure words="Held as credit" cents={figures.credit} href="/accounts?view=credit" />
        <Figure
          words="Received in 7 days"
          cents={figures.receivedThisWeek}
          href={may(context.user.role, 'read books') ? '/books/reports/received' : undefined}
        />
      </Figures>
      <Columns wide>
        <Panel title="What waits">
          <ul className={css.waits}>
            {waiting.map(({ list, view, count, words, href, total }) => (
              <li key={`${list} ${view}`} className={count === 0 ? css.none : undefined}>
                <b>{count === 0 ? '–' : count}</b>
                <Link href={href}>{words[count === 1 ? 0 : 1]}</Link>
                <Money cents={total} />
              </li>
            ))}
          </ul>
        </Panel>
        <Panel title="Age of what is owed, in days">
          <AgingChart patients={figures.aging} payers={figures.payerAging} />
        </Panel>
      </Columns>
      <Panel title="Charged and received, by month" below>
        <MonthChart months={figures.months} />
      </Panel>
    </>
  );
}
