/** Remittances from the command line: one that is keyed from paper, and posting what is ready. */
import { readFileSync } from 'node:fs';
import pino from 'pino';
import { counted } from '../core/words';
import { db } from '../db/connect';
import { Refused, systemContext } from '../server/access';
import { finishWork } from '../server/jobs/run';
import { startWork } from '../server/jobs/work';
import { bringCombinations } from '../server/remittances/combinations';
import { keyRemittance } from '../server/remittances/keyed-file';
import { inTransaction } from '../server/use-case';
import { Stop } from './cluster';

const QUIET = pino({ level: 'silent' });
const print = (text: string): void => void process.stdout.write(`${text}\n`);
const held = (many: number): string =>
  many > 0 ? `, ${many} held: their money is in the payer’s credit` : '';

/** Keys the remittance of a file (`docs/formats/remittance.schema.json`), and posts it. @throws Stop when it is refused */
export async function remittancesKey(file: string, json = false): Promise<number> {
  const context = await systemContext(db());
  const done = await keyRemittance(context, readFileSync(file, 'utf8')).catch((error: unknown) => {
    if (error instanceof Refused) throw new Stop(error.message);
    throw error;
  });
  print(json ? JSON.stringify(done) : `${counted(done.posted, 'claim')} posted${held(done.unmatched)}`);
  return 0;
}

/** Brings in which reasons and remarks go together. @throws Stop when a line is wrong */
export async function combinations(file: string): Promise<number> {
  const context = await systemContext(db());
  const lines = await bringCombinations(context, { text: readFileSync(file, 'utf8') }).catch(
    (error: unknown) => {
      if (error instanceof Refused) throw new Stop(error.message);
      throw error;
    },
  );
  print(`${counted(lines, 'combination')} in force`);
  return 0;
}

/** Posts every remittance that is ready. */
export async function remittancesPost(json = false): Promise<number> {
  const context = await systemContext(db());
  const ready = await context.db
    .selectFrom('remittance')
    .select('id')
    .where('status', 'in', ['ready', 'posting'])
    .orderBy('id')
    .execute();
  const remittanceIds = ready.map(({ id }) => id);
  const workId =
    remittanceIds.length === 0
      ? null
      : await inTransaction(context, (act) => startWork(act, 'post remittances', { remittanceIds }));
  if (workId !== null) await finishWork(context.db, workId, QUIET);
  const after = await context.db
    .selectFrom('remittance_claim')
    .select(({ fn }) => ['status', fn.countAll<number>().as('many')])
    .where('remittance_id', 'in', [0, ...remittanceIds])
    .where('status', 'in', ['posted', 'noted', 'unmatched'])
    .groupBy('status')
    .execute();
  const many = (status: string): number => after.find((row) => row.status === status)?.many ?? 0;
  const done = {
    remittances: remittanceIds.length,
    posted: many('posted') + many('noted'),
    unmatched: many('unmatched'),
  };
  print(
    json
      ? JSON.stringify(done)
      : `${counted(done.remittances, 'remittance')}, ${counted(done.posted, 'claim')} posted${held(done.unmatched)}`,
  );
  return 0;
}
