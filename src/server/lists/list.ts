/**
 * A list, declared whole: its columns with what stands in them, its views with their conditions, its search, its order.
 * Screen, tabs, counts in the rail and on Today, and spreadsheets are all made from the declaration.
 */
import { type RawBuilder, sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import { type Cents, ZERO } from '../../core/money';
import type { Filtered } from '../../core/reports/filters';
import {
  CLOSED_ACCOUNT,
  type ColumnKind,
  type ListColumn,
  type ListView,
  listOrder,
} from '../../core/reports/lists';
import { readInBatches } from '../../db/connect';
import { type Context, type Permission, allow } from '../access';
import { isClosed } from '../closed';
import { type FilterColumns, filterConditions } from './filters';

/** Rows of a list come a page at a time. */
export const PAGE_SIZE = 100;

interface Column<Value> {
  title: string;
  kind: ColumnKind;
  /** What stands in it; null when it is put together after reading. */
  value: RawBuilder<Value> | null;
  extra?: true;
  /** Summed over all rows in the footer. */
  sum?: true;
}

type More = { extra?: true };

/** A column of words; of those only that the expression's type names, where it names some. */
export const words = <Value = string>(
  title: string,
  value: RawBuilder<Value> | null,
  more: More = {},
): Column<unknown extends Value ? string : Value> => ({
  title,
  kind: 'words',
  value: value as never,
  ...more,
});
/** A column of calendar dates. */
export const day = (
  title: string,
  value: RawBuilder<CalendarDate | null>,
  more: More = {},
): Column<CalendarDate | null> => ({ title, kind: 'day', value, ...more });
/** A column of amounts in cents, summed in the footer. */
export const money = (title: string, value: RawBuilder<Cents>, more: More = {}): Column<Cents> => ({
  title,
  kind: 'money',
  value,
  sum: true,
  ...more,
});
/** A column of counts. */
export const number = (title: string, value: RawBuilder<number>, more: More = {}): Column<number> => ({
  title,
  kind: 'number',
  value,
  ...more,
});

/** A view: a condition with its name, and what it says on Today and in the rail when something waits in it. */
interface View {
  label: string;
  /** Columns that say nothing in it. */
  without?: readonly string[];
  /** Absent: all rows. */
  where?: (context: Context) => RawBuilder<unknown>;
  /** A line on Today: the words after the number one and after any other, and the column that is summed beside them. */
  waits?: { words: readonly [one: string, many: string]; sum: string; rail?: true };
}

type Columns = Readonly<Record<string, Column<unknown>>>;
type Hidden = Readonly<Record<string, RawBuilder<unknown>>>;
type ValueOf<C> = C extends Column<infer Value> ? Value : never;
type RawValue<C> = C extends RawBuilder<infer Value> ? Value : never;

/** What every row has: its id, and whether it is of a household that is closed to who asks: then it says its amounts alone. */
export interface ListRow {
  id: number;
  closed?: boolean;
}

/** A row of a list: its id, the fields of its columns, and what is read besides. */
type RowFrom<C extends Columns, H extends Hidden> = ListRow & {
  -readonly [K in keyof C]: ValueOf<C[K]>;
} & {
  -readonly [K in keyof H]: RawValue<H[K]>;
};

interface Declaration<C extends Columns, H extends Hidden> {
  /** In addresses and file names. */
  name: string;
  noun: readonly [one: string, many: string];
  permission: Permission;
  /** The station in whose rail count its waiting views are, and the address that shows it. */
  station: string;
  path: string;
  /**
   * What is counted, summed and searched; tables that are only shown are joined in `shown`. Rows that are worked out and not kept
   * are put together first; no view of such a list waits.
   */
  from: RawBuilder<unknown> | ((context: Context) => Promise<RawBuilder<unknown>>);
  shown?: RawBuilder<unknown>;
  /** What always holds, such as that closed rows are left out. */
  always?: (context: Context) => RawBuilder<unknown>;
  /**
   * The household of whom a row tells, asked of `from` alone; null for a list that tells of none, or of which the audit trail is
   * made. A row of a household that is closed to who asks counts and says its amounts, and no search finds it.
   */
  household: RawBuilder<unknown> | null;
  id: RawBuilder<number>;
  columns: C;
  /** Fields that a row has besides its columns. */
  hidden?: H;
  views: Readonly<Record<string, View>>;
  /** What it can be narrowed by, asked of `from` alone. */
  filters?: FilterColumns;
  /** A condition that a row belongs to one of another table. @param of its key */
  within?: (of: string) => RawBuilder<unknown>;
  /** A condition for what a person types. @param like the text as a pattern of LIKE, in small letters */
  search?: (like: string, text: string) => RawBuilder<unknown>;
  /** The list's own order. */
  order: RawBuilder<unknown>;
  /** Counted up to so many rows only, for what grows without end; it has no sums. */
  countUpTo?: number;
  /** Puts together after reading what `value: null` columns show. */
  finish?: (row: RowFrom<C, H>) => Partial<RowFrom<C, H>>;
}

/** A declared list. */
export interface List<R extends ListRow = ListRow> {
  readonly name: string;
  readonly noun: readonly [one: string, many: string];
  readonly permission: Permission;
  readonly station: string;
  readonly path: string;
  readonly columns: readonly ListColumn[];
  readonly views: readonly (ListView & Pick<View, 'waits'>)[];
  readonly searched: boolean;
  /** What it can be narrowed by. */
  readonly filters: FilterColumns;
  /** One page of rows, how many there are, and sums over all of them. @throws NotAllowed */
  find(context: Context, ask: ListQuery): Promise<Found<R>>;
  /** All rows that are asked for, from one snapshot, in batches. @throws NotAllowed before anything is read */
  stream(context: Context, ask: ListQuery, signal?: AbortSignal): AsyncGenerator<R[]>;
  /** A query for the number of rows in a view and the sum of a column over them, as `count` and `sum`. */
  counting(context: Context, view: string, sum: string): Promise<RawBuilder<unknown>>;
}

/** The row of a list. */
export type RowOf<L> = L extends List<infer R> ? R : never;

/** What a person asks of a list; all of it stands in the address. */
export interface ListQuery {
  /** One of the list's views; what is not known means all. */
  view?: string;
  search?: string;
  /** From 1. */
  page?: number;
  pageSize?: number;
  /** A column's key, with `-` before it for the other way round. */
  order?: string;
  /** Only the rows that belong to one of another table, by its key. */
  of?: string;
  /** Only the rows of a payer, a provider, a site. */
  filters?: Filtered;
  /** Counts up to so many rows only, and sums nothing. */
  countUpTo?: number;
}

/** What was found: the rows of one page, the number of all, and sums over all of them in cents. */
export interface Found<R> {
  rows: R[];
  count: number;
  /** There are more than were counted. */
  more: boolean;
  sums: Record<string, Cents>;
}

/** A search as a pattern of LIKE, in small letters with its wildcards escaped; null when nothing is searched. */
export function likeText(search: string | undefined): string | null {
  const text = (search ?? '').trim().toLowerCase();
  return text === '' ? null : `%${text.replace(/[\\%_]/g, '\\$&')}%`;
}

const EXPORT_BATCH = 2000;
/** Names of what is said beside each row of a page: how many there are of all, and sums over them. */
const COUNT = 'of all';
const sumOf = (key: string): string => `sum of ${key}`;
const and = (parts: readonly RawBuilder<unknown>[]): RawBuilder<unknown> =>
  parts.length === 0 ? sql`` : sql`where ${sql.join(parts, sql` and `)}`;

/** Declares a list. */
export function list<const C extends Columns, const H extends Hidden = Record<never, never>>(
  d: Declaration<C, H>,
): List<RowFrom<C, H>> {
  type Row = RowFrom<C, H>;
  const { household } = d;
  const columns: ListColumn[] = Object.entries(d.columns).map(([key, column]) => ({
    key,
    title: column.title,
    kind: column.kind,
    ...(column.extra ? { extra: true as const } : {}),
    ...(column.value === null ? { unordered: true as const } : {}),
  }));
  const summed = Object.entries(d.columns).filter(([, column]) => column.sum);
  const fields = sql.join([
    sql`${d.id} as id`,
    ...Object.entries(d.columns).flatMap(([key, { value }]) =>
      value ? sql`${value} as ${sql.ref(key)}` : [],
    ),
    ...Object.entries(d.hidden ?? {}).map(([key, value]) => sql`${value} as ${sql.ref(key)}`),
  ]);
  /** Of a closed household its amounts are said, and in the first words what it is. */
  const told = Object.entries(d.columns).filter(([, { kind }]) => kind === 'money' || kind === 'number');
  const named = columns.find(({ kind }) => kind === 'words');
  const withheld = (row: Row): Row =>
    ({
      id: row.id,
      closed: true,
      ...(named ? { [named.key]: CLOSED_ACCOUNT } : {}),
      ...Object.fromEntries(told.map(([key]) => [key, row[key as keyof Row]])),
    }) as Row;
  const conditions = (context: Context, ask: ListQuery): RawBuilder<unknown>[] => {
    const like = likeText(ask.search);
    const view = ask.view !== undefined && Object.hasOwn(d.views, ask.view) ? d.views[ask.view] : undefined;
    return [
      ...(d.always ? [d.always(context)] : []),
      ...(view?.where ? [view.where(context)] : []),
      ...(ask.of && d.within ? [d.within(ask.of)] : []),
      ...filterConditions(d.filters ?? {}, ask.filters ?? {}),
      ...(like && d.search ? [d.search(like, ask.search!.trim())] : []),
      ...(like && household ? [sql`not ${isClosed(context, household)}`] : []),
    ].map((condition) => sql`(${condition})`);
  };
  const source = (context: Context): Promise<RawBuilder<unknown>> =>
    typeof d.from === 'function' ? d.from(context) : Promise.resolve(d.from);
  const select = (
    context: Context,
    ask: ListQuery,
    from: RawBuilder<unknown>,
    more: readonly RawBuilder<unknown>[] = [],
  ): RawBuilder<Row> => {
    const order = listOrder(columns, ask.order ?? '');
    const by = order
      ? sql`${sql.ref(order.key)} ${order.down ? sql`desc nulls last` : sql`nulls first`}, id`
      : d.order;
    return sql<Row>`
      select ${sql.join([fields, ...(household ? [sql`${isClosed(context, household)} as closed`] : []), ...more])}
      from ${from} ${d.shown ?? sql``} ${and(conditions(context, ask))}
      order by ${by}`;
  };
  const finished = (rows: readonly Row[]): Row[] =>
    rows.map(({ closed, ...row }) => {
      const open = row as Row;
      return closed ? withheld(open) : d.finish ? { ...open, ...d.finish(open) } : open;
    });
  return {
    name: d.name,
    noun: d.noun,
    permission: d.permission,
    station: d.station,
    path: d.path,
    columns,
    views: Object.entries(d.views).map(([key, { label, waits, without = [] }]) => ({
      key,
      label,
      waits,
      without,
    })),
    searched: d.search !== undefined,
    filters: d.filters ?? {},
    async find(context, ask) {
      allow(context, d.permission);
      const from = await source(context);
      const size = ask.pageSize ?? PAGE_SIZE;
      const offset = ((ask.page ?? 1) - 1) * size;
      // Rows that are worked out are long to say: they are said once, and counted and summed beside the page.
      if (typeof d.from === 'function') {
        const all = [
          sql`count(*) over () as ${sql.ref(COUNT)}`,
          ...summed.map(
            ([key, { value }]) => sql`coalesce(sum(${value!}) over (), 0) as ${sql.ref(sumOf(key))}`,
          ),
        ];
        const page = async (first: number, many: number) => {
          const { rows } = await sql<
            Row & Record<string, Cents>
          >`${select(context, ask, from, all)} limit ${many} offset ${first}`.execute(context.db);
          return rows;
        };
        const rows = await page(offset, size);
        // Beyond the last page there is still a count.
        const [said] = rows.length > 0 || offset === 0 ? rows : await page(0, 1);
        const sums = Object.fromEntries(summed.map(([key]) => [key, said?.[sumOf(key)] ?? ZERO]));
        const count = said?.[COUNT] ?? 0;
        for (const row of rows)
          for (const key of [COUNT, ...summed.map(([of]) => sumOf(of))]) delete row[key];
        return { rows: finished(rows), count, more: false, sums };
      }
      const upTo = ask.countUpTo ?? d.countUpTo;
      const sums = upTo
        ? []
        : summed.map(([key, column]) => sql`coalesce(sum(${column.value!}), 0) as ${sql.ref(key)}`);
      const all = sql`from ${from} ${and(conditions(context, ask))}`;
      const counted = await sql<Record<string, Cents> & { count: number }>`
        select
          ${sql.join([sql`count(*) as count`, ...sums])}
            ${upTo ? sql`from (select 1 ${all} limit ${upTo + 1}) q` : all}`.execute(context.db);
      const { count: found, ...totals } = counted.rows[0]!;
      const more = upTo !== undefined && found > upTo;
      const count = more ? upTo : found;
      const { rows } = await sql<Row>`${select(context, ask, from)} limit ${size} offset ${offset}`.execute(
        context.db,
      );
      return { rows: finished(rows), count, more, sums: totals };
    },
    async *stream(context, ask, signal) {
      allow(context, d.permission);
      const query = select(context, ask, await source(context)).compile(context.db);
      for await (const rows of readInBatches<Row>(context.db, query, EXPORT_BATCH, signal))
        yield finished(rows);
    },
    async counting(context, view, sum) {
      const column = d.columns[sum]?.value ?? sql`0`;
      return sql`
        select count(*) as count, coalesce(sum(${column}), 0) as sum
        from ${await source(context)} ${and(conditions(context, { view }))}`;
    },
  };
}

/** A condition that a text, in small letters, is like what was typed. */
export const textLike = (value: RawBuilder<unknown>, like: string): RawBuilder<unknown> =>
  sql`lower(${value}) like ${like}`;
