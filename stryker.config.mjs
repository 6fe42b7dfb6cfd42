/**
 * Mutation of the rules of money, by hand and not in CI: `npm run mutate` for the core, `WERGELD_MUTATE=server npm run mutate`
 * for the use cases, which need DATABASE_URL. What came of it stands in docs/mutations.md.
 */
import { createRequire } from 'node:module';

const { projects } = createRequire(import.meta.url)('./jest.config.cjs');
const server = process.env.WERGELD_MUTATE === 'server';
const [core, database] = projects;
/** The tests of the rooms and of what posts through them. */
const tests = {
  ...database,
  testMatch: [
    '<rootDir>/src/server/{books,remittances,payments,follow-ups,plans}/**/*.test.ts',
    '<rootDir>/src/server/accounts/bill-patient.test.ts',
    '<rootDir>/src/server/statements/envelopes.test.ts',
  ],
};
const rooms = server
  ? 'src/server/{books,remittances,payments}'
  : 'src/core/{books,remittances,estimates,claims,payments}';

/** What Stryker is told. */
export default {
  mutate: [`${rooms}/*.ts`, `!${rooms}/*.test.ts`],
  testRunner: 'jest',
  jest: { projectType: 'custom', config: server ? tests : core },
  // A test compares the types of the tables with their file, which must not be touched; swc asks for no types.
  disableTypeChecks: false,
  coverageAnalysis: 'perTest',
  dryRunTimeoutMinutes: 30,
  // Words are looked at by people; a mutated sentence proves nothing.
  mutator: { excludedMutations: ['StringLiteral'] },
  ignoreStatic: true,
  concurrency: Number(process.env.WERGELD_MUTATE_AT_ONCE ?? 1),
  tempDirName: '.data/stryker',
  incremental: true,
  incrementalFile: `.data/mutations-${server ? 'server' : 'core'}.json`,
  reporters: ['clear-text', 'progress', 'json'],
  jsonReporter: { fileName: `.data/mutations-${server ? 'server' : 'core'}-report.json` },
  clearTextReporter: { allowColor: false, logTests: false },
};
