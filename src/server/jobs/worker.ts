/** The job process: does background work, runs exchange rounds and nightly work. Any number of them may run beside each other. */
import { sql } from 'kysely';
import PgBoss from 'pg-boss';
import type { Logger } from 'pino';
import { type Db, databaseUrl, db } from '../../db/connect';
import { addDays } from '../../core/calendar';
import { type Context, systemContext, zone } from '../access';
import { keepMonths } from '../books/balances';
import { watchPromises } from '../overdue/contacts';
import { proposeByRule } from '../overdue/proposals';
import { sendReminders, watchPlans } from '../plans/watch';
import { applyCreditsByNight } from '../payments/credits';
import { sendReceipts } from '../payments/receipt-mail';
import { settleUnclear } from '../payments/terminal';
import { settleVisits } from '../payments/visits';
import { exchangeRound } from '../exchange/round';
import { forgetTries } from '../users/door';
import { forgetPresses, inTransaction } from '../use-case';
import { type WorkKindName, WORK_KINDS, WORK_KIND_NAMES } from './kinds';
import { runWork } from './run';
import { queueOf, startWork } from './work';

/** Seconds between rounds of the exchange: `WERGELD_ROUND_SECONDS`, 0 for none. */
const roundSeconds = (): number => Number(process.env.WERGELD_ROUND_SECONDS ?? 2);
/** Whether what is done each night begins by itself: `WERGELD_NIGHTLY`, 0 for not. */
const nightly = (): boolean => process.env.WERGELD_NIGHTLY !== '0';
/** Work that waits longer than this without being woken is woken again. */
const LOOK_SECONDS = 15;

/** The lock under which rounds are run. */
const ROUNDS = 7_239_004;

/**
 * One round: what else happens outside, then the exchange. Not begun while another one runs, in whichever process; the lock ends
 * with the process that holds it, so that the next round is never kept waiting for one that was killed.
 * @param outside what happens first, outside Wergeld
 * @returns whether it was run
 * @throws whatever a round throws; the next one may begin
 */
export async function roundAlone(
  db: Db,
  outside: (context: Context) => Promise<void> = async () => undefined,
): Promise<boolean> {
  return db.connection().execute(async (own: Db) => {
    const { rows } = await sql<{ free: boolean }>`select pg_try_advisory_lock(${ROUNDS}) as free`.execute(
      own,
    );
    if (!rows[0]?.free) return false;
    try {
      const context = await systemContext(own);
      await outside(context);
      await exchangeRound(context);
      return true;
    } finally {
      await sql`select pg_advisory_unlock(${ROUNDS})`.execute(own);
    }
  });
}

/** Today goes on; what was posted through yesterday is kept by month. */
const keepYesterday = (context: Context): Promise<void> => keepMonths(context.db, addDays(context.today, -1));

/** What is done each night, by the practice's clock. */
const NIGHTLY: readonly { name: string; cron: string; run: (context: Context) => Promise<unknown> }[] = [
  {
    // Findings change with the date: filing limits near, coverage ends.
    name: 'nightly-check-claims',
    cron: '10 3 * * *',
    run: (context) => inTransaction(context, (act) => startWork(act, 'check claims', {})),
  },
  {
    // Built and sent while the day’s remittances are posted, before the clearinghouse’s night.
    name: 'evening-claims',
    cron: '30 18 * * *',
    run: (context) => inTransaction(context, (act) => startWork(act, 'claims of the evening', {})),
  },
  {
    // Interest comes due, plans break, reminders go out: in the morning, before people come.
    name: 'nightly-watch-plans',
    cron: '30 6 * * *',
    run: async (context) => {
      await watchPlans(context);
      await sendReminders(context);
    },
  },
  {
    // Who broke a promise is called before anybody thinks of an agency.
    name: 'nightly-watch-overdue',
    cron: '40 6 * * *',
    run: async (context) => {
      await watchPromises(context);
      await proposeByRule(context);
    },
  },
  // Before statements are looked at in the morning.
  { name: 'nightly-use-credit', cron: '40 4 * * *', run: applyCreditsByNight },
  // Money for visits that are over is free.
  { name: 'nightly-free-visits', cron: '20 0 * * *', run: settleVisits },
  { name: 'nightly-keep-months', cron: '20 2 * * *', run: keepYesterday },
  { name: 'nightly-forget-presses', cron: '40 3 * * *', run: forgetPresses },
  { name: 'nightly-forget-tries', cron: '50 3 * * *', run: forgetTries },
];

