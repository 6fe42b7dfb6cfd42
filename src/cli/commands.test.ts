import { spawn, spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type TestDatabase, testDatabase } from '../testing/database';
import { decided, remitText, sentClaim } from '../testing/desk';

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

const url = (): string =>
  (t.pool as unknown as { options: { connectionString: string } }).options.connectionString;
const wergeld = (args: string[], env: Record<string, string> = {}) => {
  const result = spawnSync(process.execPath, ['--import', 'tsx', 'src/cli/main.ts', ...args], {
    encoding: 'utf8',
    env: { ...process.env, DATABASE_URL: url(), ...env },
  });
  return { status: result.status, out: result.stdout, err: result.stderr };
};

describe('the one command', () => {
  test('an export that is read to its first lines only ends quietly', async () => {
    for (let n = 0; n < 3; n += 1) await sentClaim(t);
    await t.pool.query(
      `insert into household (last, first, line1, city, state, zip) select 'Many', 'P' || n, repeat('x', 50), 'Osprey Landing', 'WA', '98199' from generate_series(1, 1000) n`,
    );
    const run = spawnSync(
      'bash',
      [
        '-c',
        'set -o pipefail; "$0" --import tsx src/cli/main.ts export postings | head -n 1',
        process.execPath,
      ],
      { encoding: 'utf8', env: { ...process.env, DATABASE_URL: url() } },
    );
    expect(run).toMatchObject({ status: 0, stderr: '' });
    expect(run.stdout.split('\n')).toHaveLength(2);
  });

  test('import prints a line a transaction, posts once, and ends with 1 when anything is refused', async () => {
    const s = await sentClaim(t);
    const good = join(folder, 'good.835');
    const broken = join(folder, 'broken.835');
    const text = remitText(
      [
        decided(s.claim.control_number, [
          { control: s.controls[0]!, charge: 14500, paid: 9800, reasons: ['CO-45:47.00'] },
        ]),
      ],
      { trace: 'CLI1' },
    );
    writeFileSync(good, text);
    writeFileSync(broken, text.slice(0, 400));
    const first = wergeld(['import', good]);
    expect(first).toMatchObject({
      status: 0,
      out: expect.stringMatching(/^good\.835\t835\tCLI1\t98\.00\tposted\t1 claim posted\n$/),
    });
    const again = wergeld(['import', good, broken, join(folder, 'missing.835'), '--json']);
    expect(again.status).toBe(1);
    const rows = JSON.parse(again.out) as { result: string; why: string }[];
    expect(rows.map((row) => row.result)).toEqual(['refused', 'refused', 'refused']);
    expect(rows.map((row) => row.why)).toEqual([
      expect.stringMatching(/read before/),
      expect.stringMatching(/breaks off/),
      'there is no such file',
    ]);
  });

  test('an import that was killed is finished by the next command, whatever that imports', async () => {
    const MANY = 400;
    const strangers = Array.from({ length: MANY }, (_, n) =>
      decided(`KILLED${n}`, [{ control: 'L1', charge: 100, paid: 100, reasons: [] }]),
    );
    const file = join(folder, 'killed.835');
    writeFileSync(file, remitText(strangers, { trace: 'KILLED' }));
    const held = async (): Promise<number> => {
      const { rows } = await t.pool.query<{ n: string }>(
        `select count(*) as n from remittance_claim c join remittance r on r.id = c.remittance_id where r.trace = 'KILLED' and c.status = 'unmatched'`,
      );
      return Number(rows[0]!.n);
    };
    const child = spawn(process.execPath, ['--import', 'tsx', 'src/cli/main.ts', 'import', file], {
      env: { ...process.env, DATABASE_URL: url() },
      stdio: 'ignore',
    });
    const ended = new Promise((resolve) => child.once('exit', resolve));
    while ((await held()) === 0) await new Promise((resolve) => setTimeout(resolve, 20));
    child.kill('SIGKILL');
    await ended;
    const left = await held();
    expect(left).toBeLessThan(MANY);
    expect(wergeld(['import', join(folder, 'missing.835')]).status).toBe(1);
    expect(await held()).toBe(MANY);
    const { rows } = await t.pool.query(`select status from remittance where trace = 'KILLED'`);
    expect(rows).toEqual([{ status: 'posted' }]);
    expect(wergeld(['books', 'check']).status).toBe(0);
  });

  test('books check proves, in words and as JSON', () => {
    expect(wergeld(['books', 'check'])).toMatchObject({
      status: 0,
      out: expect.stringContaining('The books are proven'),
    });
    const checks = JSON.parse(wergeld(['books', 'check', '--json']).out) as {
      id: string;
      faults: string[];
    }[];
    expect(checks.length).toBeGreaterThanOrEqual(10);
    expect(checks.every((check) => check.faults.length === 0)).toBe(true);
  });

  test('export writes CSV and JSON that agree', () => {
    const csv = wergeld(['export', 'postings', '--format', 'csv']).out.trim().split('\n');
    const json = JSON.parse(wergeld(['export', 'postings', '--format', 'json']).out) as Record<
      string,
      unknown
    >[];
    expect(csv).toHaveLength(json.length + 1);
    for (const column of [
      'entry',
      'posting_date',
      'business_date',
      'kind',
      'reversed_entry',
      'account',
      'amount_cents',
      'household',
      'patient',
      'charge',
      'coverage',
      'payer',
      'claim',
      'remittance',
      'receipt',
      'reason_code',
    ])
      expect(csv[0]!.split(',')).toContain(column);
  });

  test('what is wrong is said in one sentence', async () => {
    expect(wergeld(['dance'])).toMatchObject({
      status: 1,
      err: expect.stringMatching(/^There is no command “dance”.*\n$/),
    });
    expect(wergeld(['export', 'everything'])).toMatchObject({
      status: 1,
      err: expect.stringMatching(/^Say what: /),
    });
    expect(wergeld(['books', 'check'], { DATABASE_URL: 'postgres://nobody@127.0.0.1:1/none' })).toMatchObject(
      { status: 1, err: expect.stringMatching(/^The database cannot be reached.*\n$/) },
    );
    const server = createServer();
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const { port } = server.address() as { port: number };
    expect(wergeld(['start'], { PORT: String(port) })).toMatchObject({
      status: 1,
      err: `Port ${port} is taken: stop what uses it, or set PORT to another one.\n`,
    });
    server.close();
    expect(wergeld(['start'], { PORT: 'x' })).toMatchObject({ status: 1, err: 'PORT x is not a port\n' });
  });

  test.each([
    [['books', 'check', '--jason'], /^Unknown option '--jason'. Say: \.\/wergeld books check \[--json\]\n$/],
    [['demo', '--port', '3500'], /^Unknown option '--port'. Say: \.\/wergeld demo \[--fresh\]\n$/],
    [['books'], /^Say: \.\/wergeld books check\n$/],
    [['exchange', 'now'], /^“now” is one word too many. Say: \.\/wergeld exchange \[--json\]\n$/],
    [['export', 'ledger', '--format', 'xml'], /^The format is csv or json\n$/],
    [['export', 'ledger', '--format'], /^Option '--format <value>' argument missing. Say: /],
    [['import'], /^Say which files: /],
    [['restore'], /^Say which file: /],
    [['user', 'a@example.com', 'king', 'Ann'], /^Say: \.\/wergeld user EMAIL /],
    [['constructor'], /^There is no command “constructor”/],
  ])('%j is answered with what to say', (args, words) => {
    const { status, err, out } = wergeld(args);
    expect({ status, out }).toEqual({ status: 1, out: '' });
    expect(err).toMatch(words);
  });

  test('without a word it says what there is', () => {
    const { status, out } = wergeld([]);
    expect(status).toBe(0);
    for (const name of [
      'demo',
      'start',
      'test',
      'import',
      'export',
      'exchange',
      'books check',
      'backup',
      'restore',
    ])
      expect(out).toContain(`\n  ${name}`);
  });

  test('a backup is restored into an empty database, and the books are the same', async () => {
    const file = join(folder, 'backup');
    expect(wergeld(['backup', file]).status).toBe(0);
    expect(wergeld(['backup', file]).err).toMatch(/exists already/);
    expect(wergeld(['restore', file]).err).toMatch(/holds data already/);
    const name = `wergeld_r_${process.pid}`;
    await t.pool.query(`create database ${name}`);
    const other = url().replace(/\/[^/]*$/, `/${name}`);
    try {
      expect(wergeld(['restore', file], { DATABASE_URL: other })).toMatchObject({ status: 0, err: '' });
      expect(wergeld(['export', 'postings', '--format', 'json'], { DATABASE_URL: other }).out).toBe(
        wergeld(['export', 'postings', '--format', 'json']).out,
      );
      expect(wergeld(['books', 'check'], { DATABASE_URL: other }).status).toBe(0);
    } finally {
      await t.pool.query(`drop database ${name} with (force)`);
    }
  });

  test('two that migrate an empty database at once both come up', async () => {
    const name = `wergeld_m_${process.pid}`;
    await t.pool.query(`create database ${name}`);
    const other = url().replace(/\/[^/]*$/, `/${name}`);
    try {
      const run = () =>
        new Promise((resolve) =>
          spawn(process.execPath, ['--import', 'tsx', 'src/cli/main.ts', 'books', 'check'], {
            env: { ...process.env, DATABASE_URL: other },
            stdio: 'ignore',
          }).on('exit', resolve),
        );
      expect(await Promise.all([run(), run()])).toEqual([0, 0]);
    } finally {
      await t.pool.query(`drop database ${name} with (force)`);
    }
  });
});
