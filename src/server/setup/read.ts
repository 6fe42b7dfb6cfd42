/** Reading a table of Setup for its screen, and the history of one row. */
import { sql } from 'kysely';
import type { SetupField } from '../../core/setup/fields';
import { type Context, Refused, allow } from '../access';
import { type ListAddress, type ListState, readListOf } from '../lists/read';
import { type SetupListRow, type SetupTable, fieldsOf, hasKey, shownValues } from './table';
import { setupTable } from './tables';

/** A table of Setup as its screen shows it. */
export interface SetupPage {
  key: string;
  title: string;
  about: string;
  single: boolean;
  fields: SetupField[];
  /** Where a row leads: before its key, and what the way is called. */
  ways: readonly { path: string; words: string }[];
  parent: { table: string; field: string } | null;
  /** Where the page of a row is, before its key; empty where a row has none. */
  page: string;
  list: ListState<SetupListRow>;
}

/** The table at an address. @throws Refused when there is none */
export function tableAt(key: string): SetupTable {
  const table = setupTable(key);
  if (!table) throw new Refused('unknown', 'There is no such page in Setup');
  return table;
}

/** Reads a table with the choices of its fields. */
export async function readSetup(
  context: Context,
  key: string,
  address: ListAddress = {},
): Promise<SetupPage> {
  allow(context, 'read setup');
  const table = tableAt(key);
  const [fields, list] = await Promise.all([
    fieldsOf(context.db, table),
    readListOf(context, table.list, address),
  ]);
  const { title, about, single = false, children = [], leads, parent = null, page = '' } = table;
  const ways = [
    ...children.map((child) => ({ path: `/setup/${child.table}?of=`, words: child.words })),
    ...(leads ? [leads] : []),
  ];
  return { key, title, about, single, fields, ways, parent, page, list };
}

/** One row of a table with its form. @throws Refused when it is not there */
export async function readSetupRow(
  context: Context,
  key: string,
  row: string,
): Promise<{ fields: SetupField[]; row: Pick<SetupListRow, 'key' | 'version' | 'values'> }> {
  allow(context, 'read setup');
  const table = tableAt(key);
  const [fields, { rows }] = await Promise.all([
    fieldsOf(context.db, table),
    sql<{ kept: Record<string, unknown>; version: number }>`
      select to_jsonb(t) as kept, t.version from ${sql.table(table.table)} t where ${hasKey(table.keys, row)}`.execute(
      context.db,
    ),
  ]);
  if (!rows[0]) throw new Refused('unknown', 'There is no such row');
  return { fields, row: { key: row, version: rows[0].version, values: shownValues(table, rows[0].kept) } };
}

/** One change of a row: who, when, and what was changed. */
export interface RowChange {
  at: Date;
  by: string;
  action: string;
  changes: { label: string; from: string; to: string }[];
}

/** The history of a row, newest first, at most a hundred changes. */
export async function rowHistory(context: Context, key: string, row: string): Promise<RowChange[]> {
  allow(context, 'read setup');
  const table = tableAt(key);
  const rows = await context.db
    .selectFrom('audit as a')
    .leftJoin('user as u', 'u.id', 'a.user_id')
    .select(['a.at', 'a.action', 'a.detail', sql<string>`coalesce(u.name, a.user_id)`.as('by')])
    .where('a.subject_kind', '=', table.table)
    .where('a.subject_id', '=', row)
    .orderBy('a.id', 'desc')
    .limit(100)
    .execute();
  return rows.map(({ detail, ...change }) => ({
    ...change,
    changes: Object.entries((detail ?? {}) as Record<string, { from?: unknown; to?: unknown }>).flatMap(
      ([name, { from, to }]) => {
        const field = table.fields[name];
        const change = field && { label: field.label, from: words(from), to: words(to) };
        // What a new row left empty is no change.
        return change && change.from !== change.to ? [change] : [];
      },
    ),
  }));
}

const words = (value: unknown): string =>
  value === undefined || value === null || value === ''
    ? '–'
    : typeof value === 'boolean'
      ? value
        ? 'yes'
        : 'no'
      : String(value);
