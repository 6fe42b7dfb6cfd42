/** `bench`: runs the measurements in bench/. */
import { type ChildProcess, spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { closePool } from '../db/connect';
import { asOwner, prepareDatabase } from './database';
import { Stop, installPackages, portFree, startCluster } from './cluster';
import { build, prepareDemo } from './serve';

const run = (script: string, env: NodeJS.ProcessEnv = process.env): number =>
  spawnSync(process.execPath, ['src/cli/run.mjs', script], { stdio: 'inherit', env }).status ?? 1;

/** What is measured besides the reader and ten years of data, by name. */
const NAMED: Readonly<Record<string, () => Promise<number> | number>> = {
  pages,
  evening: () => run('bench/evening.ts'),
  claims: () => run('bench/claims.ts'),
  statements: () => run('bench/statements.ts'),
  overdue: () => run('bench/overdue.ts'),
  estimate: () => run('bench/estimate.ts'),
  visit: () => run('bench/visit.ts'),
  fees: () => run('bench/fees.ts'),
  credits: () => run('bench/credits.ts'),
};

/** Runs the measurement named, or the reader's and that of ten years of data. Status 1 when a ratio is missed. */
export async function bench(part?: string): Promise<number> {
  if (part !== undefined && !NAMED[part])
    throw new Stop(`There is no measurement “${part}”: ${Object.keys(NAMED).join(', ')}`);
  const reader = part === undefined ? run('bench/reader.ts') : 0;
  const cluster = await startCluster('wergeld_test', 'test');
  process.env.DATABASE_URL = cluster.url;
  try {
    return Math.max(reader, await (part === undefined ? run('bench/ten-years.ts') : NAMED[part]!()));
  } finally {
    await closePool();
    cluster.stop();
  }
}

/** The demo on a database and a server of its own, and the pages measured in Chromium. */
async function pages(): Promise<number> {
  if (!existsSync('/usr/bin/chromium-headless-shell'))
    installPackages(['chromium-headless-shell'], 'Chromium');
  process.env.WERGELD_SECRET = 'a secret for measurements only, of no use elsewhere';
  const folder = mkdtempSync(join(tmpdir(), 'wergeld-bench-'));
  process.env.WERGELD_EXCHANGE = folder;
  const owner = process.env.DATABASE_URL!.replace(/\/[^/]*$/, '/wergeld_pages');
  await asOwner(process.env.DATABASE_URL!, async (pool) => {
    await pool.query('drop database if exists wergeld_pages with (force)');
    await pool.query('create database wergeld_pages');
  });
  process.env.DATABASE_URL = await prepareDatabase(owner);
  await prepareDemo(owner, true, '2026-03-16T10:00');
  await build();
  let port = 3480;
  while (!(await portFree(port))) port += 1;
  const url = `http://127.0.0.1:${port}`;
  const env = { ...process.env, WERGELD_URL: url, WERGELD_BENCH_URL: url, NODE_ENV: 'production' as const };
  const web: ChildProcess = spawn(process.execPath, ['src/cli/web.mjs', '--port', String(port)], {
    env,
    stdio: ['ignore', 'ignore', 'inherit'],
  });
  try {
    for (let tries = 0; tries < 120; tries += 1) {
      const up = await fetch(`${url}/sign-in`).then(
        (response) => response.ok,
        () => false,
      );
      if (up) break;
      await new Promise((resolve) => setTimeout(resolve, 250));
    }
    return run('bench/pages.ts', env);
  } finally {
    web.kill('SIGTERM');
    rmSync(folder, { recursive: true, force: true });
  }
}
