/** The whole of Wergeld is killed while it posts a large file, and started again. */
import { type ChildProcess, execFileSync, spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Browser, Page } from '@playwright/test';
import type pg from 'pg';
import { startCluster } from '../src/cli/cluster';
import { calendarDate } from '../src/core/calendar';
import { cents } from '../src/core/money';
import { write835 } from '../src/core/x12/remittance835';
import { SAMPLE_INTERCHANGE, sampleRemitClaim } from '../src/core/x12/samples';
import { openPool } from '../src/db/connect';
import { foldersOf, writeWhole } from '../src/server/folders';
import { type Gate, closedGate } from '../src/testing/gate';
import { expect, freePort, listening, shownFigure, signIn, test } from './desk';

/** A cluster of their own: what is killed here pulls nobody else along. */
let cluster: Awaited<ReturnType<typeof startCluster>>;
let folder = '';
let server: ChildProcess | undefined;
let owner: pg.Pool;
test.beforeAll(async () => {
  test.setTimeout(180_000);
  folder = mkdtempSync(join(tmpdir(), 'wergeld-kill-'));
  cluster = await startCluster('wergeld_kill', 'test-kill');
  wergeld(['backup', join(folder, 'backup')], process.env.DATABASE_URL);
  wergeld(['restore', join(folder, 'backup')]);
  owner = openPool(cluster.url, 3);
});
test.afterAll(async () => {
  // Whatever of it has come up.
  await owner?.end();
  cluster?.stop(true);
  rmSync(folder, { recursive: true, force: true });
});

const env = () => ({ ...process.env, DATABASE_URL: cluster.url, NODE_ENV: 'production' as const });
const wergeld = (args: string[], on = cluster.url): string =>
  execFileSync(process.execPath, ['src/cli/run.mjs', 'src/cli/main.ts', ...args], {
    encoding: 'utf8',
    env: { ...env(), DATABASE_URL: on },
    input: 'seven lanterns over cold water\n',
    maxBuffer: 1e9,
  });

