/** The job process: posts remittances and runs exchange rounds. Any number of them may run beside each other. */
import type { Logger } from 'pino';
import { Refused, type Role, businessDate, systemContext } from '../access';
import { db } from '../../db/connect';
import { exchangeRound } from '../exchange/round';
import { postRemittance } from '../remittances/post';
import { QUEUES, boss } from './queue';

const ROUND_SECONDS = 2;

/**
 * Works until stopped. Work that a killed process left behind is taken up again.
 * @param outside what else happens between rounds (the demo's stand-ins)
 */
export async function work(
  log: Logger,
  outside: () => Promise<void> = async () => undefined,
): Promise<() => Promise<void>> {
  const service = await boss(true);
  await service.work<{ workId: number }>(QUEUES.work, { pollingIntervalSeconds: 0.5 }, async ([job]) => {
    if (job) await runWork(job.data.workId, log);
  });
  await service.work(QUEUES.exchange, { pollingIntervalSeconds: 1 }, async () => {
    try {
      await outside();
      await exchangeRound(systemContext(db()));
    } catch (error) {
      log.error({ error: String(error) }, 'exchange round failed');
    }
  });
  const left = await db()
    .selectFrom('work')
    .select('id')
    .where('status', 'in', ['waiting', 'running'])
    .execute();
  for (const { id } of left) await service.send(QUEUES.work, { workId: id });
  const timer = setInterval(
    () =>
      void service
        .send(QUEUES.exchange, {})
        .catch((error: unknown) => log.error({ error: String(error) }, 'no exchange round')),
    ROUND_SECONDS * 1000,
  );
  return async () => {
    clearInterval(timer);
    await service.stop({ graceful: true, timeout: 4000 });
  };
}

async function runWork(workId: number, log: Logger): Promise<void> {
  const row = await db().selectFrom('work').selectAll().where('id', '=', workId).executeTakeFirst();
  if (!row || row.status === 'finished' || row.status === 'failed') return;
  const subject = row.subject as { remittances: number[]; role: Role; name: string };
  const context = {
    db: db(),
    user: { id: row.user_id, name: subject.name, role: subject.role },
    today: businessDate(),
  };
  await save(workId, { status: 'running' });
  const results: { what: string; result: string }[] = [];
  let failed = 0;
  for (const id of subject.remittances) {
    const remit = await db()
      .selectFrom('remittance')
      .select(['trace', 'payer_name'])
      .where('id', '=', id)
      .executeTakeFirst();
    const what = `${remit?.payer_name} ${remit?.trace}`;
    try {
      const posted = await postRemittance(context, id, async () =>
        save(workId, { done: await countDone(subject.remittances) }),
      );
      results.push({
        what,
        result: `${posted.posted} posted${posted.unmatched > 0 ? `, ${posted.unmatched} held` : ''}`,
      });
    } catch (error) {
      failed += 1;
      if (!(error instanceof Refused)) log.error({ error: String(error), remittance: id }, 'posting failed');
      results.push({
        what,
        result:
          error instanceof Refused ? error.message : 'failed: nothing more of it was posted; start it again',
      });
    }
  }
  await db()
    .updateTable('work')
    .set({
      status: failed > 0 ? 'failed' : 'finished',
      failed,
      done: await countDone(subject.remittances),
      results: JSON.stringify(results),
      updated_at: new Date(),
    })
    .where('id', '=', workId)
    .execute();
}

const countDone = async (remittances: number[]): Promise<number> =>
  (
    await db()
      .selectFrom('remittance_claim')
      .select(({ fn }) => fn.countAll<number>().as('n'))
      .where('remittance_id', 'in', remittances)
      .where('status', '<>', 'ready')
      .executeTakeFirstOrThrow()
  ).n;

async function save(id: number, values: { status?: string; done?: number }): Promise<void> {
  await db()
    .updateTable('work')
    .set({ ...values, updated_at: new Date() })
    .where('id', '=', id)
    .execute();
}
