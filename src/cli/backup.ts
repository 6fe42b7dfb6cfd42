/** Backup and restore with PostgreSQL's own programs, encrypted as age does (https://age-encryption.org/v1). */
import { spawn } from 'node:child_process';
import { createReadStream, createWriteStream, existsSync, readFileSync, renameSync, rmSync } from 'node:fs';
import { basename } from 'node:path';
import { Readable, Writable } from 'node:stream';
import type { ReadableStream as NodeStream } from 'node:stream/web';
import { pipeline } from 'node:stream/promises';
import { Decrypter, Encrypter } from 'age-encryption';
import { db } from '../db/connect';
import { audit, systemContext } from '../server/access';
import { booksCheck } from './desk';
import { Stop } from './cluster';
import { connection } from './connection';
import { type Opened, asOwner, prepareDatabase } from './database';
import { askSecret } from './secret';

/** Who is signed in, and what was tried at the door, is nothing to bring back. */
const LEFT_OUT = ['session', 'verification', 'sign_in_limit', 'spent_code'];

interface Run {
  stdout: Readable;
  stdin: Writable;
  /** @throws Stop with the program's last line when it failed */
  done: Promise<void>;
}

function start(program: string, args: string[], env: NodeJS.ProcessEnv, fault: string): Run {
  const child = spawn(program, args, { env, stdio: ['pipe', 'pipe', 'pipe'] });
  let said = '';
  child.stderr.on('data', (piece: Buffer) => (said = `${said}${piece.toString()}`.slice(-4000)));
  const done = new Promise<void>((resolve, reject) => {
    child.on('error', (error) => reject(new Stop(`${fault}: ${error.message}`)));
    child.on('close', (status) =>
      status === 0 ? resolve() : reject(new Stop(`${fault}: ${said.trim().split('\n').at(-1)}`)),
    );
  });
  // Whoever waits for it hears of it; until then it is not unheard.
  done.catch(() => undefined);
  return { stdout: child.stdout, stdin: child.stdin, done };
}

async function encrypter(): Promise<Encrypter> {
  const made = new Encrypter();
  const recipient = process.env.WERGELD_BACKUP_RECIPIENT;
  try {
    if (recipient) made.addRecipient(recipient);
  } catch {
    throw new Stop('WERGELD_BACKUP_RECIPIENT is not the public key of an age identity (age1…)');
  }
  if (!recipient) made.setPassphrase(await askSecret('Passphrase of the backup', true));
  return made;
}

async function decrypter(): Promise<Decrypter> {
  const made = new Decrypter();
  const path = process.env.WERGELD_BACKUP_IDENTITY;
  if (!path) made.addPassphrase(await askSecret('Passphrase of the backup'));
  else {
    const key = existsSync(path) ? /^AGE-SECRET-KEY-\S+$/m.exec(readFileSync(path, 'utf8'))?.[0] : undefined;
    if (!key) throw new Stop(`${path} holds no age identity (AGE-SECRET-KEY-…)`);
    made.addIdentity(key);
  }
  return made;
}

/** Writes the whole database, without sessions, encrypted to a file that only its owner can read. */
export async function backup(database: Opened, file: string | undefined): Promise<number> {
  if (!file) throw new Stop('Say where: ./wergeld backup FILE');
  if (existsSync(file)) throw new Stop(`${file} exists already: choose another name`);
  const { dbname, env } = connection(database.owner());
  const age = await encrypter();
  const dump = start(
    'pg_dump',
    ['--format=custom', ...LEFT_OUT.map((table) => `--exclude-table-data=public.${table}`), dbname],
    env,
    'The backup failed',
  );
  const part = `${file}.part`;
  try {
    const sealed = await age.encrypt(Readable.toWeb(dump.stdout) as ReadableStream<Uint8Array>);
    await pipeline(
      Readable.fromWeb(sealed as NodeStream),
      createWriteStream(part, { mode: 0o600, flags: 'wx' }),
    );
    await dump.done;
    renameSync(part, file);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'EEXIST')
      throw new Stop(`${part} is there: another backup is being written, or one was killed; remove it`);
    rmSync(part, { force: true });
    if ((error as NodeJS.ErrnoException).code === 'ENOENT')
      throw new Stop(`${file} cannot be written: there is no such folder`);
    throw error;
  }
  const context = await systemContext(db());
  await audit(context.db, context, 'backed up', { kind: 'database', id: basename(file) });
  process.stdout.write(`Written to ${file}\n`);
  return 0;
}

/** Reads a backup into a database that holds nothing yet, and proves its books. */
export async function restore(database: Opened, file: string | undefined): Promise<number> {
  if (!file || !existsSync(file)) throw new Stop('Say which file: ./wergeld restore FILE');
  const owner = database.owner();
  const { rows } = await asOwner(owner, (pool) =>
    pool.query<{ n: number }>(
      `select count(*)::int as n from information_schema.tables where table_schema = 'public'`,
    ),
  );
  if (rows[0]!.n > 0)
    throw new Stop('This database holds data already: restore goes into an empty one, named by DATABASE_URL');
  const age = await decrypter();
  const { dbname, env } = connection(owner);
  const opened = await age
    .decrypt(Readable.toWeb(createReadStream(file)) as ReadableStream<Uint8Array>)
    .catch((error: unknown) => {
      throw new Stop(`The backup cannot be opened: ${(error as Error).message}`);
    });
  const back = start(
    'pg_restore',
    ['--no-owner', '--no-privileges', '--exit-on-error', '--single-transaction', `--dbname=${dbname}`],
    env,
    'The restore failed',
  );
  // When the program fails first, what it said tells more than that it no longer listens.
  await pipeline(Readable.fromWeb(opened as NodeStream), back.stdin).catch(async (error: unknown) => {
    await back.done;
    throw new Stop(`The restore failed: ${(error as Error).message}`);
  });
  await back.done;
  process.env.DATABASE_URL = await prepareDatabase(owner);
  const context = await systemContext(db());
  await audit(context.db, context, 'restored', { kind: 'database', id: basename(file) });
  process.stdout.write(`Restored from ${file}\n`);
  return booksCheck();
}
