/** The job process, started by `start` and `demo`. */
import pino from 'pino';
import { closePool, db, worksAlone } from '../db/connect';
import { isDemo, outsideTurn } from '../demo/outside';
import { work } from '../server/jobs/worker';
import { systemContext } from '../server/access';

process.umask(0o077);
worksAlone();
const log = pino({ level: process.env.WERGELD_LOG ?? 'warn', base: { part: 'jobs' } });

async function main(): Promise<void> {
  const outside = (await isDemo(db())) ? async () => outsideTurn(await systemContext(db())) : undefined;
  const stop = await work(log, outside);
  const end = async (): Promise<void> => {
    await stop().catch(() => undefined);
    await closePool();
    process.exit(0);
  };
  process.on('SIGTERM', () => void end());
  process.on('SIGINT', () => undefined);
}

main().catch((error: unknown) => {
  log.error({ error: String(error) }, 'job process could not start');
  process.exit(1);
});
