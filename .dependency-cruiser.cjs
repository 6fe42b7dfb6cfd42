/** app → server → core; server → db; ui → core; standins → core; never the other way, neither at run time nor in types, but where a rule says so. */
const from = (name, path, to, comment) => ({
  name,
  comment,
  severity: 'error',
  from: { path, pathNot: '\\.test\\.tsx?$' },
  to: { path: to },
});

/**
 * The stations in their order: each knows those before it, and of them only their door. What must happen in a later one is a
 * reaction in `server/settle`, the one ordered list.
 */
const STATIONS = [
  'estimates',
  'accounts',
  'claims',
  'remittances',
  'follow-ups',
  'plans',
  'statements',
  'overdue',
  'payments',
  'batches',
  'exchange',
  'account-page',
];
const anyOf = (stations) => `^src/server/(${stations.join('|')})/`;

module.exports = {
  forbidden: [
    ...STATIONS.slice(0, -1).map((station, at) =>
      from(
        `${station}-knows-none-after-it`,
        `^src/server/${station}/`,
        anyOf(STATIONS.slice(at + 1)),
        'Stations stand in an order, and none knows a later one.',
      ),
    ),
    {
      name: 'stations-by-their-doors',
      comment: 'What another station may ask or do stands in its door.',
      severity: 'error',
      from: { path: anyOf(STATIONS), pathNot: '\\.test\\.ts$' },
      to: { path: anyOf(STATIONS), pathNot: ['^src/server/$1/', '/door\\.ts$'] },
    },
    from(
      'core-is-pure',
      '^src/core',
      '^src/(db|server|app|ui|standins|demo|cli)',
      'The core computes; it reads and writes nothing.',
    ),
    {
      name: 'core-has-no-io',
      severity: 'error',
      from: { path: '^src/core', pathNot: '\\.test\\.ts$' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'core-has-no-react',
      severity: 'error',
      from: { path: '^src/core', pathNot: '\\.test\\.ts$' },
      to: { path: 'node_modules/(react|next|antd|pg|kysely)' },
    },
    from('db-knows-core-only', '^src/db', '^src/(server|app|ui|standins|demo|cli)'),
    from('server-knows-core-and-db', '^src/server', '^src/(app|ui|standins|demo|cli)'),
    from('standins-know-the-formats-only', '^src/standins', '^src/(db|server|app|ui|demo|cli)'),
    {
      name: 'ui-knows-core',
      comment: 'Types of what pages hand over, and actions, may come from above.',
      severity: 'error',
      from: { path: '^src/ui' },
      to: { path: '^src/(db|server|standins|demo|cli)', dependencyTypesNot: ['type-only'] },
    },
    from('ui-never-knows-app', '^src/ui', '^src/app', 'Not even its types.'),
    from('app-does-not-reach-around', '^src/app', '^src/(db|standins|demo|cli)'),
    {
      name: 'one-writer-of-the-journal',
      severity: 'error',
      from: { path: '^src/(app|ui|demo|cli)' },
      to: { path: '^src/server/books/journal' },
    },
    {
      name: 'no-circles',
      severity: 'error',
      from: {},
      to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only', 'dynamic-import'] } },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    enhancedResolveOptions: { extensions: ['.ts', '.tsx', '.js'] },
  },
};
