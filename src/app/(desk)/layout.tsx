import { may } from '../../server/access';
import { IDLE_SECONDS } from '../../server/sign-in';
import { readWaiting } from '../../server/today/read';
import { Shell, type Station } from '../../ui/shell';
import { chosenTheme, signedIn } from '../session';

/** The shell around every page of a signed-in person. */
export default async function Desk({ children }: { children: React.ReactNode }) {
  const context = await signedIn();
  const [w, mode] = await Promise.all([readWaiting(context), chosenTheme()]);
  const { role } = context.user;
  const open = (permission: Parameters<typeof may>[1], href: string): string | undefined =>
    may(role, permission) ? href : undefined;
  const stations: Station[] = [
    { name: 'Today', href: '/' },
    { name: 'Accounts', href: '/accounts' },
    ...(may(role, 'read claims')
      ? [{ name: 'Claims', href: '/claims?view=fix', count: w.fix + w.ready + (w.unbilled > 0 ? 1 : 0) }]
      : []),
    ...(may(role, 'read remittances')
      ? [
          {
            name: 'Remittances',
            href: '/remittances?view=ready',
            count: w.remitReady + w.remitHeld + w.unmatched,
          },
        ]
      : []),
    { name: 'Payments', href: '/payments', count: w.credits },
    { name: 'Statements', href: '/statements', count: w.statementsDue },
    { name: 'Plans' },
    { name: 'Overdue' },
    ...(may(role, 'read books')
      ? [{ name: 'Books', href: open('read books', '/books') }]
      : [{ name: 'Books' }]),
    ...(may(role, 'read setup') ? [{ name: 'Setup', href: '/setup' }] : []),
  ];
  const verbs = [
    ...(may(role, 'register people') ? [{ words: 'New household', href: '/accounts/new' }] : []),
    ...(may(role, 'work claims')
      ? [
          { words: 'Check claims', href: '/claims?view=fix' },
          { words: 'Send claims', href: '/claims?view=ready' },
        ]
      : []),
    ...(may(role, 'post remittances')
      ? [
          { words: 'Post remittances', href: '/remittances?view=ready' },
          { words: 'Work follow-ups', href: '/remittances/follow-ups' },
        ]
      : []),
    { words: 'New payment', href: '/accounts?view=owes' },
    { words: 'Send statements', href: '/statements' },
  ];
  return (
    <Shell
      stations={stations}
      verbs={verbs}
      today={context.today}
      user={{ name: context.user.name, role }}
      mode={mode}
      idleSeconds={IDLE_SECONDS}
    >
      {children}
    </Shell>
  );
}
