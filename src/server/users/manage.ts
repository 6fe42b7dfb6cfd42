/** Users: who may sign in, as whom, and with what. */
import { createHash, randomBytes, randomUUID } from 'node:crypto';
import { sql } from 'kysely';
import {
  ableInput,
  changeUserInput,
  factorOffInput,
  inviteInput,
  linkInput,
  passwordInput,
  resetInput,
} from '../../core/users/input';
import type { Db } from '../../db/connect';
import { type Context, Refused, audit, businessDate, readNow } from '../access';
import { parseInput } from '../input';
import { type Act, inTransaction, useCase } from '../use-case';
import { changesOf } from '../versions';
import { BUSY_WORDS, Busy, hashPassword, isPassword, passwordFault } from './passwords';

/** A link to set a password is good for so many days. */
export const LINK_DAYS = 7;

const digest = (token: string): string => createHash('sha256').update(token).digest('base64url');

/** Users are changed one after the other, so that two managers cannot shut each other out. */
const lockUsers = (act: Act): Promise<unknown> =>
  sql`lock table "user" in share row exclusive mode`.execute(act.db);

async function userOf(act: Act, userId: string) {
  const user = await act.db.selectFrom('user').selectAll().where('id', '=', userId).executeTakeFirst();
  if (!user) throw new Refused('unknown', 'There is no such user', 'userId');
  return user;
}

/** Nobody changes what they themselves are. */
function notOneself(act: Act, userId: string, what: string): void {
  if (act.user.id === userId)
    throw new Refused('invalid', `Nobody ${what} their own: another manager does`, 'userId');
}

/** Without a manager nobody could let anybody in. */
async function managerLeft(act: Act): Promise<void> {
  const left = await act.db
    .selectFrom('user')
    .select('id')
    .where('role', '=', 'manager')
    .where('disabled_at', 'is', null)
    .executeTakeFirst();
  if (!left) throw new Refused('blocked', 'This is the last manager: make somebody else one first', 'role');
}

/** Who is taken by somebody else is refused in words. */
async function free(act: Act, wanted: { email?: string; name: string }, but = ''): Promise<void> {
  const taken = await act.db
    .selectFrom('user')
    .select([sql<boolean>`lower(email) = ${wanted.email ?? ''}`.as('email')])
    .where((eb) =>
      eb.or([
        eb(sql<string>`lower(name)`, '=', sql<string>`lower(${wanted.name})`),
        eb(sql<string>`lower(email)`, '=', wanted.email ?? ''),
      ]),
    )
    .where('id', '<>', but)
    .execute();
  if (taken.some(({ email }) => email))
    throw new Refused('already', 'This e-mail has an account already', 'email');
  if (taken.length > 0)
    throw new Refused(
      'already',
      'Somebody has this name already: add a middle name or a number, so that everybody knows who did what',
      'name',
    );
}

/** Ends what a user has open. @returns how many sessions */
async function endSessions(db: Db, userId: string, but = ''): Promise<number> {
  const { numDeletedRows } = await db
    .deleteFrom('session')
    .where('userId', '=', userId)
    .where('id', '<>', but)
    .executeTakeFirst();
  return Number(numDeletedRows);
}

/** Makes a link in place of the one before. @returns its token, known only to who asked */
async function linkFor(act: Act, userId: string): Promise<string> {
  const token = randomBytes(24).toString('base64url');
  const link = {
    digest: digest(token),
    made_by: act.user.id,
    made_at: sql<Date>`now()`,
    expires_at: sql<Date>`now() + make_interval(days => ${LINK_DAYS})`,
    used_at: null,
  };
  await act.db
    .insertInto('password_link')
    .values({ user_id: userId, ...link })
    .onConflict((conflict) => conflict.column('user_id').doUpdateSet(link))
    .execute();
  return token;
}

