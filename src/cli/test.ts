/** `test`: everything that CI runs, on databases of its own; or one part, or one file. */
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { cpus, tmpdir } from 'node:os';
import { join, relative } from 'node:path';
import pino from 'pino';
import { closePool, db } from '../db/connect';
import { takeUpLeft } from '../server/jobs/run';
import { asOwner, prepareDatabase } from './database';
import { makeQueues } from '../server/jobs/worker';
import { Stop, dataDir, installPackages, startCluster } from './cluster';
import { BEGINNING } from '../testing/clock';
import { build, prepareDemo, start } from './serve';

/** How a run goes: which parts, or which files of them. */
interface Run {
  passed: number;
  failed: number;
  /** Seconds by part, for the table at the end; the processors' while nothing else runs on the machine. */
  took: { part: string; clock: number; processor: number }[];
  /** Paths or pieces of them; empty for all. */
  files: readonly string[];
  /** At most so many at once. */
  workers: number;
}

const PARTS = { checks, core, database, browser } as const;
type Part = keyof typeof PARTS;
const PART_NAMES = Object.keys(PARTS) as Part[];

/** Of the databases of tests alone. */
const SECRET = 'a secret for tests only, of no use elsewhere';

const bin = (name: string): string => join('node_modules', '.bin', name);

/** The part in whose folder a test file lies. @throws Stop for a path that is none */
function partOf(file: string): Part {
  if (!existsSync(file))
    throw new Stop(`There is no file ${file}, and no part of that name: ${PART_NAMES.join(', ')}`);
  if (file.startsWith('e2e')) return 'browser';
  return /^src\/(server|db|cli)\b/.test(file) ? 'database' : 'core';
}

/**
 * Runs all parts, those named, or the files named; ends with `N passed, N failed`.
 * @param options `full`: volumes at their whole size and fresh seeds; `workers`: so many at once; `shuffle`: a seed for another order
 */
