/** Commands that do the desk's work from the command line. */
import { counted } from '../core/words';
import { writeFileSync } from 'node:fs';
import { basename } from 'node:path';
import { createInterface } from 'node:readline/promises';
import { toDecimal } from '../core/money';
import { db, pool } from '../db/connect';
import { describeTables } from '../db/describe';
import { isDemo, outsideTurn } from '../demo/outside';
import { ROLES, type Role, systemContext } from '../server/access';
import { checkBooks } from '../server/books/check';
import { sendClaims } from '../server/claims/send';
import { takeFile } from '../server/exchange/intake';
import type { Outcome } from '../server/exchange/outcome';
import { exchangeRound, writeOutbox } from '../server/exchange/round';
import { EXPORTS, exportTable, isExport } from '../server/exports/tables';
import { postRemittance } from '../server/remittances/post';
import { addUser } from '../server/sign-in';
import { Stop } from './cluster';

const print = (text: string): void => void process.stdout.write(`${text}\n`);

/** Sends all ready claims and writes their files. */
export async function claimsSend(json = false): Promise<number> {
  const context = systemContext(db());
  const sent = await sendClaims(context, {});
  await writeOutbox(context);
  if (json) print(JSON.stringify(sent));
  else if (sent.length === 0) print('No claim is ready');
  else
    for (const item of sent)
      print(`${item.file}\t${counted(item.claims, 'claim')}\t${toDecimal(item.total)}`);
  return 0;
}

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
  const context = systemContext(db());
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
  const context = systemContext(db());
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

async function importOne(context: ReturnType<typeof systemContext>, file: string): Promise<Outcome[]> {
  let intake;
  try {
    intake = await takeFile(context, file, basename(file), null);
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
  for (const outcome of intake.outcomes) {
    if (!outcome.remittanceId) continue;
    const { status } = await context.db
      .selectFrom('remittance')
      .select('status')
      .where('id', '=', outcome.remittanceId)
      .executeTakeFirstOrThrow();
    if (status !== 'ready') continue;
    const posted = await postRemittance(context, outcome.remittanceId);
    outcome.result = 'posted';
    outcome.why = `${counted(posted.posted, 'claim')} posted${posted.unmatched > 0 ? `, ${posted.unmatched} held: their money is in the payer’s credit` : ''}`;
  }
  return intake.outcomes;
}

/** Writes an export to standard output. */
export async function exportTo(name = '', format = 'csv'): Promise<number> {
  if (!isExport(name)) throw new Stop(`Say what: ./wergeld export ${EXPORTS.join('|')}`);
  if (format !== 'csv' && format !== 'json') throw new Stop('The format is csv or json');
  for await (const piece of exportTable(db(), name, format)) {
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

/** Adds a user. */
export async function user([email, role, ...name]: string[]): Promise<number> {
  if (!email || !(ROLES as readonly string[]).includes(role ?? '') || name.length === 0)
    throw new Stop(`Say: ./wergeld user EMAIL ${ROLES.join('|')} NAME`);
  const input = createInterface({ input: process.stdin, output: process.stderr });
  const password = await input.question('Password (10 characters or more): ');
  input.close();
  if (password.length < 10) throw new Stop('The password needs 10 characters or more');
  process.env.WERGELD_SEEDING = '1';
  await addUser(email, name.join(' '), password, role as Role).catch((error: unknown) => {
    throw new Stop(`The user was not added: ${(error as Error).message}`);
  });
  print(`${email} can sign in`);
  return 0;
}

/** Writes the table types. */
export async function writeTypes(): Promise<number> {
  writeFileSync('src/db/tables.ts', await describeTables(pool()));
  return 0;
}
