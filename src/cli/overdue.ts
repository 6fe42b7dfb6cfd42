/** The scheduled run of what is overdue: promises are watched, agencies proposed, letters that are due are prepared and sent. */
import pino from 'pino';
import { sum, toDecimal } from '../core/money';
import { ACTIONS } from '../core/overdue/stage';
import { counted } from '../core/words';
import { db } from '../db/connect';
import { Refused, systemContext } from '../server/access';
import { finishWork, takeUpLeft } from '../server/jobs/run';
import { startSendingBatch } from '../server/jobs/work';
import { watchPromises } from '../server/overdue/contacts';
import { type DraftedLetters, draftLetters } from '../server/overdue/due-letters';
import { type OverdueRow, weighOverdue } from '../server/overdue/list';
import { proposeByRule } from '../server/overdue/proposals';
import { statesOf } from '../server/batches/read';

const QUIET = pino({ level: 'silent' });
const print = (words: string): void => void process.stdout.write(`${words}\n`);

/** One account that is past due, in the words of the export. */
const line = ({ account, patientId, name, outlook, score }: OverdueRow) => ({
  household: account,
  ...(patientId === null ? {} : { patient: name }),
  amount_cents: outlook.pastDue,
  days: outlook.daysPastDue,
  stage: outlook.stage?.name ?? null,
  action: outlook.action,
  next_stage: outlook.next?.name ?? null,
  on: outlook.on,
  why: outlook.why,
  spared: outlook.spared.map(({ id }) => id),
  per_minute_cents: score.value,
});

/** What would be done today, account by account; nothing is written. */
async function dryRun(json: boolean): Promise<number> {
  const rows = await weighOverdue(await systemContext(db()));
  if (json) print(JSON.stringify(rows.map(line)));
  else {
    for (const { account, outlook } of rows)
      print(
        [ACTIONS[outlook.action], account, toDecimal(outlook.pastDue), outlook.on ?? '-', outlook.why].join(
          '\t',
        ),
      );
    print(
      `${counted(rows.length, 'account')} past due, ${toDecimal(sum(rows.map(({ outlook }) => outlook.pastDue)))}`,
    );
  }
  return 0;
}

/**
 * Watches promises, proposes agencies as the policy says, prepares the letters that are due and sends them; what is printed
 * here waits to be printed. Killed in the middle and run again on the same day, the same batch goes on. Status 1 when a letter
 * failed.
 */
export async function overdueRun(dry = false, json = false): Promise<number> {
  if (dry) return dryRun(json);
  const context = await systemContext(db());
  await takeUpLeft(context.db, QUIET);
  const broken = await watchPromises(context);
  const proposed = await proposeByRule(context);
  let drafted: DraftedLetters | null = null;
  try {
    drafted = await draftLetters(context, { householdIds: null, key: `overdue run ${context.today}` });
  } catch (error) {
    if (!(error instanceof Refused)) throw error;
    if (!json) print(error.message);
  }
  const batch = drafted?.batchId ?? null;
  if (batch !== null) {
    // All of it may be out already, when it is run again.
    const { draft } = await statesOf(context, batch);
    if (draft > 0) await finishWork(context.db, await startSendingBatch(context, { batchId: batch }), QUIET);
  }
  const states = batch === null ? null : await statesOf(context, batch);
  const left = (drafted?.left ?? []).map(({ account, why }) => ({ household: account, why }));
  if (json)
    print(
      JSON.stringify({
        batch,
        letters: drafted?.pieces ?? 0,
        ...states,
        left,
        broken_promises: broken,
        proposed,
      }),
    );
  else {
    if (states)
      print(
        `Batch ${batch}: ${counted(drafted!.pieces, 'letter')}, ${states.sent} sent, ${states.to_print} to be printed, ${states.failed} failed, ${states.taken_out} taken out`,
      );
    for (const { household, why } of left) print(`left out\t${household}\t${why}`);
    print(`${counted(broken, 'promise is', 'promises are')} broken`);
    print(`${counted(proposed, 'account is', 'accounts are')} proposed for an agency`);
  }
  return (states?.failed ?? 0) > 0 ? 1 : 0;
}

/** Everything that is past due, as rows of an export. */
export const overdueRows = async (): Promise<Record<string, unknown>[]> =>
  (await weighOverdue(await systemContext(db())))
    .map(line)
    .map(({ spared, ...row }) => ({ ...row, spared: spared.join(' ') }));
