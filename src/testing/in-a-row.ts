/** Commands one after the other in one process, of which each believes that it is alone. */
import { Readable } from 'node:stream';
import { text } from 'node:stream/consumers';
import { command, inWords } from '../cli/commands';

/** A command as it is called: its words, what is on top of the environment, and what is typed. */
export interface Call {
  args: readonly string[];
  env?: Record<string, string>;
  input?: string;
}

/** How a command ended. */
export interface Ended {
  status: number | null;
  out: string;
  err: string;
}

/** Does the calls that come in as JSON, and writes how each ended. */
export async function inARow(): Promise<void> {
  const calls = JSON.parse(await text(process.stdin)) as Call[];
  const env = { ...process.env };
  const ended: Ended[] = [];
  const { stdout, stderr } = process;
  const write = stdout.write.bind(stdout);
  for (const { args, env: own, input = '' } of calls) {
    const one: Ended = { status: 1, out: '', err: '' };
    process.env = { ...env, ...own };
    Object.defineProperty(process, 'stdin', { value: Readable.from([input]), configurable: true });
    stdout.write = ((piece: unknown) => ((one.out += String(piece)), true)) as typeof stdout.write;
    stderr.write = ((piece: unknown) => ((one.err += String(piece)), true)) as typeof stderr.write;
    try {
      one.status = await command([...args]);
    } catch (error) {
      one.err += `${inWords(error)}\n`;
    }
    ended.push(one);
  }
  write(JSON.stringify(ended), () => process.exit(0));
}
