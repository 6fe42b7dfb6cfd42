/** The sessions that a person has open, and how they end. */
import { sql } from 'kysely';
import { z } from 'zod';
import { type Context, Refused, allow } from '../access';
import { useCase } from '../use-case';

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
    if (sessionId !== undefined && ended === 0) throw new Refused('This session has ended already');
    await act.note('ended sessions', { kind: 'user', id: act.user.id }, { sessions: ended });
    return ended;
  },
});
