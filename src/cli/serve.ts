/** `demo` and `start`: build when needed, serve, and stop everything on Ctrl-C. */
import { type ChildProcess, spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { parseDate } from '../core/calendar';
import { isTrueTime, setClock } from '../db/clock';
import { closePool, db, pool } from '../db/connect';
import { isDemo } from '../demo/outside';
import { loadScenario } from '../demo/scenario';
import { ROLES, type Role, businessDate, readNow, systemContext, zone } from '../server/access';
import { exchangeRoot } from '../server/folders';
import { addUser } from '../server/users/manage';
import { isPassword } from '../server/users/passwords';
import { ownUrl } from '../server/users/sign-in';
import { Stop, portFree } from './cluster';
import { asOwner, openDatabase, prepareDatabase } from './database';

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
  const given = process.env.WERGELD_TODAY;
  const day = given === undefined ? null : parseDate(given);
  // Before anything is emptied.
  if (given !== undefined && day === null)
    throw new Stop(`WERGELD_TODAY ${given} is not a day such as 2026-03-16`);
  await needPort();
  // A fresh start empties whatever is there, also what another version made.
  const { owner, close } = await openDatabase(!fresh);
  try {
    await prepareDemo(owner(), fresh, day);
    await refuseDemoElsewhere();
    await build();
    return await serve(
      close,
      ROLES.map((role) => `  ${`${role}@example.com`.padEnd(26)} ${DEMO_PASSWORD}   ${DEMO_NAMES[role]}`),
      process.env.WERGELD_TERMINAL ? null : await standInTerminal(),
    );
  } catch (error) {
    await close();
    throw error;
  }
}

/**
 * Loads the scenario when the database is empty or a fresh start is asked for: what the owner does is making it empty, the
 * rest the desk does as always.
 * @param local the time at which its clock begins, such as 2026-03-16; null for the true time
 */
export async function prepareDemo(owner: string, fresh: boolean, local: string | null): Promise<void> {
  if (!fresh) {
    const filled = (await db().selectFrom('practice').select('id').executeTakeFirst()) !== undefined;
    const complete = await isDemo(db());
    if (filled && complete) return asOwner(owner, (pool) => setClock(pool, local, zone()));
    if (filled)
      throw new Stop(
        'This database holds a practice that is not the demo. Use --fresh only if it may be emptied.',
      );
  }
  const started = Date.now();
  await closePool();
  const name = decodeURIComponent(new URL(owner).pathname.slice(1)).replaceAll('"', '""');
  await asOwner(owner, (pool) =>
    pool.query(
      `
        drop schema public cascade;
        create schema public;
        drop schema if exists pgboss cascade;
        alter database "${name}" set synchronous_commit = off`,
    ),
  );
  process.env.DATABASE_URL = await prepareDatabase(owner);
  await asOwner(owner, (pool) => setClock(pool, local, zone()));
  const users = {} as Record<Role, { id: string; name: string }>;
  for (const role of ROLES) {
    const name = DEMO_NAMES[role];
    const email = `${role}@example.com`;
    const id = await addUser(await systemContext(db()), { email, name, role, password: DEMO_PASSWORD });
    users[role] = { id, name };
  }
  await loadScenario(db(), businessDate(await readNow(db())), users, (words) => say(`Demo: ${words} …`));
  await asOwner(owner, (pool) =>
    pool.query(
      `alter database "${name}" reset synchronous_commit; create view demo_complete as select true as complete; analyze`,
    ),
  );
  say(`Demo: loaded in ${Math.round((Date.now() - started) / 1000)} s`);
}

/** Where the stand-in of a card terminal listens: beside the desk. @throws Stop when that port is taken */
async function standInTerminal(): Promise<{ url: string; port: number }> {
  const own = Number(process.env.WERGELD_TERMINAL_PORT ?? port() + 1);
  if (!(await portFree(own)))
    throw new Stop(`Port ${own} is taken: stop what uses it, or set WERGELD_TERMINAL_PORT to another one.`);
  return { url: `http://127.0.0.1:${own}`, port: own };
}

