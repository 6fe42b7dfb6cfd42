/** Starting background work in the transaction that asks for it, stopping it, and going on with it. */
import PgBoss from 'pg-boss';
import { CompiledQuery, sql } from 'kysely';
import { z } from 'zod';
import { recheckInput, sendAllInput } from '../../core/claims/input';
import { idField } from '../../core/fields';
import { postInput } from '../../core/remittances/input';
import { batchInput } from '../../core/statements/input';
import type { Tx } from '../../db/connect';
import { Refused, may } from '../access';
import { type Act, useCase } from '../use-case';
import type { WorkKind } from './kind';
import type { WorkInput, WorkKindName } from './kinds';

/** The kinds, loaded when work is started: whoever starts some does not know the stations that do it. */
const kinds = () => import('./kinds');

/** The queue of a kind of work: each has its own, so that a slow kind holds up no other. */
export const queueOf = (kind: WorkKindName): string => `work-${kind.replaceAll(' ', '-')}`;

/** First number of the locks on starting work. */
const STARTING = 7_239_011;

let sender: PgBoss | undefined;

/** Wakes a job process, in the transaction given: when that is undone, nobody is woken. */
async function wake(tx: Tx, kind: WorkKindName, workId: number): Promise<void> {
  // It never connects: each message goes through the transaction that it belongs to.
  sender ??= new PgBoss({ db: { executeSql: async () => ({ rows: [] }) } });
  await sender.send(
    queueOf(kind),
    { workId },
    {
      db: {
        executeSql: async (text, values) => {
          const { rows } = await tx.executeQuery(CompiledQuery.raw(text, values));
          return { rows };
        },
      },
    },
  );
}

/**
 * Starts background work in the transaction given, unless just the same waits already.
 * @returns the work's id, null when there is nothing to do
 */
export async function startWork<Name extends WorkKindName>(
  act: Act,
  name: Name,
  input: WorkInput<Name>,
): Promise<number | null> {
  const { WORK_KINDS } = await kinds();
  const kind = WORK_KINDS[name] as unknown as WorkKind<WorkInput<Name>>;
  // Just the same work, of which nobody has begun an item, is not started a second time.
  await sql`select pg_advisory_xact_lock(${STARTING}, hashtext(${name}))`.execute(act.db);
  const items = await kind.items(act, input);
  if (items.length === 0) return null;
  const subjects = items.map((item) => item.subject);
  const waiting = await act.db
    .selectFrom('work')
    .select('id')
    .where('kind', '=', name)
    .where('status', '=', 'waiting')
    .where('input', '=', sql<never>`${kind.document.write(input)}::jsonb`)
    .where('user_id', '=', act.user.id)
    .where(
      sql<boolean>`
        (
          select array_agg(i.subject order by i.number) filter (where i.status = 'waiting')
          from work_item i
          where i.work_id = work.id
        ) = ${subjects}::text[]`,
    )
    .executeTakeFirst();
  if (waiting) return waiting.id;
  const { id } = await act.db
    .insertInto('work')
    .values({
      kind: name,
      title: kind.title(items),
      input: kind.document.write(input),
      user_id: act.user.id,
      user_name: act.user.name,
      role: act.user.role,
      business_date: act.today,
    })
    .returning('id')
    .executeTakeFirstOrThrow();
  await act.db
    .insertInto('work_item')
    .values(items.map((item, index) => ({ work_id: id, number: index + 1, ...item })))
    .execute();
  await wake(act.db, name, id);
  return id;
}

/** How much there is to do in a piece of work, in what it counts. */
export async function workSize(tx: Tx, workId: number): Promise<number> {
  const { size } = await tx
    .selectFrom('work_item')
    .select(sql<number>`coalesce(sum(size), 0)`.as('size'))
    .where('work_id', '=', workId)
    .executeTakeFirstOrThrow();
  return Number(size);
}

/** Starts posting remittances in the background: those named, or all that are ready. @returns the work's id */
export const startPosting = useCase({
  name: 'start posting',
  permission: 'post remittances',
  input: postInput,
  async run(act, input) {
    const id = await startWork(act, 'post remittances', input);
    if (id === null) throw new Refused('nothing', 'There is nothing ready to post');
    await act.note('started', { kind: 'work', id });
    return id;
  },
});

/** Checks again, in the background, all claims that are still ours. @returns the work's id, null when there are none */
export const startChecking = useCase({
  name: 'start checking',
  permission: 'work claims',
  input: recheckInput,
  async run(act, input) {
    const id = await startWork(act, 'check claims', input);
    if (id !== null) await act.note('started', { kind: 'work', id });
    return id;
  },
});

/** Sends, in the background, all claims that are ready. @returns the work's id, null when none is */
export const startSending = useCase({
  name: 'start sending',
  permission: 'work claims',
  input: sendAllInput,
  async run(act, input) {
    const id = await startWork(act, 'send claims', input);
    if (id !== null) await act.note('started', { kind: 'work', id });
    return id;
  },
});

/** Sends a batch of statements in the background, or what of it failed between two numbers. @returns the work's id */
export const startSendingBatch = useCase({
  name: 'start sending batch',
  permission: 'prepare statements',
  input: batchInput,
  async run(act, input) {
    const id = await startWork(act, 'send batch', input);
    if (id === null) throw new Refused('nothing', 'Nothing of this batch waits to be sent');
    await act.note('started', { kind: 'work', id }, { batch: input.batchId });
    return id;
  },
});

const workInput = z.object({ workId: idField });

/** One's own work, or anybody's for a manager, locked. */
async function ownWork(act: Act, workId: number) {
  const row = await act.db
    .selectFrom('work')
    .select(['id', 'kind', 'status', 'user_id'])
    .where('id', '=', workId)
    .forNoKeyUpdate()
    .executeTakeFirst();
  if (!row || (row.user_id !== act.user.id && !may(act.user.role, 'change setup')))
    throw new Refused('unknown', 'There is no such work of yours');
  return row;
}

/** Asks work to stop after what it is just doing; what is done stays done. */
export const stopWork = useCase({
  name: 'stop work',
  permission: 'watch work',
  input: workInput,
  async run(act, { workId }) {
    const row = await ownWork(act, workId);
    if (row.status !== 'waiting' && row.status !== 'running')
      throw new Refused('state', 'This work does not run');
    await act.db
      .updateTable('work')
      .set({ status: row.status === 'waiting' ? 'stopped' : 'stopping' })
      .where('id', '=', workId)
      .execute();
    await act.note('stopped', { kind: 'work', id: workId });
  },
});

/** Goes on with work that was stopped or failed: items that are done are not done again. */
export const resumeWork = useCase({
  name: 'resume work',
  permission: 'watch work',
  input: workInput,
  async run(act, { workId }) {
    const row = await ownWork(act, workId);
    if (row.status !== 'stopped' && row.status !== 'failed')
      throw new Refused('already', 'This work runs already, or is finished');
    const { isWorkKind } = await kinds();
    if (!isWorkKind(row.kind)) throw new Refused('unknown', 'This kind of work is no longer known');
    await act.db
      .updateTable('work_item')
      .set({ status: 'waiting', result: '' })
      .where('work_id', '=', workId)
      .where('status', '=', 'failed')
      .execute();
    await act.db
      .updateTable('work')
      .set({ status: 'waiting', fault: '', ended_at: null })
      .where('id', '=', workId)
      .execute();
    await wake(act.db, row.kind, workId);
    await act.note('resumed', { kind: 'work', id: workId });
  },
});
