/** Queries that come often are prepared, and answer as they did. */
import { sql } from 'kysely';
import type pg from 'pg';
import { databaseUrl, isBusy, openDb, openPool, readInBatches } from './connect';

test('A query that comes again and again is prepared once, and follows its values and the tables it reads', async () => {
  const pool = openPool(databaseUrl(), 1);
  const db = openDb(pool);
  try {
    await sql`create temporary table often (name text, amount bigint)`.execute(db);
    const ask = async (name: string): Promise<number[]> =>
      (
        await sql<{ amount: number }>`select amount from often where name = ${name} order by 1`.execute(db)
      ).rows.map(({ amount }) => amount);
    for (let round = 1; round <= 6; round += 1) {
      await sql`insert into often values ('a', ${round}), ('b', ${-round})`.execute(db);
      expect(await ask('a')).toHaveLength(round);
      expect((await ask('b'))[0]).toBe(-round);
    }
    const { rows } = await sql<{
      n: number;
    }>`select count(*) as n from pg_prepared_statements where statement like 'select amount from often%'`.execute(
      db,
    );
    expect(rows).toEqual([{ n: 1 }]);
    await sql`drop table often; create temporary table often (amount bigint, name text)`.execute(db);
    expect(await ask('a')).toEqual([]);
    // A wrong query leaves the connection usable.
    await expect(sql`select amount from nothing where name = ${'a'}`.execute(db)).rejects.toThrow('nothing');
    expect(await ask('b')).toEqual([]);
  } finally {
    await db.destroy();
  }
});

describe('connections', () => {
  /** How many of a database's connections ask something that contains a text. */
  const asking = async (pool: pg.Pool, text: string): Promise<number> =>
    (
      await pool.query<{ n: number }>(
        `select count(*) as n from pg_stat_activity where state = 'active' and query like $1 and pid <> pg_backend_pid()`,
        [`%${text}%`],
      )
    ).rows[0]!.n;

  test('one that is waited for too long, and a statement that takes too long, are refused as busy', async () => {
    const pool = openPool(databaseUrl(), 1, { connection: 1, statement: 1 });
    try {
      const slow = pool.query('select pg_sleep(20)').then(
        () => null,
        (error: unknown) => error,
      );
      const waiting = pool.query('select 1').then(
        () => null,
        (error: unknown) => error,
      );
      expect(isBusy(await slow)).toBe(true);
      // Whoever waited a second found none, or found the one that had just been given back.
      const found = await waiting;
      expect(found === null || isBusy(found)).toBe(true);
      const held = await pool.connect();
      const second = await pool.query('select 1').then(
        () => null,
        (error: unknown) => error,
      );
      held.release();
      expect(isBusy(second)).toBe(true);
      expect(isBusy(new Error('anything else'))).toBe(false);
      expect((await pool.query('select 1 as one')).rows).toEqual([{ one: 1 }]);
    } finally {
      await pool.end();
    }
  });

  test('rows in batches are all rows in their order, and whoever gives up ends the query in the database', async () => {
    const [pool, other] = [openPool(databaseUrl(), 1), openPool(databaseUrl(), 1)];
    const db = openDb(pool);
    try {
      const rows: number[] = [];
      const all = { sql: 'select n from generate_series(1, $1::int) n', parameters: [25] };
      for await (const batch of readInBatches<{ n: number }>(db, all, 10))
        rows.push(...batch.map(({ n }) => n));
      expect(rows).toEqual(Array.from({ length: 25 }, (_, index) => index + 1));

      const gone = new AbortController();
      const long = { sql: `select 'given up' as words, pg_sleep(60)`, parameters: [] };
      const reading = readInBatches(db, long, 10, gone.signal)
        .next()
        .then(
          () => null,
          (error: unknown) => error,
        );
      while ((await asking(other, 'given up')) === 0) await new Promise((resolve) => setTimeout(resolve, 20));
      gone.abort();
      expect(await reading).toMatchObject({ code: '57014' });
      // Its server process may need a moment to say so.
      for (let tries = 0; tries < 100 && (await asking(other, 'given up')) > 0; tries += 1)
        await new Promise((resolve) => setTimeout(resolve, 50));
      expect(await asking(other, 'given up')).toBe(0);
      // The connection is free for the next.
      expect((await pool.query('select 1 as one')).rows).toEqual([{ one: 1 }]);
      // Whoever stops in the middle gives the connection back too.
      for await (const batch of readInBatches<{ n: number }>(db, all, 10)) {
        expect(batch).toHaveLength(10);
        break;
      }
      expect((await pool.query('select 2 as two')).rows).toEqual([{ two: 2 }]);
      await expect(db.transaction().execute((tx) => readInBatches(tx, all, 10).next())).rejects.toThrow(
        /not inside a transaction/,
      );
    } finally {
      await Promise.all([pool.end(), other.end()]);
    }
  });
});
