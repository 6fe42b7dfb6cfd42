import { openPool } from './connect';
import { ForeignDatabase, migrate } from './migrate';
import { BOOK_ACCOUNTS } from '../core/books/accounts';
import { ENTRY_KINDS } from '../core/books/kinds';
import { CLAIM_MOVES } from '../core/claims/life';
import { fileDatabase } from '../testing/database';

const t = fileDatabase();
const desk = () => ({ role: decodeURIComponent(new URL(t.url).username), password: null });

test('the closed lists of the database are those of the program', async () => {
  const accounts = await t.db.selectFrom('book_account').select(['code', 'class', 'part']).execute();
  expect(accounts.sort((a, b) => (a.code < b.code ? -1 : 1))).toEqual(
    Object.entries(BOOK_ACCOUNTS)
      .map(([code, { class: its, part }]) => ({ code, class: its, part }))
      .sort((a, b) => (a.code < b.code ? -1 : 1)),
  );
  const kinds = await t.db.selectFrom('entry_kind').select('code').execute();
  expect(kinds.map(({ code }) => code).sort()).toEqual(Object.keys(ENTRY_KINDS).sort());
  const moves = await t.db.selectFrom('claim_move').selectAll().execute();
  expect(moves.map((move) => `${move.from_status} ${move.to_status}`).sort()).toEqual(
    Object.entries(CLAIM_MOVES)
      .flatMap(([from, tos]) => tos.map((to) => `${from} ${to}`))
      .sort(),
  );
});

test('a second run applies nothing; a database of another version is left alone, in one sentence', async () => {
  expect(await migrate(t.pool, desk())).toEqual([]);
  const name = `wergeld_m_${process.pid}`;
  await t.pool.query(`create database ${name}`);
  const other = openPool(t.ownerUrl.replace(/\/[^/]*$/, `/${name}`), 1);
  try {
    await other.query(
      'create table migration (name text primary key, at timestamptz not null default now())',
    );
    // Also one that has the name and says something else.
    await other.query(`insert into migration (name) values ('0001-foundation')`);
    await expect(migrate(other, desk())).rejects.toThrow(ForeignDatabase);
    await expect(migrate(other, desk())).rejects.toThrow(/made by another version of Wergeld .* left alone/);
    const { rows } = await other.query(`select count(*) as n from pg_tables where schemaname = 'public'`);
    expect(rows).toEqual([{ n: 1 }]);
  } finally {
    await other.end();
    await t.pool.query(`drop database ${name}`);
  }
});
