/** Migrations: forward only, in order, under a lock. */
import type pg from 'pg';
import { BOOK_ACCOUNTS } from '../core/books/accounts';
import { base } from './migrations/0001-base';
import { journal } from './migrations/0002-journal';
import { lists } from './migrations/0003-lists';
import { order } from './migrations/0004-order';

const MIGRATIONS: readonly { name: string; sql: string }[] = [
  { name: '0001-base', sql: base },
  { name: '0002-journal', sql: journal },
  { name: '0003-lists', sql: lists },
  { name: '0004-order', sql: order },
];

const LOCK = 7_239_001;

/** Brings the schema up to date. Each migration is one transaction; a second process waits for the first. */
export async function migrate(pool: pg.Pool): Promise<string[]> {
  const client = await pool.connect();
  const applied: string[] = [];
  try {
    await client.query('select pg_advisory_lock($1)', [LOCK]);
    await client.query(
      'create table if not exists migration (name text primary key, at timestamptz not null default now())',
    );
    const { rows } = await client.query<{ name: string }>('select name from migration');
    const done = new Set(rows.map((row) => row.name));
    for (const { name, sql } of MIGRATIONS) {
      if (done.has(name)) continue;
      await client.query('begin');
      try {
        await client.query(sql);
        await client.query('insert into migration (name) values ($1)', [name]);
        await client.query('commit');
      } catch (error) {
        await client.query('rollback');
        throw error;
      }
      applied.push(name);
    }
    await client.query('insert into book_account (code) select unnest($1::text[]) on conflict do nothing', [
      BOOK_ACCOUNTS,
    ]);
  } finally {
    await client.query('select pg_advisory_unlock($1)', [LOCK]);
    client.release();
  }
  return applied;
}
