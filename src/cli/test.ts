/** `test`: everything that CI runs, on databases of its own. */
import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { closePool } from '../db/connect';
import { asOwner, prepareDatabase } from './database';
import { Stop, installPackages, startCluster } from './cluster';
import { build, prepareDemo } from './serve';

interface Tally {
  passed: number;
  failed: number;
}

const bin = (name: string): string => join('node_modules', '.bin', name);

/** Runs all parts, or one; ends with `N passed, N failed`. */
export async function test(part?: string): Promise<number> {
  const parts: Record<string, (tally: Tally) => Promise<void> | void> = { checks, core, database, browser };
  if (part && !parts[part]) throw new Stop(`There is no part “${part}”: ${Object.keys(parts).join(', ')}`);
  const tally = { passed: 0, failed: 0 };
  const given = process.env.DATABASE_URL;
  const cluster = given
    ? { url: given.replace(/\/[^/]*$/, '/wergeld_test'), stop: () => undefined }
    : await startCluster('wergeld_test', 'test');
  process.env.DATABASE_URL = cluster.url;
  process.env.WERGELD_SECRET = 'a secret for tests only, of no use elsewhere';
  process.env.WERGELD_TODAY = '2026-03-16';
  const folder = mkdtempSync(join(tmpdir(), 'wergeld-test-'));
  process.env.WERGELD_EXCHANGE = join(folder, 'exchange');
  try {
    for (const [name, run] of Object.entries(parts)) if (!part || part === name) await run(tally);
  } finally {
    await closePool();
    cluster.stop();
    rmSync(folder, { recursive: true, force: true });
  }
  process.stdout.write(`${tally.passed} passed, ${tally.failed} failed\n`);
  return tally.failed === 0 && tally.passed > 0 ? 0 : 1;
}

/** Types, lint, format, unused code and import rules: one each. */
async function checks(tally: Tally): Promise<void> {
  const { writeStyles } = await import('./styles');
  writeStyles();
  spawnSync(process.execPath, ['node_modules/next/dist/bin/next', 'typegen'], { stdio: 'ignore' });
  for (const [what, command, args] of [
    ['types', 'tsc', ['--noEmit']],
    ['lint', 'eslint', ['.', '--max-warnings', '0']],
    ['format', 'prettier', ['--check', '--log-level', 'warn', '.']],
    ['unused code', 'knip', []],
    ['import rules', 'depcruise', ['src', '--config', '.dependency-cruiser.cjs']],
  ] as const) {
    const result = spawnSync(bin(command), [...args], { encoding: 'utf8' });
    const good = result.status === 0;
    process.stdout.write(
      `${good ? 'ok  ' : 'FAIL'} ${what}\n${good ? '' : `${result.stdout}${result.stderr}\n`}`,
    );
    if (good) tally.passed += 1;
    else tally.failed += 1;
  }
}

function jest(tally: Tally, project: string, extra: string[] = []): void {
  const report = join(tmpdir(), `wergeld-jest-${process.pid}-${project}.json`);
  spawnSync(bin('jest'), ['--selectProjects', project, '--json', `--outputFile=${report}`, ...extra], {
    stdio: ['ignore', 'ignore', 'inherit'],
  });
  if (!existsSync(report)) {
    tally.failed += 1;
    return;
  }
  const result = JSON.parse(readFileSync(report, 'utf8')) as {
    numPassedTests: number;
    numFailedTests: number;
    numFailedTestSuites: number;
    numRuntimeErrorTestSuites: number;
  };
  rmSync(report);
  tally.passed += result.numPassedTests;
  tally.failed += result.numFailedTests + result.numRuntimeErrorTestSuites;
}

function core(tally: Tally): void {
  jest(tally, 'core');
}

function database(tally: Tally): void {
  // Each file has a database of its own, so that they run side by side. What is printed is read by the tools of others.
  if (!existsSync('/usr/bin/pdftotext')) installPackages(['poppler-utils'], 'The reader of PDF files');
  if (!existsSync('/usr/bin/qpdf')) installPackages(['qpdf'], 'The checker of PDF files');
  jest(tally, 'database', ['--maxWorkers=2']);
}

/** The real interface on a production build; the demo is loaded once and copied by each worker. */
async function browser(tally: Tally): Promise<void> {
  if (!existsSync('/usr/bin/chromium')) installPackages(['chromium'], 'Chromium');
  const owner = process.env.DATABASE_URL!.replace(/\/[^/]*$/, '/wergeld_browser');
  await asOwner(process.env.DATABASE_URL!, async (pool) => {
    await pool.query('drop database if exists wergeld_browser with (force)');
    await pool.query('create database wergeld_browser');
  });
  await closePool();
  process.env.DATABASE_URL = await prepareDatabase(owner);
  await prepareDemo(owner, true);
  await build();
  // Copies of it are made by the tests: nobody may be connected.
  await closePool();
  process.env.DATABASE_URL = owner;
  const report = join(tmpdir(), `wergeld-playwright-${process.pid}.json`);
  spawnSync(bin('playwright'), ['test'], {
    env: { ...process.env, NODE_ENV: 'test', PLAYWRIGHT_JSON_OUTPUT_NAME: report },
    stdio: ['ignore', 'inherit', 'inherit'],
  });
  if (!existsSync(report)) {
    tally.failed += 1;
    return;
  }
  const { stats } = JSON.parse(readFileSync(report, 'utf8')) as {
    stats: { expected: number; unexpected: number; flaky: number };
  };
  rmSync(report);
  tally.passed += stats.expected;
  tally.failed += stats.unexpected + stats.flaky;
}
