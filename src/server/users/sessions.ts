/** The sessions that a person has open, and how they end. */
import { sql } from 'kysely';
import { z } from 'zod';
import type { Db } from '../../db/connect';
import { type Context, Refused, allow } from '../access';
import { useCase } from '../use-case';

/** A session ends after this many seconds without use, */
export const IDLE_SECONDS = 30 * 60;
/** and after this many however much it is used. Its cookie and its row say the same end, and nothing moves it. */
export const SESSION_SECONDS = 12 * 60 * 60;
/** Use is noted this often. */
const NOTED_SECONDS = 60;

/** How a session stands: over, not noted as used for a while, and whether a second factor is there or asked for; and the time. */
export interface SessionState {
  over: boolean;
  stale: boolean;
  factor: boolean;
  asked: boolean;
  now: Date;
}

/** Reads how a session stands, by its id; undefined when there is none. */
export async function sessionState(db: Db, id: string): Promise<SessionState | undefined> {
  const { rows } = await sql<SessionState>`
    select u.disabled_at is not null or s.seen_at < now() - make_interval(secs => ${IDLE_SECONDS})
      or s."createdAt" < now() - make_interval(secs => ${SESSION_SECONDS}) as over,
      s.seen_at < now() - make_interval(secs => ${NOTED_SECONDS}) as stale, u."twoFactorEnabled" as factor,
      coalesce(
        (select second_factor = 'everybody' or (second_factor = 'managers' and u.role = 'manager') from practice),
        u.role = 'manager'
      ) as asked,
      desk_now() as now
    from session s join "user" u on u.id = s."userId" where s.id = ${id}`.execute(db);
  return rows[0];
}

/** A session: where and with what it was opened, when it was used, and whether one is looking at it through itself. */
export interface OwnSession {
  id: string;
  address: string;
  browser: string;
  since: Date;
  seen: Date;
  here: boolean;
}

/** What a browser calls itself, as people call it. */
function browserOf(agent: string): string {
  const kind = /(Firefox|Edg|OPR|Chrome|Safari)\//.exec(agent)?.[1] ?? '';
  const on = /(Windows|Mac OS X|Android|iPhone|iPad|Linux|CrOS)/.exec(agent)?.[1] ?? '';
  const names: Record<string, string> = { Edg: 'Edge', OPR: 'Opera', 'Mac OS X': 'macOS', CrOS: 'ChromeOS' };
  return (
    [kind, on]
      .filter(Boolean)
      .map((name) => names[name] ?? name)
      .join(' on ') || 'unknown'
  );
}

/** One's own sessions: the one that asks, then the newest use first. */
export async function ownSessions(context: Context): Promise<OwnSession[]> {
  allow(context, 'keep their own sign-in');
  const rows = await context.db
    .selectFrom('session')
    .select(['id', 'ipAddress', 'userAgent', 'createdAt', 'seen_at'])
    .where('userId', '=', context.user.id)
    .where('expiresAt', '>', sql<Date>`now()`)
    .orderBy(sql`id <> ${context.from?.session ?? ''}`)
    .orderBy('seen_at', 'desc')
    .execute();
  return rows.map((row) => ({
    id: row.id,
    address: row.ipAddress ?? '',
    browser: browserOf(row.userAgent ?? ''),
    since: row.createdAt,
    seen: row.seen_at,
    here: row.id === context.from?.session,
  }));
}

/** Ends one of one's own sessions, or without an id all but the one that asks. @returns how many ended */
export const endSession = useCase({
  name: 'end own sessions',
  permission: 'keep their own sign-in',
  input: z.object({ sessionId: z.string().min(1).max(80).optional() }),
  async run(act, { sessionId }) {
    const own = act.db.deleteFrom('session').where('userId', '=', act.user.id);
    const { numDeletedRows } = await (
      sessionId === undefined
        ? own.where('id', '<>', act.from?.session ?? '')
        : own.where('id', '=', sessionId)
    ).executeTakeFirst();
    const ended = Number(numDeletedRows);
    if (sessionId !== undefined && ended === 0)
      throw new Refused('already', 'This session has ended already');
    await act.note('ended sessions', { kind: 'user', id: act.user.id }, { sessions: ended });
    return ended;
  },
});