export async function test(
  words: readonly string[],
  options: { full?: boolean; workers?: string; shuffle?: string } = {},
): Promise<number> {
  if (words[0] === 'open') return open(words[1]);
  const named = words.filter((word): word is Part => Object.hasOwn(PARTS, word));
  const files = words.filter((word) => !Object.hasOwn(PARTS, word)).map((path) => path.replace(/^\.\//, ''));
  const parts = new Set([...named, ...files.map(partOf)]);
  const workers = Number(options.workers ?? 2);
  if (!Number.isInteger(workers) || workers < 1) throw new Stop(`“${options.workers}” workers make no sense`);
  const run: Run = { passed: 0, failed: 0, took: [], files, workers };
  const given = process.env.DATABASE_URL;
  const cluster = given
    ? { url: given.replace(/\/[^/]*$/, '/wergeld_test'), stop: () => undefined }
    : await startCluster('wergeld_test', 'test');
  process.env.DATABASE_URL = cluster.url;
  process.env.WERGELD_SECRET = SECRET;
  if (options.full) process.env.WERGELD_FULL = '1';
  if (options.shuffle) process.env.WERGELD_SHUFFLE = options.shuffle;
  // What others compile for a run lies in the checkout too: in a shared folder it could be somebody else's.
  process.env.PWTEST_CACHE_DIR = join(dataDir(), 'playwright');
  const folder = mkdtempSync(join(tmpdir(), 'wergeld-test-'));
  process.env.WERGELD_EXCHANGE = join(folder, 'exchange');
  try {
    for (const name of PART_NAMES)
      if (parts.size === 0 || parts.has(name)) {
        const [clock, processor] = [Date.now(), busySeconds()];
        await PARTS[name](run);
        run.took.push({
          part: name,
          clock: Math.round((Date.now() - clock) / 1000),
          processor: Math.round(busySeconds() - processor),
        });
      }
  } finally {
    await closePool();
    // What failed is left to be looked into.
    cluster.stop(run.failed === 0);
    rmSync(folder, { recursive: true, force: true });
  }
  for (const { part, clock, processor } of run.took)
    process.stdout.write(`${part.padEnd(9)} ${clock} s by the clock, ${processor} s of processor time\n`);
  process.stdout.write(`${run.passed} passed, ${run.failed} failed\n`);
  return run.failed === 0 && run.passed > 0 ? 0 : 1;
}

/** Serves the database that a test has left when it failed; its users are the demo's. @throws Stop when there is none of the name */
async function open(name: string | undefined): Promise<number> {
  if (!name || !/^\w+$/.test(name))
    throw new Stop('Say which database: ./wergeld test open wergeld_failed_…');
  const { url, stop } = await startCluster('wergeld_test', 'test');
  try {
    const known = await asOwner(url, (pool) =>
      pool.query('select 1 from pg_database where datname = $1', [name]),
    );
    if (known.rowCount === 0)
      throw new Stop(`There is no database ${name}: a run that passes takes all away`);
    process.env.DATABASE_URL = url.replace(/[^/]*$/, name);
    process.env.WERGELD_SECRET = SECRET;
    return await start();
  } finally {
    stop();
  }
}

/**
 * Seconds for which the machine's processors have been busy, whoever kept them so: the database and the pages of Chromium are
 * nobody's children whose time could be asked for.
 */
const busySeconds = (): number =>
  cpus().reduce((all, { times }) => all + times.user + times.nice + times.sys + times.irq, 0) / 1000;

/** Types, lint, format, unused code and import rules: one each. */
async function checks(run: Run): Promise<void> {
  const { writeStyles } = await import('./styles');
  writeStyles();
  spawnSync(process.execPath, ['node_modules/next/dist/bin/next', 'typegen'], { stdio: 'ignore' });
  const all = [
    // The native compiler; the other one is there for the linter, which asks for its programming interface.
    ['types', join('..', 'typescript-7', 'bin', 'tsc'), ['--noEmit']],
    ['lint', 'eslint', ['.', '--max-warnings', '0']],
    ['lint with types', 'oxlint', ['--type-aware']],
    ['format', 'prettier', ['--check', '--log-level', 'warn', '.']],
    ['unused code', 'knip', []],
    ['import rules', 'depcruise', ['src', '--config', '.dependency-cruiser.cjs']],
  ] as const;
  // Side by side, so many at once; each is told when it has ended.
  const waiting = [...all];
  const one = async (): Promise<void> => {
    for (let next = waiting.shift(); next; next = waiting.shift()) {
      const [what, command, args] = next;
      const { status, output } = await ended(bin(command), [...args]);
      process.stdout.write(`${status === 0 ? 'ok  ' : 'FAIL'} ${what}\n${status === 0 ? '' : `${output}\n`}`);
      if (status === 0) run.passed += 1;
      else run.failed += 1;
    }
  };
  await Promise.all(Array.from({ length: run.workers }, one));
}

/** Runs a program to its end. */
function ended(command: string, args: string[]): Promise<{ status: number; output: string }> {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, { stdio: ['ignore', 'pipe', 'pipe'] });
    let output = '';
    for (const stream of [child.stdout, child.stderr])
      stream.on('data', (text: Buffer) => (output += text.toString()));
    child.once('error', reject);
    child.once('close', (status) => resolve({ status: status ?? 1, output }));
  });
}

function jest(run: Run, project: 'core' | 'database'): void {
  const report = join(dataDir(), `jest-${process.pid}-${project}.json`);
  const own = run.files.filter((file) => partOf(file) === project);
  if (run.files.length > 0 && own.length === 0) return;
  spawnSync(
    bin('jest'),
    [
      `--selectProjects=${project}`,
      '--json',
      `--outputFile=${report}`,
      `--maxWorkers=${run.workers}`,
      ...own,
    ],
    { stdio: ['ignore', 'ignore', 'inherit'] },
  );
  if (!existsSync(report)) {
    run.failed += 1;
    return;
  }
  const result = JSON.parse(readFileSync(report, 'utf8')) as {
    numPassedTests: number;
    numFailedTests: number;
    numRuntimeErrorTestSuites: number;
    testResults: { name: string; startTime: number; endTime: number }[];
  };
  rmSync(report);
  saySlowest(
    result.testResults.map(({ name, startTime, endTime }) => ({
      name: relative('.', name),
      ms: endTime - startTime,
    })),
  );
  run.passed += result.numPassedTests;
  run.failed += result.numFailedTests + result.numRuntimeErrorTestSuites;
}

function core(run: Run): void {
  jest(run, 'core');
}

async function database(run: Run): Promise<void> {
  // Each file has a database of its own, so that they run side by side. What is printed is read by the tools of others.
  if (!existsSync('/usr/bin/pdftotext')) installPackages(['poppler-utils'], 'The reader of PDF files');
  if (!existsSync('/usr/bin/qpdf')) installPackages(['qpdf'], 'The checker of PDF files');
  const asked = mkdtempSync(join(tmpdir(), 'wergeld-asked-'));
  process.env.WERGELD_ASKED = asked;
  const failed = run.failed;
  jest(run, 'database');
  delete process.env.WERGELD_ASKED;
  // What is never asked is told only where everything ran.
  const { typedQueryFaults } = await import('../testing/typed-queries');
  const faults = typedQueryFaults(asked, run.files.length === 0 && run.failed === failed);
  rmSync(asked, { recursive: true });
  process.stdout.write(`${faults.length === 0 ? 'ok  ' : 'FAIL'} columns of raw queries\n`);
  for (const fault of faults) process.stdout.write(`  ${fault}\n`);
  if (faults.length === 0) run.passed += 1;
  else run.failed += 1;
}

