/**
 * What the credit of 20,000 households can pay, as the list and the night ask it: milliseconds, the median of ten, beside the bare query
 * of what is held and what stands with patients; and whose owners are not heard of, as Today counts it. Each at most three times as long.
 */
import { sql } from 'kysely';
import { creditsToApply } from '../src/server/payments/credits';
import { readWaiting } from '../src/server/today/read';
import { type TestDatabase, testDatabase } from '../src/testing/database';
import { fill } from './fill';

const MOST = 3;
const TURNS = 10;
const HOUSEHOLDS = 20_000;

/** A receipt of 30.00 for each household, all of it held. */
async function hold(t: TestDatabase): Promise<void> {
  const client = await t.pool.connect();
  const run = (text: string) => client.query(text);
  try {
    await run('set session_replication_role = replica');
    await run(`
      insert into receipt (household_id, amount, received_on, user_id)
      select id, 3000, '2026-03-01', 'credit' from household where last = 'Bulk'`);
    await run(`
      insert into tender (receipt_id, kind, amount, place_id)
      select r.id, 'cash', r.amount, p.id
      from receipt r
        cross join (select min(id) as id from place where kind = 'undeposited') p
      where r.user_id = 'credit'`);
    await run(`
      with e as (
        insert into entry (kind, posting_date, business_date, user_id, memo, key)
        select 'receipt', '2026-03-01', '2026-03-01', 'credit', '', 'tender:' || t.id
        from tender t
          join receipt r on r.id = t.receipt_id
        where r.user_id = 'credit'
        returning id, key
      )
      insert into posting (entry_id, account, amount, household_id, receipt_id, tender_id, place_id)
      select e.id, x.account, x.amount, r.household_id, r.id, t.id, case when x.amount > 0 then t.place_id end
      from e
        join tender t on t.id = substr(e.key, 8)::bigint
        join receipt r on r.id = t.receipt_id
        cross join (values ('cash/cash', 3000), ('credit/patient', -3000)) x (account, amount)`);
    await run('set session_replication_role = origin');
    await run('vacuum analyze');
  } finally {
    client.release();
  }
}

const median = (times: number[]): number => times.sort((a, b) => a - b)[Math.floor(times.length / 2)]!;

async function main(): Promise<void> {
  const t = await testDatabase();
  try {
    await fill(t, HOUSEHOLDS, HOUSEHOLDS * 3, 3);
    await hold(t);
    const [whole, bare, silent]: [number[], number[], number[]] = [[], [], []];
    for (let turn = 0; turn < TURNS; turn += 1) {
      let begin = performance.now();
      const proposed = await creditsToApply(t.context);
      whole.push(performance.now() - begin);
      begin = performance.now();
      const { rows } = await sql`
        select r.household_id, sum(k.held), max(b.with_patient)
        from receipt_balance k
          join receipt r on r.id = k.receipt_id
          join household_balance b on b.household_id = r.household_id
        where k.held > 0
        group by 1`.execute(t.db);
      bare.push(performance.now() - begin);
      begin = performance.now();
      // What Today asks: whose owners are not heard of.
      await readWaiting(t.context, ['unclaimed']);
      silent.push(performance.now() - begin);
      if (proposed.length < HOUSEHOLDS / 4 || rows.length < HOUSEHOLDS)
        throw new Error(`Only ${proposed.length} of ${rows.length} can pay something`);
    }
    const [now, alone] = [median(whole), median(bare)];
    process.stdout.write(
      `What the credit of ${HOUSEHOLDS} households can pay: ${now.toFixed(0)} ms; the bare query ${alone.toFixed(0)} ms: ${(now / alone).toFixed(2)} (at most ${MOST})\n`,
    );
    const unheard = median(silent) / 2;
    process.stdout.write(
      `Whose owners are not heard of, as Today counts each of two views: ${unheard.toFixed(0)} ms: ${(unheard / alone).toFixed(2)} (at most ${MOST})\n`,
    );
    process.exitCode = Math.max(now, unheard) / alone > MOST ? 1 : 0;
  } finally {
    await t.close();
  }
}

await main();
