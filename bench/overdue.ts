/**
 * The list of what is overdue, with twenty thousand accounts that are past due: milliseconds, the median of five, beside the same
 * on a hundredth of them. At most two and a half seconds.
 */
import { readList } from '../src/server/lists/read';
import { readOwed } from '../src/server/books/owed';
import { type TestDatabase, testDatabase } from '../src/testing/database';
import { fill } from './fill';

const MOST = 2_500;

/** A statement of sixty days ago for everybody who owes, which shows what each charge owed that was there. */
async function state(t: TestDatabase): Promise<void> {
  const client = await t.pool.connect();
  try {
    await client.query('set session_replication_role = replica');
    await client.query(
      `
        create temp table owing as
        select c.household_id, c.id as charge_id, b.with_patient as owed, $1::date - 60 as day
        from charge_balance b
          join charge c on c.id = b.charge_id
        where b.with_patient > 0 and b.patient_since <= $1::date - 60`,
      [t.context.today],
    );
    await client.query(`
      with p as (
        insert into mail_piece (
          household_id, delivery, status, amount, date, due_date, options, content, document, pages, sent_at
        )
        select household_id, 'mail', 'sent', sum(owed), day, day + 14, '{}', '{}', repeat('0', 64), 1, now()
        from owing
        group by household_id, day
        returning id, household_id, amount, date, due_date),
      s as (
        insert into statement (household_id, piece_id, date, due_date, amount, user_id)
        select household_id, id, date, due_date, amount, 'bulk'
        from p
        returning id, household_id
      )
      insert into statement_charge (statement_id, charge_id, owed)
      select s.id, o.charge_id, o.owed
      from s
        join owing o on o.household_id = s.household_id`);
    await client.query('drop table owing');
    await client.query('set session_replication_role = origin');
    await client.query('vacuum analyze');
  } finally {
    client.release();
  }
}

async function measure(households: number): Promise<{ accounts: number; list: number; owed: number }> {
  const t = await testDatabase();
  try {
    await fill(t, households, households * 3, 3);
    await state(t);
    const time = async (read: () => Promise<unknown>): Promise<number> => {
      const times: number[] = [];
      for (let turn = 0; turn < 5; turn += 1) {
        const start = performance.now();
        await read();
        times.push(performance.now() - start);
      }
      return times.sort((a, b) => a - b)[2]!;
    };
    const accounts = (await readOwed(t.context, undefined, 'past due')).filter(({ pastDue }) => pastDue > 0);
    return {
      accounts: accounts.length,
      list: await time(() => readList(t.context, 'overdue', {})),
      owed: await time(() => readOwed(t.context, undefined, 'past due')),
    };
  } finally {
    await t.close();
  }
}

async function main(): Promise<void> {
  const small = await measure(200);
  const large = await measure(20_000);
  for (const { accounts, list, owed } of [small, large])
    process.stdout.write(
      `${accounts} accounts past due: the list ${list.toFixed(0)} ms, of which what is owed ${owed.toFixed(0)} ms\n`,
    );
  process.exitCode = large.list > MOST ? 1 : 0;
}

await main();
