/** Small steps that the browser tests share; each worker has a server, each test a database of its own. */
import { type ChildProcess, spawn } from 'node:child_process';
import { createHmac } from 'node:crypto';
import { mkdtempSync, openSync, readdirSync, rmSync, utimesSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join, relative } from 'node:path';
import { type Locator, type Page, expect, test as plain } from '@playwright/test';
import pg from 'pg';
import type { CalendarDate } from '../src/core/calendar';
import { openDb, openPool } from '../src/db/connect';
import { deskRole } from '../src/db/desk-role';
import { outsideTurn } from '../src/demo/outside';
import { type Context, ROLES, type Role, systemContext } from '../src/server/access';
import { exchangeRoot } from '../src/server/folders';
import { exchangeRound } from '../src/server/exchange/round';
import { TODAY, type TestDatabase, readPractice } from '../src/testing/database';
import { morningOf } from '../src/testing/clock';
import { brokenInvariants, household } from '../src/testing/desk';

export { expect } from '@playwright/test';

/** A port on loopback that nobody uses. */
export const freePort = (): Promise<number> =>
  new Promise((resolve) => {
    const server = createServer();
    server.listen(0, '127.0.0.1', () => {
      const { port } = server.address() as { port: number };
      server.close(() => resolve(port));
    });
  });

/** The connection string of another database of the same server. */
export const database = (name: string): string => process.env.DATABASE_URL!.replace(/\/[^/]*$/, `/${name}`);

/** The connection string of the desk, which knows the database of the worker by the role of the demo that it is a copy of. */
export const deskUrl = (): string =>
  deskRole(database('wergeld_browser'), process.env.WERGELD_SECRET!).url.replace(
    /\/[^/]*$/,
    new URL(process.env.DATABASE_URL!).pathname,
  );

/** Asks the worker's own database, as its owner. */
export async function db<T extends pg.QueryResultRow>(text: string, values: unknown[] = []): Promise<T[]> {
  const client = new pg.Client({ connectionString: process.env.DATABASE_URL! });
  await client.connect();
  try {
    return (await client.query<T>(text, values)).rows;
  } finally {
    await client.end();
  }
}

/** Makes a worker's database anew, a copy of the loaded demo; whoever is connected is sent away. */
async function copyDemo(name: string): Promise<void> {
  const admin = new pg.Client({ connectionString: database('postgres') });
  await admin.connect();
  try {
    await admin.query(`drop database if exists ${name} with (force)`);
    await admin.query(`create database ${name} template wergeld_browser strategy wal_log`);
    await admin.query(`alter database ${name} set synchronous_commit = off`);
  } finally {
    await admin.end();
  }
}

/** Leaves a database as it is, under a name of its own, to be looked into. @returns the name */
async function keepCopy(name: string): Promise<string> {
  const kept = `wergeld_failed_${Math.random().toString(36).slice(2, 8)}`;
  const admin = new pg.Client({ connectionString: database('postgres') });
  await admin.connect();
  try {
    // Nobody may be connected while it is copied; the next test makes the worker's own anew.
    await admin.query(`alter database ${name} allow_connections false`);
    await admin.query('select pg_terminate_backend(pid) from pg_stat_activity where datname = $1', [name]);
    await admin.query(`create database ${kept} template ${name} strategy wal_log`);
  } finally {
    await admin.end();
  }
  return kept;
}

/** The database of a worker. */
const nameOf = (worker: number): string => `wergeld_browser_${worker}`;

/** What the web server of this worker has written. */
export const webLog = (): string => join(process.env.WERGELD_BROWSER_FOLDER!, 'web.log');

