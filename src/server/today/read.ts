/** What needs a decision now: counts for Today and the rail, made from the views that say so, and the figures of Today. */
import { sql } from 'kysely';
import type { Cents } from '../../core/money';
import { AGING_BUCKETS } from '../../core/statements/aging';
import { type Context, allow, may } from '../access';
import {
  type MonthFigures,
  type OpenFigures,
  agingOfAll,
  moneyByMonth,
  openFigures,
} from '../books/balances';
import { LISTS, type ListName } from '../lists';

/** One line of what waits. `total` in cents. */
export interface Waiting {
  list: ListName;
  view: string;
  station: string;
  words: readonly [one: string, many: string];
  href: string;
  count: number;
  total: Cents;
  /** Counted in the rail. */
  rail: boolean;
}

/**
 * Counts every view that waits and that the role may see, in one query.
 * @param which those of the rail alone, which every page has, or of some lists; what is worked out row by row is counted on Today
 */
export async function readWaiting(
  context: Context,
  which: 'rail' | 'all' | readonly ListName[] = 'all',
): Promise<Waiting[]> {
  const counts = (name: ListName, rail: boolean): boolean =>
    which === 'all' || (which === 'rail' ? rail : which.includes(name));
  const views = (Object.entries(LISTS) as [ListName, (typeof LISTS)[ListName]][])
    .filter(([, list]) => may(context.user.role, list.permission))
    .flatMap(([name, list]) =>
      list.views.flatMap((view) =>
        view.waits && counts(name, view.waits.rail === true) ? [{ name, list, view, waits: view.waits }] : [],
      ),
    );
  const parts = await Promise.all(
    views.map(
      async ({ list, view, waits }, index) =>
        sql`select ${sql.lit(index)} as at, q.count, q.sum from (${await list.counting(context, view.key, waits.sum)}) q`,
    ),
  );
  const { rows } = await sql<{
    at: number;
    count: number;
    sum: Cents;
  }>`${sql.join(parts, sql` union all `)} order by at`.execute(context.db);
  return views.map(({ name, list, view, waits }, index) => ({
    list: name,
    view: view.key,
    station: list.station,
    words: waits.words,
    href: list.views.length > 1 ? `${list.path}?view=${view.key}` : list.path,
    count: rows[index]!.count,
    total: rows[index]!.sum,
    rail: waits.rail === true,
  }));
}

/** What waits in one view of a list; zero when the role may not see it. */
export const waitingIn = (waiting: readonly Waiting[], list: ListName, view: string): number =>
  waiting.find((item) => item.list === list && item.view === view)?.count ?? 0;

/** The figures of Today: what came in and went out by month, and the age of what is owed. Cents. */
export interface TodayFigures extends OpenFigures {
  months: MonthFigures[];
  /** What patients owe by days since they were responsible. */
  aging: { bucket: string; amount: Cents }[];
  /** What payers hold by days since service. */
  payerAging: { bucket: string; amount: Cents }[];
}

/** Reads the figures from the books. */
export async function readToday(context: Context): Promise<TodayFigures> {
  allow(context, 'read accounts');
  const { db, today } = context;
  const [months, open, aging] = await Promise.all([
    moneyByMonth(db, today),
    openFigures(db, today),
    agingOfAll(db, today),
  ]);
  const named = (amounts: readonly Cents[]) =>
    AGING_BUCKETS.map((bucket, index) => ({ bucket, amount: amounts[index]! }));
  return { months, ...open, aging: named(aging.patients), payerAging: named(aging.payers) };
}
