/**
 * A table of Setup, declared whole: columns with their parsing, where choices come from, what a change brings along, and
 * the table whose rows are its children. List, form, search, paging, history and the refusal of older changes are made
 * from it.
 */
import { type RawBuilder, sql } from 'kysely';
import type { ColumnKind } from '../../core/reports/lists';
import type { Choice, FieldRule, SetupField } from '../../core/setup/fields';
import type { Db } from '../../db/connect';
import type { DB } from '../../db/views';
import type { Act } from '../use-case';
import { type List, list, textLike } from '../lists/list';

/** A row as the forms show it: everything as text, except yes and no. */
export type SetupValues = Record<string, string | boolean>;

/** A row of a setup table's list: its values, its key as text, and its version. */
export interface SetupListRow extends Record<string, unknown> {
  id: number;
  key: string;
  version: number;
  values: SetupValues;
}

/** Tables whose rows have a name. */
type Named =
  | 'provider'
  | 'location'
  | 'connection'
  | 'payer'
  | 'insurance_plan'
  | 'fee_schedule'
  | 'charge_set'
  | 'stop_reason'
  | 'letter_template';

/** What a row of such a table `x` is called. */
const nameOf = (table: Named): RawBuilder<string> =>
  table === 'provider' ? sql<string>`x.last || ', ' || x.first` : sql<string>`x.name`;

interface Declaration {
  /** The last part of its address. */
  key: string;
  title: string;
  noun: readonly [one: string, many: string];
  about: string;
  table: keyof DB & string;
  keys: readonly string[];
  fields: Readonly<Record<string, FieldRule>>;
  /** Fields that hold the id of a row with a name in another table. */
  refers?: Readonly<Record<string, Named>>;
  /** Other choices that are read from the database, by field. */
  choices?: Readonly<Record<string, (db: Db) => Promise<Choice[]>>>;
  order: string;
  /** Its rows are those of the table with a value in a column, which is not on the form; or with one of several, which is. */
  rowsWith?: { column: string; value: string } | { column: string; values: readonly string[] };
  /** There is one row. */
  single?: true;
  /** Its rows belong to rows of another table. */
  parent?: { table: string; field: string };
  /** Its rows are pages of their own, under this address and the row's key. */
  page?: string;
  /** It has no page in Setup: it stands on the page of a row of this table. */
  partOf?: string;
  /** Where each of its rows leads, before its key, and what the way there is called. */
  leads?: { path: string; words: string };
  /** The tables of its children, by the last part of their address, and what the way there is called. */
  children?: readonly { table: string; words: string }[];
  /** Fields kept inside one column as a document. */
  document?: {
    column: string;
    read(kept: unknown): Record<string, string>;
    write(values: Record<string, string>): string;
    fields: readonly string[];
  };
  /** What is asked of the database before a row is written. @throws Refused naming the field */
  verify?: (db: Db, parsed: Readonly<Record<string, unknown>>) => Promise<void>;
  /** What a change brings along, in its transaction. */
  changed?: (act: Act) => Promise<unknown>;
}

/** A declared table of Setup. */
export interface SetupTable extends Declaration {
  list: List<SetupListRow>;
}

const KINDS: Record<FieldRule['kind'], ColumnKind> = {
  text: 'words',
  number: 'number',
  money: 'money',
  percent: 'words',
  day: 'day',
  'yes-no': 'words',
  choice: 'words',
  list: 'words',
  code: 'words',
};

/** What a column shows: the name of what it refers to, what a choice is called, yes, or a percentage instead of what is kept. */
function shownColumn(d: Declaration, name: string): RawBuilder<unknown> {
  const column = d.document?.fields.includes(name)
    ? sql`(${sql.ref(`t.${d.document.column}`)} -> 'value' ->> ${sql.lit(name)})`
    : sql.ref(`t.${name}`);
  const called = (d.fields[name]!.choices ?? []).filter(({ value, label }) => String(value) !== label);
  if (called.length > 0)
    return sql`case ${column}::text ${sql.join(
      called.map(({ value, label }) => sql`when ${sql.lit(String(value))} then ${sql.lit(label)}`),
      sql` `,
    )} else ${column}::text end`;
  if (d.document?.fields.includes(name)) return column;
  const other = d.refers?.[name];
  if (other) return sql`(select ${nameOf(other)} from ${sql.table(other)} x where x.id = ${column})`;
  const { kind } = d.fields[name]!;
  if (kind === 'yes-no') return sql`case when ${column} then 'yes' else '' end`;
  if (kind === 'percent') return sql`trim_scale(${column} / 100.0)::text || ' %'`;
  if (kind === 'list') return sql`array_to_string(${column}, ', ')`;
  return column;
}

