/** The connection to PostgreSQL. */
import type { EventEmitter } from 'node:events';
import { Kysely, PostgresDialect, type Transaction } from 'kysely';
import pg from 'pg';
import Cursor from 'pg-cursor';
import type { DB } from './views';

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

/** How long anything may take, in seconds: getting a connection, a statement somebody waits for, a file, work in the background. */
const LIMITS = { connection: 15, desk: 60, file: 600, work: 900 } as const;

/**
 * Opens a pool. `url` is a PostgreSQL connection string.
 * @param max so many connections at most
 * @param limits in seconds: how long a connection is waited for, and how long a statement may take; without them both are endless
 */
export function openPool(
  url: string,
  max = 10,
  limits: { connection: number; statement: number } = { connection: 0, statement: 0 },
): pg.Pool {
  // What is read stands in memory or on a solid-state disk, so that an index is worth more than the planner thinks by itself;
  // and no query runs long enough to be worth compiling.
  const pool = new pg.Pool({
    connectionString: url,
    max,
    connectionTimeoutMillis: limits.connection * 1000,
    options: `-c random_page_cost=1.1 -c jit=off -c statement_timeout=${limits.statement * 1000}`,
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

const pools = new WeakMap<Db, pg.Pool>();

/** Opens Kysely on a pool. */
export function openDb(pool: pg.Pool): Db {
  const db = new Kysely<DB>({ dialect: new PostgresDialect({ pool, cursor: Cursor }) });
  pools.set(db, pool);
  return db;
}

/** The connection string of this process. @throws Error when DATABASE_URL is not set */
export function databaseUrl(): string {
  const url = process.env.DATABASE_URL;
  if (!url) throw new Error('DATABASE_URL is not set: start Wergeld with ./wergeld, which sets it');
  return url;
}

const kept = globalThis as {
  wergeldPool?: pg.Pool;
  wergeldDb?: Db;
  wergeldFiles?: pg.Pool;
  wergeldFilesDb?: Db;
  wergeldWorks?: true;
};

/** How many connections this process may have: `WERGELD_CONNECTIONS`, else 10; a quarter as many besides for files. */
const connections = (): number => Number(process.env.WERGELD_CONNECTIONS ?? 10);

/** Says, before anything is asked, that nobody waits for this process: its statements may take as long as work may. */
export const worksAlone = (): void => void (kept.wergeldWorks = true);

/** The pool of this process, opened at its first use. Whoever holds a connection of it never asks for a second one. */
export const pool = (): pg.Pool =>
  (kept.wergeldPool ??= openPool(databaseUrl(), connections(), {
    connection: LIMITS.connection,
    statement: kept.wergeldWorks ? LIMITS.work : LIMITS.desk,
  }));
/** Kysely on the pool of this process. */
export const db = (): Db => (kept.wergeldDb ??= openDb(pool()));
/** Kysely on a small pool of its own, out of which files and reports are read: however many are asked for, the desk goes on. */
export function filesDb(): Db {
  kept.wergeldFiles ??= openPool(databaseUrl(), Math.ceil(connections() / 4), {
    connection: LIMITS.connection,
    statement: LIMITS.file,
  });
  return (kept.wergeldFilesDb ??= openDb(kept.wergeldFiles));
}
/** Closes the pools of this process. */
export async function closePool(): Promise<void> {
  await Promise.all([kept.wergeldPool?.end(), kept.wergeldFiles?.end()]);
  delete kept.wergeldPool;
  delete kept.wergeldDb;
  delete kept.wergeldFiles;
  delete kept.wergeldFilesDb;
}

/** Whether an error says that there was no connection, or that a statement took longer than it may. */
export const isBusy = (error: unknown): boolean =>
  error instanceof Error &&
  ((error as { code?: string }).code === '57014' ||
    /timeout exceeded when trying to connect/.test(error.message));

/**
 * Whether an error says that the database went away, is starting or is not there just now (SQLSTATE 08, 57P and
 * 3D000, as in the manual of PostgreSQL).
 */
export const isConnectionLost = (error: unknown): boolean =>
  error instanceof Error &&
  (/^(08...|57P0[1235]|3D000|ECONNREFUSED|ECONNRESET|EPIPE)$/.test((error as { code?: string }).code ?? '') ||
    /^Connection terminated/.test(error.message));

/** Ends what another connection of the same role is just asking. */
async function cancel(from: pg.Pool, processId: number): Promise<void> {
  // Over a connection of its own: those of the pool may all be waited for.
  const client = new pg.Client({ connectionString: from.options.connectionString });
  try {
    await client.connect();
    await client.query('select pg_cancel_backend($1)', [processId]);
  } finally {
    await client.end();
  }
}

/**
 * Rows of a query in batches, from one snapshot, over one connection. When `signal` is given up the query ends in the database
 * too.
 * @param from a database that is no transaction
 * @param size rows of a batch
 * @throws what the database says, also when it is given up
 */
export async function* readInBatches<Row>(
  from: Db,
  query: { sql: string; parameters: readonly unknown[] },
  size: number,
  signal?: AbortSignal,
): AsyncGenerator<Row[]> {
  const own = pools.get(from);
  if (!own)
    throw new Error('Rows are read in batches over a connection of their own, not inside a transaction');
  signal?.throwIfAborted();
  const client = await own.connect();
  const { processID } = client as unknown as { processID: number };
  let given = false;
  /** Gives the connection back once; one that may still be told to give up is not used again. */
  const giveBack = (fault?: Error | true): void => {
    if (!given) client.release(fault);
    given = true;
  };
  // Whoever gives up may never ask for another batch: the connection is given back without it.
  const giveUp = (): void =>
    void cancel(own, processID)
      .catch(() => undefined)
      .then(() => giveBack(true));
  signal?.addEventListener('abort', giveUp);
  const cursor = client.query(new Cursor<Row & object>(query.sql, [...query.parameters]));
  let fault: Error | undefined;
  try {
    for (;;) {
      const rows = await cursor.read(size);
      if (rows.length === 0) return;
      yield rows;
    }
  } catch (error) {
    fault = error as Error;
    throw error;
  } finally {
    signal?.removeEventListener('abort', giveUp);
    if (!given && !signal?.aborted) await cursor.close().catch(() => undefined);
    giveBack(fault ?? (signal?.aborted ? true : undefined));
  }
}
