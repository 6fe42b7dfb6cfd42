/** Reading a list for its screen: what the address asks, the columns that the person has chosen. */
import { type FilterName, type Filtered, type ShownFilter, filtered } from '../../core/reports/filters';
import { type ListColumn, type ListView, shownColumns } from '../../core/reports/lists';
import { type Context, audit } from '../access';
import { filterNames, readFilters } from './filters';
import { openSearch } from './sealed';
import { LISTS, type ListName, type RowOf } from './index';
import { type Found, type List, type ListQuery, type ListRow, PAGE_SIZE } from './list';

/** A view of a list with its order, as a person keeps it. */
export interface KeptView {
  name: string;
  view: string;
  order: string;
  filters: Filtered;
}

/** A list as a screen shows it. */
export interface ListState<Row extends ListRow = ListRow> extends Found<Row> {
  name: string;
  noun: readonly [one: string, many: string];
  view: string;
  views: ListView[];
  /** The row of another table to which all rows belong, by its key; empty for all. */
  of: string;
  searched: boolean;
  search: string;
  page: number;
  pageSize: number;
  order: string;
  /** All columns, and those shown in their order. */
  all: readonly ListColumn[];
  columns: ListColumn[];
  /** What it can be narrowed by, with what is chosen. */
  narrowed: ShownFilter[];
  /** Whether these are the columns that a person has chosen. */
  chosen: boolean;
  /** Views that the person keeps under a name. */
  kept: KeptView[];
}

/** The state of one of the desk's lists. */
export type StateOf<Name extends ListName> = ListState<RowOf<Name>>;

/** The address of a list after its question mark, as text that anybody may have written. */
export type ListAddress = Partial<
  Record<'view' | 'search' | 'page' | 'order' | 'of' | FilterName, string | string[]>
>;

const one = (value: string | string[] | undefined): string => (Array.isArray(value) ? value[0] : value) ?? '';

/** What an address asks of a list; what it does not understand counts as not said, and a list opens on its first view. */
export const listQuery = (
  { views, filters }: Pick<List, 'views' | 'filters'>,
  address: ListAddress,
): Required<Omit<ListQuery, 'pageSize' | 'countUpTo'>> => ({
  view: (views.find((view) => view.key === one(address.view)) ?? views[0]!).key,
  search: openSearch(one(address.search)).slice(0, 200),
  page: Math.min(1_000_000, Math.max(1, Math.trunc(Number(one(address.page))) || 1)),
  order: one(address.order),
  of: one(address.of).slice(0, 200),
  filters: filtered(filterNames(filters), address),
});

/** The view that is asked for. */
export const viewOf = (
  { views }: Pick<List, 'views'>,
  { view }: ListQuery,
): List['views'][number] | undefined => views.find(({ key }) => key === view);

/** Rows of one of the desk's lists. @throws Refused when the role may not read it */
export const findList = <Name extends ListName>(
  context: Context,
  name: Name,
  ask: ListQuery,
): Promise<Found<RowOf<Name>>> => (LISTS[name] as List<RowOf<Name>>).find(context, ask);

/** Reads any declared list for its screen. @throws Refused when the role may not read it */
export async function readListOf<Row extends ListRow>(
  context: Context,
  declared: List<Row>,
  address: ListAddress,
): Promise<ListState<Row>> {
  const ask = listQuery(declared, address);
  const { filters, ...shown } = ask;
  const [found, narrowed, chosen, kept] = await Promise.all([
    declared.find(context, ask),
    readFilters(context, declared.filters, filters),
    chosenColumns(context, declared.name),
    keptViews(context, declared.name),
  ]);
  // Every list of a station names people; Setup's and those of the work itself do not.
  if (declared.station !== 'Setup')
    await audit(
      context.db,
      context,
      'opened',
      { kind: 'list', id: declared.name },
      { ...ask, rows: found.rows.length },
    );
  return {
    ...found,
    ...shown,
    narrowed,
    name: declared.name,
    noun: declared.noun,
    views: declared.views.map(({ key, label }) => ({ key, label })),
    searched: declared.searched,
    pageSize: PAGE_SIZE,
    all: declared.columns,
    columns: shownColumns(declared.columns, chosen, viewOf(declared, ask)),
    chosen: chosen !== null,
    kept,
  };
}

/** Reads one of the desk's lists for its screen. @throws Refused when the role may not read it */
export const readList = <Name extends ListName>(
  context: Context,
  name: Name,
  address: ListAddress,
): Promise<StateOf<Name>> => readListOf(context, LISTS[name] as List<RowOf<Name>>, address);

/** The views of a list that a person keeps, by name. */
const keptViews = async (context: Context, name: string): Promise<KeptView[]> => {
  const rows = await context.db
    .selectFrom('list_view')
    .select(['name', 'view', 'ordered as order', 'filters'])
    .where('user_id', '=', context.user.id)
    .where('list', '=', name)
    .orderBy('name')
    .execute();
  return rows.map(({ filters, ...row }) => ({ ...row, filters: filters as Filtered }));
};

/** The columns of a list that a person has chosen; null when none were. */
export async function chosenColumns(context: Context, name: string): Promise<string[] | null> {
  const row = await context.db
    .selectFrom('list_choice')
    .select('columns')
    .where('user_id', '=', context.user.id)
    .where('list', '=', name)
    .executeTakeFirst();
  return row?.columns ?? null;
}