/** What takes the longest, so that it is seen when something has become slow. */
function saySlowest(all: readonly { name: string; ms: number }[]): void {
  const slowest = [...all].sort((a, b) => b.ms - a.ms).slice(0, 12);
  for (const { name, ms } of slowest) process.stdout.write(`  ${Math.round(ms / 1000)} s  ${name}\n`);
}

/** What Playwright's JSON report says of a file, or of tests that are described together. */
interface Suite {
  suites?: Suite[];
  specs: { title: string; file: string; tests: { results: { duration: number }[] }[] }[];
}
const testsOf = ({ suites = [], specs }: Suite): { name: string; ms: number }[] => [
  ...suites.flatMap(testsOf),
  ...specs.map(({ title, file, tests }) => ({
    name: `${file}: ${title}`,
    ms: tests.flatMap(({ results }) => results).reduce((all, { duration }) => all + duration, 0),
  })),
];

/** The real interface on a production build; the demo is loaded once, and each test has a copy of it. */
async function browser(run: Run): Promise<void> {
  if (!existsSync('/usr/bin/chromium-headless-shell'))
    installPackages(['chromium-headless-shell'], 'Chromium');
  const owner = process.env.DATABASE_URL!.replace(/\/[^/]*$/, '/wergeld_browser');
  await asOwner(process.env.DATABASE_URL!, async (pool) => {
    await pool.query('drop database if exists wergeld_browser with (force)');
    await pool.query('create database wergeld_browser');
  });
  await closePool();
  process.env.DATABASE_URL = await prepareDatabase(owner);
  await prepareDemo(owner, true, BEGINNING);
  await makeQueues();
  // What the job process would do first is done once, and not by that of each copy.
  await takeUpLeft(db(), pino({ level: 'silent' }));
  await build();
  await closePool();
  process.env.DATABASE_URL = owner;
  // Copies of it are made by the tests: nobody may be connected.
  await asOwner(owner.replace(/\/[^/]*$/, '/postgres'), (pool) =>
    pool.query('alter database wergeld_browser allow_connections false'),
  );
  mkdirSync(dataDir(), { recursive: true });
  const own = run.files.filter((file) => partOf(file) === 'browser');
  const isKill = (file: string): boolean => file.endsWith('kill.spec.ts');
  const [desk, kills] = [own.filter((file) => !isKill(file)), own.filter(isKill)];
  const slow = [
    ...(own.length === 0 || desk.length > 0 ? playwright(run, 'desk', run.workers, desk) : []),
    ...(own.length === 0 || kills.length > 0 ? playwright(run, 'kills', 1, kills) : []),
  ];
  saySlowest(slow);
}

/** Runs a project of the browser tests. @returns its tests and how long they took */
function playwright(
  run: Run,
  project: 'desk' | 'kills',
  workers: number,
  files: readonly string[],
): { name: string; ms: number }[] {
  const report = join(dataDir(), `playwright-${process.pid}-${project}.json`);
  const seed = process.env.WERGELD_SHUFFLE;
  const shuffled = seed ? [`--shuffle=${seed}`] : [];
  spawnSync(
    bin('playwright'),
    ['test', `--project=${project}`, `--workers=${workers}`, ...shuffled, ...files],
    {
      env: {
        ...process.env,
        NODE_ENV: 'test',
        PLAYWRIGHT_JSON_OUTPUT_NAME: report,
        // What a page looked like at each step costs an eighth of the time: it is kept where few tests run.
        WERGELD_SNAPSHOTS: run.files.length > 0 ? '1' : '',
      },
      stdio: ['ignore', 'inherit', 'inherit'],
    },
  );
  if (!existsSync(report)) {
    run.failed += 1;
    return [];
  }
  const { stats, suites } = JSON.parse(readFileSync(report, 'utf8')) as {
    stats: { expected: number; unexpected: number; flaky: number };
    suites: Suite[];
  };
  rmSync(report);
  run.passed += stats.expected;
  run.failed += stats.unexpected + stats.flaky;
  return suites.flatMap(testsOf);
}
