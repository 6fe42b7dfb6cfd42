/** Adding and changing rows of Setup's tables. */
import { sql } from 'kysely';
import { z } from 'zod';
import { keyField } from '../../core/fields';
import type { Db } from '../../db/connect';
import { Refused } from '../access';
import { type Act, useCase } from '../use-case';
import { refuseOlder } from '../versions';
import { tableAt } from './read';
import { type SetupTable, type SetupValues, hasKey, keyText, shownValues, valuesOf } from './table';

const saveInput = z.object({
  table: z.string().max(40),
  /** What the form holds. */
  values: z.record(z.string(), z.union([z.string(), z.boolean()])),
  /** The key of the row that is changed; absent for a new one. */
  row: z.string().max(200).optional(),
  /** The version that the form was filled from; absent: whatever stands there is replaced. */
  version: z.coerce.number().int().optional(),
});

/**
 * What a form of a table says, parsed and verified as a row of it is, without being written.
 * @throws Refused naming the field
 */
export async function parsedRow(
  db: Db,
  table: SetupTable,
  values: SetupValues,
): Promise<Record<string, unknown>> {
  const parsed = parseValues(table, values);
  await verifyChoices(db, table, parsed);
  await table.verify?.(db, parsed);
  return parsed;
}

/** Parses each field; what a form leaves out of a row that exists stays. @throws Refused with a message for each field */
function parseValues(table: SetupTable, values: SetupValues): Record<string, unknown> {
  const parsed: Record<string, unknown> = {};
  const fields: Record<string, string> = {};
  for (const [name, field] of Object.entries(table.fields)) {
    // What is not said is as in a new row.
    const result = field.schema.safeParse(
      values[name] ?? (field.kind === 'yes-no' ? false : field.kind === 'choice' ? (field.begins ?? '') : ''),
    );
    if (result.success) parsed[name] = result.data;
    else {
      const words = result.error.issues[0]!.message;
      fields[name] = words.startsWith('NPI ') ? words : `${field.label} ${words}`;
    }
  }
  const [first] = Object.keys(fields);
  if (first) throw new Refused('invalid', fields[first]!, { field: first, fields });
  return parsed;
}

/** What is written to the columns: fields of a document go into their one column. */
function columnsOf(table: SetupTable, parsed: Record<string, unknown>): Record<string, unknown> {
  if (!table.document) return parsed;
  const { column, fields, write } = table.document;
  const inside = Object.fromEntries(fields.map((name) => [name, String(parsed[name] ?? '')]));
  const outside = Object.entries(parsed).filter(([name]) => !fields.includes(name));
  return { ...Object.fromEntries(outside), [column]: write(inside) };
}

/**
 * Adds or changes a row, with its history, and what the change brings along. A new row that is there already, and a change
 * made on an older version, are refused, so that a second press does nothing more. @returns the row's key
 * @throws Refused naming the field; Conflict with both versions
 */
export const saveSetup = useCase({
  name: 'save setup',
  permission: 'change setup',
  input: saveInput,
  async run(act, { table: key, values, row, version }) {
    const table = tableAt(key);
    const saved =
      row === undefined
        ? await addRow(act, table, values)
        : await changeRow(act, table, values, row, version);
    await table.changed?.(act);
    return saved;
  },
});

/** So many rows are added at once. */
export const MOST_ROWS = 2000;

const rowsInput = z.object({
  table: z.string().max(40),
  rows: z
    .array(z.record(z.string(), z.union([z.string(), z.boolean()])))
    .min(1, 'are not entered yet')
    .max(MOST_ROWS, `are at most ${MOST_ROWS} at once`),
  key: keyField,
});

/**
 * Adds several rows to one of Setup's tables, all of them or none. What is wrong is said by row: `fields` has `place.field`, the
 * place counted from 0. @returns how many
 * @throws Refused naming the first row that is wrong
 */
export const addSetupRows = useCase({
  name: 'add setup rows',
  permission: 'change setup',
  input: rowsInput,
  once: (data) => data.key,
  async run(act, { table: key, rows }): Promise<number> {
    const table = tableAt(key);
    const wrong: Record<string, string> = {};
    for (const [place, values] of rows.entries())
      try {
        parseValues(table, values);
      } catch (error) {
        if (!(error instanceof Refused)) throw error;
        for (const [field, words] of Object.entries(error.fields)) wrong[`${place}.${field}`] = words;
      }
    refuseRows(wrong);
    const known: Known = new Map();
    for (const [place, values] of rows.entries())
      try {
        await addRow(act, table, values, known);
      } catch (error) {
        if (!(error instanceof Refused)) throw error;
        refuseRows({ [`${place}.${error.field ?? ''}`]: error.message });
      }
    await table.changed?.(act);
    return rows.length;
  },
});

