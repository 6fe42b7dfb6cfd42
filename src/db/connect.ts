/** The connection to PostgreSQL. */
import type { EventEmitter } from 'node:events';
import { Kysely, PostgresDialect, type Transaction } from 'kysely';
import pg from 'pg';
import Cursor from 'pg-cursor';
import type { DB } from './tables';

/** A connection or a transaction. */
export type Db = Kysely<DB>;
/** A transaction. */
export type Tx = Transaction<DB>;

// bigint columns hold cents and ids: both fit a safe integer, and anything beyond is a fault worth stopping for.
const safeInteger = (text: string): number => {
  const value = Number(text);
  if (!Number.isSafeInteger(value)) throw new RangeError(`A bigint beyond the safe integers: ${text}`);
  return value;
};
pg.types.setTypeParser(20, safeInteger);
// A list of them, which has no nulls: {1,2}.
const ofArrays = pg.types.setTypeParser as (type: number, parse: (text: string) => unknown) => void;
ofArrays(1016, (text) => (text === '{}' ? [] : text.slice(1, -1).split(',').map(safeInteger)));
pg.types.setTypeParser(1700, Number);
// Calendar dates stay text: no time zone may move them.
pg.types.setTypeParser(1082, (text) => text);

/** So many queries are prepared on each connection, and so often must one have come before. */
const PREPARED = { most: 200, after: 3 };
const uses = new Map<string, number>();
const names = new Map<string, string>();

/** The name under which a query is prepared; undefined while it has not come often enough. */
function preparedName(text: string): string | undefined {
  const known = names.get(text);
  if (known || names.size >= PREPARED.most) return known;
  // Queries that never come again, as lists of values do, are not counted without end.
  if (uses.size > 2000) uses.clear();
  const seen = (uses.get(text) ?? 0) + 1;
  uses.set(text, seen);
  if (seen < PREPARED.after) return undefined;
  uses.delete(text);
  const name = `q${names.size}`;
  names.set(text, name);
  return name;
}

/** Has a connection read and plan what is asked again and again only once. What is not a text with values stays as it is. */
function prepareOften(client: pg.PoolClient): void {
  const query = client.query.bind(client) as (...given: unknown[]) => unknown;
  client.query = ((...given: unknown[]) => {
    const [text, values, ...rest] = given;
    const name = typeof text === 'string' && Array.isArray(values) ? preparedName(text) : undefined;
    return name ? query({ name, text, values }, ...rest) : query(...given);
  }) as typeof client.query;
}

/**
 * Takes out of an error what stands in a row or was asked for: names must not come into a log that way. What is left names the
 * rule, the table and the code.
 */
function withoutValues(error: pg.DatabaseError): void {
  for (const part of ['detail', 'where', 'internalQuery'] as const) delete error[part];
  // Class 22, wrong data, quotes the value in its message.
  if (error.code?.startsWith('22')) error.message = error.message.replace(/"[^"]*"/g, '“…”');
}

/** Opens a pool. `url` is a PostgreSQL connection string. */
export function openPool(url: string, max = 10): pg.Pool {
  // What is read stands in memory or on a solid-state disk, so that an index is worth more than the planner thinks by itself;
  // and no query runs long enough to be worth compiling.
  const pool = new pg.Pool({
    connectionString: url,
    max,
    options: '-c random_page_cost=1.1 -c jit=off',
  });
  pool.on('connect', prepareOften);
  pool.on('connect', (client) =>
    (client as unknown as { connection: EventEmitter }).connection.prependListener(
      'errorMessage',
      withoutValues,
    ),
  );
  // A connection that dies, idle or in the middle of a transaction, must not end the process; the next query says what is wrong.
  pool.on('error', () => undefined);
  pool.on('connect', (client) => client.on('error', () => undefined));
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