/** Serves for production. */
export async function start(): Promise<number> {
  await needPort();
  const { close } = await openDatabase();
  try {
    await refuseDemoElsewhere();
    if (!(await isTrueTime(pool())) && !(await isDemo(db())))
      throw new Stop('The clock of this database was set to another time: desk_now() is to say now().');
    await build();
    return await serve(close, []);
  } catch (error) {
    await close();
    throw error;
  }
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

/** Whether an address is on this machine alone. */
const onLoopback = (url: string): boolean =>
  ['127.0.0.1', 'localhost', '[::1]'].includes(new URL(url).hostname) ||
  new URL(url).hostname.startsWith('127.');

/**
 * The demo, and everybody who signs in with its password, stay on this machine: everybody knows them.
 * @throws Stop when they would be reached from elsewhere
 */
async function refuseDemoElsewhere(): Promise<void> {
  const url = ownUrl();
  if (onLoopback(url)) return;
  const say = (what: string): Stop =>
    new Stop(`${what}: everybody knows it, so it is served on loopback alone and not at ${url}.`);
  if (await isDemo(db())) throw say('This database holds the demo');
  const users = await db()
    .selectFrom('user as u')
    .innerJoin('account as a', 'a.userId', 'u.id')
    .select(['u.email', 'a.password'])
    .where('u.disabled_at', 'is', null)
    .execute();
  for (const { email, password } of users)
    if (password && (await isPassword({ hash: password, password: DEMO_PASSWORD })))
      throw say(`${email} has the password of the demo`);
}

/** A program that is kept running: it is started again when it ends by itself. */
interface Kept {
  /** Resolves when it ended before it was ever up, with the reason. */
  failed: Promise<string>;
  /** From now on an end is followed by another start. */
  keep(): void;
  end(): Promise<void>;
}

/** How long is waited before a program is started again: longer each time, from the beginning after it ran for a while. */
const PAUSE = { first: 500, most: 30_000, ranWell: 60_000 } as const;

/** Starts a program and keeps it running. @param what its name, for who reads the output */
function keepRunning(what: string, begin: () => ChildProcess): Kept {
  let child: ChildProcess;
  let pause: number = PAUSE.first;
  let waiting: NodeJS.Timeout | undefined;
  let state: 'starting' | 'kept' | 'ended' = 'starting';
  let fail: (why: string) => void;
  const failed = new Promise<string>((resolve) => (fail = resolve));
  const run = (): void => {
    const since = Date.now();
    child = begin();
    child.once('exit', (code, signal) => {
      if (state === 'ended') return;
      if (state === 'starting') return fail(`The ${what} ended (${signal ?? code})`);
      if (Date.now() - since > PAUSE.ranWell) pause = PAUSE.first;
      process.stderr.write(`The ${what} ended (${signal ?? code}): started again in ${pause / 1000} s\n`);
      waiting = setTimeout(run, pause);
      pause = Math.min(pause * 2, PAUSE.most);
    });
  };
  run();
  return {
    failed,
    keep: () => void (state = 'kept'),
    end: () => {
      state = 'ended';
      clearTimeout(waiting);
      return endChild(child);
    },
  };
}

async function serve(
  close: () => Promise<void>,
  lines: string[],
  terminal: { url: string; port: number } | null = null,
): Promise<number> {
  const url = `http://127.0.0.1:${port()}`;
  const env: NodeJS.ProcessEnv = {
    ...process.env,
    NODE_ENV: 'production',
    NEXT_TELEMETRY_DISABLED: '1',
    WERGELD_URL: process.env.WERGELD_URL ?? url,
    WERGELD_EXCHANGE: exchangeRoot(),
    ...(terminal === null
      ? {}
      : { WERGELD_TERMINAL: terminal.url, WERGELD_TERMINAL_PORT: String(terminal.port) }),
  };
  // The channel tells them when this process is gone, so that a kill leaves nobody behind.
  const child = (output: 'ignore' | 'inherit', ...args: string[]) =>
    spawn(process.execPath, ['--import', './src/cli/with-parent.mjs', ...args], {
      env,
      stdio: ['ignore', output, 'inherit', 'ipc'],
    });
  const asked = new Promise<'asked'>((resolve) => {
    for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const) process.on(signal, () => resolve('asked'));
  });
  const programs = [
    keepRunning('web server', () => child('ignore', 'src/cli/web.mjs', '--port', String(port()))),
    keepRunning('job process', () => child('inherit', 'src/cli/run.mjs', 'src/cli/worker.ts')),
    ...(terminal === null
      ? []
      : [keepRunning('card terminal', () => child('inherit', 'src/cli/run.mjs', 'src/cli/terminal.ts'))]),
  ];
  const ready = await Promise.race([waitForServer(url), asked, ...programs.map(({ failed }) => failed)]);
  if (ready === true) {
    for (const { keep } of programs) keep();
    say(`Wergeld is at ${url}`);
    if (lines.length > 0) say(`Sign in with:\n${lines.join('\n')}`);
    say('Ctrl-C stops it.');
    // Only a person's stop ends all.
    await asked;
  }
  await Promise.all(programs.map(({ end }) => end()));
  await close();
  if (ready !== true && ready !== 'asked') throw new Stop(ready);
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
