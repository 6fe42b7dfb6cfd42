/** Comparing fee schedules by their names. */
import { parseDate } from '../core/calendar';
import { shareWords } from '../core/fees/review';
import { type Cents, toDecimal } from '../core/money';
import { db } from '../db/connect';
import { systemContext } from '../server/access';
import { compareSchedules, readSchedules } from '../server/fees/read';
import { Stop } from './cluster';

const print = (words: string): void => void process.stdout.write(`${words}\n`);
const shown = (amount: Cents | null): string => (amount === null ? '–' : toDecimal(amount)).padStart(11);

/**
 * Prints what differs between schedules as they are on a day, with the difference from the first.
 * @param names two to four, as Setup has them
 * @throws Stop when one is not there
 */
export async function feesCompare(names: string[], on: string | undefined, json = false): Promise<number> {
  const context = await systemContext(db());
  const day = on === undefined ? context.today : parseDate(on);
  if (!day) throw new Stop(`${on} is no date such as 2026-04-01`);
  const schedules = await readSchedules(context);
  const scheduleIds = names.map((name) => {
    const found = schedules.find((one) => one.name.toLowerCase() === name.toLowerCase());
    if (!found)
      throw new Stop(
        `There is no schedule “${name}”: ${schedules.map((one) => one.name).join(', ') || 'there is none'}`,
      );
    return found.id;
  });
  const {
    schedules: compared,
    rows,
    totals,
  } = await compareSchedules(context, {
    scheduleIds,
    on: day,
    differing: true,
  });
  if (json) {
    print(JSON.stringify({ on: day, schedules: compared, rows, totals }));
    return 0;
  }
  print(`As of ${day}: ${compared.map(({ name }) => name).join(' | ')}`);
  for (const { code, fees, differences } of rows)
    print(
      `${code.padEnd(8)}${fees.map(shown).join('')}${differences
        .map((one) => (one ? `${shown(one.amount)} ${shareWords(one.share).padStart(9)}` : ''.padStart(21)))
        .join('')}`,
    );
  totals.forEach(({ amount }, at) =>
    print(`${compared[at + 1]!.name}: ${toDecimal(amount)} with the units of the last year`),
  );
  return 0;
}
