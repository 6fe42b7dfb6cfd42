/** A database for tests: migrated, with the demo's setup, emptied for each file. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type pg from 'pg';
import type { CalendarDate } from '../core/calendar';
import { type Db, openDb, openPool } from '../db/connect';
import { deskRole } from '../db/desk-role';
import { migrate } from '../db/migrate';
import { setClock } from '../db/clock';
import { setUpPractice } from '../demo/setup';
import { begin } from '../server/beginning';
import { type Context, type Role, zone } from '../server/access';
import { STANDIN_PAYERS } from '../standins/payer-book';
import { BEGINNING, TODAY, morningOf } from './clock';

export { TODAY };

/** What a test works with. */
export interface TestDatabase {
  /** Connections of the owner, for what the desk itself may not do. */
  pool: pg.Pool;
  owner: Db;
  ownerUrl: string;
  /** The connection string of the desk, and its connection. */
  url: string;
  db: Db;
  context: Context;
  providers: Record<string, number>;
  insurancePlans: Record<string, number>;
  as: (role: Role, today?: CalendarDate) => Context;
  close: () => Promise<void>;
}

/** A database that others are copied from: its name, how its desk connects, and the demo's practice in it. */
interface Template {
  name: string;
  url: string;
  providers: Record<string, number>;
  insurancePlans: Record<string, number>;
}
const TEMPLATE = 'WERGELD_TEST_TEMPLATE';
const named = (url: string, name: string): string => {
  const one = new URL(url);
  one.pathname = `/${name}`;
  return one.toString();
};

/** Makes a database of its own for a test file. @throws Error without DATABASE_URL */
export async function testDatabase(): Promise<TestDatabase> {
  const given = process.env[TEMPLATE];
  const { name, url, providers, insurancePlans } = given
    ? await copyOf(JSON.parse(given) as Template)
    : await makeDatabase('t');
  const pool = openPool(named(process.env.DATABASE_URL!, name), 6);
  const deskPool = openPool(url, 12);
  const db = openDb(deskPool);
  const as = (role: Role, today: CalendarDate = TODAY): Context => ({
    db,
    user: { id: role, name: role, role },
    now: morningOf(today),
    today,
  });
  const exchange = mkdtempSync(join(tmpdir(), 'wergeld-exchange-'));
  process.env.WERGELD_EXCHANGE = exchange;
  return {
    pool,
    owner: openDb(pool),
    ownerUrl: named(process.env.DATABASE_URL!, name),
    url,
    db,
    providers,
    insurancePlans,
    as,
    context: as('manager'),
    close: async () => {
      await Promise.all([pool.end(), deskPool.end()]);
      // The desk's role of this database: its own, or one that a command made which was called with the owner's address.
      await once(process.env.DATABASE_URL!, [
        `drop database ${name} with (force)`,
        `drop role if exists ${name}_desk`,
      ]);
      rmSync(exchange, { recursive: true, force: true });
    },
  };
}

/** The database of a test file, there before its tests and taken away after them. */
export function fileDatabase(): TestDatabase {
  const t = {} as TestDatabase;
  beforeAll(async () => void Object.assign(t, await testDatabase()));
  afterAll(() => t.close());
  return t;
}

/**
 * Makes the database that each `testDatabase` of this process, and of those it starts, is copied from, instead of being made
 * anew: a tenth of the time.
 */
export async function makeTemplate(): Promise<void> {
  process.env[TEMPLATE] = JSON.stringify(await makeDatabase('template'));
}

/** Takes it away. */
export async function dropTemplate(): Promise<void> {
  const { name, url } = JSON.parse(process.env[TEMPLATE]!) as Template;
  delete process.env[TEMPLATE];
  await once(process.env.DATABASE_URL!, [`drop database ${name} with (force)`]);
  // A test that was killed leaves its copy, which knows the role.
  await once(process.env.DATABASE_URL!, [`drop role ${new URL(url).username}`]).catch(() => undefined);
}

/** A new database, with the schema, a role of the desk and the practice. */
async function makeDatabase(kind: string): Promise<Template> {
  const base = process.env.DATABASE_URL;
  if (!base) throw new Error('Database tests need DATABASE_URL: run them with ./wergeld test database');
  const name = newName(kind);
  await once(base, [`create database ${name}`, `alter database ${name} set synchronous_commit = off`]);
  const owner = named(base, name);
  process.env.WERGELD_SECRET ??= 'a secret for tests only, of no use elsewhere';
  const { url, ...desk } = deskRole(owner, process.env.WERGELD_SECRET);
  const pool = openPool(owner, 2);
  const deskPool = openPool(url, 2);
  await migrate(pool, desk);
  await setClock(pool, BEGINNING, zone());
  await begin(openDb(deskPool));
  const { providers, insurancePlans } = await setUpPractice(openDb(deskPool));
  // Nobody may be connected while it is copied.
  await Promise.all([pool.end(), deskPool.end()]);
  return { name, url, providers, insurancePlans };
}

/** A copy of one; its desk is the same role. */
async function copyOf(original: Template): Promise<Template> {
  const name = newName('t');
  await once(process.env.DATABASE_URL!, [
    `create database ${name} template ${original.name}`,
    `alter database ${name} set synchronous_commit = off`,
  ]);
  return { ...original, name, url: named(original.url, name) };
}

/** The providers and insurance plans of the invented practice, by what tests call them. */
export async function readPractice(db: Db): Promise<Pick<TestDatabase, 'providers' | 'insurancePlans'>> {
  const [people, plans] = await Promise.all([
    db.selectFrom('provider').select('id').orderBy('id').execute(),
    db.selectFrom('insurance_plan').select(['id', 'name']).execute(),
  ]);
  const groups = STANDIN_PAYERS.flatMap((payer) => Object.entries(payer.groups));
  return {
    providers: Object.fromEntries(
      ['family', 'family2', 'therapy', 'dental', 'dental2'].map((name, index) => [name, people[index]!.id]),
    ),
    insurancePlans: Object.fromEntries(
      groups.map(([group, { plan }]) => [group, plans.find(({ name }) => name === plan)!.id]),
    ),
  };
}

const newName = (kind: string): string =>
  `wergeld_${kind}_${process.pid}_${Math.random().toString(36).slice(2, 8)}`;

async function once(url: string, statements: readonly string[]): Promise<void> {
  const admin = openPool(url, 1);
  for (const statement of statements) await admin.query(statement);
  await admin.end();
}
