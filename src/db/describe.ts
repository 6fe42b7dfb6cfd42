/** Writes `tables.ts`, the types of the tables, from a migrated database. */
import type pg from 'pg';

const TYPES: Record<string, string> = {
  int8: 'number',
  int4: 'number',
  text: 'string',
  bool: 'boolean',
  date: 'string',
  timestamptz: 'Date',
  jsonb: 'unknown',
  _text: 'string[]',
  xid8: 'string',
};

/** The text of `tables.ts` for a database. @throws Error when a column has a type that is not mapped */
export async function describeTables(pool: pg.Pool): Promise<string> {
  const { rows } = await pool.query<{
    table: string;
    column: string;
    type: string;
    nullable: boolean;
    optional: boolean;
    always: boolean;
  }>(`
    select c.relname as table, a.attname as column, t.typname as type, not a.attnotnull as nullable,
      a.atthasdef or a.attidentity <> '' as optional, a.attidentity = 'a' or a.attgenerated <> '' as always
    from pg_attribute a join pg_class c on c.oid = a.attrelid join pg_type t on t.oid = a.atttypid
    where c.relnamespace = 'public'::regnamespace and c.relkind = 'r' and a.attnum > 0 and not a.attisdropped
    order by c.relname, a.attnum`);
  const tables = new Map<string, string[]>();
  for (const row of rows) {
    const type = TYPES[row.type];
    if (!type) throw new Error(`No type for ${row.table}.${row.column} of ${row.type}`);
    const read = row.nullable ? `${type} | null` : type;
    const column = row.always ? `GeneratedAlways<${read}>` : row.optional ? `Generated<${read}>` : read;
    const name = /^[a-z_]\w*$/i.test(row.column) ? row.column : `'${row.column}'`;
    tables.set(row.table, [...(tables.get(row.table) ?? []), `    ${name}: ${column};`]);
  }
  const body = [...tables].map(([table, columns]) => `  ${table}: {\n${columns.join('\n')}\n  };`).join('\n');
  return `// Made from the migrated database by \`./wergeld types\`; not edited by hand.\nimport type { Generated, GeneratedAlways } from 'kysely';\n\n/** The tables of a practice's database. bigint columns are whole numbers (ids, or money in cents); dates are \`YYYY-MM-DD\`. */\nexport interface DB {\n${body}\n}\n`;
}