async function setPassword(db: Db, userId: string, password: string): Promise<void> {
  const hash = await hashPassword(password).catch((error: unknown) => {
    throw error instanceof Busy ? new Refused('state', BUSY_WORDS) : error;
  });
  const { numUpdatedRows } = await db
    .updateTable('account')
    .set({ password: hash, updatedAt: new Date() })
    .where('userId', '=', userId)
    .where('providerId', '=', 'credential')
    .executeTakeFirst();
  if (Number(numUpdatedRows) === 0)
    await db
      .insertInto('account')
      .values({ id: randomUUID(), accountId: userId, providerId: 'credential', userId, password: hash })
      .execute();
}

/** Adds a user, who sets a password with a link. @returns the user's id and the token of the link */
export const inviteUser = useCase({
  name: 'invite user',
  permission: 'manage users',
  input: inviteInput,
  async run(act, { email, name, role }) {
    await lockUsers(act);
    await free(act, { email, name });
    const id = randomUUID();
    await act.db.insertInto('user').values({ id, email, name, role }).execute();
    await act.note('invited', { kind: 'user', id }, { email, name, role });
    return { userId: id, token: await linkFor(act, id) };
  },
});

/** Gives a user another name or role. Another role ends what they have open, so that no page promises what is no more. */
export const changeUser = useCase({
  name: 'change user',
  permission: 'manage users',
  input: changeUserInput,
  async run(act, { userId, name, role }) {
    await lockUsers(act);
    const user = await userOf(act, userId);
    notOneself(act, userId, 'changes');
    await free(act, { name }, userId);
    const changes = changesOf(user, { name, role }, { name: 'Name', role: 'Role' });
    if (Object.keys(changes).length === 0) return;
    await act.db
      .updateTable('user')
      .set({ name, role, updatedAt: new Date() })
      .where('id', '=', userId)
      .execute();
    if (user.role === 'manager') await managerLeft(act);
    if (user.role !== role) await endSessions(act.db, userId);
    await act.note('changed', { kind: 'user', id: userId }, changes);
  },
});

/** Ends or gives back a user's right to sign in; what they have open stops at once. */
export const ableUser = useCase({
  name: 'disable or enable user',
  permission: 'manage users',
  input: ableInput,
  async run(act, { userId, able }) {
    await lockUsers(act);
    const user = await userOf(act, userId);
    notOneself(act, userId, 'disables');
    if ((user.disabled_at === null) === able) return;
    await act.db
      .updateTable('user')
      .set({ disabled_at: able ? null : new Date(), updatedAt: new Date() })
      .where('id', '=', userId)
      .execute();
    if (user.role === 'manager') await managerLeft(act);
    const ended = able ? 0 : await endSessions(act.db, userId);
    await act.note(able ? 'enabled' : 'disabled', { kind: 'user', id: userId }, { sessions: ended });
  },
});

/** Gives a user a link to set another password, and ends what they have open; the password until now is of no use any more. */
export const resetUser = useCase({
  name: 'reset password',
  permission: 'manage users',
  input: resetInput,
  async run(act, { userId }) {
    const user = await userOf(act, userId);
    notOneself(act, userId, 'resets');
    if (user.disabled_at !== null)
      throw new Refused('blocked', 'This user may not sign in: enable them first', 'userId');
    await sql`update account set password = null where "userId" = ${userId}`.execute(act.db);
    const ended = await endSessions(act.db, userId);
    await act.note('reset the password', { kind: 'user', id: userId }, { sessions: ended });
    return { token: await linkFor(act, userId) };
  },
});

/** Takes a user's second factor off, with the reason; what they have open ends. */
export const takeFactorOff = useCase({
  name: 'take second factor off',
  permission: 'manage users',
  input: factorOffInput,
  async run(act, { userId, reason }) {
    const user = await userOf(act, userId);
    notOneself(act, userId, 'takes off');
    if (!user.twoFactorEnabled) throw new Refused('invalid', 'This user has no second factor', 'userId');
    await forgetFactor(act.db, userId);
    const ended = await endSessions(act.db, userId);
    await act.note('took the second factor off', { kind: 'user', id: userId }, { reason, sessions: ended });
  },
});

