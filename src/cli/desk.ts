/** Commands that do the desk's work from the command line. */
import { counted } from '../core/words';
import { writeFileSync } from 'node:fs';
import { basename } from 'node:path';
import pino from 'pino';
import { sql } from 'kysely';
import { sum, toDecimal } from '../core/money';
import { db } from '../db/connect';
import { rulesPage } from '../core/claims/rules';
import { visitsSchema } from '../core/accounts/visits-document';
import { estimateSchema } from '../core/estimates/document';
import { describeTables } from '../db/describe';
import { isDemo, outsideTurn } from '../demo/outside';
import { type Context, audit, systemContext } from '../server/access';
import { checkBooks } from '../server/books/check';
import { takeFile } from '../server/exchange/intake';
import type { Outcome } from '../server/outcome';
import { exchangeRound } from '../server/exchange/round';
import { EXPORTS, exportRows, exportTable, isExport } from '../server/exports/tables';
import { shortRows } from '../server/remittances/contract-file';
import { keyedSchema } from '../server/remittances/keyed-file';
import { finishWork, takeUpLeft } from '../server/jobs/run';
import { startSendingBatch, startWork } from '../server/jobs/work';
import { batchesToSend, statesOf } from '../server/batches/read';
import { type Weighed, weighHouseholds } from '../server/statements/choosing';
import { NobodyTaken, draftStatements } from '../server/batches/drafts';
import { readSets } from '../server/setup/statement-policies';
import { draftPaper } from '../server/statements/read';
import { type Act, inTransaction } from '../server/use-case';
import { Stop } from './cluster';
import { asOwner } from './database';

/** The command line says what it did by its lines; faults of background work are said by the work itself. */
const QUIET = pino({ level: 'silent' });

const print = (text: string): void => void process.stdout.write(`${text}\n`);

const line = (file: string, item: Outcome): string =>
  [
    file,
    item.kind,
    item.trace,
    item.amount === null ? '-' : toDecimal(item.amount),
    item.result,
    item.why,
  ].join('\t');

/** One round of the folder exchange; in the demo the stand-ins take their turn before it. */
export async function exchange(json = false): Promise<number> {
  const context = await systemContext(db());
  await takeUpLeft(context.db, QUIET);
  if (await isDemo(context.db)) await outsideTurn(context);
  const round = await exchangeRound(context);
  if (json) print(JSON.stringify(round));
  else {
    for (const file of round.written) print(`written\t${file}`);
    for (const file of round.read) for (const item of file.outcomes) print(line(file.file, item));
    if (round.written.length + round.read.length === 0) print('Nothing to write, nothing to read');
  }
  return 0;
}

/** Takes in files and posts what balances. Status 1 when anything was refused. */
export async function importFiles(files: string[], json = false): Promise<number> {
  if (files.length === 0) throw new Stop('Say which files: ./wergeld import FILE…');
  const context = await systemContext(db());
  // What an import that was killed has left is finished first.
  await takeUpLeft(context.db, QUIET);
  const all: (Outcome & { file: string })[] = [];
  for (const file of files) {
    const outcomes = await importOne(context, file);
    for (const item of outcomes) {
      all.push({ file, ...item });
      if (!json) print(line(basename(file), item));
    }
  }
  if (json)
    print(JSON.stringify(all, (key, value: unknown) => (key === 'remittanceId' ? undefined : value), 1));
  return all.some((item) => item.result === 'refused') ? 1 : 0;
}

async function importOne(context: Context, file: string): Promise<Outcome[]> {
  let taken;
  try {
    taken = await inTransaction(context, (act) => takeAndAsk(act, file));
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    if (code !== 'ENOENT' && code !== 'EISDIR' && code !== 'EACCES') throw error;
    return [
      {
        kind: 'file',
        trace: basename(file),
        amount: null,
        result: 'refused',
        why: code === 'ENOENT' ? 'there is no such file' : 'this file cannot be read',
      },
    ];
  }
  const { outcomes, workId } = taken;
  if (workId === null) return outcomes;
  await finishWork(context.db, workId, QUIET);
  for (const outcome of outcomes) if (outcome.remittanceId) await sayPosted(context, outcome);
  return outcomes;
}

