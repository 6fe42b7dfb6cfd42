/** Reading one piece of work, with its items. */
import { sql } from 'kysely';
import { CLOSED_ACCOUNT } from '../../core/reports/lists';
import { type Context, Refused, allow, may } from '../access';
import { isClosed } from '../closed';
import type { RowOf } from '../lists';

/** One item of a piece of work. */
export interface WorkItemRow {
  number: number;
  words: string;
  size: number;
  done: number;
  status: 'waiting' | 'done' | 'failed';
  result: string;
}

/** A piece of work as a person watches it. */
export interface WorkPage {
  id: number;
  title: string;
  by: string;
  status: RowOf<'work'>['status'];
  fault: string;
  /** What there is to do and how far it is, in what the work counts. */
  total: number;
  done: number;
  failed: number;
  /** Failed items first, then in their order; at most {@link SHOWN}. */
  items: WorkItemRow[];
  createdAt: Date;
  endedAt: Date | null;
  mine: boolean;
}

/** How many days work that has failed is counted in the rail. */
const FAILED_DAYS = 7;

/** Background work that goes on now, and that failed or was stopped in the last days. */
export async function workGoing(context: Context): Promise<{ going: number; failed: number }> {
  allow(context, 'watch work');
  const { rows } = await sql<{ going: number; failed: number }>`
    select count(*) filter (where status in ('waiting', 'running', 'stopping')) as going,
      count(*) filter (
        where status = 'failed' and created_at > desk_now() - make_interval(days => ${FAILED_DAYS})
      ) as failed
    from work where status in ('waiting', 'running', 'stopping', 'failed')`.execute(context.db);
  return rows[0]!;
}

/** Items of long work that are shown. */
export const SHOWN = 500;

/** Where a piece of work stands. One's own work may always be read. */
export async function readWork(context: Context, id: number): Promise<WorkPage> {
  const row = await context.db.selectFrom('work').selectAll().where('id', '=', id).executeTakeFirst();
  if (!row || (row.user_id !== context.user.id && !may(context.user.role, 'watch work')))
    throw new Refused('unknown', 'There is no such work');
  if (row.user_id !== context.user.id) allow(context, 'watch work');
  const [items, sums] = await Promise.all([
    context.db
      .selectFrom('work_item')
      .select(['number', 'size', 'done', 'status', 'result'])
      // An item that is of one household says whose it is.
      .select(
        sql<string>`
          case
            when subject like 'piece:%'
              and ${isClosed(context, sql`(select of_household from whose('mail piece', split_part(subject, ':', 2)))`)}
            then ${CLOSED_ACCOUNT}
            else words
          end`.as('words'),
      )
      .where('work_id', '=', id)
      .orderBy((eb) => eb.case().when('status', '=', 'failed').then(0).else(1).end())
      .orderBy('number')
      .limit(SHOWN)
      .execute(),
    context.db
      .selectFrom('work_item')
      .select(({ fn, eb }) => [
        fn.sum<number>('size').as('total'),
        fn.sum<number>('done').as('done'),
        fn.sum<number>(eb.case().when('status', '=', 'failed').then(1).else(0).end()).as('failed'),
      ])
      .where('work_id', '=', id)
      .executeTakeFirstOrThrow(),
  ]);
  return {
    id,
    title: row.title,
    by: row.user_name,
    status: row.status,
    fault: row.fault,
    total: sums.total ?? 0,
    done: sums.done ?? 0,
    failed: sums.failed ?? 0,
    items,
    createdAt: row.created_at,
    endedAt: row.ended_at,
    mine: row.user_id === context.user.id || may(context.user.role, 'change setup'),
  };
}
