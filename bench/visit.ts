/**
 * A visit of ten services, from its input to the books: milliseconds, the median of sixty, beside bare inserts of the same rows in one
 * transaction, and beside the same with ten times the households and charges around. At most three times the bare inserts, and 1.3 times
 * as long with ten times the data.
 */
import { enterVisit } from '../src/server/accounts/visits';
import { TODAY, type TestDatabase, testDatabase } from '../src/testing/database';
import { household } from '../src/testing/desk';
import { fill } from './fill';

const MOST_TIMES_BARE = 3;
const MOST_GROWTH = 1.3;
const TURNS = 60;
const CODES = ['99213', '80053', '85025', '87880', '36415', '93000', '97110', '97140', '97530', '99051'];

const median = (times: number[]): number => times.sort((a, b) => a - b)[Math.floor(times.length / 2)]!;

/** The rows that a visit left, written anew as they are, in one transaction: a statement a charge, and two an entry. */
async function bare(t: TestDatabase, ids: readonly number[]): Promise<number> {
  const client = await t.pool.connect();
  const rows = async (table: string, where: string): Promise<Record<string, unknown>[]> =>
    (await client.query<Record<string, unknown>>(`select * from ${table} where ${where}`, [ids])).rows;
  try {
    const charges = await rows('charge', 'id = any($1)');
    const own = '(select entry_id from posting where charge_id = any($1))';
    const entries = await rows('entry', `id in ${own}`);
    const postings = await rows('posting', `entry_id in ${own}`);
    /** Rows by one statement. */
    const insert = async (
      table: string,
      all: readonly Record<string, unknown>[],
      without: readonly string[],
    ): Promise<number[]> => {
      const names = Object.keys(all[0]!).filter((name) => !without.includes(name));
      const places = all.map(
        (_, row) => `(${names.map((_, at) => `$${row * names.length + at + 1}`).join(', ')})`,
      );
      const { rows: made } = await client.query<{ id: number }>(
        `insert into ${table} (${names.map((name) => `"${name}"`).join(', ')})
         values ${places.join(', ')} returning id`,
        all.flatMap((row) => names.map((name) => row[name])),
      );
      return made.map(({ id }) => id);
    };
    const begin = performance.now();
    await client.query('begin');
    const newCharge = new Map<unknown, number | undefined>();
    for (const row of charges)
      newCharge.set(row['id'], (await insert('charge', [row], ['id', 'created_at', 'version', 'billed']))[0]);
    for (const row of entries) {
      const [id] = await insert('entry', [row], ['id', 'key', 'posted_at', 'created_at', 'written_by']);
      const its = postings
        .filter((posting) => posting['entry_id'] === row['id'])
        .map((posting) => ({
          ...posting,
          entry_id: id,
          charge_id: newCharge.get(posting['charge_id']) ?? null,
        }));
      await insert('posting', its, ['id']);
    }
    await client.query('commit');
    return performance.now() - begin;
  } finally {
    client.release();
  }
}

async function measure(households: number): Promise<{ visit: number; bare: number }> {
  const t = await testDatabase();
  try {
    await fill(t, households, households * 3);
    const [visits, bares]: [number[], number[]] = [[], []];
    for (let turn = 0; turn < TURNS; turn += 1) {
      const { patientId } = await household(t);
      const begin = performance.now();
      const ids = await enterVisit(t.context, {
        patientId,
        providerId: t.providers.family!,
        serviceDate: TODAY,
        lines: CODES.map((code) => ({ code, diagnoses: ['I10'] })),
        sure: true,
        key: `bench visit ${turn}`,
      });
      visits.push(performance.now() - begin);
      bares.push(await bare(t, ids));
    }
    return { visit: median(visits), bare: median(bares) };
  } finally {
    await t.close();
  }
}

async function main(): Promise<void> {
  const little = await measure(500);
  const much = await measure(5000);
  const [times, growth] = [little.visit / little.bare, much.visit / little.visit];
  process.stdout.write(
    `a visit of ten services ${little.visit.toFixed(2)} ms, bare inserts ${little.bare.toFixed(2)} ms: ${times.toFixed(2)} times (at most ${MOST_TIMES_BARE})\n`,
  );
  process.stdout.write(
    `with ten times the data ${much.visit.toFixed(2)} ms: ${growth.toFixed(2)} times (at most ${MOST_GROWTH})\n`,
  );
  process.exitCode = times > MOST_TIMES_BARE || growth > MOST_GROWTH ? 1 : 0;
}

await main();
