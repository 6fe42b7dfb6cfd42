/**
 * Mutation of the rules of money, by hand and not in CI: `npm run mutate` for the core, `WERGELD_MUTATE=server npm run mutate`
 * for the use cases, which need DATABASE_URL. What came of it stands in docs/mutations.md.
 */
import { readdirSync } from 'node:fs';
import { createRequire } from 'node:module';
import { join, resolve } from 'node:path';

const { projects } = createRequire(import.meta.url)('./jest.config.cjs');
const server = process.env.WERGELD_MUTATE === 'server';
const rooms = server
  ? 'src/server/{books,remittances,payments}'
  : 'src/core/{books,remittances,estimates,claims,payments}';
/** The tests of the rooms and of what posts through them. */
const TESTS =
  /^((books|remittances|payments|follow-ups|plans|reports|exchange|lists|jobs)\/.*|accounts\/(accounts|bill-patient|coverage|doubts)|claims\/replace|others|use-cases|overdue\/agency|statements\/envelopes)\.test\.ts$/;
const databaseTests = readdirSync('src/server', { recursive: true })
  .filter((name) => TESTS.test(name))
  .map((name) => join('src/server', name));
// What it compiles is kept by nobody: in a shared folder it could be somebody else's.
process.env.TSX_DISABLE_CACHE = '1';
process.env.WERGELD_MUTATE_TIMES = resolve('.data/mutations-times.json');

/** What Stryker is told. */
export default {
  mutate: [`${rooms}/*.ts`, `!${rooms}/*.test.ts`],
  ...(server
    ? {
        plugins: ['./bench/mutation-runner.mjs'],
        testRunner: 'database',
        testRunnerNodeArgs: ['--import', 'tsx'],
        databaseTests,
        timeoutMS: 20_000,
        maxTestRunnerReuse: 150,
      }
    : { testRunner: 'jest', jest: { projectType: 'custom', config: projects[0] } }),
  // A test compares the types of the tables with their file, which must not be touched; the transpilers ask for no types.
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
