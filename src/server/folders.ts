/** The folders that files travel through: `outbox/`, `inbox/` and `archive/` of each connection. */
import { createHash, randomUUID } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { chmod, mkdir, open, readdir, rename, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';

/** Where the connections' folders are (`WERGELD_EXCHANGE`, else `.data/exchange`). */
export const exchangeRoot = (): string =>
  process.env.WERGELD_EXCHANGE ?? join(process.cwd(), '.data', 'exchange');

/** The three folders of a connection, made when missing. */
export async function foldersOf(
  folder: string,
  root: string = exchangeRoot(),
): Promise<{ outbox: string; inbox: string; archive: string }> {
  const paths = {
    outbox: join(root, folder, 'outbox'),
    inbox: join(root, folder, 'inbox'),
    archive: join(root, folder, 'archive'),
  };
  for (const path of Object.values(paths)) await mkdir(path, { recursive: true, mode: 0o700 });
  return paths;
}

/** Writes a file so that nobody ever sees half of it: under another name first, synced, then renamed. */
export async function writeWhole(path: string, content: string | Uint8Array): Promise<void> {
  const part = `${path}.${randomUUID()}.part`;
  const handle = await open(part, 'w', 0o600);
  try {
    await handle.writeFile(content);
    await handle.sync();
  } finally {
    await handle.close();
  }
  await rename(part, path);
}

/** A file counts as whole when nothing was written to it for this long. */
const QUIET_MS = 1_500;

/** Files that are whole: no `.part`, `.tmp` or hidden names, and not written to just now. Oldest first. */
export async function wholeFiles(path: string, now: number = Date.now()): Promise<string[]> {
  const found: { name: string; at: number }[] = [];
  for (const item of await readdir(path, { withFileTypes: true })) {
    if (!item.isFile() || item.name.startsWith('.') || /\.(part|tmp|filepart|crdownload)$/i.test(item.name))
      continue;
    const { mtimeMs } = await stat(join(path, item.name));
    if (now - mtimeMs >= QUIET_MS) found.push({ name: item.name, at: mtimeMs });
  }
  return found.sort((a, b) => a.at - b.at || (a.name < b.name ? -1 : 1)).map((item) => item.name);
}

/** SHA-256 and length of a file, read as a stream. */
export async function fingerprint(path: string): Promise<{ sha256: string; bytes: number }> {
  const hash = createHash('sha256');
  let bytes = 0;
  for await (const piece of createReadStream(path)) {
    hash.update(piece as Buffer);
    bytes += (piece as Buffer).length;
  }
  return { sha256: hash.digest('hex'), bytes };
}

/** How a file begins: its first few hundred characters. */
export async function fileHead(path: string): Promise<string> {
  const handle = await open(path, 'r');
  try {
    const { buffer, bytesRead } = await handle.read(Buffer.alloc(512), 0, 512, 0);
    return buffer.subarray(0, bytesRead).toString('latin1');
  } finally {
    await handle.close();
  }
}

/** The text of a file, in pieces. */
export async function* fileText(path: string): AsyncGenerator<string> {
  const decoder = new TextDecoder('utf-8');
  for await (const piece of createReadStream(path, { highWaterMark: 64 * 1024 }))
    yield decoder.decode(piece as Buffer, { stream: true });
  const rest = decoder.decode();
  if (rest) yield rest;
}

/** Moves a file into a folder; a name that is taken there gets a number. With a note, the reason stands beside it. */
export async function moveInto(path: string, folder: string, name: string, note?: string): Promise<void> {
  await mkdir(folder, { recursive: true, mode: 0o700 });
  let target = join(folder, name);
  for (let n = 2; await exists(target); n += 1) target = join(folder, `${n}-${name}`);
  await rename(path, target);
  // Whoever brought it may have made it wider.
  await chmod(target, 0o600);
  if (note) await writeFile(`${target}.reason.txt`, `${note}\n`, { mode: 0o600 });
}

const exists = async (path: string): Promise<boolean> =>
  stat(path).then(
    () => true,
    () => false,
  );
