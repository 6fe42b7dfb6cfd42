/** The connection to PostgreSQL. */
import { Kysely, PostgresDialect, type Transaction } from 'kysely';
import pg from 'pg';
import Cursor from 'pg-cursor';
import type { DB } from './tables';

/** A connection or a transaction. */
export type Db = Kysely<DB>;
/** A transaction. */
export type Tx = Transaction<DB>;

// bigint columns hold cents and ids: both fit a safe integer, and anything beyond is a fault worth stopping for.
pg.types.setTypeParser(20, (text) => {
  const value = Number(text);
  if (!Number.isSafeInteger(value)) throw new RangeError(`A bigint beyond the safe integers: ${text}`);
  return value;
});
pg.types.setTypeParser(1700, Number);
// Calendar dates stay text: no time zone may move them.
pg.types.setTypeParser(1082, (text) => text);

/** Opens a pool. `url` is a PostgreSQL connection string. */
export function openPool(url: string, max = 10): pg.Pool {
  // What is read stands in memory or on a solid-state disk, so that an index is worth more than the planner thinks by itself;
  // and no query runs long enough to be worth compiling.
  const pool = new pg.Pool({ connectionString: url, max, options: '-c random_page_cost=1.1 -c jit=off' });
  // A connection that dies while idle must not end the process; the next query says what is wrong.
  pool.on('error', () => undefined);
  return pool;
}

/** Opens Kysely on a pool. */
export const openDb = (pool: pg.Pool): Db =>
  new Kysely<DB>({ dialect: new PostgresDialect({ pool, cursor: Cursor }) });

/** The connection string of this process. @throws Error when DATABASE_URL is not set */
export function databaseUrl(): string {
  const url = process.env.DATABASE_URL;
  if (!url) throw new Error('DATABASE_URL is not set: start Wergeld with ./wergeld, which sets it');
  return url;
}

const kept = globalThis as { wergeldPool?: pg.Pool; wergeldDb?: Db };

/** The pool of this process, opened at its first use. */
export const pool = (): pg.Pool => (kept.wergeldPool ??= openPool(databaseUrl()));
/** Kysely on the pool of this process. */
export const db = (): Db => (kept.wergeldDb ??= openDb(pool()));
/** Closes the pool of this process. */
export async function closePool(): Promise<void> {
  await kept.wergeldPool?.end();
  delete kept.wergeldPool;
  delete kept.wergeldDb;
}
