/** Setup's tables: what each shows, and how a row is read from input and written. */
import { sql } from 'kysely';
import { z } from 'zod';
import { isNpi } from '../../core/claims/npi';
import { type Cents, parseMoney, toDecimal } from '../../core/money';
import type { Db } from '../../db/connect';
import { type Context, Refused, allow, audit } from '../access';
import { parseInput } from '../accounts/register';
import { recheckClaims } from '../claims/build';

/** How a field is entered. Money is shown as decimal text, percentages as JSON of basis points by category. */
export interface Field {
  name: string;
  label: string;
  kind: 'text' | 'number' | 'money' | 'yes-no' | 'choice' | 'list' | 'percentages';
  choices?: { value: string; label: string }[];
  /** Part of the key: fixed once the row exists. */
  fixed?: boolean;
  hint?: string;
}

/** One of Setup's tables. */
export interface SetupTable {
  title: string;
  about: string;
  table:
    | 'practice'
    | 'location'
    | 'provider'
    | 'payer'
    | 'plan'
    | 'fee_schedule'
    | 'service_code'
    | 'diagnosis'
    | 'reason_code'
    | 'connection'
    | 'fee';
  keys: string[];
  fields: Field[];
  order: string;
  single?: boolean;
}

const text = (name: string, label: string, more: Partial<Field> = {}): Field => ({
  name,
  label,
  kind: 'text',
  ...more,
});
const yes = (name: string, label: string): Field => ({ name, label, kind: 'yes-no' });
const choice = (name: string, label: string, values: string[], more: Partial<Field> = {}): Field => ({
  name,
  label,
  kind: 'choice',
  choices: values.map((value) => ({ value, label: value })),
  ...more,
});
const address = [text('line1', 'Street'), text('city', 'City'), text('state', 'State'), text('zip', 'ZIP')];

/** The tables, by the last part of their address. */
export const SETUP_TABLES: Readonly<Record<string, SetupTable>> = {
  practice: {
    title: 'Practice',
    about: 'Who bills: name, NPI and address as they stand on every claim.',
    table: 'practice',
    keys: ['id'],
    order: 'id',
    single: true,
    fields: [
      text('name', 'Name'),
      text('npi', 'NPI'),
      text('taxonomy', 'Taxonomy'),
      text('tax_id', 'Tax id'),
      ...address,
      text('phone', 'Phone'),
      text('contact', 'Contact'),
      { name: 'statement_due_days', label: 'Days to pay', kind: 'number' },
    ],
  },
  locations: {
    title: 'Locations',
    about: 'Where services are given.',
    table: 'location',
    keys: ['id'],
    order: 'name',
    fields: [
      text('name', 'Name'),
      text('place_of_service', 'Place of service'),
      ...address,
      text('phone', 'Phone'),
    ],
  },
  providers: {
    title: 'Providers',
    about: 'Who gives services. The NPI must pass its check digit.',
    table: 'provider',
    keys: ['id'],
    order: 'last',
    fields: [
      text('last', 'Last name'),
      text('first', 'First name'),
      text('suffix', 'Title'),
      text('npi', 'NPI'),
      text('taxonomy', 'Taxonomy'),
      { name: 'location_id', label: 'Location', kind: 'choice' },
      yes('active', 'Active'),
    ],
  },
  payers: {
    title: 'Payers',
    about: 'Who is billed, how, and what each demands.',
    table: 'payer',
    keys: ['id'],
    order: 'name',
    fields: [
      text('name', 'Name'),
      text('payer_id', 'Payer id'),
      { name: 'connection_id', label: 'Connection', kind: 'choice' },
      choice('accepts', 'Claims go', ['electronic', 'paper', 'hold']),
      choice('bills_as', 'Bills as', ['group', 'individual']),
      text('filing_code', 'Filing code', { hint: 'SBR09, such as CI' }),
      { name: 'timely_filing_days', label: 'Filing limit, days', kind: 'number' },
      yes('requires_referring', 'Needs referral'),
      yes('requires_authorization', 'Needs authorization'),
    ],
  },
  plans: {
    title: 'Insurance plans',
    about: 'What each plan pays: the benefit terms behind every estimate.',
    table: 'plan',
    keys: ['id'],
    order: 'name',
    fields: [
      { name: 'payer_id', label: 'Payer', kind: 'choice' },
      text('name', 'Name'),
      { name: 'fee_schedule_id', label: 'Fee schedule', kind: 'choice' },
      yes('contracted', 'Contracted'),
      { name: 'percentages', label: 'Pays, by category', kind: 'percentages' },
      { name: 'deductible', label: 'Deductible', kind: 'money' },
      { name: 'deductible_waived', label: 'Deductible waived', kind: 'list' },
      { name: 'copay', label: 'Copay', kind: 'money' },
      choice('copay_per', 'Copay per', ['visit', 'service']),
      { name: 'maximum', label: 'Yearly maximum', kind: 'money', hint: 'empty: none' },
      choice('coordination', 'Coordination', ['standard', 'non-duplication', 'maintenance']),
    ],
  },
  schedules: {
    title: 'Fee schedules',
    about: 'The office fees and one schedule a contract.',
    table: 'fee_schedule',
    keys: ['id'],
    order: 'name',
    fields: [text('name', 'Name'), choice('kind', 'Kind', ['office', 'contract'], { fixed: true })],
  },
  fees: {
    title: 'Fees',
    about: 'What each service costs in each schedule, for one unit.',
    table: 'fee',
    keys: ['fee_schedule_id', 'code'],
    order: 'code',
    fields: [
      { name: 'fee_schedule_id', label: 'Schedule', kind: 'choice', fixed: true },
      text('code', 'Code', { fixed: true }),
      { name: 'amount', label: 'Fee', kind: 'money' },
    ],
  },
  services: {
    title: 'Service codes',
    about: 'What can be charged. Descriptions are the practice’s own words.',
    table: 'service_code',
    keys: ['code'],
    order: 'code',
    fields: [
      text('code', 'Code', { fixed: true }),
      text('description', 'Description'),
      text('category', 'Category'),
      choice('form', 'Form', ['professional', 'dental']),
      yes('needs_tooth', 'Needs tooth'),
      yes('needs_surface', 'Needs surface'),
      yes('active', 'Active'),
    ],
  },
  diagnoses: {
    title: 'Diagnoses',
    about: 'ICD-10-CM codes in use.',
    table: 'diagnosis',
    keys: ['code'],
    order: 'code',
    fields: [text('code', 'Code', { fixed: true }), text('description', 'Description')],
  },
  reasons: {
    title: 'Reason codes',
    about: 'What each adjustment of a payer means: for the books, for the desk and for the patient.',
    table: 'reason_code',
    keys: ['group_code', 'code'],
    order: 'code',
    fields: [
      choice('group_code', 'Group', ['CO', 'PR', 'OA', 'PI', 'CR', '*'], { fixed: true }),
      text('code', 'Code', { fixed: true }),
      text('words', 'Words for the desk'),
      text('patient_words', 'Words for the patient'),
      yes('denial', 'Denial'),
      choice('follow_up', 'Follow up', ['never', 'while-money', 'always']),
      { name: 'reduction_account', label: 'Reduction account', kind: 'choice' },
    ],
  },
  connections: {
    title: 'Connections',
    about: 'Clearinghouses, each with its folder of outbox, inbox and archive.',
    table: 'connection',
    keys: ['id'],
    order: 'name',
    fields: [
      text('name', 'Name'),
      text('folder', 'Folder'),
      text('sender_id', 'Our id'),
      text('receiver_id', 'Their id'),
      text('receiver_name', 'Their name'),
    ],
  },
};

