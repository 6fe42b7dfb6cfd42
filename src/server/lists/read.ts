/** Every list by its name: for its screen and for a spreadsheet. */
import { type ListColumn, type ListName, columnsOf, shownColumns } from '../../core/reports/lists';
import { type AccountRow, listAccounts } from '../accounts/read';
import { type Context, Refused } from '../access';
import { type ClaimRow, listClaims } from '../claims/read';
import { type ReceiptRow, listReceipts } from '../payments/read';
import { type FollowUpRow, type RemittanceRow, listFollowUps, listRemittances } from '../remittances/read';
import {
  type StatementDueRow,
  type StatementRow,
  listStatements,
  listStatementsDue,
} from '../statements/read';
import { type Found, type ListQuery, PAGE_SIZE } from './find';

interface ListRows {
  accounts: AccountRow;
  claims: ClaimRow;
  remittances: RemittanceRow;
  'follow-ups': FollowUpRow;
  receipts: ReceiptRow;
  'statements-due': StatementDueRow;
  statements: StatementRow;
}

/** A row of a list. */
export type RowOf<Name extends ListName> = ListRows[Name];

const READERS: { [Name in ListName]: (context: Context, ask: ListQuery) => Promise<Found<RowOf<Name>>> } = {
  accounts: listAccounts,
  claims: listClaims,
  remittances: listRemittances,
  'follow-ups': listFollowUps,
  receipts: listReceipts,
  'statements-due': listStatementsDue,
  statements: listStatements,
};

/** A list as a screen shows it. */
export interface ListState<Name extends ListName = ListName> extends Found<RowOf<Name>> {
  name: Name;
  view: string;
  search: string;
  page: number;
  pageSize: number;
  order: string;
  /** The columns shown, in their order. */
  columns: ListColumn[];
  /** Whether these are the columns that a person has chosen. */
  chosen: boolean;
}

/** The address of a list after its question mark, as text that anybody may have written. */
export type ListAddress = Partial<Record<'view' | 'search' | 'page' | 'order', string | string[]>>;

const one = (value: string | string[] | undefined): string => (Array.isArray(value) ? value[0] : value) ?? '';

/** What an address asks of a list; what it does not understand counts as not said. */
export const listQuery = (address: ListAddress): Required<Omit<ListQuery, 'pageSize'>> => ({
  view: one(address.view),
  search: one(address.search).slice(0, 200),
  page: Math.min(1_000_000, Math.max(1, Math.trunc(Number(one(address.page))) || 1)),
  order: one(address.order),
});

/** Rows of a list, as its name and address ask. @throws Refused when the role may not read it */
export const findList = <Name extends ListName>(
  context: Context,
  name: Name,
  ask: ListQuery,
): Promise<Found<RowOf<Name>>> => READERS[name](context, ask);

/** Reads a list for its screen. @throws Refused when the role may not read it */
export async function readList<Name extends ListName>(
  context: Context,
  name: Name,
  address: ListAddress,
): Promise<ListState<Name>> {
  const ask = listQuery(address);
  const [found, chosen] = await Promise.all([findList(context, name, ask), chosenColumns(context, name)]);
  return {
    ...found,
    ...ask,
    name,
    pageSize: PAGE_SIZE,
    columns: shownColumns(name, chosen),
    chosen: chosen !== null,
  };
}

/** The columns of a list that a person has chosen; null when none were. */
export async function chosenColumns(context: Context, name: ListName): Promise<string[] | null> {
  const row = await context.db
    .selectFrom('list_choice')
    .select('columns')
    .where('user_id', '=', context.user.id)
    .where('list', '=', name)
    .executeTakeFirst();
  return row?.columns ?? null;
}

/** Keeps the columns of a list as a person wants them; none brings back those it begins with. @throws Refused for a column it has not */
export async function chooseColumns(
  context: Context,
  name: ListName,
  columns: readonly string[],
): Promise<void> {
  const known = columnsOf(name).map((column) => column.key);
  const stranger = columns.find((key) => !known.includes(key));
  if (stranger !== undefined) throw new Refused(`This list has no column “${stranger}”`, 'columns');
  const kept = [...new Set(columns)];
  if (kept.length === 0)
    await context.db
      .deleteFrom('list_choice')
      .where('user_id', '=', context.user.id)
      .where('list', '=', name)
      .execute();
  else
    await context.db
      .insertInto('list_choice')
      .values({ user_id: context.user.id, list: name, columns: kept })
      .onConflict((conflict) => conflict.columns(['user_id', 'list']).doUpdateSet({ columns: kept }))
      .execute();
}
