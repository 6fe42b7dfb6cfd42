/** Asking the person at the keyboard for what nobody may see, nor find in the list of processes. */
import { createInterface } from 'node:readline/promises';
import { Writable } from 'node:stream';
import { Stop } from './cluster';

/** The first line of what is piped in, whether or not it has an end. */
async function piped(): Promise<string> {
  let text = '';
  for await (const piece of process.stdin) {
    text += String(piece);
    if (text.includes('\n')) break;
  }
  return text.split(/\r?\n/)[0]!;
}

/** What is typed at a keyboard, unseen from before it is asked for. */
async function typed(question: string): Promise<string> {
  const input = createInterface({
    input: process.stdin,
    output: new Writable({ write: (_piece, _encoding, done) => done() }),
    terminal: true,
  });
  try {
    const answer = input.question('');
    process.stderr.write(question);
    return await answer;
  } finally {
    input.close();
  }
}

async function line(question: string): Promise<string> {
  if (!process.stdin.isTTY) process.stderr.write(question);
  const text = await (process.stdin.isTTY ? typed(question) : piped());
  process.stderr.write('\n');
  return text;
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
