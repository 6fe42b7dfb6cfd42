/** The pages of Setup that a role sees. */
import { type Role, may } from '../../../server/access';
import { setupTables } from '../../../server/setup/tables';

/** The tables, then what is about people who sign in. */
export const setupPages = (role: Role): { key: string; title: string }[] => [
  ...setupTables()
    .filter(({ partOf }) => partOf === undefined)
    .map(({ key, title }) => ({ key, title })),
  ...(may(role, 'change setup') ? [{ key: 'added', title: 'Codes added while entering' }] : []),
  ...(may(role, 'manage users') ? [{ key: 'users', title: 'Users' }] : []),
  ...(may(role, 'read the audit trail') ? [{ key: 'audit', title: 'Audit trail' }] : []),
];
