/** A database for tests: migrated, with the demo's setup, emptied for each file. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type pg from 'pg';
import { type CalendarDate, calendarDate } from '../core/calendar';
import { type Db, openDb, openPool } from '../db/connect';
import { deskRole } from '../db/desk-role';
import { migrate } from '../db/migrate';
import { setUpPractice } from '../demo/setup';
import { type Context, type Role } from '../server/access';

/** What a test works with. */
export interface TestDatabase {
  /** Connections of the owner, for what the desk itself may not do. */
  pool: pg.Pool;
  owner: Db;
  /** The connection string of the desk, and its connection. */
  url: string;
  db: Db;
  context: Context;
  providers: Record<string, number>;
  plans: Record<string, number>;
  as: (role: Role, today?: CalendarDate) => Context;
  close: () => Promise<void>;
}

/** The business date of the tests. */
export const TODAY = calendarDate('2026-03-16');

/** Makes a database of its own for a test file. @throws Error without DATABASE_URL */
export async function testDatabase(): Promise<TestDatabase> {
  const base = process.env.DATABASE_URL;
  if (!base) throw new Error('Database tests need DATABASE_URL: run them with ./wergeld test database');
  const name = `wergeld_t_${process.pid}_${Math.random().toString(36).slice(2, 8)}`;
  const admin = openPool(base, 1);
  await admin.query(`create database ${name}`);
  const owner = base.replace(/\/[^/]*$/, `/${name}`);
  process.env.WERGELD_SECRET ??= 'a secret for tests only, of no use elsewhere';
  const { url, ...desk } = deskRole(owner, process.env.WERGELD_SECRET);
  const pool = openPool(owner, 6);
  await pool.query(`alter database ${name} set synchronous_commit = off`);
  await migrate(pool, desk);
  const deskPool = openPool(url, 12);
  const db = openDb(deskPool);
  const { providers, plans } = await setUpPractice(db);
  const as = (role: Role, today: CalendarDate = TODAY): Context => ({
    db,
    user: { id: role, name: role, role },
    today,
  });
  const exchange = mkdtempSync(join(tmpdir(), 'wergeld-exchange-'));
  process.env.WERGELD_EXCHANGE = exchange;
  return {
    pool,
    owner: openDb(pool),
    url,
    db,
    providers,
    plans,
    as,
    context: as('manager'),
    close: async () => {
      await Promise.all([pool.end(), deskPool.end()]);
      await admin.query(`drop database ${name} with (force)`);
      await admin.query(`drop role ${desk.role}`);
      await admin.end();
      rmSync(exchange, { recursive: true, force: true });
    },
  };
}
