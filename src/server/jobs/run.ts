/** Doing one piece of background work, item by item. */
import { type Kysely, sql } from 'kysely';
import pino, { type Logger } from 'pino';
import type { Db } from '../../db/connect';
import type { DB } from '../../db/views';
import { type Context, Refused, readNow } from '../access';
import type { WorkKind } from './kind';
import { WORK_KINDS, isWorkKind } from './kinds';

/** First number of the locks on pieces of work. */
const RUNNING = 7_239_010;

/** What is written of progress at most so often, in milliseconds. */
const NOTE_EVERY = 200;

/**
 * Does a piece of work: every item that is not done. Only one process at a time works on it; a lock that dies with the
 * process keeps the others away, so that work which a killed process left behind is taken up by whoever comes next.
 */
export async function runWork(db: Db, workId: number, log: Logger): Promise<void> {
  await db.connection().execute(async (own: Kysely<DB>) => {
    const { rows } = await sql<{
      free: boolean;
    }>`select pg_try_advisory_lock(${RUNNING}, ${workId}) as free`.execute(own);
    if (!rows[0]?.free) return;
    try {
      // On the connection that holds the lock: whoever holds one never asks for a second.
      await runLocked(own, workId, log);
    } finally {
      await sql`select pg_advisory_unlock(${RUNNING}, ${workId})`.execute(own);
    }
  });
}

async function runLocked(db: Db, workId: number, log: Logger): Promise<void> {
  const row = await db
    .updateTable('work')
    .set({
      status: sql`case status when 'stopping' then 'stopped' else 'running' end`,
      started_at: sql`coalesce(started_at, desk_now())`,
    })
    .where('id', '=', workId)
    .where('status', 'in', ['waiting', 'running', 'stopping'])
    .returningAll()
    .executeTakeFirst();
  if (row?.status !== 'running') return;
  if (!isWorkKind(row.kind)) {
    await end(db, workId, 'failed', `Nobody knows how to do “${row.kind}” any more`);
    return;
  }
  const kind = WORK_KINDS[row.kind] as unknown as WorkKind<unknown>;
  const input = kind.document.read(row.input);
  const context: Context = {
    db,
    user: { id: row.user_id, name: row.user_name, role: row.role },
    now: await readNow(db),
    today: row.business_date,
    background: true,
  };
  const items = await db
    .selectFrom('work_item')
    .selectAll()
    .where('work_id', '=', workId)
    .where('status', '=', 'waiting')
    .orderBy('number')
    .execute();
  let fault = '';
  for (const item of items) {
    const outcome = await doItem(
      db,
      item,
      (progress) => kind.one(context, item.subject, progress, input),
      log,
    );
    if (outcome === 'stopped') {
      await end(db, workId, 'stopped', fault);
      return;
    }
    fault ||= outcome;
  }
  await end(db, workId, fault === '' ? 'finished' : 'failed', fault);
}

const LOOK_MS = 200;

/** Does a piece of work until it is ended; while another process does it, waits for that. */
export async function finishWork(db: Db, workId: number, log: Logger): Promise<void> {
  for (;;) {
    await runWork(db, workId, log);
    const row = await db.selectFrom('work').select('status').where('id', '=', workId).executeTakeFirst();
    if (!row || !['waiting', 'running', 'stopping'].includes(row.status)) return;
    await new Promise((resolve) => setTimeout(resolve, LOOK_MS));
  }
}

/**
 * Waits until the drafts of a batch are prepared, doing it where nobody else does.
 * @returns how many pieces the batch has
 * @throws Refused with what went wrong
 */
export async function finishDrafting(db: Db, batchId: number, workId: number): Promise<number> {
  await finishWork(db, workId, pino({ level: 'silent' }));
  const { fault } = await db
    .selectFrom('work')
    .select('fault')
    .where('id', '=', workId)
    .executeTakeFirstOrThrow();
  if (fault !== '') throw new Refused('state', fault);
  const { pieces } = await db
    .selectFrom('mail_piece')
    .select(({ fn }) => fn.countAll<number>().as('pieces'))
    .where('batch_id', '=', batchId)
    .executeTakeFirstOrThrow();
  return pieces;
}

/** Does what other processes have left behind; what one of them is doing, is left to it. */
export async function takeUpLeft(db: Db, log: Logger): Promise<void> {
  const left = await db
    .selectFrom('work')
    .select('id')
    .where('status', 'in', ['waiting', 'running', 'stopping'])
    .orderBy('id')
    .execute();
  for (const { id } of left) await runWork(db, id, log);
}

type Item = { work_id: number; number: number; size: number };

/** Does one item and notes how it went. @returns why it failed, empty when it did not, or that the work is to stop */
async function doItem(
  db: Db,
  item: Item,
  one: (progress: (done: number) => Promise<boolean>) => Promise<string | null>,
  log: Logger,
): Promise<string> {
  const note = (values: { done?: number; status?: 'done' | 'failed'; result?: string }) =>
    db
      .updateTable('work_item')
      .set(values)
      .where('work_id', '=', item.work_id)
      .where('number', '=', item.number)
      .execute();
  if (await isStopping(db, item.work_id)) return 'stopped';
  let noted = -Infinity;
  try {
    const result = await one(async (done) => {
      if (performance.now() - noted < NOTE_EVERY) return true;
      noted = performance.now();
      await note({ done: Math.min(done, item.size) });
      return !(await isStopping(db, item.work_id));
    });
    if (result === null) return 'stopped';
    await note({ done: item.size, status: 'done', result });
    return '';
  } catch (error) {
    const words =
      error instanceof Refused
        ? error.message
        : 'Failed: nothing more of it was done; go on when it is mended';
    if (!(error instanceof Refused))
      log.error({ error: String(error), work: item.work_id, item: item.number }, 'work failed');
    const cause = error instanceof Refused ? words : `${words} (${String(error).slice(0, 200)})`;
    await note({ status: 'failed', result: cause });
    return cause;
  }
}

const isStopping = async (db: Db, workId: number): Promise<boolean> =>
  (await db.selectFrom('work').select('status').where('id', '=', workId).executeTakeFirst())?.status ===
  'stopping';

const end = async (
  db: Db,
  workId: number,
  status: 'finished' | 'failed' | 'stopped',
  fault: string,
): Promise<void> => {
  await db
    .updateTable('work')
    .set({ status, fault: fault.slice(0, 500), ended_at: sql`desk_now()` })
    .where('id', '=', workId)
    .execute();
};
