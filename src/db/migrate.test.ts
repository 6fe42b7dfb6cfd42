import { readFileSync, readdirSync } from 'node:fs';
import type pg from 'pg';
import PgBoss from 'pg-boss';
import { openPool } from './connect';
import {
  ForeignDatabase,
  QUEUE_VERSION,
  STEPS,
  type Step,
  isMigrated,
  migrate,
  planUpgrade,
} from './migrate';
import { VERSION } from '../core/version';
import { foundation } from './migrations/0001-foundation';
import { makeOwned, splitOwned } from './owned';
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

test('what a practice has changed of a standard reason stays, and one that is missing comes', async () => {
  await t.pool.query(
    `update reason_code set words = 'Ours', denial = true where group_code = '*' and code = '45'`,
  );
  await t.pool.query(`delete from reason_code where code = 'B7'`);
  await migrate(t.pool, desk());
  const { rows } = await t.pool.query(
    `select code, words, denial from reason_code where group_code = '*' and code in ('45', 'B7') order by code`,
  );
  expect(rows).toMatchObject([
    { code: '45', words: 'Ours', denial: true },
    { code: 'B7', denial: true },
  ]);
});

/** Something done with an empty database of its own. */
async function inEmpty(run: (pool: pg.Pool) => Promise<void>): Promise<void> {
  const name = `wergeld_m_${process.pid}_${(serial += 1)}`;
  await t.pool.query(`create database ${name}`);
  const pool = openPool(t.ownerUrl.replace(/\/[^/]*$/, `/${name}`), 1);
  try {
    await run(pool);
  } finally {
    await pool.end();
    await t.pool.query(`drop database ${name}`);
  }
}
let serial = 0;
const tablesOf = async (pool: pg.Pool): Promise<number> =>
  (await pool.query<{ n: number }>(`select count(*) as n from pg_tables where schemaname = 'public'`))
    .rows[0]!.n;

test('a second run applies nothing; a database of another version is left alone, in one sentence', async () => {
  expect(await migrate(t.pool, desk())).toEqual([]);
  expect(await planUpgrade(t.pool)).toEqual({ steps: [], owned: false, queues: null });
  await inEmpty(async (other) => {
    await other.query(
      'create table migration (name text primary key, at timestamptz not null default now())',
    );
    await expect(migrate(other, desk())).rejects.toThrow(ForeignDatabase);
    await expect(migrate(other, desk())).rejects.toThrow(/made by another version of Wergeld .* left alone/);
    await expect(planUpgrade(other)).rejects.toThrow(ForeignDatabase);
    expect(await tablesOf(other)).toBe(1);
  });
});

describe('a step forward', () => {
  const second: Step = { number: 2, name: 'notes', sql: 'create table kept_note (id bigint primary key)' };
  const both = [...STEPS, second];

  test('is planned, taken once, and known by its text', async () => {
    await inEmpty(async (pool) => {
      expect(await planUpgrade(pool)).toEqual({
        steps: ['1: foundation'],
        owned: true,
        queues: { from: 0, to: QUEUE_VERSION },
      });
      // To plan is to write nothing.
      expect(await tablesOf(pool)).toBe(0);
      expect(await migrate(pool, desk())).toEqual(['1: foundation']);
      expect((await planUpgrade(pool, both)).steps).toEqual(['2: notes']);
      expect(await migrate(pool, desk(), both)).toEqual(['2: notes']);
      expect(await migrate(pool, desk(), both)).toEqual([]);
      const changed = [...STEPS, { ...second, sql: 'create table kept_note (id integer primary key)' }];
      await expect(migrate(pool, desk(), changed)).rejects.toThrow(/its step 2, notes, says something else/);
    });
  });

  test('that a newer program has taken is one this one does not know: refused in a sentence', async () => {
    await inEmpty(async (pool) => {
      await migrate(pool, desk(), both);
      await pool.query(`update migration set program = '0.9.0' where number = 2`);
      for (const ask of [() => migrate(pool, desk()), () => isMigrated(pool), () => planUpgrade(pool)])
        await expect(ask()).rejects.toThrow(
          `This database was made by a newer Wergeld (0.9.0, step 2: notes) and was left alone: this is ${VERSION}, which knows 1 step.`,
        );
    });
  });

  test('that fails leaves nothing of itself, and those before it stand', async () => {
    await inEmpty(async (pool) => {
      const third = {
        number: 3,
        name: 'broken',
        sql: 'create table half (id bigint); select * from nowhere',
      };
      await expect(migrate(pool, desk(), [...both, third])).rejects.toThrow(/nowhere/);
      const { rows } = await pool.query(
        `select to_regclass('half') as half, to_regclass('kept_note') as note`,
      );
      expect(rows).toEqual([{ half: null, note: 'kept_note' }]);
      expect((await planUpgrade(pool, [...both, third])).steps).toEqual(['3: broken']);
    });
  });

  test('that broke off after the first step goes on', async () => {
    await inEmpty(async (pool) => {
      const broken = { ...second, sql: 'select * from nowhere' };
      await expect(migrate(pool, desk(), [...STEPS, broken])).rejects.toThrow(/nowhere/);
      expect(await migrate(pool, desk())).toEqual([]);
    });
  });

  test('of the queue is taken with it', async () => {
    await inEmpty(async (pool) => {
      await migrate(pool, desk());
      await pool.query(PgBoss.getRollbackPlans('pgboss', QUEUE_VERSION as never));
      expect((await planUpgrade(pool)).queues).toEqual({ from: QUEUE_VERSION - 1, to: QUEUE_VERSION });
      await migrate(pool, desk());
      expect((await planUpgrade(pool)).queues).toBeNull();
    });
  });

  test('the versions are those of the packages', () => {
    const versionOf = (path: string) => JSON.parse(readFileSync(path, 'utf8')) as Record<string, unknown>;
    expect(versionOf('package.json').version).toBe(VERSION);
    expect(versionOf('node_modules/pg-boss/version.json').schema).toBe(QUEUE_VERSION);
  });
});

