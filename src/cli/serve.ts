/** `demo` and `start`: build when needed, serve, and stop everything on Ctrl-C. */
import { type ChildProcess, spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { db, pool } from '../db/connect';
import { isDemo } from '../demo/outside';
import { loadScenario } from '../demo/scenario';
import { ROLES, type Role, businessDate } from '../server/access';
import { exchangeRoot } from '../server/exchange/folders';
import { addUser } from '../server/sign-in';
import { Stop, portFree } from './cluster';
import { openDatabase } from './database';

const port = (): number => Number(process.env.PORT ?? 3400);
const say = (words: string): void => void process.stdout.write(`${words}\n`);

/** The demo's users: one a role, one password. */
const DEMO_PASSWORD = 'osprey-landing';
const DEMO_NAMES = {
  'front-desk': 'Fran Okabe',
  biller: 'Bea Lindgren',
  collector: 'Cole Varnum',
  manager: 'Mara Estevez',
} as const;

/** Brings up the demo. */
export async function demo(fresh: boolean): Promise<number> {
  await needPort();
  const { close } = await openDatabase();
  try {
    await prepareDemo(fresh);
    await build();
    return await serve(close, [
      ...ROLES.map((role) => `  ${`${role}@example.com`.padEnd(26)} ${DEMO_PASSWORD}   ${DEMO_NAMES[role]}`),
    ]);
  } catch (error) {
    await close();
    throw error;
  }
}

/** Loads the scenario when the database is empty or a fresh start is asked for. */
export async function prepareDemo(fresh: boolean): Promise<void> {
  const filled = (await db().selectFrom('practice').select('id').executeTakeFirst()) !== undefined;
  const complete = await isDemo(db());
  if (filled && complete && !fresh) return;
  if (filled && !complete && !fresh)
    throw new Stop(
      'This database holds a practice that is not the demo. Use --fresh only if it may be emptied.',
    );
  const { migrate } = await import('../db/migrate');
  await pool().query(
    'drop schema public cascade; create schema public; drop schema if exists pgboss cascade',
  );
  await migrate(pool());
  const started = Date.now();
  await pool().query(
    `alter database ${(await pool().query<{ name: string }>('select current_database() as name')).rows[0]!.name} set synchronous_commit = off`,
  );
  process.env.WERGELD_SEEDING = '1';
  const users = {} as Record<Role, { id: string; name: string }>;
  for (const role of ROLES) {
    const name = DEMO_NAMES[role];
    users[role] = { id: await addUser(`${role}@example.com`, name, DEMO_PASSWORD, role), name };
  }
  delete process.env.WERGELD_SEEDING;
  await loadScenario(db(), businessDate(), users, (words) => say(`Demo: ${words} …`));
  await pool().query(
    `alter database ${(await pool().query<{ name: string }>('select current_database() as name')).rows[0]!.name} reset synchronous_commit`,
  );
  await pool().query('create view demo_complete as select true as complete; analyze');
  say(`Demo: loaded in ${Math.round((Date.now() - started) / 1000)} s`);
}

/** Serves for production. */
export async function start(): Promise<number> {
  await needPort();
  const { close } = await openDatabase();
  await build();
  return serve(close, []);
}

async function needPort(): Promise<void> {
  if (!Number.isInteger(port()) || port() < 1 || port() > 65535)
    throw new Stop(`PORT ${process.env.PORT} is not a port`);
  if (!(await portFree(port())))
    throw new Stop(`Port ${port()} is taken: stop what uses it, or set PORT to another one.`);
}

/** Builds when the sources have changed since the last build. */
export async function build(): Promise<void> {
  const stamp = join('.next', 'wergeld-sources');
  const now = fingerprintSources();
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === now) return;
  say('Building …');
  const { writeStyles } = await import('./styles');
  writeStyles();
  const result = spawnSync(process.execPath, ['node_modules/next/dist/bin/next', 'build'], {
    encoding: 'utf8',
    env: { ...process.env, NEXT_TELEMETRY_DISABLED: '1' },
  });
  if (result.status !== 0) throw new Stop(`The build failed:\n${result.stdout}\n${result.stderr}`);
  writeFileSync(stamp, now);
}

function fingerprintSources(): string {
  const hash = createHash('sha256');
  const walk = (path: string): void => {
    for (const item of readdirSync(path, { withFileTypes: true }).sort((a, b) =>
      a.name < b.name ? -1 : 1,
    )) {
      const full = join(path, item.name);
      if (item.isDirectory()) walk(full);
      else if (!/\.test\.tsx?$|components\.css$/.test(item.name))
        hash.update(`${full}\0`).update(readFileSync(full));
    }
  };
  walk('src');
  for (const file of ['package-lock.json', 'next.config.ts', 'tsconfig.json'])
    hash.update(readFileSync(file));
  return hash.digest('hex');
}

async function serve(close: () => Promise<void>, lines: string[]): Promise<number> {
  const url = `http://127.0.0.1:${port()}`;
  const env: NodeJS.ProcessEnv = {
    ...process.env,
    NODE_ENV: 'production',
    NEXT_TELEMETRY_DISABLED: '1',
    WERGELD_URL: process.env.WERGELD_URL ?? url,
    WERGELD_EXCHANGE: exchangeRoot(),
  };
  // The channel tells them when this process is gone, so that a kill leaves nobody behind.
  const child = (output: 'ignore' | 'inherit', ...args: string[]) =>
    spawn(process.execPath, ['--import', './src/cli/with-parent.mjs', ...args], {
      env,
      stdio: ['ignore', output, 'inherit', 'ipc'],
    });
  const children = [
    child('ignore', 'node_modules/next/dist/bin/next', 'start', '-H', '127.0.0.1', '-p', String(port())),
    child('inherit', '--import', 'tsx', 'src/cli/worker.ts'),
  ];
  const ended = new Promise<string>((resolve) => {
    for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const) process.on(signal, () => resolve('asked'));
    children[0]!.on('exit', (code) => resolve(`The web server ended (${code})`));
    children[1]!.on('exit', (code) => resolve(`The job process ended (${code})`));
  });
  const ready = await Promise.race([waitForServer(url), ended]);
  if (ready === true) {
    say(`Wergeld is at ${url}`);
    if (lines.length > 0) say(`Sign in with:\n${lines.join('\n')}`);
    say('Ctrl-C stops it.');
  }
  const why = ready === true ? await ended : ready;
  await Promise.all(children.map(endChild));
  await close();
  if (why !== 'asked') throw new Stop(String(why));
  return 0;
}

function endChild(child: ChildProcess): Promise<void> {
  if (child.exitCode !== null || child.signalCode !== null) return Promise.resolve();
  return new Promise((resolve) => {
    const hard = setTimeout(() => child.kill('SIGKILL'), 6000);
    child.once('exit', () => {
      clearTimeout(hard);
      resolve();
    });
    child.kill('SIGTERM');
  });
}

async function waitForServer(url: string): Promise<true> {
  for (;;) {
    const up = await fetch(`${url}/sign-in`).then(
      (response) => response.ok,
      () => false,
    );
    if (up) return true;
    await new Promise((resolve) => setTimeout(resolve, 250));
  }
}
