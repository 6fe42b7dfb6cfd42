/** Reading the rows of a list: a page of them, how many there are, and the sums of all. */
import { type RawBuilder, type SelectQueryBuilder, sql } from 'kysely';
import type { Cents } from '../../core/money';
import { type ListName, listOrder } from '../../core/reports/lists';

/** Rows of a list come a page at a time. */
export const PAGE_SIZE = 100;

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
}

/** What was found: the rows of one page, the number of all, and sums over all of them in cents. */
export interface Found<Row> {
  rows: Row[];
  count: number;
  sums: Record<string, Cents>;
}

/** A search as a pattern of LIKE, in small letters with its wildcards escaped; null when nothing is searched. */
export function likeText(search: string | undefined): string | null {
  const text = (search ?? '').trim().toLowerCase();
  return text === '' ? null : `%${text.replace(/[\\%_]/g, '\\$&')}%`;
}

/**
 * Runs the two queries of a list.
 * @param all every row that the list's filter lets through, nothing selected
 * @param sums what is summed over them, by column
 * @param rows the same with its columns, named by their keys, in the list's own order
 */
export async function findRows<Row, D1, T1 extends keyof D1, D2, T2 extends keyof D2>(
  name: ListName,
  ask: ListQuery,
  all: SelectQueryBuilder<D1, T1, object>,
  sums: Record<string, RawBuilder<number>>,
  rows: SelectQueryBuilder<D2, T2, object>,
): Promise<Found<Row>> {
  const { count, ...summed } = (await all
    .select([
      sql<number>`count(*)`.as('count'),
      ...Object.entries(sums).map(([key, amount]) => sql<number>`coalesce(sum(${amount}), 0)`.as(key)),
    ])
    .executeTakeFirstOrThrow()) as Record<string, number>;
  const order = listOrder(name, ask.order ?? '');
  const ordered = order
    ? rows
        .clearOrderBy()
        .orderBy(
          order.down ? sql`${sql.ref(order.key)} desc nulls last` : sql`${sql.ref(order.key)} nulls first`,
        )
        .orderBy(sql.ref('id'))
    : rows;
  const size = ask.pageSize ?? PAGE_SIZE;
  const found = await ordered
    .limit(size)
    .offset(((ask.page ?? 1) - 1) * size)
    .execute();
  return { rows: found as Row[], count: count ?? 0, sums: summed as Record<string, Cents> };
}