/** Starts `./wergeld start` and waits until it says where it is. */
async function start(port: number): Promise<ChildProcess> {
  const started = spawn(process.execPath, ['src/cli/run.mjs', 'src/cli/main.ts', 'start'], {
    env: {
      ...env(),
      PORT: String(port),
      WERGELD_URL: `http://127.0.0.1:${port}`,
      WERGELD_EXCHANGE: join(folder, 'exchange'),
    },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  await new Promise<void>((resolve, reject) => {
    started.stdout!.on('data', (text: Buffer) => text.toString().includes('Ctrl-C stops it') && resolve());
    started.on('exit', (code) => reject(new Error(`the server ended with ${code}`)));
  });
  return started;
}

const childrenOf = (pid: number): number[] =>
  execFileSync('ps', ['-eo', 'pid=,ppid='], { encoding: 'utf8' })
    .trim()
    .split('\n')
    .map((line) => line.trim().split(/\s+/).map(Number))
    .filter(([, parent]) => parent === pid)
    .map(([child]) => child!);
/** Whether a process lives; one that only waits to be reaped does not. */
const alive = (pid: number): boolean => {
  try {
    return !execFileSync('ps', ['-o', 'stat=', '-p', String(pid)], { encoding: 'utf8' }).startsWith('Z');
  } catch {
    return false;
  }
};

/** Starts the server for a test, with a biller at the desk. */
async function atTheDesk(browser: Browser, run: (page: Page, port: number) => Promise<void>): Promise<void> {
  const port = await freePort();
  const context = await browser.newContext({ baseURL: `http://127.0.0.1:${port}` });
  try {
    server = await start(port);
    const page = await context.newPage();
    await signIn(page, 'biller', true);
    await run(page, port);
    expect(wergeld(['books', 'check'])).toContain('The books are proven');
  } finally {
    server?.kill('SIGTERM');
    await context.close();
  }
}

/** A remittance of one trace, of so many claims of strangers. */
const remittance = (trace: string, many: number): string =>
  write835(
    { ...SAMPLE_INTERCHANGE, controlNumber: `99000000${trace.at(-1)}` },
    [
      {
        handling: 'I',
        creditDebit: 'C',
        method: 'ACH',
        date: calendarDate('2026-03-16'),
        trace,
        originator: '1910000011',
        payer: { name: 'Cedar Sound Health', id: 'CSH01' },
        payee: { name: 'Osprey Landing Health', npi: '1234567018', taxId: '' },
        providerAdjustments: [],
        claims: Array.from({ length: many }, (_, n) => sampleRemitClaim(`${trace}${n}`, 5000, 4000)),
        payment: cents(many * 4000),
      },
    ],
    '20260316',
  );

/** So many claims that their posting is long. */
const MANY = 1500;

/** Hands a large file in on the screen, presses Post, and stops it at a gate in its middle. */
async function postToTheMiddle(page: Page, trace: string): Promise<Gate> {
  await page.goto('/remittances');
  await listening(page);
  await page.getByLabel('Remittance file').setInputFiles({
    name: `${trace}.835`,
    mimeType: 'application/octet-stream',
    buffer: Buffer.from(remittance(trace, MANY)),
  });
  await page.getByRole('link', { name: trace }).click({ timeout: 30_000 });
  const gate = await closedGate(
    owner,
    'remittance_claim',
    `new.control_number = '${trace}700' and new.status <> 'ready'`,
  );
  await page.getByRole('button', { name: `Post ${MANY} claims` }).click();
  await gate.reached();
  return gate;
}

/** Claims of a remittance that are not posted, and what is booked of those that are. */
async function standing(trace: string) {
  const { rows } = await owner.query<{ left: number; entries: number; booked: number }>(
    `
      select
        (
          select count(*)
          from remittance_claim c
            join remittance r on r.id = c.remittance_id
          where r.trace = $1 and c.status = 'ready'
        ) as left,
       count(distinct p.entry_id) as entries,
       coalesce(sum(p.amount) filter (where p.account = 'cash/transfer'), 0) as booked
     from posting p join remittance r on r.id = p.remittance_id where r.trace = $1`,
    [trace],
  );
  return rows[0]!;
}
const POSTED = { left: 0, entries: MANY, booked: MANY * 4000 };

/** Nothing is left, nothing lost and nothing twice. */
const posted = (trace: string): Promise<void> =>
  expect(async () => expect(await standing(trace)).toEqual(POSTED)).toPass({ timeout: 240_000 });

test('kill -9 of everything in the middle of posting a large file, and a start: nothing lost, nothing twice', async ({
  browser,
}) => {
  test.setTimeout(420_000);
  await atTheDesk(browser, async (page, port) => {
    const gate = await postToTheMiddle(page, 'KILLED1');
    const family = [server!.pid!, ...childrenOf(server!.pid!)];
    expect(family.length).toBeGreaterThanOrEqual(3);
    for (const pid of family) process.kill(pid, 'SIGKILL');
    await expect.poll(() => family.filter(alive)).toEqual([]);
    await gate.open();
    expect(await standing('KILLED1')).toEqual({ left: 800, entries: 700, booked: 700 * 4000 });

    // Nobody presses anything again: the work is taken up by the start.
    server = await start(port);
    await posted('KILLED1');
    await expect(async () => {
      await page.reload();
      await expect(shownFigure(page, 'Held for the payer')).toContainText(/60.000\.00/);
    }).toPass({ timeout: 30_000 });
    await expect(shownFigure(page, 'Not posted yet')).toHaveText('–');

    // A kill of the first process alone takes the others with it.
    const last = [server.pid!, ...childrenOf(server.pid!)];
    process.kill(server.pid!, 'SIGKILL');
    await expect.poll(() => last.filter(alive), { timeout: 15_000 }).toEqual([]);
  });
});

test('kill -9 of the job process in the middle of a file that came in: the rest goes on, and the file is taken', async ({
  browser,
}) => {
  test.setTimeout(180_000);
  await atTheDesk(browser, async (page) => {
    const [web, jobs] = childrenOf(server!.pid!);
    const gate = await closedGate(owner, 'exchange_file', `new.name = 'KILLED2.835'`);
    const { inbox } = await foldersOf('tideline', join(folder, 'exchange'));
    await writeWhole(join(inbox, 'KILLED2.835'), remittance('KILLED2', 1));
    await gate.reached();
    process.kill(jobs!, 'SIGKILL');
    await gate.open();
    await expect.poll(() => childrenOf(server!.pid!).filter((pid) => pid !== web)).not.toContain(jobs);
    await expect.poll(() => childrenOf(server!.pid!).length, { timeout: 15_000 }).toBe(2);
    expect(childrenOf(server!.pid!)).toContain(web);

    await page.goto('/claims');
    await listening(page);
    await page.getByRole('button', { name: 'Check again' }).click();
    await expect(page.getByText(/Checking \d+ claims: done/)).toBeVisible({ timeout: 60_000 });
    await expect.poll(async () => (await standing('KILLED2')).left, { timeout: 60_000 }).toBe(1);
  });
});

test('the database falls and comes back in the middle of posting: desk and job process go on, nothing lost, nothing twice', async ({
  browser,
}) => {
  test.setTimeout(420_000);
  await atTheDesk(browser, async (page) => {
    const programs = childrenOf(server!.pid!);
    const gate = await postToTheMiddle(page, 'KILLED3');
    cluster.fall();
    // Its connection fell with all others.
    await gate.open().catch(() => undefined);
    await posted('KILLED3');
    expect(childrenOf(server!.pid!)).toEqual(programs);
    await page.reload();
    await expect(shownFigure(page, 'Held for the payer')).toContainText(/60.000\.00/);
  });
});