/** Takes a file in and asks for its remittances to be posted, in one transaction: a kill leaves both or neither. */
async function takeAndAsk(act: Act, file: string): Promise<{ outcomes: Outcome[]; workId: number | null }> {
  const { outcomes } = await takeFile(act, file, basename(file), null);
  const remittanceIds = outcomes.flatMap(({ remittanceId }) => remittanceId ?? []);
  const workId =
    remittanceIds.length === 0 ? null : await startWork(act, 'post remittances', { remittanceIds });
  return { outcomes, workId };
}

/** Says of a remittance what was posted of it. */
async function sayPosted(context: Context, outcome: Outcome): Promise<void> {
  const { status, posted, unmatched } = await context.db
    .selectFrom('remittance as r')
    .leftJoin('remittance_claim as c', 'c.remittance_id', 'r.id')
    .select([
      'r.status',
      sql<number>`count(*) filter (where c.status in ('posted', 'noted'))`.as('posted'),
      sql<number>`count(*) filter (where c.status = 'unmatched')`.as('unmatched'),
    ])
    .where('r.id', '=', outcome.remittanceId!)
    .groupBy('r.id')
    .executeTakeFirstOrThrow();
  if (status !== 'posted') return;
  outcome.result = 'posted';
  outcome.why = `${counted(posted, 'claim')} posted${unmatched > 0 ? `, ${unmatched} held: their money is in the payer’s credit` : ''}`;
}

/** Exports that are worked out and not read from a table. */
const WORKED_OUT = ['overdue', 'shorts'] as const;
const isWorkedOut = (name: string): name is (typeof WORKED_OUT)[number] =>
  (WORKED_OUT as readonly string[]).includes(name);

/** Writes an export to standard output. */
export async function exportTo(name = '', format = 'csv'): Promise<number> {
  if (!isWorkedOut(name) && !isExport(name))
    throw new Stop(`Say what: ./wergeld export ${[...EXPORTS, ...WORKED_OUT].join('|')}`);
  if (format !== 'csv' && format !== 'json') throw new Stop('The format is csv or json');
  const context = await systemContext(db());
  await audit(context.db, context, 'exported', { kind: 'table', id: name }, { format });
  const pieces = isWorkedOut(name)
    ? [
        exportRows(
          await (name === 'overdue' ? (await import('./overdue')).overdueRows() : shortRows(context)),
          format,
        ),
      ]
    : exportTable(db(), name, format);
  for await (const piece of pieces) {
    // Whoever reads may have had enough.
    if (process.stdout.destroyed) break;
    if (!process.stdout.write(piece))
      await new Promise((resolve) => {
        process.stdout.once('drain', resolve);
        process.stdout.once('close', resolve);
      });
  }
  return 0;
}

/** One line or one object for each household, in the words of the export. */
const householdLine = ({ facts, due, reasons }: Weighed) => ({
  household: facts.account,
  ...(facts.patientId === null ? {} : { patient: facts.name }),
  amount_cents: due,
  reasons: reasons.map(({ id }) => id),
});

/** Says who would get a statement now and who would not, each with its reasons. Nothing is written. */
export async function statementsSelect(set: string | undefined, json = false): Promise<number> {
  const context = await systemContext(db());
  const { weighed } = await weighHouseholds(context, set === undefined ? {} : { setName: set });
  await audit(context.db, context, 'chose households', { kind: 'list', id: 'statements-due' });
  const taken = weighed.filter((one) => one.in);
  const left = weighed.filter((one) => !one.in);
  if (json) {
    const whole = (some: readonly Weighed[]) =>
      some.filter(({ facts }) => facts.patientId === null).map(householdLine);
    const apart = (some: readonly Weighed[]) =>
      some.filter(({ facts }) => facts.patientId !== null).map(householdLine);
    // What goes to confidential addresses stands by itself, so that every household is in one of the two once.
    print(
      JSON.stringify({
        in: whole(taken),
        out: whole(left),
        confidential: { in: apart(taken), out: apart(left) },
      }),
    );
    return 0;
  }
  for (const one of [...taken, ...left])
    print(
      [
        one.in ? 'in' : 'out',
        one.facts.account,
        toDecimal(one.due),
        one.reasons.map(({ words }) => words).join('; '),
      ].join('\t'),
    );
  print(
    `${counted(taken.length, 'household')} in, ${toDecimal(sum(taken.map(({ due }) => due)))}; ${left.length} out`,
  );
  return 0;
}

