/** The stations of the rail in the order of the work, and the verbs that the search field takes. */
import { type Permission, type Role, may } from '../../server/access';
import type { Waiting } from '../../server/today/read';
import type { Verb } from '../../ui/search';
import type { Station } from '../../ui/shell';

/** Every station: where it begins, and who sees it. */
const STATIONS: readonly { name: string; href: string; permission: Permission }[] = [
  { name: 'Today', href: '/', permission: 'read accounts' },
  { name: 'Accounts', href: '/accounts', permission: 'read accounts' },
  { name: 'Claims', href: '/claims', permission: 'read claims' },
  { name: 'Remittances', href: '/remittances', permission: 'read remittances' },
  { name: 'Payments', href: '/payments', permission: 'read accounts' },
  { name: 'Statements', href: '/statements', permission: 'read accounts' },
  { name: 'Plans', href: '/plans', permission: 'read accounts' },
  { name: 'Overdue', href: '/overdue', permission: 'read accounts' },
  { name: 'Books', href: '/books', permission: 'read books' },
  { name: 'Setup', href: '/setup', permission: 'read setup' },
];

/** The stations that a role sees, each with what waits there. */
export const stationsFor = (role: Role, waiting: readonly Waiting[]): Station[] =>
  STATIONS.filter(({ permission }) => may(role, permission)).map(({ name, href }) => ({
    name,
    href,
    count: waiting
      .filter((item) => item.rail && item.station === name)
      .reduce((all, item) => all + item.count, 0),
  }));

const VERBS: readonly (Verb & { permission: Permission })[] = [
  { words: 'New household', href: '/accounts/new', permission: 'register people' },
  { words: 'New payment', href: '/accounts?view=owes', permission: 'take payments' },
  { words: 'Check claims', href: '/claims?view=fix', permission: 'work claims' },
  { words: 'Send claims', href: '/claims?view=ready', permission: 'work claims' },
  { words: 'Post remittances', href: '/remittances?view=ready', permission: 'post remittances' },
  { words: 'Key a remittance from paper', href: '/remittances/keyed?new=1', permission: 'post remittances' },
  { words: 'Work follow-ups', href: '/remittances/follow-ups', permission: 'work follow-ups' },
  { words: 'Check payments by contract', href: '/remittances/contract', permission: 'read remittances' },
  { words: 'Send statements', href: '/statements', permission: 'send statements' },
  { words: 'Collect installments', href: '/plans', permission: 'take payments' },
  { words: 'Work what is overdue', href: '/overdue', permission: 'work overdue' },
  { words: 'Prepare letters', href: '/overdue?view=letters', permission: 'work overdue' },
  {
    words: 'Decide about agencies',
    href: '/overdue/placements?view=proposed',
    permission: 'approve placements',
  },
  { words: 'Look at background work', href: '/work', permission: 'watch work' },
  { words: 'Review contracts', href: '/books/contracts', permission: 'read books' },
  { words: 'Compare fee schedules', href: '/fees/compare', permission: 'read setup' },
  { words: 'Read a report', href: '/books/reports', permission: 'read books' },
];

/** The verbs of a role. */
export const verbsFor = (role: Role): Verb[] =>
  VERBS.filter(({ permission }) => may(role, permission)).map(({ words, href }) => ({ words, href }));
