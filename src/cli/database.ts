/** The database of a command: the one that DATABASE_URL names, else the checkout's own cluster. */
import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { closePool, pool } from '../db/connect';
import { migrate } from '../db/migrate';
import { dataDir, startCluster } from './cluster';

/** Opens the database and sets DATABASE_URL for this process and its children. @returns how to close it */
export async function openDatabase(migrating = true): Promise<{ url: string; close: () => Promise<void> }> {
  const given = process.env.DATABASE_URL;
  const cluster = given ? { url: given, stop: () => undefined } : await startCluster('wergeld');
  process.env.DATABASE_URL = cluster.url;
  process.env.WERGELD_SECRET ??= secret();
  try {
    if (migrating) await migrate(pool());
  } catch (error) {
    cluster.stop();
    throw error;
  }
  return {
    url: cluster.url,
    close: async () => {
      await closePool();
      cluster.stop();
    },
  };
}

/** Runs something with the database open. */
export async function withDatabase(
  run: (url: string) => Promise<number>,
  options: { migrate?: boolean } = {},
): Promise<number> {
  const { url, close } = await openDatabase(options.migrate ?? true);
  try {
    return await run(url);
  } finally {
    await close();
  }
}

/** The secret that signs session cookies, made once. */
function secret(): string {
  const path = join(dataDir(), 'secret');
  if (!existsSync(path)) {
    mkdirSync(dataDir(), { recursive: true });
    writeFileSync(path, randomBytes(32).toString('base64url'), { mode: 0o600 });
  }
  return readFileSync(path, 'utf8');
}