/** A user without a second factor. */
async function forgetFactor(db: Db, userId: string): Promise<void> {
  await db.deleteFrom('twoFactor').where('userId', '=', userId).execute();
  await db.updateTable('user').set({ twoFactorEnabled: false }).where('id', '=', userId).execute();
}

/** @throws Refused at the field when a password is not one that is taken */
function mustBeGood(password: string, user: { email: string; name: string }): void {
  const fault = passwordFault(password, [user.email, user.name]);
  if (fault) throw new Refused('state', fault, 'password');
}

/** Sets another password of one's own; all other sessions end. @returns how many ended */
export const changePassword = useCase({
  name: 'change own password',
  permission: 'keep their own sign-in',
  input: passwordInput,
  async run(act, { current, password }) {
    const user = await userOf(act, act.user.id);
    const account = await act.db
      .selectFrom('account')
      .select('password')
      .where('userId', '=', user.id)
      .executeTakeFirst();
    const right = await isPassword({ hash: account?.password ?? '', password: current }).catch(
      (error: unknown) => {
        throw error instanceof Busy ? new Refused('state', BUSY_WORDS) : error;
      },
    );
    if (!right) throw new Refused('invalid', 'This is not your password', 'current');
    if (current === password) throw new Refused('invalid', 'This is the password that you have', 'password');
    mustBeGood(password, user);
    await setPassword(act.db, user.id, password);
    const ended = await endSessions(act.db, user.id, act.from?.session);
    await act.note('changed the password', { kind: 'user', id: user.id }, { sessions: ended });
    return ended;
  },
});

/** Whose link this is, as long as it is good; null when it is not. */
export async function linkOf(
  db: Db,
  token: string,
): Promise<{ userId: string; email: string; name: string } | null> {
  const row = await db
    .selectFrom('password_link as l')
    .innerJoin('user as u', 'u.id', 'l.user_id')
    .select(['u.id as userId', 'u.email', 'u.name'])
    .where('l.digest', '=', digest(token))
    .where('l.used_at', 'is', null)
    .where('l.expires_at', '>', sql<Date>`now()`)
    .where('u.disabled_at', 'is', null)
    .executeTakeFirst();
  return row ?? null;
}

/** Sets a password with a link, which is good once. Nobody is signed in for it. @throws Refused */
export async function usePasswordLink(
  db: Db,
  input: unknown,
  from: Context['from'],
): Promise<{ email: string }> {
  const { token, password } = parseInput(linkInput, input);
  const known = await linkOf(db, token);
  if (!known) throw new Refused('state', 'This link is used or too old: ask a manager for another one');
  mustBeGood(password, known);
  const now = await readNow(db);
  const context: Context = {
    db,
    user: { id: known.userId, name: known.name, role: 'front-desk' },
    now,
    today: businessDate(now),
    ...(from ? { from } : {}),
  };
  return inTransaction(context, async (act) => {
    const { numUpdatedRows } = await act.db
      .updateTable('password_link')
      .set({ used_at: new Date() })
      .where('digest', '=', digest(token))
      .where('used_at', 'is', null)
      .executeTakeFirst();
    if (Number(numUpdatedRows) === 0)
      throw new Refused('state', 'This link is used or too old: ask a manager for another one');
    await setPassword(act.db, known.userId, password);
    await endSessions(act.db, known.userId);
    await audit(act.db, context, 'set a password by link', { kind: 'user', id: known.userId });
    return { email: known.email };
  });
}

/** Makes a user with a password, for the command line and the demo; what the password is like is theirs to answer for. */
export async function addUser(
  context: Context,
  {
    email,
    name,
    role,
    password,
  }: { email: string; name: string; role: Context['user']['role']; password: string },
): Promise<string> {
  return inTransaction(context, async (act) => {
    const { userId } = await inviteUser(act, { email, name, role });
    await sql`update password_link set used_at = now() where user_id = ${userId}`.execute(act.db);
    await setPassword(act.db, userId, password);
    return userId;
  });
}
