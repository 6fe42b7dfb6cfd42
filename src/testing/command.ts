/** `./wergeld` as it is called from a shell, on the database of a test file. */
import { type ChildProcess, spawn, spawnSync } from 'node:child_process';
import { command, inWords } from '../cli/commands';
import type { TestDatabase } from './database';

const COMMAND = ['src/cli/run.mjs', 'src/cli/main.ts'];

/** How a command ended. */
interface Ended {
  status: number | null;
  out: string;
  err: string;
}

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
