/** What happens at the door beside the sign-in service: who has to wait, what is noted, which session gives way. */
import { createHmac, timingSafeEqual } from 'node:crypto';
import { db } from '../../db/connect';
import { type Context, Refused } from '../access';
import { knock, opened, spend } from './door';
import { linkOf, usePasswordLink } from './manage';
import { addressOf, noteAtDoor, whoIs } from './sign-in';

const whoKnocks = (headers: Headers, email: string) => ({ email, address: addressOf(headers) });

/** Counts a try. @returns the seconds to wait; 0 when one may try */
export async function mayTry(headers: Headers, email: string): Promise<number> {
  const wait = await knock(db(), whoKnocks(headers, email));
  if (wait > 0) await noteAtDoor(headers, 'had to wait at sign-in', { email }, { seconds: wait });
  return wait;
}

/** Notes a try that failed. */
export const failed = (headers: Headers, email: string, by: string): Promise<void> =>
  noteAtDoor(headers, 'failed to sign in', { email }, { by });

/** The password was right: what was counted as a try was none. @param inside whether nothing else is asked for */
export const right = (headers: Headers, email: string, inside: boolean): Promise<void> =>
  opened(db(), whoKnocks(headers, email), inside);

const seal = (email: string): string =>
  createHmac('sha256', process.env.WERGELD_SECRET ?? '')
    .update(`between ${email}`)
    .digest('base64url');

/** The account that waits between password and code, as a cookie can keep it. */
export const sealed = (email: string): string => `${Buffer.from(email).toString('base64url')}.${seal(email)}`;

/** The account of such a cookie; empty when it is none of ours. */
export function unsealed(text = ''): string {
  const [name = '', mark = ''] = text.split('.');
  const email = Buffer.from(name, 'base64url').toString();
  const [given, wanted] = [Buffer.from(mark), Buffer.from(seal(email))];
  return given.length === wanted.length && timingSafeEqual(given, wanted) ? email : '';
}

/** The session that a browser has open when it signs in again. */
export async function sessionBefore(headers: Headers): Promise<string | undefined> {
  return (await whoIs(headers, false))?.context.from?.session;
}

/** Whoever proves a password in a browser leaves the session that was open there, also while a code is still asked for. */
export async function leaveBefore(session: string | undefined): Promise<void> {
  if (session) await db().deleteFrom('session').where('id', '=', session).execute();
}

/** Notes that somebody is in. */
export const arrived = (headers: Headers, email: string, by: string): Promise<void> =>
  noteAtDoor(headers, 'signed in', { email }, { by });

/** How long one has to wait, in words. */
export const waitWords = (seconds: number): string =>
  `Too many attempts: wait ${seconds < 60 ? `${seconds} seconds` : `${Math.ceil(seconds / 60)} minutes`} and try again`;

/** Takes a code of the second factor, which opens the door once. @returns false when it was used, or nobody has this account */
export async function takeCode(email: string, code: string): Promise<boolean> {
  const user = await db()
    .selectFrom('user')
    .select('id')
    .where('email', '=', email.toLowerCase())
    .executeTakeFirst();
  return user !== undefined && spend(db(), user.id, code);
}

/** Whose link this is, as long as it is good; null when it is not. */
export const linkByToken = (token: string): ReturnType<typeof linkOf> => linkOf(db(), token);

/** Sets a password with a link; tries are counted by address. @throws Refused in words */
export async function setByLink(headers: Headers, input: unknown): Promise<void> {
  const address = addressOf(headers);
  const wait = await knock(db(), { email: `link from ${address}`, address });
  if (wait > 0) throw new Refused('state', waitWords(wait));
  const from: Context['from'] = { session: '', address };
  await usePasswordLink(db(), input, from);
  await opened(db(), { email: `link from ${address}`, address }, true);
}

/** Notes that somebody left. */
export async function left(headers: Headers, userId: string): Promise<void> {
  await noteAtDoor(headers, 'signed out', { userId });
}
