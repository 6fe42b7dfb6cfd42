/** Taking in one file: recognized, checked whole, applied in one transaction, recorded with its result. */
import { sql } from 'kysely';
import { type Context, allow } from '../access';
import { type Act, inTransaction } from '../use-case';
import { fileHead, fingerprint } from '../folders';
import type { FileKind } from './kind';
import { FILE_KINDS } from './kinds';
import { BrokenFile, type Intake } from '../outcome';

/** What is recorded of every file. */
interface Incoming {
  connection_id: number | null;
  direction: 'in';
  name: string;
  sha256: string;
  bytes: number;
}

/**
 * Takes in a file. The same file (by its hash) is taken once; a broken one changes nothing and says where it is broken.
 * @param path where the file lies
 * @param connectionId the connection whose inbox it came through, null when a person brought it in
 */
export async function takeFile(
  context: Context,
  path: string,
  name: string,
  connectionId: number | null,
): Promise<Intake> {
  allow(context, 'post remittances');
  const record: Incoming = {
    connection_id: connectionId,
    direction: 'in',
    name,
    ...(await fingerprint(path)),
  };
  const head = await fileHead(path);
  const kind = FILE_KINDS.find((one) => one.recognizes(head))!;
  try {
    const inside = await kind.check(path);
    return await inTransaction(context, (act) => applyOnce(act, kind, inside, record, path));
  } catch (error) {
    if (!(error instanceof BrokenFile)) throw error;
    await context.db
      .insertInto('exchange_file')
      .values({ ...record, kind: 'unknown', status: 'set aside', result: error.message })
      .execute();
    return {
      status: 'set aside',
      kind: 'unknown',
      outcomes: [{ kind: 'file', trace: name, amount: null, result: 'refused', why: error.message }],
    };
  }
}

async function applyOnce(
  act: Act,
  kind: FileKind,
  inside: string,
  record: Incoming,
  path: string,
): Promise<Intake> {
  const tx = act.db;
  const { name, connection_id: connectionId } = record;
  const file = await tx
    .insertInto('exchange_file')
    .values({ ...record, kind: inside, status: 'read' })
    .onConflict((conflict) =>
      conflict
        .columns(['direction', 'sha256'])
        .where(sql<boolean>`status in ('read', 'written')`)
        .doNothing(),
    )
    .returning('id')
    .executeTakeFirst();
  if (!file) return readBefore(act, inside, record);
  const outcomes = await kind.apply(tx, act, { path, name, connectionId, fileId: file.id });
  const result = outcomes
    .map((item) => `${item.kind} ${item.trace}: ${item.why}`)
    .join('\n')
    .slice(0, 4000);
  await tx.updateTable('exchange_file').set({ result }).where('id', '=', file.id).execute();
  await act.note('read file', { kind: 'exchange file', id: file.id }, { kind: inside });
  return { status: 'read', kind: inside, outcomes };
}

async function readBefore(act: Act, inside: string, record: Incoming): Promise<Intake> {
  const before = await act.db
    .selectFrom('exchange_file')
    .select('name')
    .where('direction', '=', 'in')
    .where('sha256', '=', record.sha256)
    .where('status', '=', 'read')
    .executeTakeFirst();
  const why = `the same file was read before, as ${before?.name ?? record.name}`;
  await act.db
    .insertInto('exchange_file')
    .values({ ...record, kind: inside, status: 'duplicate', result: why })
    .execute();
  return {
    status: 'duplicate',
    kind: inside,
    outcomes: [{ kind: inside, trace: record.name, amount: null, result: 'refused', why }],
  };
}
