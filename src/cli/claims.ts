/** Claims from the command line: built, checked without a file, and sent; and the tables that they are checked against. */
import { readFileSync } from 'node:fs';
import { formatMoneyPlain, toDecimal } from '../core/money';
import { counted } from '../core/words';
import { db } from '../db/connect';
import { Refused, systemContext } from '../server/access';
import { buildClaims } from '../server/claims/build';
import { checkOnly, readCheck } from '../server/claims/check-only';
import { bringLimits } from '../server/claims/limits';
import { sendClaims } from '../server/claims/send';
import { writeOutbox } from '../server/exchange/round';
import { Stop } from './cluster';

const print = (words: string): void => void process.stdout.write(`${words}\n`);

/** Builds claims of all that waits with first payers and was passed on to next ones. */
export async function claimsBuild(json = false): Promise<number> {
  const context = await systemContext(db());
  const built: number[] = [];
  for (let ids = await buildClaims(context, { which: 'all' }); ids.length > 0;) {
    built.push(...ids);
    ids = await buildClaims(context, { which: 'all' });
  }
  print(
    json
      ? JSON.stringify(built)
      : built.length === 0
        ? 'Nothing is unbilled'
        : `${counted(built.length, 'claim')} built`,
  );
  return 0;
}

/** Checks all claims that could be sent, without a file, and says what is missing by what mends it. @returns 1 where something stops one */
export async function claimsCheck(json = false): Promise<number> {
  const context = await systemContext(db());
  const id = await checkOnly(context, {}).catch((error: unknown) => {
    if (error instanceof Refused && error.code === 'nothing') return null;
    throw error;
  });
  if (id === null) {
    print(
      json ? JSON.stringify({ claims: 0, ready: 0, stopped: 0, groups: [] }) : 'No claim is to be checked',
    );
    return 0;
  }
  const { claims, ready, stopped, readyTotal, groups } = await readCheck(context, id);
  const said = groups.map(({ place, field, claims: n, found }) => ({
    place,
    field,
    claims: n,
    found: found.map(({ controlNumber, finding }) => ({
      claim: controlNumber,
      rule: finding.rule,
      severity: finding.severity,
      words: finding.words,
    })),
  }));
  if (json) print(JSON.stringify({ claims, ready, stopped, groups: said }));
  else {
    print(`${counted(claims, 'claim')}: ${ready} ready, ${formatMoneyPlain(readyTotal)}; ${stopped} to fix`);
    for (const { place, field, claims: n, found } of said) {
      print(`${field} (${place}): ${counted(n, 'claim')}`);
      for (const one of found) print(`  ${one.claim}\t${one.severity}\t${one.words}`);
    }
  }
  return said.some(({ found }) => found.some(({ severity }) => severity === 'stop')) ? 1 : 0;
}

/** Sends all claims that are ready. */
export async function claimsSend(json = false): Promise<number> {
  const context = await systemContext(db());
  const sent = await sendClaims(context, {});
  await writeOutbox(context);
  if (json) print(JSON.stringify(sent));
  else if (sent.length === 0) print('No claim is ready');
  else
    for (const item of sent)
      print(`${item.file}\t${counted(item.claims, 'claim')}\t${toDecimal(item.total)}`);
  return 0;
}

/** Brings in a table of limits. @throws Stop when it is none of the tables, or a line is wrong */
export async function limits(which: string | undefined, file: string | undefined): Promise<number> {
  if ((which !== 'units' && which !== 'pairs') || !file)
    throw new Stop('Say which table, units or pairs, and its file');
  const context = await systemContext(db());
  const lines = await bringLimits(context, { which, text: readFileSync(file, 'utf8') }).catch(
    (error: unknown) => {
      if (error instanceof Refused) throw new Stop(error.message);
      throw error;
    },
  );
  print(`${counted(lines, 'line')} in force`);
  return 0;
}
