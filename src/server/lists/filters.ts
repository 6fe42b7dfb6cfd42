/** What filters offer: rows of Setup's tables, read for the screen that has them. */
import { type RawBuilder, sql } from 'kysely';
import { FILTERS, type FilterName, type Filtered, type ShownFilter } from '../../core/reports/filters';
import type { Context } from '../access';

const CHOICES: Readonly<Record<FilterName, RawBuilder<unknown>>> = {
  payer: sql`select id as value, name as label from payer where merged_into is null`,
  provider: sql`select id as value, trim(last || ', ' || first || ' ' || suffix) as label from provider`,
  site: sql`select id as value, name as label from location`,
};

/** What a list or a report can be narrowed by: for each filter the column that is one of its ids. */
export type FilterColumns = Readonly<Partial<Record<FilterName, RawBuilder<unknown>>>>;

/** The names of the filters that are declared, in the order of all. */
export const filterNames = (columns: FilterColumns): FilterName[] =>
  (Object.keys(FILTERS) as FilterName[]).filter((name) => columns[name] !== undefined);

/** Conditions for what is chosen. */
export const filterConditions = (columns: FilterColumns, chosen: Filtered): RawBuilder<unknown>[] =>
  filterNames(columns).flatMap((name) =>
    chosen[name] === undefined ? [] : [sql`${columns[name]!} = ${chosen[name]}`],
  );

/** Filters with their choices; one query, none where there are no filters. */
export async function readFilters(
  { db }: Context,
  columns: FilterColumns,
  chosen: Filtered,
): Promise<ShownFilter[]> {
  const names = filterNames(columns);
  if (names.length === 0) return [];
  const parts = names.map(
    (name) => sql`select ${sql.lit(name)}::text as name, c.value, c.label from (${CHOICES[name]}) c`,
  );
  const { rows } = await sql<{ name: FilterName; value: number; label: string }>`
    select * from (${sql.join(parts, sql` union all `)}) f order by label, value`.execute(db);
  return names.map((name) => ({
    name,
    value: chosen[name] ?? null,
    choices: rows.filter((row) => row.name === name).map(({ value, label }) => ({ value, label })),
  }));
}
