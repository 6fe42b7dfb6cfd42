/** Background work: queues of pg-boss, and a row of work for each thing a person waits for. */
import { counted } from '../../core/words';
import PgBoss from 'pg-boss';
import { databaseUrl } from '../../db/connect';
import { type Context, Refused, allow } from '../access';

/** The queues. */
export const QUEUES = { exchange: 'exchange-round', work: 'work' } as const;

const kept = globalThis as { wergeldBoss?: Promise<PgBoss> };

/** The queue service of this process. The job process supervises; web processes only send. */
export function boss(supervise = false): Promise<PgBoss> {
  kept.wergeldBoss ??= (async () => {
    const service = new PgBoss({ connectionString: databaseUrl(), supervise, schedule: false, max: 3 });
    service.on('error', () => undefined);
    await service.start();
    await service.createQueue(QUEUES.exchange, { name: QUEUES.exchange, policy: 'stately' });
    await service.createQueue(QUEUES.work);
    return service;
  })();
  return kept.wergeldBoss;
}

/** What a person can start and then watch. */
export interface WorkRow {
  id: number;
  kind: string;
  title: string;
  total: number;
  done: number;
  failed: number;
  status: string;
  results: { what: string; result: string }[];
}

/** Starts posting remittances in the background: those named, or all that are ready. @returns the work's id */
export async function startPosting(context: Context, remittanceIds?: readonly number[]): Promise<number> {
  allow(context, 'post remittances');
  let query = context.db
    .selectFrom('remittance')
    .select(['id', 'claims'])
    .where('status', 'in', ['ready', 'posting']);
  if (remittanceIds) query = query.where('id', 'in', remittanceIds.length > 0 ? [...remittanceIds] : [0]);
  const remits = await query.orderBy('id').execute();
  if (remits.length === 0) throw new Refused('There is nothing ready to post');
  const total = remits.reduce((all, remit) => all + remit.claims, 0);
  const { id } = await context.db
    .insertInto('work')
    .values({
      kind: 'post',
      title: `Posting ${counted(total, 'claim')}`,
      total,
      subject: JSON.stringify({
        remittances: remits.map((remit) => remit.id),
        role: context.user.role,
        name: context.user.name,
      }),
      user_id: context.user.id,
    })
    .returning('id')
    .executeTakeFirstOrThrow();
  const service = await boss();
  await service.send(QUEUES.work, { workId: id });
  return id;
}

/** Where a piece of work stands. */
export async function readWork(context: Context, id: number): Promise<WorkRow> {
  const row = await context.db
    .selectFrom('work')
    .select(['id', 'kind', 'title', 'total', 'done', 'failed', 'status', 'results'])
    .where('id', '=', id)
    .where('user_id', '=', context.user.id)
    .executeTakeFirst();
  if (!row) throw new Refused('There is no such work');
  return row as WorkRow;
}
