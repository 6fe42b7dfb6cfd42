/** Queries that come often are prepared, and answer as they did. */
import { sql } from 'kysely';
import { databaseUrl, openDb, openPool } from './connect';

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
