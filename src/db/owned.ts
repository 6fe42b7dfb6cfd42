/**
 * What the program owns in the database beside its tables: functions, views and triggers. They are said with the tables that they
 * serve, and made anew at each start when their text changed, apart from the migration.
 */
import { createHash } from 'node:crypto';
import type pg from 'pg';

/** A function, a view or a trigger, or that one fires always, as its statement says it. */
interface Owned {
  kind: 'function' | 'view' | 'trigger' | 'always';
  text: string;
}

const KINDS: readonly { kind: Owned['kind']; begins: RegExp; ends: RegExp }[] = [
  // The clock is set by the owner, and stays as it is set.
  { kind: 'function', begins: /^create function (?!desk_now\()/, ends: /\$\$;\s*$/ },
  { kind: 'view', begins: /^create view /, ends: /;\s*$/ },
  { kind: 'trigger', begins: /^create (?:constraint )?trigger /, ends: /;\s*$/ },
  { kind: 'always', begins: /^alter table \w+ enable always trigger /, ends: /;\s*$/ },
];

/**
 * Splits what the first database holds into what it keeps, its tables, and what the program owns.
 * @param text statements, each of which begins on a line of its own
 */
export function splitOwned(text: string): { kept: string; owned: Owned[] } {
  const kept: string[] = [];
  const owned: Owned[] = [];
  const lines = text.split('\n');
  for (let at = 0; at < lines.length; at += 1) {
    const line = lines[at]!;
    const found = KINDS.find(({ begins }) => begins.test(line));
    if (!found) {
      kept.push(line);
      continue;
    }
    const own = [line];
    while (!(
      found.ends.test(own.at(-1)!) &&
      (found.kind !== 'function' || own.join('\n').split('$$').length > 2)
    )) {
      at += 1;
      const next = lines[at];
      if (next === undefined) throw new Error(`This has no end: ${line}`);
      own.push(next);
    }
    owned.push({ kind: found.kind, text: own.join('\n') });
  }
  return { kept: kept.join('\n'), owned };
}

/** The statements that make a function, a view or a trigger anew, whatever was there. */
function anew({ kind, text }: Owned): string[] {
  if (kind === 'function') return [text.replace(/^create function/, 'create or replace function')];
  if (kind === 'view') {
    const [, name] = /^create view (\w+)/.exec(text)!;
    return [`drop view if exists ${name!} cascade`, text];
  }
  if (kind === 'always') return [text];
  const [, name, table] = /^create (?:constraint )?trigger (\w+) [\s\S]*? on (\w+)/.exec(text)!;
  return [`drop trigger if exists ${name!} on ${table!}`, text];
}

/** Whether what the program owns is in a database as it says it now. */
export async function isOwned(db: pg.Pool | pg.PoolClient, owned: readonly Owned[]): Promise<boolean> {
  const { rows: there } = await db.query(
    `select 1 from pg_tables where schemaname = 'public' and tablename = 'owned'`,
  );
  if (there.length === 0) return false;
  const { rows } = await db.query<{ mark: string }>('select mark from owned');
  return rows[0]?.mark === markOf(owned);
}

/** Marks a text as it is, so that a change of a word is seen. */
const markOf = (owned: readonly Owned[]): string =>
  createHash('sha256')
    .update(owned.map(({ text }) => text).join('\n'))
    .digest('hex');

/**
 * Makes what the program owns anew where its text is not that of the last start; in a transaction of who asks.
 * @returns whether it was made
 */
export async function makeOwned(client: pg.PoolClient, owned: readonly Owned[]): Promise<boolean> {
  await client.query(
    'create table if not exists owned (only_one boolean primary key default true check (only_one), mark text not null)',
  );
  const mark = markOf(owned);
  const { rows } = await client.query<{ mark: string }>('select mark from owned');
  if (rows[0]?.mark === mark) return false;
  // The body of one may speak of another that is made after it.
  await client.query('set local check_function_bodies = off');
  // Who might read the views may read them anew: nobody at work is refused until the desk is admitted again.
  const { rows: readers } = await client.query<{ view: string; reader: string }>(`
    select c.oid::regclass::text as view, a.grantee::regrole::text as reader
    from pg_class c, aclexplode(c.relacl) a
    where c.relkind = 'v' and c.relnamespace = 'public'::regnamespace and a.privilege_type = 'SELECT' and a.grantee <> 0`);
  // In the order of the text, in which each stands after what it asks.
  for (const one of owned) for (const statement of anew(one)) await client.query(statement);
  const views = new Set(
    owned.flatMap(({ kind, text }) => (kind === 'view' ? [/^create view (\w+)/.exec(text)![1]!] : [])),
  );
  for (const { view, reader } of readers.filter((one) => views.has(one.view)))
    await client.query(`grant select on ${view} to ${reader}`);
  await client.query(
    'insert into owned (mark) values ($1) on conflict (only_one) do update set mark = excluded.mark',
    [mark],
  );
  return true;
}
