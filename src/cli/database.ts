/**
 * The database of a command: the one that DATABASE_URL names, else the checkout's own cluster. Its owner makes the tables;
 * everything else is done as the desk's role, which owns nothing.
 */
import { randomBytes } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type pg from 'pg';
import { closePool, openDb, openPool } from '../db/connect';
import { type DeskRole, deskRole, mayMigrate } from '../db/desk-role';
import { isMigrated, migrate, planUpgrade } from '../db/migrate';
import type { Flags } from './flags';
import { Stop, dataDir, privateData, startCluster } from './cluster';

/** An open database: DATABASE_URL of this process and its children is the desk's. */
export interface Opened {
  /** The owner's connection string. @throws Stop when only the desk's is known */
  owner: () => string;
  /** Brings it up to date as its owner. @throws Stop when only the desk's is known */
  bringUp: () => Promise<void>;
  close: () => Promise<void>;
}

/** Runs something on a connection of the owner. */
export async function asOwner<T>(url: string, run: (pool: pg.Pool) => Promise<T>): Promise<T> {
  const pool = openPool(url, 1);
  try {
    return await run(pool);
  } finally {
    await pool.end();
  }
}

/** Writes what a practice begins with where nothing of it is there. @param url of the desk */
async function beginPractice(url: string): Promise<void> {
  const pool = openPool(url, 1);
  try {
    const { rowCount } = await pool.query('select 1 from letter_template limit 1');
    // Its code is loaded once in a practice's life.
    if (rowCount === 0) await (await import('../server/beginning')).begin(openDb(pool));
  } finally {
    await pool.end();
  }
}

/** Brings a database up to date as its owner. @returns the connection string of the desk */
export async function prepareDatabase(owner: string): Promise<string> {
  const { url, ...desk } = deskRole(owner, process.env.WERGELD_SECRET!);
  await asOwner(owner, (pool) => migrate(pool, desk));
  await beginPractice(url);
  return url;
}

/**
 * Opens the database. DATABASE_URL is the owner's, and the desk's role is made; or it is the desk's own, and WERGELD_OWNER_URL
 * the owner's where something has to be made.
 */
export async function openDatabase(migrating = true): Promise<Opened> {
  const { DATABASE_URL: given, WERGELD_OWNER_URL: ownerGiven } = process.env;
  delete process.env.WERGELD_OWNER_URL;
  const cluster = given ? { url: given, stop: () => undefined } : await startCluster('wergeld');
  process.env.WERGELD_SECRET ??= secret();
  let owner: string | null = ownerGiven ?? cluster.url;
  const bringUp = async (url: string): Promise<void> => {
    if (ownerGiven) {
      await asOwner(url, (pool) => migrate(pool, roleOf(cluster.url)));
      await beginPractice(cluster.url);
    } else process.env.DATABASE_URL = await prepareDatabase(url);
  };
  try {
    if (!ownerGiven && !(await asOwner(cluster.url, mayMigrate))) owner = null;
    if (owner === null) {
      if (migrating && !(await asOwner(cluster.url, isMigrated)))
        throw new Stop(
          'The database is of an older version, and DATABASE_URL is not its owner: name the owner once with WERGELD_OWNER_URL.',
        );
    } else if (migrating) await bringUp(owner);
    process.env.DATABASE_URL ??= cluster.url;
  } catch (error) {
    cluster.stop();
    throw error;
  }
  const ownerUrl = (): string => {
    if (owner === null)
      throw new Stop('This is done as the owner of the database: name it with WERGELD_OWNER_URL.');
    return owner;
  };
  return {
    owner: ownerUrl,
    bringUp: () => bringUp(ownerUrl()),
    close: async () => {
      await closePool();
      cluster.stop();
    },
  };
}

/** Brings a database up to date as its owner and says what was done; or what would be. @returns 0 */
export async function upgrade(
  { owner, bringUp }: Opened,
  { 'dry-run': dry, json }: Pick<Flags, 'dry-run' | 'json'>,
): Promise<number> {
  const plan = await asOwner(owner(), (pool) => planUpgrade(pool));
  if (!dry) await bringUp();
  const { steps, owned, queues } = plan;
  const lines = [
    ...steps.map((step) => `step ${step}`),
    ...(owned ? ['functions, views and triggers made anew'] : []),
    ...(queues ? [`the queue from version ${queues.from} to ${queues.to}`] : []),
  ];
  process.stdout.write(
    json
      ? `${JSON.stringify({ ...plan, done: !dry })}\n`
      : lines.length === 0
        ? 'The database is up to date.\n'
        : `${dry ? 'Would be done' : 'Done'}:\n${lines.map((line) => `  ${line}\n`).join('')}`,
  );
  return 0;
}

/** The role that a connection string names; its password is somebody else's matter. */
const roleOf = (url: string): DeskRole => ({
  role: decodeURIComponent(new URL(url).username),
  password: null,
});

/** Runs something with the database open. */
export async function withDatabase(
  run: (database: Opened) => Promise<number>,
  options: { migrate?: boolean } = {},
): Promise<number> {
  const database = await openDatabase(options.migrate ?? true);
  try {
    return await run(database);
  } finally {
    await database.close();
  }
}

/** The secret that signs session cookies, made once. */
function secret(): string {
  const path = join(dataDir(), 'secret');
  if (!existsSync(path)) {
    privateData();
    writeFileSync(path, randomBytes(32).toString('base64url'), { mode: 0o600 });
  }
  return readFileSync(path, 'utf8');
}
