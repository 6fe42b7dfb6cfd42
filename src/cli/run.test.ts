/** What runs lies in the checkout, closed to everybody else. */
import { spawnSync } from 'node:child_process';
import {
  chmodSync,
  cpSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  rmSync,
  statSync,
  symlinkSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';

const root = process.getuid?.() === 0;
// A copy, so that it may be broken.
const checkout = mkdtempSync(join(tmpdir(), 'wergeld-copy-'));
const shared = mkdtempSync(join(tmpdir(), 'wergeld-shared-'));
beforeAll(() => {
  for (const name of ['src', 'bench', 'package.json', 'package-lock.json', 'tsconfig.json'])
    cpSync(name, join(checkout, name), { recursive: true });
  symlinkSync(resolve('node_modules'), join(checkout, 'node_modules'));
  for (const folder of [checkout, shared]) chmodSync(folder, folder === shared ? 0o777 : 0o755);
});
afterAll(() => {
  for (const folder of [checkout, shared]) rmSync(folder, { recursive: true, force: true });
});

const help = () =>
  spawnSync(process.execPath, ['src/cli/run.mjs', 'src/cli/main.ts', 'help'], {
    cwd: checkout,
    encoding: 'utf8',
    env: { ...process.env, TMPDIR: shared },
  });
const below = (folder: string): string[] =>
  readdirSync(folder, { withFileTypes: true }).flatMap((item) => [
    join(folder, item.name),
    ...(item.isDirectory() ? below(join(folder, item.name)) : []),
  ]);

test('it is built once, nothing of it into a folder that others share, and nobody else reads or writes it', () => {
  const first = help();
  expect([first.stderr, first.status]).toEqual(['', 0]);
  expect(first.stdout).toContain('./wergeld COMMAND');
  const built = below(join(checkout, '.data'));
  expect(built.filter((path) => path.endsWith('main.mjs'))).toHaveLength(1);
  expect(help().stdout).toBe(first.stdout);
  expect(below(join(checkout, '.data'))).toEqual(built);
  expect(readdirSync(shared)).toEqual([]);
  for (const path of [join(checkout, '.data'), ...built])
    expect([path, statSync(path).mode & 0o077]).toEqual([path, 0]);
  if (!root) return;
  // As a second user of the machine.
  const main = built.find((path) => path.endsWith('main.mjs'))!;
  const others = (words: string) => spawnSync('runuser', ['-u', 'nobody', '--', 'sh', '-c', words]).status;
  expect(others(`test -e ${shared}`)).toBe(0);
  expect(others(`cat ${main}`)).not.toBe(0);
  expect(others(`echo 'process.exit(7)' >> ${main}`)).not.toBe(0);
  expect(others(`touch ${join(checkout, '.data', 'run', 'planted.mjs')}`)).not.toBe(0);
});

test('what somebody else could have written to does not run', () => {
  const runs = join(checkout, '.data', 'run');
  mkdirSync(runs, { recursive: true });
  for (const open of [runs, ...readdirSync(runs).map((name) => join(runs, name))]) {
    chmodSync(open, 0o777);
    const refused = help();
    expect([open, refused.status]).toEqual([open, 1]);
    expect(refused.stderr).toMatch(/can be written to by others: remove it, and start again/);
    chmodSync(open, 0o700);
  }
  expect(help().status).toBe(0);
});

test('a source that changed is built anew', () => {
  const before = below(join(checkout, '.data', 'run')).length;
  cpSync('src/cli/main.ts', join(checkout, 'src', 'cli', 'another.ts'));
  expect(help().status).toBe(0);
  expect(below(join(checkout, '.data', 'run')).length).toBeGreaterThan(before);
});