/** A row as the screens show it: everything as text, except yes and no. */
export type SetupRow = Record<string, string | boolean>;

/** Reads a table with the choices of its fields, filtered by a word. */
export async function readSetup(
  context: Context,
  key: string,
  search = '',
): Promise<{ table: SetupTable; rows: SetupRow[] }> {
  allow(context, 'read setup');
  const table = SETUP_TABLES[key];
  if (!table) throw new Refused('There is no such page in Setup');
  const fields = await Promise.all(
    table.fields.map(async (field) =>
      field.kind === 'choice' && !field.choices
        ? { ...field, choices: await choicesOf(context.db, field.name) }
        : field,
    ),
  );
  const { rows } = await sql<
    Record<string, unknown>
  >`select * from ${sql.table(table.table)} order by ${sql.ref(table.order)} limit 3000`.execute(context.db);
  const shown = rows.map((row) =>
    Object.fromEntries(
      [...new Set([...table.keys, ...fields.map((field) => field.name)])].map((name) => [
        name,
        show(
          row[name],
          fields.find((field) => field.name === name),
        ),
      ]),
    ),
  );
  const word = search.trim().toLowerCase();
  return {
    table: { ...table, fields },
    rows: word
      ? shown.filter((row) => Object.values(row).some((value) => String(value).toLowerCase().includes(word)))
      : shown,
  };
}

async function choicesOf(db: Db, field: string): Promise<{ value: string; label: string }[]> {
  if (field === 'reduction_account')
    return (
      await db
        .selectFrom('book_account')
        .select('code')
        .where('code', 'like', 'reduction/%')
        .orderBy('code')
        .execute()
    ).map(({ code }) => ({ value: code, label: code }));
  const table = (
    {
      location_id: 'location',
      connection_id: 'connection',
      payer_id: 'payer',
      fee_schedule_id: 'fee_schedule',
    } as const
  )[field as 'payer_id'];
  const rows = await db.selectFrom(table).select(['id', 'name']).orderBy('name').execute();
  return rows.map((row) => ({ value: String(row.id), label: row.name }));
}