/** Web server and job process of a worker. @returns its address and how to end them */
async function serve(worker: number): Promise<{ url: string; stop: () => Promise<void> }> {
  await copyDemo(nameOf(worker));
  const folder = mkdtempSync(join(tmpdir(), 'wergeld-browser-'));
  process.env.WERGELD_BROWSER_FOLDER = folder;
  const url = `http://127.0.0.1:${await freePort()}`;
  process.env.DATABASE_URL = database(nameOf(worker));
  process.env.WERGELD_EXCHANGE = join(folder, 'exchange');
  // As in earnest, the servers know the desk's role alone; what the tests look up, they look up as the owner.
  // Each worker has a card terminal of its own beside its server.
  const terminal = `http://127.0.0.1:${await freePort()}`;
  const env = {
    ...process.env,
    WERGELD_TERMINAL: terminal,
    WERGELD_TERMINAL_PATIENCE: '1500',
    WERGELD_TERMINAL_PORT: new URL(terminal).port,
    WERGELD_TERMINAL_FOLDER: join(folder, 'terminal'),
    DATABASE_URL: deskUrl(),
    WERGELD_URL: url,
    // Nobody asks for a second connection while holding one: with a single one it would wait for ever.
    WERGELD_CONNECTIONS: '1',
    // The outside answers on its turn.
    WERGELD_ROUND_SECONDS: '0',
    // The night comes by the clock on the wall, whatever time it is in a test.
    WERGELD_NIGHTLY: '0',
    // The database is made anew under the job process before each test.
    WERGELD_LOG: 'silent',
    NODE_ENV: 'production' as const,
  };
  const children: ChildProcess[] = [
    spawn(process.execPath, ['src/cli/web.mjs', '--port', new URL(url).port], {
      env: { ...env, WERGELD_LOG: 'debug' },
      stdio: ['ignore', openSync(webLog(), 'w'), 'inherit'],
    }),
    spawn(process.execPath, ['src/cli/run.mjs', 'src/cli/terminal.ts'], {
      env,
      stdio: ['ignore', 'ignore', 'inherit'],
    }),
    spawn(process.execPath, ['src/cli/run.mjs', 'src/cli/worker.ts'], {
      env: { ...env, WERGELD_CONNECTIONS: '4' },
      stdio: ['ignore', 'inherit', 'inherit'],
    }),
  ];
  const up = (): Promise<boolean> =>
    fetch(`${url}/sign-in`).then(
      (response) => response.ok,
      () => false,
    );
  for (let tries = 0; tries < 240 && !(await up()); tries += 1)
    await new Promise((resolve) => setTimeout(resolve, 250));
  return {
    url,
    stop: async () => {
      for (const child of children) child.kill('SIGTERM');
      await new Promise((resolve) => setTimeout(resolve, 1500));
      for (const child of children) if (child.exitCode === null) child.kill('SIGKILL');
      rmSync(folder, { recursive: true, force: true });
    },
  };
}

/** The value of a session's cookie: its token, signed with the secret (HMAC-SHA256, Base64), as better-auth signs it. */
const signed = (token: string): string =>
  encodeURIComponent(
    `${token}.${createHmac('sha256', process.env.WERGELD_SECRET!).update(token).digest('base64')}`,
  );
const tokenOf = (role: string): string => `session-of-the-${role}-for-tests-alone`;

/** A session of each role, made without the form. */
async function makeSessions(): Promise<void> {
  for (const role of ROLES)
    await db(
      `
        insert into session (id, token, "userId", "expiresAt", "ipAddress")
        select $1, $1, id, now() + interval '12 hours', '127.0.0.1'
        from "user"
        where email = $2`,
      [tokenOf(role), `${role}@example.com`],
    );
}

/** What a test works with besides the page: use cases on its own copy of the demo. */
export interface Desk extends TestDatabase {
  /** The outside answers, and what it says is read. */
  turn: () => Promise<void>;
}

