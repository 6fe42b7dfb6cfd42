/** What stands in place of all that the row of an account that is closed to who asks would say of it. */
export const CLOSED_ACCOUNT = 'A closed account';

/** What the columns of lists and reports are, on the screen and in a spreadsheet. */

/** What stands in a column: amounts in cents, calendar dates, counts or words. */
export type ColumnKind = 'words' | 'day' | 'number' | 'money';

/** A column of a list; `key` names the field of a row. */
export interface ListColumn {
  readonly key: string;
  readonly title: string;
  readonly kind: ColumnKind;
  /** Not shown until a person chooses it. */
  readonly extra?: true;
  /** Put together after reading, so that the list cannot be ordered by it. */
  readonly unordered?: true;
}

/** A view of a list: a condition with its name. The first one of a list is what it opens on. */
export interface ListView {
  readonly key: string;
  readonly label: string;
  /** Columns that say nothing in it, and are not shown until a person chooses them. */
  readonly without?: readonly string[];
}

/**
 * The columns that a person sees: those chosen, in that order, or those the list begins with. A choice may be older than
 * the list, so that keys no longer known are left out.
 */
export function shownColumns(
  all: readonly ListColumn[],
  chosen: readonly string[] | null,
  { without = [] }: Pick<ListView, 'without'> = {},
): ListColumn[] {
  const kept = (chosen ?? []).flatMap((key) => all.find((column) => column.key === key) ?? []);
  return kept.length > 0 ? kept : all.filter(({ key, extra }) => !extra && !without.includes(key));
}

/** An order by one column: `key`, or `-key` for the other way round; null when the list has no such order. */
export function listOrder(all: readonly ListColumn[], text: string): { key: string; down: boolean } | null {
  const down = text.startsWith('-');
  const key = down ? text.slice(1) : text;
  const column = all.find((item) => item.key === key);
  return column && !column.unordered ? { key, down } : null;
}
