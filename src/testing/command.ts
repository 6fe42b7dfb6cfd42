/** `./wergeld` as it is called from a shell, on the database of a test file. */
import { type ChildProcess, spawn, spawnSync } from 'node:child_process';
import { command, inWords } from '../cli/commands';
import type { TestDatabase } from './database';
import type { Call, Ended } from './in-a-row';

const COMMAND = ['src/cli/run.mjs', 'src/cli/main.ts'];

/** Runs a command to its end; `env` is on top of the test's own, `input` is what is typed. */
export function wergeld(
  t: TestDatabase,
  args: readonly string[],
  env: Record<string, string> = {},
  input = '',
): Ended {
  const { status, stdout, stderr } = spawnSync(process.execPath, [...COMMAND, ...args], {
    encoding: 'utf8',
    env: { ...process.env, DATABASE_URL: t.ownerUrl, ...env },
    input,
    timeout: 1_200_000,
    maxBuffer: 64 * 1024 * 1024,
  });
  return { status, out: stdout, err: stderr };
}

/** The same in this process, without a second of its own; nothing can be typed. */
export async function wergeldHere(t: TestDatabase, args: readonly string[]): Promise<Ended> {
  const before = process.env.DATABASE_URL;
  process.env.DATABASE_URL = t.ownerUrl;
  let out = '';
  const stdout = jest.spyOn(process.stdout, 'write').mockImplementation((text) => {
    out += String(text);
    return true;
  });
  try {
    const status = await command([...args]);
    return { status, out, err: '' };
  } catch (error) {
    return { status: 1, out, err: `${inWords(error)}\n` };
  } finally {
    stdout.mockRestore();
    process.env.DATABASE_URL = before;
  }
}

/** Several commands one after the other in one process, which has what a test's own process cannot load. */
export function wergeldInARow(t: TestDatabase, calls: readonly Call[]): Ended[] {
  const { stdout, stderr } = spawnSync(
    process.execPath,
    ['src/testing/script.mjs', `import { inARow } from './src/testing/in-a-row'; void inARow();`],
    {
      encoding: 'utf8',
      env: { ...process.env, DATABASE_URL: t.ownerUrl },
      input: JSON.stringify(calls),
      timeout: 600_000,
      maxBuffer: 64 * 1024 * 1024,
    },
  );
  if (stdout === '') throw new Error(stderr);
  return JSON.parse(stdout) as Ended[];
}

/** Begins a command. @returns the process, and what it ended by: its status or the signal */
export function begun(
  t: TestDatabase,
  args: readonly string[],
  env: Record<string, string> = {},
): { child: ChildProcess; ended: Promise<number | NodeJS.Signals> } {
  const child = spawn(process.execPath, [...COMMAND, ...args], {
    env: { ...process.env, DATABASE_URL: t.ownerUrl, ...env },
    stdio: 'ignore',
  });
  return {
    child,
    ended: new Promise((resolve) => child.once('exit', (code, signal) => resolve(signal ?? code!))),
  };
}
