/**
 * Households that are closed to all but named users: one condition for lists, the search, titles and whoever reads of a
 * household. What they owe counts in every sum; of themselves only that they are there is told.
 */
import { type RawBuilder, sql } from 'kysely';
import { type Context, NotAllowed, SYSTEM_USER } from './access';

/** Whether a household is closed to who asks; work that nobody started knows all of them. @param household its id in a query, null for none */
export const isClosed = (
  { user }: Pick<Context, 'user'>,
  household: RawBuilder<unknown>,
): RawBuilder<boolean> =>
  user.id === SYSTEM_USER
    ? sql<boolean>`false`
    : sql<boolean>`
      coalesce(
        ${household} in (
          select o.household_id
          from household_open_to o
          group by o.household_id
          having not bool_or(o.user_id = ${user.id})
        ),
        false
      )`;

/**
 * Notes that something was read, once it is sure that who asks may; whoever reads of one household comes by here before
 * anything is told. One query.
 * @param subject what was read: a household, or something of one
 * @param action what was done, as the audit trail says it
 * @throws NotAllowed when its household is closed to who asks
 */
export async function opened(
  context: Context,
  subject: { kind: string; id: string | number },
  action = 'read',
): Promise<void> {
  const { user, from, db } = context;
  const { rows } = await sql`
    insert into audit (user_id, session_id, address, action, subject_kind, subject_id, detail)
    select ${user.id}, ${from?.session ?? ''}, ${from?.address ?? ''}, ${action}, ${subject.kind}, ${String(subject.id)}, '{}'
    from whose(${subject.kind}, ${String(subject.id)}) w
    where not ${isClosed(context, sql`w.of_household`)}
    returning id`.execute(db);
  if (rows.length === 0)
    throw new NotAllowed('This account is closed to all but the people who are named for it: ask a manager');
}
