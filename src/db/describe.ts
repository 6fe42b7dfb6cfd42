/** Writes `tables.ts`, the types of the tables, from a migrated database. */
import type pg from 'pg';

const TYPES: Record<string, string> = {
  int8: 'number',
  int4: 'number',
  text: 'string',
  bytea: 'Buffer',
  bool: 'boolean',
  timestamptz: 'Date',
  _text: 'string[]',
  _int4: 'number[]',
  _int8: 'number[]',
  xid8: 'string',
  cents: 'Cents',
  calendar_date: 'CalendarDate',
  basis_points: 'BasisPoints',
};

/** Tables that hold a closed list of the program: a column that refers to one has the type of the list. */
const VOCABULARIES: Record<string, string> = {
  book_account: 'BookAccount',
  entry_kind: 'EntryKind',
  passing: 'Passing',
  connection_kind: 'ConnectionKind',
  tender_kind: 'Tender',
  benefit_kind: 'BenefitKind',
  payer_setting_kind: 'PayerSetting',
  claim_need: 'ClaimNeed',
};

interface Column {
  table: string;
  column: string;
  type: string;
  nullable: boolean;
  optional: boolean;
  always: boolean;
  /** Conditions that speak of this column alone. */
  checks: string[];
  refers: string | null;
}

/** The words of a check list, such as `status in ('draft', 'ready')`; null when no condition is such a list. */
function wordsOf(checks: readonly string[]): string[] | null {
  for (const check of checks) {
    const list = /^CHECK \(\((\w+) = ANY \(ARRAY\[(.*)\]\)\)\)$/.exec(check);
    if (list) return [...list[2]!.matchAll(/'((?:[^']|'')*)'::text/g)].map((match) => match[1]!);
    const single = /^CHECK \(\(\w+ = '([^']*)'::text\)\)$/.exec(check);
    if (single) return [single[1]!];
  }
  return null;
}

function typeOf(row: Column): string {
  const words = wordsOf(row.checks);
  if (words) return words.map((word) => `'${word}'`).join(' | ');
  if (row.refers && VOCABULARIES[row.refers]) return VOCABULARIES[row.refers]!;
  const type = TYPES[row.type];
  if (!type) throw new Error(`No type for ${row.table}.${row.column} of ${row.type}`);
  return type;
}

function declared(row: Column): string {
  // A document: what is read is parsed by its schema, what is written is its text.
  if (row.type === 'jsonb') {
    const written = row.nullable ? 'string | null' : 'string';
    return `ColumnType<unknown, ${written}${row.optional || row.nullable ? ' | undefined' : ''}, ${written}>`;
  }
  const read = row.nullable ? `${typeOf(row)} | null` : typeOf(row);
  return row.always ? `GeneratedAlways<${read}>` : row.optional ? `Generated<${read}>` : read;
}

/** The text of `tables.ts` for a database. @throws Error when a column has a type that is not mapped */
export async function describeTables(pool: pg.Pool): Promise<string> {
  const { rows } = await pool.query<Column>(`
    select c.relname as table, a.attname as column, t.typname as type, not a.attnotnull as nullable,
      a.atthasdef or a.attidentity <> '' as optional, a.attidentity = 'a' or a.attgenerated <> '' as always,
      array(
        select pg_get_constraintdef(k.oid)
        from pg_constraint k
        where k.conrelid = c.oid and k.contype = 'c' and k.conkey = array[a.attnum]
        order by k.oid
      ) as checks,
      (
        select k.confrelid::regclass::text
        from pg_constraint k
        where k.conrelid = c.oid and k.contype = 'f' and k.conkey[1] = a.attnum
        limit 1
      ) as refers
    from pg_attribute a join pg_class c on c.oid = a.attrelid join pg_type t on t.oid = a.atttypid
    where c.relnamespace = 'public'::regnamespace and c.relkind = 'r' and a.attnum > 0 and not a.attisdropped
    order by c.relname, a.attnum`);
  const tables = new Map<string, string[]>();
  for (const row of rows) {
    const name = /^[a-z_]\w*$/i.test(row.column) ? row.column : `'${row.column}'`;
    tables.set(row.table, [...(tables.get(row.table) ?? []), `    ${name}: ${declared(row)};`]);
  }
  const body = [...tables].map(([table, columns]) => `  ${table}: {\n${columns.join('\n')}\n  };`).join('\n');
  return `// Made from the migrated database by \`./wergeld types\`; not edited by hand.
import type { ColumnType, Generated, GeneratedAlways } from 'kysely';
import type { BookAccount } from '../core/books/accounts';
import type { EntryKind } from '../core/books/kinds';
import type { Passing } from '../core/books/passing';
import type { CalendarDate } from '../core/calendar';
import type { BenefitKind } from '../core/estimates/benefits';
import type { ClaimNeed } from '../core/claims/needs';
import type { PayerSetting } from '../core/payers/settings';
import type { ConnectionKind } from '../core/exchange/connections';
import type { BasisPoints, Cents } from '../core/money';
import type { Tender } from '../core/payments/tenders';

/**
 * The tables of a practice's database. \`Cents\` are whole cents, other bigints ids or counts; dates are
 * \`YYYY-MM-DD\`; documents are read by their schema.
 */
export interface DB {
${body}
}
`;
}