/** @throws Refused where something is wrong in a row */
function refuseRows(wrong: Readonly<Record<string, string>>): void {
  const [first] = Object.entries(wrong);
  if (!first) return;
  const place = Number(first[0].split('.')[0]);
  const others = Object.keys(wrong).length - 1;
  throw new Refused(
    'invalid',
    `Line ${place + 1}: ${first[1]}${others > 0 ? `, and ${others} more` : ''}. None was added`,
    { field: first[0], fields: wrong, facts: { line: place + 1 } },
  );
}

/** The choices of a table by field, read once however many rows are added. */
type Known = Map<string, ReadonlySet<string>>;

/** What refers to another row is one of those that are offered, or what stood there before. @throws Refused naming the field */
async function verifyChoices(
  db: Db,
  table: SetupTable,
  parsed: Readonly<Record<string, unknown>>,
  before: SetupValues = {},
  known: Known = new Map(),
): Promise<void> {
  for (const [name, read] of Object.entries(table.choices ?? {})) {
    const { kind, label, show } = table.fields[name]!;
    const value = show(parsed[name]);
    if (kind !== 'choice' || value === '' || value === before[name]) continue;
    if (!known.has(name)) known.set(name, new Set((await read(db)).map((one) => one.value)));
    if (!known.get(name)!.has(String(value)))
      throw new Refused('invalid', `${label} is not one of the choices`, name);
  }
}

async function addRow(act: Act, table: SetupTable, values: SetupValues, known?: Known): Promise<string> {
  const parsed = parseValues(table, values);
  await verifyChoices(act.db, table, parsed, {}, known);
  await table.verify?.(act.db, parsed);
  const { rowsWith } = table;
  const columns = Object.entries({
    ...columnsOf(table, parsed),
    ...(rowsWith && 'value' in rowsWith ? { [rowsWith.column]: rowsWith.value } : {}),
  });
  const { rows } = await refused(
    sql<{
      key: string;
    }>`
      insert into ${sql.table(table.table)} as t (${sql.join(columns.map(([name]) => sql.ref(name)))})
      values (${sql.join(columns.map(([, value]) => sql`${value}`))})
      returning ${keyText(table.keys)} as key`.execute(act.db),
  );
  const after = shown(table, parsed);
  await act.note(
    'added',
    { kind: table.table, id: rows[0]!.key },
    Object.fromEntries(Object.entries(after).map(([name, to]) => [name, { to }])),
  );
  return rows[0]!.key;
}

async function changeRow(
  act: Act,
  table: SetupTable,
  values: SetupValues,
  row: string,
  version: number | undefined,
): Promise<string> {
  const { rows } = await sql<
    Record<string, unknown> & { version: number }
  >`select * from ${sql.table(table.table)} t where ${hasKey(table.keys, row)} for update`.execute(act.db);
  const there = rows[0];
  if (!there || (table.rowsWith && !valuesOf(table.rowsWith).includes(String(there[table.rowsWith.column]))))
    throw new Refused('state', 'This row is gone');
  const before = shownValues(table, there);
  // What is fixed once the row exists stays, whatever a form sends.
  const fixed = Object.keys(table.fields).filter((name) => table.fields[name]!.fixed);
  const kept = Object.fromEntries(fixed.map((name) => [name, before[name]!]));
  const parsed = parseValues(table, { ...before, ...values, ...kept });
  await verifyChoices(act.db, table, parsed, before);
  await table.verify?.(act.db, parsed);
  const after = shown(table, parsed);
  const labels = Object.fromEntries(Object.entries(table.fields).map(([name, { label }]) => [name, label]));
  refuseOlder(version, there.version, before, after, labels);
  const changed = Object.keys(after).filter((name) => after[name] !== before[name]);
  if (changed.length === 0) return row;
  const set = sql.join(
    Object.entries(columnsOf(table, parsed)).map(([name, value]) => sql`${sql.ref(name)} = ${value}`),
  );
  await refused(
    sql`update ${sql.table(table.table)} as t set ${set} where ${hasKey(table.keys, row)}`.execute(act.db),
  );
  await act.note(
    'changed',
    { kind: table.table, id: row },
    Object.fromEntries(changed.map((name) => [name, { from: before[name], to: after[name] }])),
  );
  return row;
}

const shown = (table: SetupTable, parsed: Record<string, unknown>): SetupValues =>
  Object.fromEntries(Object.entries(table.fields).map(([name, field]) => [name, field.show(parsed[name])]));

/** Turns the database's refusal into words. */
async function refused<T>(run: Promise<T>): Promise<T> {
  try {
    return await run;
  } catch (error) {
    const { code } = error as { code?: string };
    if (code === '23505') throw new Refused('already', 'There is one like this already');
    if (code === '23P01')
      throw new Refused('already', 'There is one in that time already: end it first, or choose other days');
    if (code === '23503') throw new Refused('state', 'It refers to something that is not there');
    if (code === '23514' || code === '23502')
      throw new Refused('missing', 'A value is missing or out of its range');
    throw error;
  }
}
