/** What is in the memory of a process: read as the system shows it (Linux, /proc), for what must not be there. */
import { execFileSync } from 'node:child_process';
import { closeSync, openSync, readFileSync, readSync } from 'node:fs';

/** Read at once, in bytes. */
const CHUNK = 32 * 1024 * 1024;

/** The processes that a process has started, and theirs. */
export function familyOf(pid: number): { pid: number; command: string }[] {
  const all = execFileSync('ps', ['-eo', 'pid=,ppid=,args='], { encoding: 'utf8', maxBuffer: 1e8 })
    .trim()
    .split('\n')
    .map((line) => /^\s*(\d+)\s+(\d+)\s+(.*)$/.exec(line))
    .flatMap((found) =>
      found ? [{ pid: Number(found[1]), parent: Number(found[2]), command: found[3]! }] : [],
    );
  const of = (parent: number): typeof all =>
    all.filter((one) => one.parent === parent).flatMap((one) => [one, ...of(one.pid)]);
  return of(pid);
}

/** Whether some words are in the memory of a process that it may write, as bytes or as text of two bytes a letter. */
export function remembers(pid: number, words: string): boolean {
  const wanted = [Buffer.from(words, 'latin1'), Buffer.from(words, 'utf16le')];
  const most = Math.max(...wanted.map(({ length }) => length));
  const regions = readFileSync(`/proc/${pid}/maps`, 'utf8')
    .split('\n')
    .map((line) => /^([0-9a-f]+)-([0-9a-f]+) rw/.exec(line))
    .flatMap((found) => (found ? [{ from: parseInt(found[1]!, 16), to: parseInt(found[2]!, 16) }] : []));
  const memory = openSync(`/proc/${pid}/mem`, 'r');
  const buffer = Buffer.alloc(CHUNK + most);
  try {
    for (const { from, to } of regions)
      for (let at = from; at < to; at += CHUNK) {
        let read = 0;
        try {
          read = readSync(memory, buffer, 0, Math.min(CHUNK + most, to - at), at);
        } catch {
          // It gave this part back meanwhile.
          continue;
        }
        const seen = buffer.subarray(0, read);
        if (wanted.some((bytes) => seen.includes(bytes))) return true;
      }
    return false;
  } finally {
    closeSync(memory);
  }
}