/** Opens the worker's database for the use cases of a test. */
async function openDesk(): Promise<Desk> {
  const pool = openPool(process.env.DATABASE_URL!, 2);
  const deskPool = openPool(deskUrl(), 4);
  const own = openDb(deskPool);
  const as = (role: Role, today: CalendarDate = TODAY): Context => ({
    db: own,
    user: { id: role, name: role, role },
    now: morningOf(today),
    today,
  });
  return {
    pool,
    owner: openDb(pool),
    ownerUrl: process.env.DATABASE_URL!,
    url: deskUrl(),
    db: own,
    ...(await readPractice(own)),
    as,
    context: as('manager'),
    close: async () => void (await Promise.all([pool.end(), deskPool.end()])),
    turn: async () => {
      await outsideTurn(await systemContext(own));
      // A file counts as whole when nothing was written to it for a moment: these are.
      const past = new Date(Date.now() - 60_000);
      for (const folder of readdirSync(exchangeRoot())) {
        const inbox = join(exchangeRoot(), folder, 'inbox');
        for (const name of readdirSync(inbox)) utimesSync(join(inbox, name), past, past);
      }
      await exchangeRound(await systemContext(own));
    },
  };
}

let used = false;

/** Playwright's test, on the worker's own server; each test has a copy of the demo of its own. */
export const test = plain.extend<{ copy: void; desk: Desk }, { server: string }>({
  server: [
    async ({}, use, info) => {
      const { url, stop } = await serve(info.workerIndex);
      process.env.WERGELD_BROWSER_URL = url;
      await use(url);
      await stop();
    },
    { scope: 'worker', auto: true },
  ],
  copy: [
    async ({ server: _ }, use, info) => {
      if (used) await copyDemo(nameOf(info.workerIndex));
      used = true;
      rmSync(exchangeRoot(), { recursive: true, force: true });
      await makeSessions();
      await use();
      if (info.status === info.expectedStatus) return;
      const kept = await keepCopy(nameOf(info.workerIndex));
      process.stdout.write(
        `${info.title}: to look into it, ./wergeld test open ${kept}, and npx playwright show-trace ${relative('.', info.outputPath('trace.zip'))}\n`,
      );
    },
    { auto: true },
  ],
  desk: async ({ copy: _ }, use) => {
    const desk = await openDesk();
    await use(desk);
    await desk.close();
  },
  baseURL: async ({ server }, use) => use(server),
  // What the page itself complained of is told with a test that fails.
  page: async ({ page, copy: _ }, use, info) => {
    const said: string[] = [];
    page.on('pageerror', (error) => said.push(`${error.message}\n${error.stack ?? ''}`));
    page.on('console', (message) => message.type() === 'error' && said.push(message.text()));
    await use(page);
    if (info.status !== info.expectedStatus && said.length > 0)
      process.stdout.write(`The page said:\n${said.join('\n').slice(0, 4000)}\n`);
  },
});

/** One of several that say the same: which of them does not matter. */
export const anyOf = (several: Locator): Locator => several.first();
/** The last of several that the test itself has put in their order. */
export const lastOf = (several: Locator): Locator => several.last();

/** A number as the screen writes it: thin separators, a true minus, a dash for zero. */
export const amount = (text: string): number =>
  text.trim() === '–' ? 0 : Number(text.replace('−', '-').replace(/[^\d.-]/g, ''));
/** One of the amounts at the head of a page, by its name. */
export const shownFigure = (page: Page, name: string): Locator =>
  page.getByRole('group', { name, exact: true }).locator('b');
/** The same as a number. */
export const figure = async (page: Page, name: string): Promise<number> =>
  amount(await shownFigure(page, name).innerText());

/** Signs in as one of the demo's users and ends on Today: with the session made for the role, or by the form. */
export async function signIn(page: Page, role: string, byForm = false): Promise<void> {
  if (byForm) {
    await page.goto('/sign-in');
    await page.getByLabel('E-mail').fill(`${role}@example.com`);
    await page.getByLabel('Password').fill('osprey-landing');
    await page.keyboard.press('Enter');
  } else {
    await sessionOf(page, role);
    await page.goto('/');
  }
  await expect(page.getByRole('heading', { name: 'Today' })).toBeVisible({ timeout: 60_000 });
}

/** Gives a page the session of a role, without going anywhere. */
export async function sessionOf(page: Page, role: string): Promise<void> {
  const url = process.env.WERGELD_BROWSER_URL!;
  await page
    .context()
    .addCookies([
      { name: 'wergeld.session_token', value: signed(tokenOf(role)), url, httpOnly: true, sameSite: 'Lax' },
    ]);
}

