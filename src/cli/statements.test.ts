/** Statements from the command line, as a scheduled run does them, also killed in the middle. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gatewayRound, printShopRound } from '../standins/mail';
import { begun, wergeldHere } from '../testing/command';
import { type TestDatabase, testDatabase } from '../testing/database';
import { charge, household } from '../testing/desk';
import { FULL } from '../testing/runs';
import { takeReceipt } from '../server/payments/take';

let t: TestDatabase;
let folder = '';
beforeAll(async () => {
  t = await testDatabase();
  folder = mkdtempSync(join(tmpdir(), 'wergeld-cli-'));
});
afterAll(async () => {
  rmSync(folder, { recursive: true, force: true });
  await t.close();
});

const wergeld = (...args: string[]) => wergeldHere(t, args);
interface Line {
  household: string;
  amount_cents: number;
  reasons: string[];
}
const select = async (...args: string[]): Promise<{ in: Line[]; out: Line[] }> => {
  const { status, out } = await wergeld('statements', 'select', '--json', ...args);
  expect(status).toBe(0);
  return JSON.parse(out) as { in: Line[]; out: Line[] };
};

test('select says of every household with a charge or a credit that it is in or out, and draft and send do it', async () => {
  const owing = await household(t, false);
  await charge(t, t.context, owing.patientId, '120.00');
  await takeReceipt(t.context, {
    householdId: owing.householdId,
    tenders: [{ tender: 'cash', amount: '20.00' }],

    parts: {},
    key: 'cli-credit-1',
  });
  const credit = await household(t, false);
  await takeReceipt(t.context, {
    householdId: credit.householdId,
    tenders: [{ tender: 'cash', amount: '7.50' }],

    key: 'cli-credit-2',
  });
  const small = await household(t, false);
  await charge(t, t.context, small.patientId, '4.00');
  await household(t, false);
  const said = await select();
  expect(said.in).toEqual([{ household: owing.number, amount_cents: 10_000, reasons: ['cycle'] }]);
  expect(said.out).toEqual([
    { household: credit.number, amount_cents: -750, reasons: ['credit'] },
    { household: small.number, amount_cents: 400, reasons: ['below-least'] },
  ]);
  // A set by its name; one that nobody knows is refused in words.
  expect((await select('--set', 'Old balances')).in).toEqual([]);
  expect(await wergeld('statements', 'select', '--set', 'Nothing')).toMatchObject({
    status: 1,
    err: expect.stringMatching(/There is no set “Nothing”/),
  });
  expect((await wergeld('statements', 'draft', '--set', 'Nothing')).status).toBe(1);

  expect(JSON.parse((await wergeld('statements', 'draft', '--json')).out)).toEqual({ batch: 1, pieces: 1 });
  expect(JSON.parse((await wergeld('statements', 'draft', '--json')).out)).toEqual({
    batch: null,
    pieces: 0,
  });
  expect((await select()).in).toEqual([]);
  const sent = await wergeld('statements', 'send');
  expect(sent).toMatchObject({ status: 0, out: expect.stringMatching(/Batch 1: 0 sent, 1 to be printed/) });
  expect((await wergeld('statements', 'send')).out).toBe('No batch has drafts\n');

  const file = join(folder, 'statement.pdf');
  expect(await wergeld('statements', 'pdf', owing.number, file)).toMatchObject({ status: 0 });
  const text = execFileSync('pdftotext', ['-layout', file, '-'], { encoding: 'utf8' });
  expect(text).toContain(owing.number);
  expect(text).toContain('100.00');
  expect(await wergeld('statements', 'pdf', 'A-99999', file)).toMatchObject({
    status: 1,
    err: 'There is no account A-99999\n',
  });
  expect((await wergeld('statements', 'pdf')).err).toMatch(/Say whose and where/);
  expect((await wergeld('export', 'statements')).out.split('\n')[0] ?? '').toBe('');
});

/** As many as a practice of two sites sends in a month; enough of them to be killed in the middle three times. */
const MANY = FULL ? 2000 : 12;

test('killed while many are being sent and taken up again: each is out once', async () => {
  const registered = async (index: number): Promise<void> => {
    const made = await household(t, false, { email: `many${index}@example.com` });
    await charge(t, t.context, made.patientId, '30.00');
    await t.db
      .updateTable('household')
      .set({ delivery: index % 2 === 0 ? 'email' : 'print-shop' })
      .where('id', '=', made.householdId)
      .execute();
  };
  for (let index = 0; index < MANY; index += 4)
    await Promise.all([0, 1, 2, 3].map((at) => registered(index + at)));
  const { batch, pieces } = JSON.parse((await wergeld('statements', 'draft', '--json')).out) as {
    batch: number;
    pieces: number;
  };
  expect(pieces).toBe(MANY);
  const sent = async (): Promise<number> =>
    Number(
      (
        await t.pool.query(
          `select count(*) as n from mail_piece where batch_id = ${batch} and status = 'sent'`,
        )
      ).rows[0].n,
    );
  const done = async (): Promise<number> =>
    Number(
      (
        await t.pool.query(
          `select count(*) as n from mail_piece where batch_id = ${batch} and status <> 'draft'`,
        )
      ).rows[0].n,
    );
  // Killed at its beginning, and twice in the middle: somebody works on an account, where it waits.
  for (const at of [2, MANY / 4, MANY / 2]) {
    const gate = await t.pool.connect();
    await gate.query('begin');
    await gate.query(
      `
        select 1
        from household
        where id = (select household_id from mail_piece where batch_id = ${batch} and number = ${at})
        for update`,
    );
    const { child, ended } = begun(t, ['statements', 'send']);
    while ((await done()) < at - 1 && child.exitCode === null)
      await new Promise((resolve) => setTimeout(resolve, 20));
    child.kill('SIGKILL');
    expect(await ended).toBe('SIGKILL');
    await gate.query('rollback');
    gate.release();
    expect(await sent()).toBeLessThan(MANY);
    // What lies there is taken meanwhile, as a gateway would.
    await gatewayRound(join(process.env.WERGELD_EXCHANGE!, 'pelican'));
  }
  // Whoever comes next takes up what the killed one has left.
  expect((await wergeld('statements', 'send')).status).toBe(0);
  expect(await sent()).toBe(MANY);
  await gatewayRound(join(process.env.WERGELD_EXCHANGE!, 'pelican'));
  await printShopRound(join(process.env.WERGELD_EXCHANGE!, 'shoreline'));
  const delivered = ['pelican', 'shoreline'].flatMap((name) =>
    readFileSync(join(process.env.WERGELD_EXCHANGE!, name, 'delivered.jsonl'), 'utf8')
      .trim()
      .split('\n')
      .map((line) => (JSON.parse(line) as { id: number }).id),
  );
  expect(delivered).toHaveLength(MANY);
  expect(new Set(delivered).size).toBe(MANY);
  const { rows } = await t.pool.query(
    `select count(*) as n, count(distinct household_id) as households from statement`,
  );
  expect(rows[0]).toMatchObject({ n: MANY, households: MANY });
  const lines = await wergeld('export', 'statements', '--format', 'json');
  expect(JSON.parse(lines.out)).toHaveLength(MANY);
}, 1_800_000);
