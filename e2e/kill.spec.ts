/** The whole of Wergeld is killed while it posts a large file, and started again. */
import { type ChildProcess, execFileSync, spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import type pg from 'pg';
import { startCluster } from '../src/cli/cluster';
import { calendarDate } from '../src/core/calendar';
import { cents } from '../src/core/money';
import { write835 } from '../src/core/x12/remittance835';
import { SAMPLE_INTERCHANGE, sampleRemitClaim } from '../src/core/x12/samples';
import { openPool } from '../src/db/connect';
import { type Gate, closedGate } from '../src/testing/gate';
import { expect, freePort, listening, shownFigure, signIn, test } from './desk';

/** A cluster of their own: what is killed here pulls nobody else along. */
let cluster: Awaited<ReturnType<typeof startCluster>>;
let folder = '';
test.beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'wergeld-kill-'));
  cluster = await startCluster('wergeld_kill', 'test-kill');
});
test.afterAll(() => {
  cluster.stop(true);
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
async function start(port: number, exchange: string): Promise<ChildProcess> {
  const started = spawn(process.execPath, ['src/cli/run.mjs', 'src/cli/main.ts', 'start'], {
    env: {
      ...env(),
      PORT: String(port),
      WERGELD_URL: `http://127.0.0.1:${port}`,
      WERGELD_EXCHANGE: exchange,
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

/** So many claims of strangers that their posting is long, in one remittance of a trace. */
const MANY = 1500;
const largeFile = (trace: string): string =>
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
        claims: Array.from({ length: MANY }, (_, n) => sampleRemitClaim(`${trace}${n}`, 5000, 4000)),
        payment: cents(MANY * 4000),
      },
    ],
    '20260316',
  );

/** Hands a large file in on the screen, presses Post, and stops it at a gate in its middle. */
async function postToTheMiddle(page: Page, owner: pg.Pool, trace: string): Promise<Gate> {
  await page.goto('/remittances');
  await listening(page);
  await page.getByLabel('Remittance file').setInputFiles({
    name: `${trace}.835`,
    mimeType: 'application/octet-stream',
    buffer: Buffer.from(largeFile(trace)),
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
async function standing(owner: pg.Pool, trace: string) {
  const { rows } = await owner.query<{ left: number; entries: number; booked: number }>(
    `select (select count(*) from remittance_claim c join remittance r on r.id = c.remittance_id where r.trace = $1 and c.status = 'ready') as left,
       count(distinct p.entry_id) as entries, coalesce(sum(p.amount) filter (where p.account = 'cash/transfer'), 0) as booked
     from posting p join remittance r on r.id = p.remittance_id where r.trace = $1`,
    [trace],
  );
  return rows[0]!;
}
const POSTED = { left: 0, entries: MANY, booked: MANY * 4000 };

test('kill -9 of everything in the middle of posting a large file, and a start: nothing lost, nothing twice', async ({
  browser,
}) => {
  test.setTimeout(420_000);
  wergeld(['backup', join(folder, 'backup')], process.env.DATABASE_URL);
  wergeld(['restore', join(folder, 'backup')]);
  const owner = openPool(cluster.url, 3);
  let server: ChildProcess | undefined;
  try {
    const port = await freePort();
    server = await start(port, join(folder, 'exchange'));
    const context = await browser.newContext({ baseURL: `http://127.0.0.1:${port}` });
    const page = await context.newPage();
    await signIn(page, 'biller', true);
    const gate = await postToTheMiddle(page, owner, 'KILLED1');

    const family = [server.pid!, ...childrenOf(server.pid!)];
    expect(family.length).toBeGreaterThanOrEqual(3);
    for (const pid of family) process.kill(pid, 'SIGKILL');
    await expect.poll(() => family.filter(alive)).toEqual([]);
    await gate.open();
    expect(await standing(owner, 'KILLED1')).toEqual({ left: 800, entries: 700, booked: 700 * 4000 });

    // Nobody presses anything again: the work is taken up by the start.
    server = await start(port, join(folder, 'exchange'));
    await expect.poll(() => standing(owner, 'KILLED1'), { timeout: 240_000 }).toEqual(POSTED);
    await expect(async () => {
      await page.reload();
      await expect(shownFigure(page, 'Held for the payer')).toContainText(/60.000\.00/);
    }).toPass({ timeout: 30_000 });
    await expect(shownFigure(page, 'Not posted yet')).toHaveText('–');

    // A kill of the job process alone ends nothing else: it is started again, and does what waits.
    const [web, jobs] = childrenOf(server.pid!);
    process.kill(jobs!, 'SIGKILL');
    await expect.poll(() => childrenOf(server!.pid!).filter((pid) => pid !== web)).not.toContain(jobs);
    await expect.poll(() => childrenOf(server!.pid!).length, { timeout: 15_000 }).toBe(2);
    expect(childrenOf(server.pid!)).toContain(web);
    await page.goto('/claims');
    await listening(page);
    await page.getByRole('button', { name: 'Check again' }).click();
    await expect(page.getByText(/Checking \d+ claims: done/)).toBeVisible({ timeout: 60_000 });

    expect(wergeld(['books', 'check'])).toContain('The books are proven');

    // A kill of the first process alone takes the others with it.
    const last = [server.pid!, ...childrenOf(server.pid!)];
    process.kill(server.pid!, 'SIGKILL');
    await expect.poll(() => last.filter(alive), { timeout: 15_000 }).toEqual([]);
    await context.close();
  } finally {
    server?.kill('SIGTERM');
    await owner.end();
  }
});
