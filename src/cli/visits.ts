/** Bringing in visits to come, and how long credit rests, from the command line. */
import { readFileSync } from 'node:fs';
import { basename } from 'node:path';
import { counted } from '../core/words';
import { db } from '../db/connect';
import { Refused, systemContext } from '../server/access';
import { bringDormancy } from '../server/payments/unclaimed';
import { importVisits } from '../server/payments/visits';
import { Stop } from './cluster';

const print = (words: string): void => void process.stdout.write(`${words}\n`);

/** Brings in a file of visits to come. @returns 1 where something of it could not be read @throws Stop when nothing could */
export async function visitsImport(file: string, json = false): Promise<number> {
  const context = await systemContext(db());
  const brought = await importVisits(context, {
    name: basename(file),
    text: readFileSync(file, 'utf8'),
  }).catch((error: unknown) => {
    if (error instanceof Refused) throw new Stop(error.message);
    throw error;
  });
  if (json) print(JSON.stringify(brought));
  else {
    print(
      `${brought.fresh} new, ${brought.changed} changed, ${brought.canceled} canceled, ${brought.unmatched} of nobody known`,
    );
    for (const fault of brought.faults) print(fault);
  }
  return brought.faults.length > 0 ? 1 : 0;
}

/** Brings in how long credit rests whose owner is not heard of. @throws Stop when a line is wrong */
export async function bringRests(file: string): Promise<number> {
  const context = await systemContext(db());
  const states = await bringDormancy(context, { text: readFileSync(file, 'utf8') }).catch(
    (error: unknown) => {
      if (error instanceof Refused) throw new Stop(error.message);
      throw error;
    },
  );
  print(`${counted(states, 'state')} in force`);
  return 0;
}
