import Link from 'next/link';
import { may } from '../../server/access';
import { type Waiting, readToday, readWaiting } from '../../server/today/read';
import { Figure, Money } from '../../ui/figures';
import { AgingChart, MonthChart } from '../../ui/charts';
import { signedIn } from '../session';

/** What the browser shows as title. */
export const metadata = { title: 'Today' };

const LINES: {
  key: keyof Waiting;
  total: keyof Waiting;
  /** After the number one, and after any other. */
  words: [one: string, many: string];
  href: string;
  permission: 'read accounts' | 'read claims' | 'read remittances';
}[] = [
  {
    key: 'fix',
    total: 'fixTotal',
    words: ['claim needs fixing or was rejected', 'claims need fixing or were rejected'],
    href: '/claims?view=fix',
    permission: 'read claims',
  },
  {
    key: 'unbilled',
    total: 'unbilledTotal',
    words: ['charge is not on a claim yet', 'charges are not on a claim yet'],
    href: '/claims?view=ready',
    permission: 'read claims',
  },
  {
    key: 'ready',
    total: 'readyTotal',
    words: ['claim is ready to send', 'claims are ready to send'],
    href: '/claims?view=ready',
    permission: 'read claims',
  },
  {
    key: 'unanswered',
    total: 'unansweredTotal',
    words: ['claim is unanswered for two weeks', 'claims are unanswered for two weeks'],
    href: '/claims?view=sent',
    permission: 'read claims',
  },
  {
    key: 'remitReady',
    total: 'remitReadyTotal',
    words: ['remittance is ready to post', 'remittances are ready to post'],
    href: '/remittances?view=ready',
    permission: 'read remittances',
  },
  {
    key: 'remitHeld',
    total: 'remitHeldTotal',
    words: ['remittance does not balance', 'remittances do not balance'],
    href: '/remittances?view=held',
    permission: 'read remittances',
  },
  {
    key: 'unmatched',
    total: 'unmatchedTotal',
    words: ['paid claim matches none of ours', 'paid claims match none of ours'],
    href: '/remittances?view=unmatched',
    permission: 'read remittances',
  },
  {
    key: 'followUps',
    total: 'followUpsTotal',
    words: ['denial or short payment to follow up', 'denials and short payments to follow up'],
    href: '/remittances/follow-ups',
    permission: 'read remittances',
  },
  {
    key: 'credits',
    total: 'creditsTotal',
    words: ['household holds credit not applied', 'households hold credit not applied'],
    href: '/accounts?view=credit',
    permission: 'read accounts',
  },
  {
    key: 'statementsDue',
    total: 'statementsDueTotal',
    words: ['household is due a statement', 'households are due a statement'],
    href: '/statements',
    permission: 'read accounts',
  },
];

/** Today: what waits at each station, money to and fro, and aging. */
export default async function Page() {
  const context = await signedIn();
  const [w, figures] = await Promise.all([readWaiting(context), readToday(context)]);
  return (
    <>
      <div className="head">
        <h1>Today</h1>
      </div>
      <div className="figures" style={{ marginBottom: 14, width: 'fit-content' }}>
        <Figure words="Expected from payers" cents={figures.withPayers} />
        <Figure words="Owed by patients" cents={figures.withPatients} />
        <Figure words="Held as credit" cents={figures.credit} />
        <Figure words="Received in 7 days" cents={figures.receivedThisWeek} />
      </div>
      <div className="columns wide">
        <section className="panel" aria-label="What waits">
          <h2>What waits</h2>
          <ul className="waits">
            {LINES.filter((line) => may(context.user.role, line.permission)).map((line) => (
              <li key={line.key} className={w[line.key] === 0 ? 'none' : ''}>
                <b>{w[line.key] === 0 ? '–' : w[line.key]}</b>
                <Link href={line.href}>{line.words[w[line.key] === 1 ? 0 : 1]}</Link>
                <Money cents={w[line.total]} />
              </li>
            ))}
          </ul>
        </section>
        <section className="panel" aria-label="Age of what is owed">
          <h2>Age of what is owed, in days</h2>
          <AgingChart patients={figures.aging} payers={figures.payerAging} />
        </section>
      </div>
      <section className="panel" style={{ marginTop: 14 }} aria-label="Money by month">
        <h2>Charged and received, by month</h2>
        <MonthChart months={figures.months} />
      </section>
    </>
  );
}
