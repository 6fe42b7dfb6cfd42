/** One round of the folder exchange: what is to go out is written, what came in is read. */
import { counted } from '../../core/words';
import { createHash } from 'node:crypto';
import { join } from 'node:path';
import type { Tx } from '../../db/connect';
import { sql } from 'kysely';
import { type Context, allow } from '../access';
import { inTransaction } from '../use-case';
import { writeAgencyFiles } from '../overdue/door';
import { foldersOf, moveInto, wholeFiles, writeWhole } from '../folders';
import { takeFile } from './intake';
import type { Outcome } from '../outcome';

/** What a round did: files written, and the outcome of each transaction read. */
export interface Round {
  written: string[];
  read: { file: string; status: string; outcomes: Outcome[] }[];
}

/** Runs a round over all connections. Two rounds at once, or a kill in the middle, neither lose nor repeat anything. */
export async function exchangeRound(context: Context): Promise<Round> {
  allow(context, 'work claims');
  const round: Round = {
    written: [...(await writeOutbox(context)), ...(await writeAgencyFiles(context))],
    read: [],
  };
  const connections = await context.db
    .selectFrom('connection')
    .select(['id', 'folder'])
    .orderBy('id')
    .execute();
  const faults: unknown[] = [];
  for (const connection of connections) {
    const folders = await foldersOf(connection.folder);
    for (const name of await wholeFiles(folders.inbox)) {
      const path = join(folders.inbox, name);
      try {
        const intake = await takeFile(context, path, name, connection.id);
        const aside = intake.status === 'set aside';
        await moveInto(
          path,
          aside ? join(folders.archive, 'set-aside') : join(folders.archive, 'in'),
          name,
          aside ? intake.outcomes[0]?.why : undefined,
        );
        round.read.push({ file: name, status: intake.status, outcomes: intake.outcomes });
      } catch (error) {
        // Another process may have taken the file in between. Any other fault leaves it where it is, and holds up no other.
        if ((error as NodeJS.ErrnoException).code !== 'ENOENT') faults.push(error);
      }
    }
  }
  if (faults.length > 0)
    throw new AggregateError(
      faults,
      `${counted(faults.length, 'file')} could not be read: ${String(faults[0])}`,
    );
  return round;
}

/**
 * Writes every transmission that has no file yet; its text stands in the database until then. A row that another process
 * is writing is left to it. After a kill between file and record, the same file with the same control number is written
 * again, which the receiver recognises.
 */
export async function writeOutbox(context: Context): Promise<string[]> {
  const waiting = await context.db
    .selectFrom('transmission')
    .select('id')
    .where('written_at', 'is', null)
    .orderBy('id')
    .execute();
  const written: string[] = [];
  for (const { id } of waiting) {
    const name = await inTransaction(context, (act) => writeOne(act.db, id));
    if (name) written.push(name);
  }
  return written;
}

async function writeOne(tx: Tx, id: number): Promise<string | null> {
  const item = await tx
    .selectFrom('transmission')
    .select(['connection_id', 'file_name', 'content'])
    .where('id', '=', id)
    .where('written_at', 'is', null)
    .forNoKeyUpdate()
    .skipLocked()
    .executeTakeFirst();
  if (!item) return null;
  const [folder = '', name = ''] = item.file_name.split('/');
  const { outbox } = await foldersOf(folder);
  await writeWhole(join(outbox, name), item.content);
  await tx
    .updateTable('transmission')
    .set({ written_at: sql<Date>`desk_now()` })
    .where('id', '=', id)
    .execute();
  const sha256 = createHash('sha256').update(item.content).digest('hex');
  await tx
    .insertInto('exchange_file')
    .values({
      connection_id: item.connection_id,
      direction: 'out',
      name,
      sha256,
      bytes: Buffer.byteLength(item.content),
      kind: '837',
      status: 'written',
    })
    .execute();
  return item.file_name;
}
