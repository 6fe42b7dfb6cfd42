/** Migrations: forward only, in order, under a lock; then the closed lists of the program are made known to the database. */
import { createHash } from 'node:crypto';
import type pg from 'pg';
import PgBoss from 'pg-boss';
import { BOOK_ACCOUNTS } from '../core/books/accounts';
import { DIMENSIONS } from '../core/books/dimensions';
import { ENTRY_KINDS } from '../core/books/kinds';
import { CLAIM_NEED_NAMES } from '../core/claims/needs';
import { OPEN_RULES } from '../core/claims/rules';
import { PAYER_SETTINGS } from '../core/payers/settings';
import { CONNECTION_KINDS } from '../core/exchange/connections';
import { BENEFIT_KIND_NAMES } from '../core/estimates/benefits';
import { TENDER_MOVES, TENDERS, TENDER_NAMES } from '../core/payments/tenders';
import { PASSINGS } from '../core/books/passing';
import { CLAIM_MOVES } from '../core/claims/life';
import { STANDARD_REASONS } from '../core/remittances/standard-reasons';
import { type DeskRole, admitDesk } from './desk-role';
import { foundation } from './migrations/0001-foundation';
import { counted } from '../core/words';
import { VERSION } from '../core/version';
import { isOwned, makeOwned, splitOwned } from './owned';

const { kept, owned } = splitOwned(foundation);

/** A step forward: tables and what stands in them. Its text is never changed once a release has it. */
export interface Step {
  number: number;
  name: string;
  sql: string;
}

/**
 * Every step, in order. What the program owns beside its tables is none: it is made anew when its text changed. The first step may
 * still be changed, for nothing was released: a database of another text of it is foreign.
 */
export const STEPS: readonly Step[] = [{ number: 1, name: 'foundation', sql: kept }];

const LOCK = 7_239_001;

/** A database that was made by a program which this one does not continue; it was left alone. */
export class ForeignDatabase extends Error {
  override readonly name = 'ForeignDatabase';
}

interface Applied {
  number: number;
  name: string;
  checksum: string;
  program: string;
}

const checksumOf = ({ sql }: Step): string => createHash('sha256').update(sql).digest('hex').slice(0, 16);

/** The steps that a database has; null where it knows of none. @throws ForeignDatabase where it counts them in another way */
async function appliedTo(db: pg.Pool | pg.PoolClient): Promise<Applied[] | null> {
  const { rows: columns } = await db.query<{ name: string }>(
    `
      select column_name as name
      from information_schema.columns
      where table_schema = 'public' and table_name = 'migration'`,
  );
  if (columns.length === 0) return null;
  if (!columns.some(({ name }) => name === 'checksum')) throw foreign('it counts its steps in another way');
  return (await db.query<Applied>('select number, name, checksum, program from migration order by number'))
    .rows;
}

const foreign = (why: string): ForeignDatabase =>
  new ForeignDatabase(
    `This database was made by another version of Wergeld (${why}) and was left alone: name an empty one, or make the demo anew with ./wergeld demo --fresh.`,
  );

/** The steps that are still to come. @throws ForeignDatabase where the program does not continue what the database has */
function stepsAfter(applied: readonly Applied[], steps: readonly Step[]): Step[] {
  const last = steps.at(-1)!.number;
  const newer = applied.find(({ number }) => number > last);
  if (newer)
    throw new ForeignDatabase(
      `This database was made by a newer Wergeld (${newer.program}, step ${newer.number}: ${newer.name}) and was left alone: this is ${VERSION}, which knows ${counted(last, 'step')}. Start the newer program, or read a backup back that this one has made.`,
    );
  for (const { number, name, checksum } of applied)
    if (!steps.some((step) => step.number === number && checksumOf(step) === checksum))
      throw foreign(`its step ${number}, ${name}, says something else`);
  return steps.filter(({ number }) => !applied.some((one) => one.number === number));
}

/** What an upgrade would do. */
export interface Upgrade {
  /** Steps to be taken, in words. */
  steps: string[];
  /** Whether functions, views and triggers are made anew. */
  owned: boolean;
  /** From which version of its schema the queue is brought to which; null where it stays. */
  queues: { from: number; to: number } | null;
}

/** What `migrate` would do; nothing is written. @param db the owner’s @throws ForeignDatabase */
export async function planUpgrade(db: pg.Pool | pg.PoolClient, steps = STEPS): Promise<Upgrade> {
  const applied = (await appliedTo(db)) ?? [];
  const version = await queueVersion(db);
  return {
    steps: stepsAfter(applied, steps).map(({ number, name }) => `${number}: ${name}`),
    owned: !(await isOwned(db, owned)),
    queues: version === QUEUE_VERSION ? null : { from: version, to: QUEUE_VERSION },
  };
}

/**
 * Brings the schema up to date. Each step is one transaction; a second process waits for the first.
 * @param pool of the owner
 * @param desk the role that works with what is made; it may do what `admitDesk` says
 * @returns the steps that were taken
 * @throws ForeignDatabase when the database was made by another version that this one does not continue
 */
