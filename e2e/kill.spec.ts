/** The whole of Wergeld is killed while it posts a large file, and started again. */
import { type ChildProcess, execFileSync, spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pg from 'pg';
import { calendarDate } from '../src/core/calendar';
import { cents } from '../src/core/money';
import { write835 } from '../src/core/x12/remittance835';
import { SAMPLE_INTERCHANGE, sampleRemitClaim } from '../src/core/x12/samples';
import { database, expect, freePort, listening, shownFigure, signIn, test } from './desk';

const NAME = `wergeld_kill_${process.pid}`;
const env = () => ({ ...process.env, DATABASE_URL: database(NAME), NODE_ENV: 'production' as const });
const wergeld = (args: string[], on = database(NAME)): string =>
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

test('kill -9 of everything in the middle of posting a large file, and a start: nothing lost, nothing twice', async ({
  browser,
}) => {
  test.setTimeout(420_000);
  const folder = mkdtempSync(join(tmpdir(), 'wergeld-kill-'));
  const admin = new pg.Client({ connectionString: process.env.DATABASE_URL });
  await admin.connect();
  await admin.query(`create database ${NAME}`);
  const db = new pg.Client({ connectionString: database(NAME) });
  let server: ChildProcess | undefined;
  try {
    wergeld(['backup', join(folder, 'backup')], process.env.DATABASE_URL);
    wergeld(['restore', join(folder, 'backup')]);
    await db.connect();
    const strangers = Array.from({ length: 1500 }, (_, n) => sampleRemitClaim(`XL${n}`, 5000, 4000));
    const file = write835(
      { ...SAMPLE_INTERCHANGE, controlNumber: '990000001' },
      [
        {
          handling: 'I',
          creditDebit: 'C',
          method: 'ACH',
          date: calendarDate('2026-03-16'),
          trace: 'KILLED1',
          originator: '1910000011',
          payer: { name: 'Cedar Sound Health', id: 'CSH01' },
          payee: { name: 'Osprey Landing Health', npi: '1234567018', taxId: '' },
          providerAdjustments: [],
          claims: strangers,
          payment: cents(1500 * 4000),
        },
      ],
      '20260316',
    );
    const left = async (): Promise<number> =>
      (
        await db.query<{ n: string }>(
          `select count(*) as n from remittance_claim c join remittance r on r.id = c.remittance_id where r.trace = 'KILLED1' and c.status = 'ready'`,
        )
      ).rows.map((row) => Number(row.n))[0]!;

    const port = await freePort();
    server = await start(port, join(folder, 'exchange'));
    const context = await browser.newContext({ baseURL: `http://127.0.0.1:${port}` });
    const page = await context.newPage();
    await signIn(page, 'biller', true);
    await page.goto('/remittances');
    await listening(page);
    await page.getByLabel('Remittance file').setInputFiles({
      name: 'large.835',
      mimeType: 'application/octet-stream',
      buffer: Buffer.from(file),
    });
    await expect(page.getByRole('link', { name: 'KILLED1' })).toBeVisible();
    await page.getByRole('link', { name: 'KILLED1' }).click();
    await page.getByRole('button', { name: 'Post 1500 claims' }).click();
    await expect.poll(left, { intervals: [20] }).toBeLessThan(1450);

    const family = [server.pid!, ...childrenOf(server.pid!)];
    expect(family.length).toBeGreaterThanOrEqual(3);
    for (const pid of family) process.kill(pid, 'SIGKILL');
    await expect.poll(() => family.filter(alive)).toEqual([]);
    const inTheMiddle = await left();
    expect(inTheMiddle).toBeGreaterThan(0);
    expect(inTheMiddle).toBeLessThan(1500);

    // Nobody presses anything again: the work is taken up by the start.
    server = await start(port, join(folder, 'exchange'));
    await expect.poll(left, { timeout: 240_000 }).toBe(0);
    await expect(async () => {
      await page.reload();
      await expect(shownFigure(page, 'Held for the payer')).toContainText(/60.000\.00/);
    }).toPass({ timeout: 30_000 });
    await expect(shownFigure(page, 'Not posted yet')).toHaveText('–');
    const { rows } = await db.query<{ entries: string; booked: string }>(
      `select count(distinct p.entry_id) as entries, sum(p.amount) filter (where p.account = 'cash/transfer') as booked
       from posting p join remittance r on r.id = p.remittance_id where r.trace = 'KILLED1'`,
    );
    expect(rows[0]).toEqual({ entries: 1500, booked: 6_000_000 });
    expect(wergeld(['books', 'check'])).toContain('The books are proven');

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

    // A kill of the first process alone takes the others with it.
    const second = [server.pid!, ...childrenOf(server.pid!)];
    process.kill(server.pid!, 'SIGKILL');
    await expect.poll(() => second.filter(alive), { timeout: 15_000 }).toEqual([]);
    await context.close();
  } finally {
    server?.kill('SIGTERM');
    await db.end();
    await admin.query(`drop database ${NAME} with (force)`);
    await admin.end();
    rmSync(folder, { recursive: true, force: true });
  }
});
