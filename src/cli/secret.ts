/** Asking the person at the keyboard for what nobody may see, nor find in the list of processes. */
import { createInterface } from 'node:readline/promises';
import { Writable } from 'node:stream';
import { Stop } from './cluster';

const nowhere = (): Writable => new Writable({ write: (_piece, _encoding, done) => done() });

async function line(question: string): Promise<string> {
  process.stderr.write(question);
  const input = createInterface({
    input: process.stdin,
    output: nowhere(),
    terminal: process.stdin.isTTY === true,
  });
  try {
    return await Promise.race([
      input.question(''),
      new Promise<string>((resolve) => input.once('close', () => resolve(''))),
    ]);
  } finally {
    input.close();
    process.stderr.write('\n');
  }
}

/**
 * Reads a secret without echo, or the first line of what is piped in.
 * @param again asked for a second time at a keyboard, where nobody sees what was typed
 * @throws Stop when nothing comes, or two things
 */
export async function askSecret(what: string, again = false): Promise<string> {
  const first = await line(`${what}: `);
  if (first === '') throw new Stop(`${what} is missing`);
  if (again && process.stdin.isTTY && (await line(`${what}, once more: `)) !== first)
    throw new Stop('That was not twice the same');
  return first;
}
