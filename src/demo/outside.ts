/** The outside of the demo: the stand-ins take their turn between our rounds. */
import { join } from 'node:path';
import { sql } from 'kysely';
import type { CalendarDate } from '../core/calendar';
import type { Db } from '../db/connect';
import type { Context } from '../server/access';
import { exchangeRoot } from '../server/folders';
import { writeOutbox } from '../server/exchange/round';
import { clearinghouseRound, payerListRound } from '../standins/clearinghouse';
import { contingencyOf } from '../core/exchange/connections';
import { agencyRound } from '../standins/agency';
import { gatewayRound, printShopRound } from '../standins/mail';
import { AGENCY_CONTRACT } from './setup';

const LOCK = 7_239_003;

/** Where the stand-in keeps what it knows. */
export const standinState = (): string => join(exchangeRoot(), 'tideline', 'standin-state.json');

/** One turn of the simulated agency. @returns names of the files that it put into our inbox */
export const agencyTurn = (today: CalendarDate): Promise<string[]> =>
  agencyRound(join(exchangeRoot(), 'gannet'), today, {
    contingency: contingencyOf(AGENCY_CONTRACT),
    pays: AGENCY_CONTRACT.pays,
  });

/** Whether a database holds the whole demo. */
export async function isDemo(db: Db): Promise<boolean> {
  const { rows } = await sql`select 1 from pg_class where relname = 'demo_complete'`.execute(db);
  return rows.length === 1;
}

/** One turn of the stand-ins, by one process at a time; a second one leaves it to the first. */
export async function outsideTurn(context: Context): Promise<void> {
  await writeOutbox(context);
  await context.db.transaction().execute(async (tx) => {
    const { rows } = await sql<{ free: boolean }>`select pg_try_advisory_xact_lock(${LOCK}) as free`.execute(
      tx,
    );
    if (!rows[0]?.free) return;
    await clearinghouseRound(join(exchangeRoot(), 'tideline'), standinState(), context.today);
    await payerListRound(join(exchangeRoot(), 'tideline'));
    await printShopRound(join(exchangeRoot(), 'shoreline'));
    await gatewayRound(join(exchangeRoot(), 'pelican'));
    await agencyTurn(context.today);
  });
}