/** Columns that a list begins with; the others can be chosen. */
const SHOWN = 8;

/** The text of a row's key. */
export const keyText = (keys: readonly string[]): RawBuilder<string> =>
  sql<string>`concat_ws('/', ${sql.join(keys.map((name) => sql.ref(`t.${name}`)))})`;

/** A condition that a row of `t` has a key. */
export const hasKey = (keys: readonly string[], key: string): RawBuilder<boolean> =>
  sql<boolean>`${keyText(keys)} = ${key}`;

/** Declares a table of Setup. */
export function setupTable(d: Declaration): SetupTable {
  const names = Object.keys(d.fields);
  const nameless = names.find((name) => d.fields[name]!.row && !d.refers?.[name]);
  if (nameless) throw new Error(`${d.title}: say what ${nameless} refers to, or its number is what is shown`);
  const declared = list<never, never>({
    name: `setup-${d.key}`,
    noun: d.noun,
    permission: 'read setup',
    station: 'Setup',
    path: `/setup/${d.key}`,
    from: sql`${sql.table(d.table)} t`,
    household: null,
    id: sql`row_number() over (order by ${sql.ref(`t.${d.order}`)}, ${keyText(d.keys)})`,
    columns: Object.fromEntries(
      names.map((name, index) => [
        name,
        {
          title: d.fields[name]!.label,
          kind: KINDS[d.fields[name]!.kind],
          value: shownColumn(d, name),
          ...(index >= SHOWN ? { extra: true as const } : {}),
        },
      ]),
    ) as never,
    hidden: { key: keyText(d.keys), version: sql<number>`t.version`, kept: sql`to_jsonb(t)` } as never,
    views: { all: { label: 'All' } },
    ...(d.parent ? { within: (of: string) => sql`${sql.ref(`t.${d.parent!.field}`)}::text = ${of}` } : {}),
    search: (like) =>
      sql.join(
        names.map((name) => textLike(sql`(${shownColumn(d, name)})::text`, like)),
        sql` or `,
      ),
    ...(d.rowsWith
      ? {
          always: () =>
            sql`${sql.ref(`t.${d.rowsWith!.column}`)} = any(${[...valuesOf(d.rowsWith!)]}::text[])`,
        }
      : {}),
    order: sql`${sql.ref(`t.${d.order}`)}, ${keyText(d.keys)}`,
    finish: ((row: { kept: Record<string, unknown> }) => ({ values: shownValues(d, row.kept) })) as never,
  }) as unknown as List<SetupListRow>;
  return { ...d, list: declared };
}

/** The values of which its rows have one. */
export const valuesOf = (rowsWith: NonNullable<Declaration['rowsWith']>): readonly string[] =>
  'values' in rowsWith ? rowsWith.values : [rowsWith.value];

/** What the forms show of a row. */
export function shownValues(
  d: Pick<Declaration, 'fields' | 'document'>,
  kept: Record<string, unknown>,
): SetupValues {
  const inside = d.document ? d.document.read(kept[d.document.column]) : {};
  return Object.fromEntries(
    Object.entries(d.fields).map(([name, field]) => [name, field.show(inside[name] ?? kept[name])]),
  );
}

/** The fields of a table as the screen knows them, with the choices of each. */
export async function fieldsOf(db: Db, d: SetupTable): Promise<SetupField[]> {
  return Promise.all(
    Object.entries(d.fields).map(async ([name, { label, kind, fixed, hint, begins, under, choices }]) => {
      const other = d.refers?.[name];
      const found = choices ?? (await d.choices?.[name]?.(db)) ?? (other && (await rowsByName(db, other)));
      return {
        name,
        label,
        kind,
        ...(fixed ? { fixed } : {}),
        ...(hint ? { hint } : {}),
        ...(under ? { under } : {}),
        ...(begins === undefined ? {} : { begins }),
        ...(found ? { choices: found } : {}),
      };
    }),
  );
}

/** Choices that are the rows of a table with a name. */
async function rowsByName(db: Db, table: Named): Promise<Choice[]> {
  const offered = table === 'payer' ? sql`x.merged_into is null` : sql`true`;
  const { rows } = await sql<{ id: number; name: string }>`
    select x.id, ${nameOf(table)} as name from ${sql.table(table)} x where ${offered} order by 2`.execute(db);
  return rows.map((row) => ({ value: String(row.id), label: row.name }));
}
