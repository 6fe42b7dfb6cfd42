/** Small steps that the browser tests share, each worker with a database and a server of its own. */
import { type ChildProcess, execFileSync, spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type Cookie, type Locator, type Page, expect, test as plain } from '@playwright/test';
import pg from 'pg';
import { deskRole } from '../src/db/desk-role';

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

/** Copies the loaded demo into a database of its own; another copy may just be made. */
async function copyDemo(name: string): Promise<void> {
  const admin = new pg.Client({ connectionString: database('postgres') });
  await admin.connect();
  try {
    await admin.query(`drop database if exists ${name} with (force)`);
    for (let tries = 1; ; tries += 1) {
      try {
        await admin.query(`create database ${name} template wergeld_browser`);
        return;
      } catch (error) {
        if (tries === 40) throw error;
        await new Promise((resolve) => setTimeout(resolve, 250));
      }
    }
  } finally {
    await admin.end();
  }
}

/** Web server and job process on a copy of the demo. @returns its address and how to end them */
async function serveCopy(worker: number): Promise<{ url: string; stop: () => Promise<void> }> {
  const name = `wergeld_browser_${worker}`;
  await copyDemo(name);
  const folder = mkdtempSync(join(tmpdir(), 'wergeld-browser-'));
  const url = `http://127.0.0.1:${await freePort()}`;
  process.env.DATABASE_URL = database(name);
  process.env.WERGELD_EXCHANGE = join(folder, 'exchange');
  // As in earnest, the servers know the desk's role alone; what the tests look up, they look up as the owner.
  const env = {
    ...process.env,
    DATABASE_URL: deskUrl(),
    WERGELD_URL: url,
    NODE_ENV: 'production' as const,
  };
  const children: ChildProcess[] = [
    spawn(process.execPath, ['src/cli/web.mjs', '--port', new URL(url).port], {
      env,
      stdio: ['ignore', 'ignore', 'inherit'],
    }),
    spawn(process.execPath, ['src/cli/run.mjs', 'src/cli/worker.ts'], {
      env,
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

/** Playwright's test, on the worker's own server. */
export const test = plain.extend<object, { server: string }>({
  server: [
    async ({}, use, info) => {
      const { url, stop } = await serveCopy(info.workerIndex);
      await use(url);
      await stop();
    },
    { scope: 'worker', auto: true },
  ],
  baseURL: async ({ server }, use) => use(server),
  // What the page itself complained of is told with a test that fails.
  page: async ({ page }, use, info) => {
    const said: string[] = [];
    page.on('pageerror', (error) => said.push(`${error.message}\n${error.stack ?? ''}`));
    page.on('console', (message) => message.type() === 'error' && said.push(message.text()));
    await use(page);
    if (info.status !== info.expectedStatus && said.length > 0)
      process.stdout.write(`The page said:\n${said.join('\n').slice(0, 4000)}\n`);
  },
});

/** A number as the screen writes it: thin separators, a true minus, a dash for zero. */
export const amount = (text: string): number =>
  text.trim() === '–' ? 0 : Number(text.replace('−', '-').replace(/[^\d.-]/g, ''));
/** One of the amounts at the head of a page, by its name. */
export const shownFigure = (page: Page, name: string): Locator =>
  page.getByRole('group', { name, exact: true }).locator('b');
/** The same as a number. */
export const figure = async (page: Page, name: string): Promise<number> =>
  amount(await shownFigure(page, name).innerText());

const cookies = new Map<string, Cookie[]>();

/** Signs in as one of the demo's users; a session is used again, since attempts are limited. */
export async function signIn(page: Page, role: string, fresh = false): Promise<void> {
  const known = cookies.get(role);
  if (known && !fresh) {
    await page.context().addCookies(known);
    await page.goto('/');
  } else await page.goto('/sign-in');
  // A session that another test has ended is begun anew.
  if (page.url().includes('/sign-in')) {
    await page.getByLabel('E-mail').fill(`${role}@example.com`);
    await page.getByLabel('Password').fill('osprey-landing');
    await page.keyboard.press('Enter');
  }
  // The first page of a server that was just started takes its time.
  await expect(page.getByRole('heading', { name: 'Today' })).toBeVisible({ timeout: 60_000 });
  if (!fresh) cookies.set(role, await page.context().cookies());
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
  await page.waitForFunction(() => Number(document.documentElement.dataset.keys ?? 0) > 0);
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

/** Reloads until something is there: the outside answers in its own time. */
export async function eventually(page: Page, check: () => Promise<boolean>): Promise<void> {
  await expect(async () => {
    await page.reload();
    expect(await check()).toBe(true);
  }).toPass({ timeout: 60_000, intervals: [1000] });
}

/** Proves the books from the command line. */
export function booksCheck(): string {
  return execFileSync(process.execPath, ['src/cli/run.mjs', 'src/cli/main.ts', 'books', 'check'], {
    encoding: 'utf8',
  });
}

/** A household with one amount brought in that the patient owes. @returns its id @param cents what is owed */
export async function owing(last: string, first: string, cents: number): Promise<string> {
  const [{ id }] = (await db<{ id: string }>(
    `insert into household (last, first, line1, city, state, zip) values ($1, $2, '4 Row', 'Osprey Landing', 'WA', '98199') returning id`,
    [last, first],
  )) as [{ id: string }];
  await db(
    `with c as (insert into charge (household_id, kind, description, fee, service_date) values ($1, 'opening', 'Brought in', $2, '2026-02-05') returning id),
    e as (insert into entry (kind, posting_date, business_date, user_id, memo) values ('opening', '2026-03-01', '2026-02-05', 'test', 'Brought in') returning id)
    insert into posting (entry_id, account, amount, household_id, charge_id) select e.id, a.account, a.amount, $1, c.id from c, e, (values ('receivable/patient', $2::bigint), ('opening/balance', -$2::bigint)) a (account, amount)`,
    [id, cents],
  );
  return id;
}