/** Makes the queues that are not there yet. */
async function ensureQueues(service: PgBoss): Promise<void> {
  for (const kind of WORK_KIND_NAMES)
    await service.createQueue(queueOf(kind), {
      name: queueOf(kind),
      expireInSeconds: WORK_KINDS[kind].expireSeconds,
    });
  for (const { name, cron } of NIGHTLY) {
    await service.createQueue(name);
    await service.schedule(name, cron, {}, { tz: zone() });
  }
}

const openService = (): PgBoss =>
  new PgBoss({ connectionString: databaseUrl(), supervise: true, schedule: nightly(), max: 3 });

/** Makes the queues of a database that is copied afterwards: the job processes of its copies find them. */
export async function makeQueues(): Promise<void> {
  const service = openService();
  await service.start();
  await ensureQueues(service);
  await service.stop({ graceful: false, wait: true });
}

/**
 * Works until stopped. Work that a killed process left behind is taken up again.
 * @param outside what else happens between rounds (the demo's stand-ins)
 */
export async function work(
  log: Logger,
  outside?: (context: Context) => Promise<void>,
): Promise<() => Promise<void>> {
  const service = openService();
  service.on('error', (error) => log.warn({ error: String(error) }, 'queue'));
  await service.start();
  await ensureQueues(service);
  for (const kind of WORK_KIND_NAMES) {
    await service.work<{ workId: number }>(
      queueOf(kind),
      { pollingIntervalSeconds: 0.5 },
      async ([job]) => void (job && (await runWork(db(), job.data.workId, log))),
    );
  }
  for (const { name, run } of NIGHTLY)
    await service.work(
      name,
      { pollingIntervalSeconds: 30 },
      async () => void (await run(await systemContext(db()))),
    );
  const lookForLeft = async (): Promise<void> => {
    const left = await db()
      .selectFrom('work')
      .select(['id', 'kind'])
      .where('status', 'in', ['waiting', 'running', 'stopping'])
      .execute();
    for (const { id, kind } of left) await service.send(queueOf(kind as WorkKindName), { workId: id });
  };
  await lookForLeft();
  await keepYesterday(await systemContext(db()));
  const quietly = (what: string, run: () => Promise<unknown>) => () =>
    void run().catch((error: unknown) => log.error({ error: String(error) }, what));
  const timers = [
    setInterval(quietly('no look for work', lookForLeft), LOOK_SECONDS * 1000),
    // What a terminal has not answered is asked again, with no connection held while it is.
    setInterval(
      quietly('the card terminal was not asked', async () => settleUnclear(await systemContext(db()))),
      LOOK_SECONDS * 1000,
    ),
    // Receipts that somebody waits for, or that a household wants all.
    setInterval(
      quietly('receipts were not sent', async () => sendReceipts(await systemContext(db()))),
      LOOK_SECONDS * 1000,
    ),
    // Money that was taken before a visit pays what it left open as soon as that is charged.
    setInterval(
      quietly('visits were not settled', async () => settleVisits(await systemContext(db()))),
      LOOK_SECONDS * 1000,
    ),
  ];
  if (roundSeconds() > 0)
    timers.push(
      setInterval(
        quietly('exchange round failed', () => roundAlone(db(), outside)),
        roundSeconds() * 1000,
      ),
    );
  return async () => {
    for (const timer of timers) clearInterval(timer);
    await service.stop({ graceful: true, timeout: 4000 });
  };
}