test('no step has in its text what the program may say otherwise tomorrow', () => {
  // The tables of the foundation are said in full: nothing of the core is put into them.
  for (const file of readdirSync('src/db/migrations/foundation')) {
    const text = readFileSync(`src/db/migrations/foundation/${file}`, 'utf8');
    const { kept: tables } = splitOwned(text.slice(text.indexOf('export const')));
    expect({ file, live: tables.match(/\$\{.*?\}/g) }).toEqual({ file, live: null });
  }
});

describe('what the program owns in the database', () => {
  const { kept, owned } = splitOwned(foundation);

  test('is every function, view and trigger that there is, and nothing of the tables', async () => {
    const { rows } = await t.pool.query<{ what: string }>(`
      select 'function ' || p.proname as what
      from pg_proc p
      where p.pronamespace = 'public'::regnamespace
        and p.proname <> 'desk_now'
        and not exists (select 1 from pg_depend d where d.objid = p.oid and d.deptype = 'e')
      union select 'view ' || viewname from pg_views where schemaname = 'public'
      union
      select 'trigger ' || g.tgname || ' on ' || c.relname
      from pg_trigger g
        join pg_class c on c.oid = g.tgrelid
      where not g.tgisinternal and c.relnamespace = 'public'::regnamespace
      order by 1`);
    const said = owned.flatMap(({ kind, text }) => {
      if (kind === 'always') return [];
      if (kind === 'trigger') {
        const [, name, table] = /trigger (\w+) [\s\S]*? on (\w+)/.exec(text)!;
        return [`trigger ${name!} on ${table!}`];
      }
      return [`${kind} ${/^create \w+ (\w+)/.exec(text)![1]!}`];
    });
    // But for the clock, which its owner sets.
    expect(rows.map(({ what }) => what)).toEqual([...new Set(said)].sort((a, b) => (a < b ? -1 : 1)));
    expect(kept).not.toMatch(/create (function (?!desk_now)|view|(constraint )?trigger)/);
    expect(kept).toMatch(/create table household /);
  });

  test('is made anew when its text changed, and is left alone when it did not', async () => {
    const text = async () =>
      (
        await t.pool.query<{ src: string }>(
          `select prosrc as src from pg_proc where proname = 'count_version'`,
        )
      ).rows[0]!.src;
    const before = await text();
    const client = await t.pool.connect();
    try {
      await client.query('begin');
      expect(await makeOwned(client, owned)).toBe(false);
      const changed = owned.map((one) =>
        /count_version\(\)\s+returns/.test(one.text)
          ? { ...one, text: one.text.replace('old.version + 1', 'old.version + 2') }
          : one,
      );
      expect(await makeOwned(client, changed)).toBe(true);
      const { rows } = await client.query<{ src: string }>(
        `select prosrc as src from pg_proc where proname = 'count_version'`,
      );
      expect(rows[0]!.src).toMatch(/old\.version \+ 2/);
      expect(await makeOwned(client, changed)).toBe(false);
      // Everything that guards the books is there after it.
      const guards = await client.query<{ n: number }>(
        `select count(*)::int as n from pg_trigger where tgenabled = 'A'`,
      );
      expect(guards.rows[0]!.n).toBe(owned.filter(({ kind }) => kind === 'always').length);
    } finally {
      await client.query('rollback');
      client.release();
    }
    expect(await text()).toBe(before);
  });
});
