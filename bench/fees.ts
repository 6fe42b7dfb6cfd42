/**
 * Four schedules of 5,000 codes compared as the screen has them: milliseconds, the median of thirty, beside the bare query of the same
 * fees. At most twice as long.
 */
import { feesBeside, compareSchedules } from '../src/server/fees/read';
import { type TestDatabase, testDatabase } from '../src/testing/database';

const MOST = 2;
const TURNS = 30;
const CODES = 5_000;

/** Schedules with a fee for each code in three versions. @returns their ids */
async function schedules(t: TestDatabase): Promise<number[]> {
  const client = await t.pool.connect();
  try {
    await client.query(
      `insert into service_code (code, description, category, form)
       select 'B' || lpad(n::text, 5, '0'), 'Service ' || n, 'office', 'professional'
       from generate_series(1, ${CODES}) n`,
    );
    const { rows } = await client.query<{ id: number }>(
      `insert into fee_schedule (name, kind) select 'Bench ' || n, 'contract' from generate_series(1, 4) n returning id`,
    );
    const ids = rows.map(({ id }) => Number(id));
    await client.query(
      `insert into fee (fee_schedule_id, code, valid_from, amount)
       select s, 'B' || lpad(n::text, 5, '0'), v, (n * 7 + s * 13) % 90000 + 100
       from unnest($1::bigint[]) s
         cross join generate_series(1, ${CODES}) n
         cross join unnest(array[null, '2025-01-01', '2026-01-01']::date[]) v`,
      [ids],
    );
    await client.query('vacuum analyze');
    return ids;
  } finally {
    client.release();
  }
}

const median = (times: number[]): number => times.sort((a, b) => a - b)[Math.floor(times.length / 2)]!;

async function main(): Promise<void> {
  const t = await testDatabase();
  try {
    const scheduleIds = await schedules(t);
    const { today } = t.context;
    const [whole, bare]: [number[], number[]] = [[], []];
    for (let turn = 0; turn < TURNS; turn += 1) {
      let begin = performance.now();
      const { rows } = await compareSchedules(t.context, { scheduleIds, on: today, differing: true });
      whole.push(performance.now() - begin);
      begin = performance.now();
      const there = await feesBeside(t.context, scheduleIds, today);
      bare.push(performance.now() - begin);
      if (rows.length === 0 || there.length < CODES) throw new Error('Nothing was compared');
    }
    const [now, alone] = [median(whole), median(bare)];
    process.stdout.write(
      `Comparison of ${CODES} codes in four schedules: ${now.toFixed(1)} ms; its bare query ${alone.toFixed(1)} ms: ${(now / alone).toFixed(2)} (at most ${MOST})\n`,
    );
    process.exitCode = now / alone > MOST ? 1 : 0;
  } finally {
    await t.close();
  }
}

await main();