/** Prepares drafts for all whom a set takes, or each site's own; that nobody is taken is no fault. */
export async function statementsDraft(set: string | undefined, json = false): Promise<number> {
  const context = await systemContext(db());
  const setId = set === undefined ? null : await setNamed(context, set);
  try {
    const drafted = await draftStatements(context, {
      setId,
      title: '',
      key: `command ${context.today} ${process.pid} ${Date.now()}`,
    });
    if (json) print(JSON.stringify({ batch: drafted.batchId, pieces: drafted.pieces }));
    else print(`Batch ${drafted.batchId}: ${counted(drafted.pieces, 'draft')}`);
  } catch (error) {
    if (!(error instanceof NobodyTaken)) throw error;
    if (json) print(JSON.stringify({ batch: null, pieces: 0 }));
    else print(error.message);
  }
  return 0;
}

async function setNamed(context: Context, name: string): Promise<number> {
  const found = (await readSets(context.db)).find((item) => item.name === name);
  if (!found) throw new Stop(`There is no set “${name}”`);
  return found.id;
}

/** Sends every batch that has drafts, or those of a set. Status 1 when a piece failed. */
export async function statementsSend(set: string | undefined, json = false): Promise<number> {
  const context = await systemContext(db());
  await takeUpLeft(context.db, QUIET);
  if (set !== undefined) await setNamed(context, set);
  const said: {
    batch: number;
    sent: number;
    to_print: number;
    draft: number;
    failed: number;
    taken_out: number;
  }[] = [];
  for (const batch of await batchesToSend(context, set)) {
    const workId = await startSendingBatch(context, { batchId: batch });
    await finishWork(context.db, workId, QUIET);
    said.push({ batch, ...(await statesOf(context, batch)) });
  }
  if (json) print(JSON.stringify(said));
  else if (said.length === 0) print('No batch has drafts');
  else
    for (const { batch, sent, to_print, draft, failed, taken_out } of said)
      print(
        `Batch ${batch}: ${sent} sent, ${to_print} to be printed, ${failed} failed, ${draft} changed and still drafts, ${taken_out} taken out`,
      );
  return said.some(({ failed }) => failed > 0) ? 1 : 0;
}

/** Writes the statement of an account as it would go out today to a file. It is not kept and counts for nothing. */
export async function statementsPdf(account = '', file = ''): Promise<number> {
  if (account === '' || file === '')
    throw new Stop('Say whose and where: ./wergeld statements pdf ACCOUNT FILE');
  const context = await systemContext(db());
  const { bytes, pages } = await draftPaper(context, account);
  writeFileSync(file, bytes, { mode: 0o600 });
  print(`${file}: ${counted(pages, 'page')}`);
  return 0;
}

/** Proves the books. Status 1 when an invariant does not hold. */
export async function booksCheck(json = false): Promise<number> {
  const checks = await checkBooks(db());
  if (json) print(JSON.stringify(checks, null, 1));
  else {
    for (const check of checks) {
      print(`${check.faults.length === 0 ? 'holds' : 'FAILS'}\t${check.words}`);
      for (const fault of check.faults) print(`\t${fault}`);
    }
  }
  const failed = checks.filter((check) => check.faults.length > 0).length;
  if (!json)
    print(
      failed === 0
        ? `The books are proven: ${checks.length} invariants hold`
        : `${failed} of ${checks.length} invariants fail`,
    );
  return failed === 0 ? 0 : 1;
}

/** Writes the table types. */
export async function writeTypes(owner: string): Promise<number> {
  writeFileSync('src/db/tables.ts', await asOwner(owner, describeTables));
  writeFileSync('docs/claim-rules.md', rulesPage());
  writeFileSync('docs/formats/estimate.schema.json', `${JSON.stringify(estimateSchema(), null, 2)}\n`);
  writeFileSync('docs/formats/visits.schema.json', `${JSON.stringify(visitsSchema(), null, 2)}\n`);
  writeFileSync('docs/formats/remittance.schema.json', `${JSON.stringify(keyedSchema(), null, 2)}\n`);
  return 0;
}
