/** Sign-in: better-auth with sessions in PostgreSQL, a time-out of use and one of all, a second factor. */
import { betterAuth } from 'better-auth';
import { APIError } from 'better-auth/api';
import { twoFactor } from 'better-auth/plugins/two-factor';
import { sql } from 'kysely';
import { db, pool } from '../../db/connect';
import { type Context, ROLES, Refused, type Role, audit, businessDate, readNow } from '../access';
import { Busy, hashPassword, isPassword } from './passwords';
import { SESSION_SECONDS, sessionState } from './sessions';

/** The address that people know Wergeld by. */
export const ownUrl = (): string => process.env.WERGELD_URL ?? 'http://127.0.0.1:3400';
/** Whether it is served with TLS. */
export const overTls = (): boolean => ownUrl().startsWith('https:');

const busy = <T>(work: Promise<T>): Promise<T> =>
  work.catch((error: unknown) => {
    throw error instanceof Busy ? new APIError('SERVICE_UNAVAILABLE') : error;
  });

const isDisabled = async (userId: string): Promise<boolean> =>
  (await db()
    .selectFrom('user')
    .select('id')
    .where('id', '=', userId)
    .where('disabled_at', 'is', null)
    .executeTakeFirst()) === undefined;

function makeAuth() {
  return betterAuth({
    appName: 'Wergeld',
    database: pool(),
    secret: process.env.WERGELD_SECRET,
    baseURL: ownUrl(),
    trustedOrigins: overTls() ? [ownUrl()] : [ownUrl(), 'http://localhost:3400'],
    emailAndPassword: {
      enabled: true,
      disableSignUp: true,
      minPasswordLength: 1,
      maxPasswordLength: 1000,
      password: { hash: (password) => busy(hashPassword(password)), verify: (one) => busy(isPassword(one)) },
    },
    user: { additionalFields: { role: { type: 'string', input: false, defaultValue: 'front-desk' } } },
    session: { expiresIn: SESSION_SECONDS, disableSessionRefresh: true },
    // Who is disabled gets no session, whatever the password is.
    databaseHooks: {
      session: { create: { before: async ({ userId }) => ((await isDisabled(userId)) ? false : undefined) } },
    },
    // How often one may try is counted before this service is asked, by account as well as by address.
    rateLimit: { enabled: false },
    advanced: { cookiePrefix: 'wergeld', ipAddress: { ipAddressHeaders: ['x-forwarded-for'] } },
    plugins: [
      twoFactor({ issuer: 'Wergeld', backupCodeOptions: { amount: 10, storeBackupCodes: 'encrypted' } }),
    ],
    telemetry: { enabled: false },
    // What it says of faults may name people.
    logger: { disabled: true },
  });
}

const kept = globalThis as { wergeldAuth?: ReturnType<typeof makeAuth> };

/** The sign-in service of this process. */
export const auth = (): ReturnType<typeof makeAuth> => (kept.wergeldAuth ??= makeAuth());

/** The address of the connection, as our own server or a proxy that it trusts says it. */
export const addressOf = (headers: Headers): string => headers.get('x-forwarded-for') ?? '';

/** Who is signed in, and whether a second factor has to be set up before anything else. */
export interface SignedIn {
  context: Context;
  email: string;
  needsFactor: boolean;
}

/**
 * Who is signed in by a request, or null. A session that was not used for too long, or whose user may no longer sign in,
 * ends here.
 * @param uses whether the request is a person's use of the desk; what a page asks by itself is none
 */
export async function whoIs(headers: Headers, uses = true): Promise<SignedIn | null> {
  const found = await auth().api.getSession({ headers, query: { disableRefresh: true } });
  if (!found) return null;
  const state = await sessionState(db(), found.session.id);
  if (!state) return null;
  if (state.over) {
    await db().deleteFrom('session').where('id', '=', found.session.id).execute();
    return null;
  }
  if (uses && state.stale)
    await sql`update session set seen_at = now() where id = ${found.session.id}`.execute(db());
  const role = (found.user as { role?: string }).role;
  if (!(ROLES as readonly string[]).includes(role ?? '')) throw new Refused('state', 'This user has no role');
  return {
    context: {
      db: db(),
      user: { id: found.user.id, name: found.user.name, role: role as Role },
      now: state.now,
      today: businessDate(state.now),
      from: { session: found.session.id, address: addressOf(headers) },
    },
    email: found.user.email,
    needsFactor: state.asked && !state.factor,
  };
}

/** Writes on the audit trail what happened at the door, by whom as far as that is known. */
export async function noteAtDoor(
  headers: Headers,
  action: 'signed in' | 'failed to sign in' | 'had to wait at sign-in' | 'signed out',
  who: { email: string } | { userId: string },
  detail: Record<string, unknown> = {},
): Promise<void> {
  const user = await db()
    .selectFrom('user')
    .select(['id', 'name'])
    .where(
      'email' in who ? sql<string>`lower(email)` : 'id',
      '=',
      'email' in who ? who.email.toLowerCase() : who.userId,
    )
    .executeTakeFirst();
  const now = await readNow(db());
  const context: Context = {
    db: db(),
    user: { id: user?.id ?? '', name: user?.name ?? '', role: 'front-desk' },
    now,
    today: businessDate(now),
    from: { session: '', address: addressOf(headers) },
  };
  await audit(db(), context, action, { kind: 'user', id: user?.id ?? 'unknown' }, detail);
}
