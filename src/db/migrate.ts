/** Migrations: forward only, in order, under a lock; then the closed lists of the program are made known to the database. */
import { createHash } from 'node:crypto';
import type pg from 'pg';
import PgBoss from 'pg-boss';
import { BOOK_ACCOUNTS } from '../core/books/accounts';
import { DIMENSIONS } from '../core/books/dimensions';
import { ENTRY_KINDS } from '../core/books/kinds';
import { CLAIM_MOVES } from '../core/claims/life';
import { STANDARD_REASONS } from '../core/remittances/standard-reasons';
import { type DeskRole, admitDesk } from './desk-role';
import { foundation } from './migrations/0001-foundation';
import { makeOwned, splitOwned } from './owned';

const { kept, owned } = splitOwned(foundation);
/**
 * The foundation goes by the tables that it says: nothing was released, and a database of another one is another version's. What
 * the program owns beside them is made anew when its text changed.
 */
const FOUNDATION = `0001-foundation ${createHash('sha256').update(kept).digest('hex').slice(0, 12)}`;
const MIGRATIONS: readonly { name: string; sql: string }[] = [{ name: FOUNDATION, sql: foundation }];

const LOCK = 7_239_001;

/** A database that was made by a program which this one does not continue; it was left alone. */
export class ForeignDatabase extends Error {}

/**
 * Brings the schema up to date. Each migration is one transaction; a second process waits for the first.
 * @param pool of the owner
 * @param desk the role that works with what is made; it may do what `admitDesk` says
 * @returns the names of what was applied
 * @throws ForeignDatabase when the database was made by another version that this one does not know
 */
export async function migrate(pool: pg.Pool, desk: DeskRole): Promise<string[]> {
  const client = await pool.connect();
  const applied: string[] = [];
  try {
    await client.query('select pg_advisory_lock($1)', [LOCK]);
    await client.query(
      'create table if not exists migration (name text primary key, at timestamptz not null default now())',
    );
    const { rows } = await client.query<{ name: string }>('select name from migration');
    const done = new Set(rows.map((row) => row.name));
    const stranger = [...done].find((name) => !MIGRATIONS.some((one) => one.name === name));
    if (stranger)
      throw new ForeignDatabase(
        `This database was made by another version of Wergeld (${stranger}) and was left alone: name an empty one, or make the demo anew with ./wergeld demo --fresh.`,
      );
    for (const { name, sql } of MIGRATIONS) {
      if (done.has(name)) continue;
      await inTransaction(client, async () => {
        await client.query(sql);
        await client.query('insert into migration (name) values ($1)', [name]);
      });
      applied.push(name);
    }
    await inTransaction(client, async () => void (await makeOwned(client, owned)));
    await inTransaction(client, () => makeKnown(client));
    await makeQueues(client);
    await inTransaction(client, () => admitDesk(client, desk));
  } finally {
    await client.query('select pg_advisory_unlock($1)', [LOCK]);
    client.release();
  }
  return applied;
}

/** Whether every migration has been applied. @param pool of anybody who may read */
export async function isMigrated(pool: pg.Pool): Promise<boolean> {
  const { rows } = await pool.query<{ name: string }>('select name from migration');
  return MIGRATIONS.every(({ name }) => rows.some((row) => row.name === name));
}

async function inTransaction(client: pg.PoolClient, run: () => Promise<void>): Promise<void> {
  await client.query('begin');
  try {
    await run();
    await client.query('commit');
  } catch (error) {
    await client.query('rollback');
    throw error;
  }
}

/** The queue's own tables, so that a message can be sent before the first job process comes up. */
async function makeQueues(client: pg.PoolClient): Promise<void> {
  const { rows } = await client.query(`select 1 from pg_namespace where nspname = 'pgboss'`);
  if (rows.length === 0) await client.query(PgBoss.getConstructionPlans('pgboss'));
}

/**
 * Book accounts, kinds of entries and moves of claims, as the program declares them; and the standard reason codes, of which what a
 * practice has changed stays.
 */
async function makeKnown(client: pg.PoolClient): Promise<void> {
  const accounts = Object.entries(BOOK_ACCOUNTS).map(([code, shape]) => ({ code, ...shape }));
  await client.query(
    `insert into book_account (code, class, part, words) select code, class, part, words from jsonb_to_recordset($1) as a (code text, class text, part text, words text)
     on conflict (code) do update set class = excluded.class, part = excluded.part, words = excluded.words
     where (book_account.class, book_account.part, book_account.words) is distinct from (excluded.class, excluded.part, excluded.words)`,
    [JSON.stringify(accounts)],
  );
  const kinds = Object.entries(ENTRY_KINDS).map(([code, shape]) => ({
    code,
    needs: shape.needs.map((name) => DIMENSIONS[name]),
    ages_from: 'agesFrom' in shape ? shape.agesFrom : 'posting',
  }));
  await client.query(
    `insert into entry_kind (code, needs, ages_from) select code, needs, ages_from from jsonb_to_recordset($1) as k (code text, needs text[], ages_from text)
     on conflict (code) do update set needs = excluded.needs, ages_from = excluded.ages_from where (entry_kind.needs, entry_kind.ages_from) is distinct from (excluded.needs, excluded.ages_from)`,
    [JSON.stringify(kinds)],
  );
  const moves = Object.entries(CLAIM_MOVES).flatMap(([from, tos]) => tos.map((to) => ({ from, to })));
  await client.query(
    `with wanted as (select m."from", m."to" from jsonb_to_recordset($1) as m ("from" text, "to" text)),
       gone as (delete from claim_move where (from_status, to_status) not in (select "from", "to" from wanted))
     insert into claim_move (from_status, to_status) select "from", "to" from wanted on conflict do nothing`,
    [JSON.stringify(moves)],
  );
  await client.query(
    `insert into reason_code (group_code, code, words, patient_words, denial, follow_up, reduction_account)
     select "group", code, words, "patientWords", denial, "followUp", case "group" when 'PI' then 'reduction/payer' else 'reduction/contract' end
     from jsonb_to_recordset($1) as r ("group" text, code text, words text, "patientWords" text, denial boolean, "followUp" text) on conflict do nothing`,
    [JSON.stringify(STANDARD_REASONS)],
  );
}
