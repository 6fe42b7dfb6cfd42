/** The job process, started by `start` and `demo`. */
import pino from 'pino';
import { closePool, db, isConnectionLost, worksAlone } from '../db/connect';
import { isDemo, outsideTurn } from '../demo/outside';
import { work } from '../server/jobs/worker';

process.umask(0o077);
worksAlone();
const log = pino({ level: process.env.WERGELD_LOG ?? 'warn', base: { part: 'jobs' } });

// The queue notes how a job ended and waits for no answer. While the database is started anew that fails: the job is done again,
// and this process goes on. Whatever else nobody caught ends it, as ever.
process.on('unhandledRejection', (error) => {
  if (!isConnectionLost(error)) throw error;
  log.warn({ error: String(error) }, 'the database went away');
});

async function main(): Promise<void> {
  const stop = await work(log, (await isDemo(db())) ? outsideTurn : undefined);
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