function show(value: unknown, field?: Field): string | boolean {
  if (typeof value === 'boolean') return value;
  if (value === null || value === undefined) return '';
  if (field?.kind === 'money') return toDecimal(value as Cents);
  if (field?.kind === 'list') return (value as string[]).join(', ');
  if (field?.kind === 'percentages')
    return Object.entries(value as Record<string, number>)
      .map(([category, points]) => `${category} ${points / 100} %`)
      .join(', ');
  return String(value);
}

function parse(field: Field, value: unknown): unknown {
  const words = typeof value === 'string' ? value.trim() : '';
  if (field.kind === 'yes-no') return value === true;
  if (field.kind === 'money') {
    if (words === '' && field.name === 'maximum') return null;
    const amount = parseMoney(words);
    if (amount === null || amount < 0)
      throw new Refused(`${field.label} is not an amount such as 12.50`, field.name);
    return amount;
  }
  if (field.kind === 'number') {
    if (!/^\d{1,5}$/.test(words)) throw new Refused(`${field.label} is not a whole number`, field.name);
    return Number(words);
  }
  if (field.kind === 'list')
    return words
      .split(/[,;]/)
      .map((item) => item.trim())
      .filter(Boolean);
  if (field.kind === 'percentages') {
    const parts = words
      .split(/[,;]/)
      .map((item) => item.trim())
      .filter(Boolean)
      .map((item) => /^([a-z-]+)\s+(\d{1,3}(?:\.\d{1,2})?)\s*%?$/i.exec(item));
    if (parts.some((part) => !part || Number(part[2]) > 100))
      throw new Refused(`${field.label} is written like: office 80 %, preventive 100 %`, field.name);
    return JSON.stringify(
      Object.fromEntries(parts.map((part) => [part![1]!.toLowerCase(), Math.round(Number(part![2]) * 100)])),
    );
  }
  if (field.name.endsWith('_id') && field.kind === 'choice') return words === '' ? null : Number(words);
  if (words.length > 200) throw new Refused(`${field.label} may have 200 characters`, field.name);
  if (field.name === 'npi' && !isNpi(words))
    throw new Refused(`NPI ${words || '(empty)'} does not pass its check digit`, 'npi');
  if (field.name === 'zip' && !/^\d{5}(-?\d{4})?$/.test(words))
    throw new Refused('ZIP has five or nine digits', 'zip');
  if (field.name === 'folder' && !/^[a-z0-9-]{1,40}$/.test(words))
    throw new Refused('Folder holds small letters, digits and hyphens', 'folder');
  if (
    words === '' &&
    ['name', 'code', 'description', 'last', 'first', 'words', 'category'].includes(field.name)
  )
    throw new Refused(`${field.label} is missing`, field.name);
  return words;
}

const keyInput = z.record(z.string(), z.union([z.string(), z.boolean()]));

/** Adds or changes a row; claims that are still ours are checked anew. @throws Refused naming the field */
export async function saveSetup(
  context: Context,
  key: string,
  input: unknown,
  existing: boolean,
): Promise<void> {
  allow(context, 'change setup');
  const table = SETUP_TABLES[key];
  if (!table) throw new Refused('There is no such page in Setup');
  const row = parseInput(keyInput, input);
  const values = Object.fromEntries(table.fields.map((field) => [field.name, parse(field, row[field.name])]));
  try {
    await context.db.transaction().execute(async (tx) => {
      const names = Object.keys(values);
      if (existing) {
        const set = sql.join(names.map((name) => sql`${sql.ref(name)} = ${values[name]}`));
        const where = sql.join(
          table.keys.map((name) => sql`${sql.ref(name)}::text = ${String(row[name])}`),
          sql` and `,
        );
        const done = await sql`update ${sql.table(table.table)} set ${set} where ${where}`.execute(tx);
        if (done.numAffectedRows !== 1n) throw new Refused('This row is gone');
      } else {
        await sql`insert into ${sql.table(table.table)} (${sql.join(names.map((name) => sql.ref(name)))}) values (${sql.join(names.map((name) => sql`${values[name]}`))})`.execute(
          tx,
        );
      }
      await audit(
        tx,
        context,
        existing ? 'changed setup' : 'added setup',
        { kind: table.table, id: table.keys.map((name) => String(row[name] ?? '')).join('/') },
        values,
      );
    });
  } catch (error) {
    throw explained(error);
  }
  await recheckClaims(context);
}

/** Turns the database's refusal into words. */
function explained(error: unknown): unknown {
  const code = (error as { code?: string }).code;
  if (code === '23505') return new Refused('There is one like this already');
  if (code === '23503') return new Refused('It refers to something that is not there');
  if (code === '23514' || code === '23502') return new Refused('A value is missing or out of its range');
  return error;
}
