/** The cluster of a checkout, in a folder of its own. */
import { type ChildProcess, spawn, spawnSync } from 'node:child_process';
import {
  chmodSync,
  existsSync,
  mkdtempSync,
  readFileSync,
  readdirSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { foldersOf, moveInto, writeWhole } from '../server/folders';
import { portFree } from './cluster';

const checkout = mkdtempSync(join(tmpdir(), 'wergeld-checkout-'));
chmodSync(checkout, 0o755);
const env: NodeJS.ProcessEnv = { ...process.env };
delete env.DATABASE_URL;
const RUN = [resolve('src/cli/run.mjs'), 'src/cli/main.ts'];
const note = () =>
  JSON.parse(readFileSync(join(checkout, '.data', 'postgres.json'), 'utf8')) as { port: number; dir: string };

const command = (...args: string[]) =>
  spawnSync(process.execPath, [...RUN, ...args], {
    cwd: checkout,
    env,
    encoding: 'utf8',
  });

/** A process that keeps the cluster until it is ended. */
async function holder(): Promise<ChildProcess> {
  const script = `import { startCluster } from ${JSON.stringify(resolve('src/cli/cluster.ts'))};
    const { stop } = await startCluster('wergeld');
    process.on('SIGTERM', () => { stop(); process.exit(0); });
    process.stdout.write('up');
    setInterval(() => undefined, 1000);`;
  const child = spawn(process.execPath, [resolve('src/testing/script.mjs'), script], {
    cwd: checkout,
    env,
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  await new Promise<void>((done, fail) => {
    child.stdout!.once('data', () => done());
    child.once('exit', (code) => fail(new Error(`ended with ${code}`)));
  });
  return child;
}

const ended = (child: ChildProcess): Promise<unknown> => new Promise((done) => child.once('exit', done));

afterAll(() => {
  const left = existsSync(join(checkout, '.data')) ? note().dir : '';
  rmSync(checkout, { recursive: true, force: true });
  if (left.startsWith('/var/lib/postgresql/wergeld-')) rmSync(left, { recursive: true, force: true });
});

test('commands share the cluster: the last one stops it, and one that was killed counts no more', async () => {
  const alone = command('books', 'check');
  expect(alone.stderr.split('\n').filter((line) => line && !line.startsWith('Installing'))).toEqual([]);
  expect(alone.stdout).toContain('The books are proven');
  const { port } = note();
  expect(await portFree(port)).toBe(true);

  const first = await holder();
  expect(await portFree(port)).toBe(false);
  expect(command('books', 'check').status).toBe(0);
  expect(await portFree(port)).toBe(false);
  const second = await holder();
  const gone = ended(first);
  first.kill('SIGTERM');
  await gone;
  expect(await portFree(port)).toBe(false);

  const killed = ended(second);
  second.kill('SIGKILL');
  await killed;
  // Its server is left behind; the next command takes it over and stops it.
  expect(await portFree(port)).toBe(false);
  expect(command('books', 'check').stdout).toContain('The books are proven');
  expect(await portFree(port)).toBe(true);
  expect(readdirSync(join(checkout, '.data', 'postgres.users'))).toEqual([]);
});

test('what holds patients’ data is closed to others, however wide the shell makes files', async () => {
  const run = spawnSync('bash', ['-c', `umask 000 && "$0" ${RUN.join(' ')} exchange`, process.execPath], {
    cwd: checkout,
    env,
    encoding: 'utf8',
  });
  expect([run.stderr, run.status]).toEqual(['', 0]);
  const before = process.umask(0);
  try {
    const { outbox, archive } = await foldersOf('somewhere', join(checkout, '.data', 'exchange'));
    await writeWhole(join(outbox, 'claims.837'), 'ISA');
    const brought = join(checkout, '.data', 'exchange', 'somewhere', 'inbox', 'answer.835');
    writeFileSync(brought, 'ISA', { mode: 0o666 });
    await moveInto(brought, archive, 'answer.835', 'a reason');
  } finally {
    process.umask(before);
  }
  const wide = (path: string): string[] => {
    const { mode } = statSync(path);
    const here = (mode & 0o077) === 0 ? [] : [`${path} ${(mode & 0o777).toString(8)}`];
    return statSync(path).isDirectory()
      ? [...here, ...readdirSync(path).flatMap((name) => wide(join(path, name)))]
      : here;
  };
  expect(wide(join(checkout, '.data'))).toEqual([]);
  expect(statSync(note().dir).mode & 0o077).toBe(0);
  // A folder that was made wide before is closed by the next command.
  chmodSync(join(checkout, '.data'), 0o755);
  expect(command('books', 'check').status).toBe(0);
  expect(statSync(join(checkout, '.data')).mode & 0o777).toBe(0o700);
});