export async function migrate(pool: pg.Pool, desk: DeskRole, steps = STEPS): Promise<string[]> {
  const client = await pool.connect();
  try {
    await client.query('select pg_advisory_lock($1)', [LOCK]);
    const applied = await appliedTo(client);
    const coming = stepsAfter(applied ?? [], steps);
    if (applied === null)
      await client.query(
        `create table migration (
          number integer primary key, name text not null, checksum text not null, program text not null,
          at timestamptz not null default now()
        )`,
      );
    for (const step of coming)
      await inTransaction(client, async () => {
        // A step may use what is made after it.
        await client.query('set local check_function_bodies = off');
        await client.query(step.sql);
        await client.query(
          'insert into migration (number, name, checksum, program) values ($1, $2, $3, $4)',
          [step.number, step.name, checksumOf(step), VERSION],
        );
      });
    await inTransaction(client, async () => void (await makeOwned(client, owned)));
    await inTransaction(client, () => makeKnown(client));
    await makeQueues(client);
    await inTransaction(client, () => admitDesk(client, desk));
    return coming.map(({ number, name }) => `${number}: ${name}`);
  } finally {
    await client.query('select pg_advisory_unlock($1)', [LOCK]);
    client.release();
  }
}

/** Whether nothing is left to be done. @param pool of anybody who may read */
export async function isMigrated(pool: pg.Pool): Promise<boolean> {
  return stepsAfter((await appliedTo(pool)) ?? [], STEPS).length === 0;
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

/** The version of its tables that the queue of this program has. */
export const QUEUE_VERSION = 24;

/** The version of the tables that a database has for the queue; 0 for none. */
async function queueVersion(db: pg.Pool | pg.PoolClient): Promise<number> {
  const { rows } = await db.query(
    `select 1 from pg_tables where schemaname = 'pgboss' and tablename = 'version'`,
  );
  if (rows.length === 0) return 0;
  return (await db.query<{ version: number }>('select version from pgboss.version')).rows[0]!.version;
}

/** The queue's own tables, so that a message can be sent before the first job process comes up. */
async function makeQueues(client: pg.PoolClient): Promise<void> {
  const version = await queueVersion(client);
  if (version === 0) await client.query(PgBoss.getConstructionPlans('pgboss'));
  else if (version < QUEUE_VERSION) await client.query(PgBoss.getMigrationPlans('pgboss', String(version)));
}

/**
 * Book accounts, kinds of entries, exceptions and moves of claims, as the program declares them; and the standard
 * reason codes, of which what a practice has changed stays.
 */
async function makeKnown(client: pg.PoolClient): Promise<void> {
  const accounts = Object.entries(BOOK_ACCOUNTS).map(([code, shape]) => ({ code, ...shape }));
  await client.query(
    `
      insert into book_account (code, class, part, words)
      select code, class, part, words
      from jsonb_to_recordset($1) as a (code text, class text, part text, words text)
     on conflict (code) do update set class = excluded.class, part = excluded.part, words = excluded.words
     where (
       book_account.class, book_account.part, book_account.words
     ) is distinct from (excluded.class, excluded.part, excluded.words)`,
    [JSON.stringify(accounts)],
  );
  const kinds = Object.entries(ENTRY_KINDS).map(([code, shape]) => ({
    code,
    needs: shape.needs.map((name) => DIMENSIONS[name]),
    ages_from: 'agesFrom' in shape ? shape.agesFrom : 'posting',
  }));
  await client.query(
    `
      insert into entry_kind (code, needs, ages_from)
      select code, needs, ages_from
      from jsonb_to_recordset($1) as k (code text, needs text[], ages_from text)
     on conflict (code)
     do update set needs = excluded.needs, ages_from = excluded.ages_from
     where (entry_kind.needs, entry_kind.ages_from) is distinct from (excluded.needs, excluded.ages_from)`,
    [JSON.stringify(kinds)],
  );
  for (const [table, codes] of Object.entries({
    passing: PASSINGS,
    benefit_kind: BENEFIT_KIND_NAMES,
    connection_kind: Object.keys(CONNECTION_KINDS),
    payer_setting_kind: Object.keys(PAYER_SETTINGS),
    claim_rule: OPEN_RULES.map(({ id }) => id),
    claim_need: CLAIM_NEED_NAMES,
  }))
    await client.query(`insert into ${table} (code) select unnest($1::text[]) on conflict do nothing`, [
      codes,
    ]);
  await client.query(
    `insert into tender_kind (code, words) select code, words from jsonb_to_recordset($1) as k (code text, words text)
     on conflict (code) do update set words = excluded.words where tender_kind.words <> excluded.words`,
    [JSON.stringify(TENDER_NAMES.map((code) => ({ code, words: TENDERS[code].words })))],
  );
  for (const [table, moves, column] of [
    ['claim_move', CLAIM_MOVES, 'status'],
    ['tender_move', TENDER_MOVES, 'state'],
  ] as const) {
    const wanted = Object.entries<readonly string[]>(moves).flatMap(([from, tos]) =>
      tos.map((to) => ({ from, to })),
    );
    const [from, to] = [`from_${column}`, `to_${column}`];
    await client.query(
      `with wanted as (select m."from", m."to" from jsonb_to_recordset($1) as m ("from" text, "to" text)),
         gone as (delete from ${table} where (${from}, ${to}) not in (select "from", "to" from wanted))
       insert into ${table} (${from}, ${to}) select "from", "to" from wanted on conflict do nothing`,
      [JSON.stringify(wanted)],
    );
  }
  await client.query(
    `insert into reason_code (group_code, code, words, patient_words, denial, follow_up, reduction_account)
     select "group", code, words, "patientWords", denial, "followUp",
       case "group" when 'PI' then 'reduction/payer' else 'reduction/contract' end
     from jsonb_to_recordset($1) as r (
       "group" text, code text, words text, "patientWords" text, denial boolean, "followUp" text
     )
     on conflict do nothing`,
    [JSON.stringify(STANDARD_REASONS)],
  );
}