/** Waits until React has taken over an element that the server drew. */
const hydrated = (page: Page, selector: string) =>
  page.waitForFunction((wanted) => {
    const found = document.querySelector(wanted);
    return found !== null && Object.keys(found).some((key) => key.startsWith('__reactProps'));
  }, selector);

/** Waits until the page hears keys. */
export async function listening(page: Page): Promise<void> {
  await hydrated(page, 'main h1');
  await page.waitForFunction(() => (document.documentElement.dataset.keys ?? '') !== '');
}

/** Presses a key of the desk once the page listens to it. */
export async function press(page: Page, key: string): Promise<void> {
  await page.waitForFunction(
    (wanted) => (document.documentElement.dataset.keys ?? '').split(' ').includes(wanted),
    key,
  );
  await page.keyboard.press(key);
}

/** Presses a key until what it opens is there: the first press may come before the page has its ears. */
export async function pressFor(page: Page, key: string, opens: Locator): Promise<void> {
  await listening(page);
  await expect(async () => {
    if (!(await opens.isVisible())) await page.keyboard.press(key);
    await expect(opens).toBeVisible({ timeout: 1500 });
  }).toPass({ timeout: 20_000 });
}

/** Registers a household from the search field and ends on its account page. */
export async function register(
  page: Page,
  person: { last: string; first: string; birth: string; plan: string; memberId: string; group: string },
): Promise<void> {
  await listening(page);
  await expect(async () => {
    await page.keyboard.press('/');
    await expect(page.getByLabel('Find or do')).toBeFocused({ timeout: 1500 });
  }).toPass({ timeout: 20_000 });
  await page.keyboard.type('new house');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('heading', { name: 'New household' })).toBeVisible();
  await page.getByLabel('Last name').fill(person.last);
  await page.getByLabel('First name').fill(person.first);
  await page.getByLabel('Birth date').fill(person.birth);
  await page.getByLabel('Street', { exact: true }).fill('17 Pilot Row');
  await page.getByLabel('City').fill('Osprey Landing');
  await page.getByLabel('ZIP').fill('98199');
  await page.getByLabel('Insurance plan').click();
  await page.keyboard.type(person.plan);
  await page.keyboard.press('Enter');
  await page.getByLabel('Member id').fill(person.memberId);
  await page.getByLabel('Group number').fill(person.group);
  await page.getByLabel('Group number').press('Enter');
  await expect(page.getByRole('heading', { name: `${person.last}, ${person.first}` })).toBeVisible();
}

/** Proves the books. */
export async function provenBooks(desk: Desk): Promise<void> {
  expect(await brokenInvariants(desk)).toEqual([]);
}

/** Registers a household of the test's own, by its name, which pays itself. */
export const registered = (desk: Desk, last: string, first: string, more: Record<string, unknown> = {}) =>
  household(desk, false, { last, first, ...more });

/** A household with one amount brought in that the patient owes. @returns its id @param cents what is owed */
export async function owing(last: string, first: string, cents: number): Promise<string> {
  const [{ id }] = (await db<{ id: string }>(
    `
      insert into household (last, first, line1, city, state, zip)
      values ($1, $2, '4 Row', 'Osprey Landing', 'WA', '98199')
      returning id`,
    [last, first],
  )) as [{ id: string }];
  await db(
    `
      with c as (
        insert into charge (household_id, kind, description, fee, service_date)
        values ($1, 'opening', 'Brought in', $2, '2026-02-05')
        returning id
      ),
    e as (
      insert into entry (kind, posting_date, business_date, user_id, memo)
      values ('opening', '2026-03-01', '2026-02-05', 'test', 'Brought in')
      returning id
    )
    insert into posting (entry_id, account, amount, household_id, charge_id)
    select e.id, a.account, a.amount, $1, c.id
    from c, e, (values ('receivable/patient', $2::bigint), ('opening/balance', -$2::bigint)) a (account, amount)`,
    [id, cents],
  );
  return id;
}
