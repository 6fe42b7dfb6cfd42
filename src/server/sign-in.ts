/** Sign-in: better-auth with sessions in PostgreSQL, idle time-out and limited attempts. */
import { betterAuth } from 'better-auth';
import { pool } from '../db/connect';
import { type Context, ROLES, Refused, type Role, businessDate } from './access';
import { db } from '../db/connect';

/** A session ends after this many seconds without use. */
export const IDLE_SECONDS = 30 * 60;

function makeAuth() {
  return betterAuth({
    database: pool(),
    secret: process.env.WERGELD_SECRET,
    baseURL: process.env.WERGELD_URL ?? 'http://127.0.0.1:3400',
    trustedOrigins: [process.env.WERGELD_URL ?? 'http://127.0.0.1:3400', 'http://localhost:3400'],
    emailAndPassword: {
      enabled: true,
      disableSignUp: process.env.WERGELD_SEEDING !== '1',
      minPasswordLength: 10,
    },
    user: { additionalFields: { role: { type: 'string', input: false, defaultValue: 'front-desk' } } },
    session: { expiresIn: IDLE_SECONDS, updateAge: 60 },
    rateLimit: {
      enabled: true,
      storage: 'database',
      window: 60,
      max: 300,
      customRules: { '/sign-in/email': { window: 60, max: 8 } },
    },
    advanced: { cookiePrefix: 'wergeld', ipAddress: { ipAddressHeaders: ['x-forwarded-for'] } },
    telemetry: { enabled: false },
  });
}

const kept = globalThis as { wergeldAuth?: ReturnType<typeof makeAuth> };

/** The sign-in service of this process. */
export const auth = (): ReturnType<typeof makeAuth> => (kept.wergeldAuth ??= makeAuth());

/**
 * The context of a request, or null when nobody is signed in.
 * @param keep is given the cookies of a session that goes on; those of one that has ended are not, for a page whose cookies
 *   change is drawn anew, and would lead to sign-in before it could say what was not done
 */
export async function contextOf(
  headers: Headers,
  keep: (cookies: string[]) => Promise<void> = async () => undefined,
): Promise<Context | null> {
  const { response: session, headers: answered } = await auth().api.getSession({
    headers,
    returnHeaders: true,
  });
  if (!session) return null;
  await keep(answered.getSetCookie());
  const role = (session.user as { role?: string }).role;
  if (!(ROLES as readonly string[]).includes(role ?? '')) throw new Refused('This user has no role');
  return {
    db: db(),
    user: { id: session.user.id, name: session.user.name, role: role as Role },
    today: businessDate(),
  };
}

/** Adds a user; for the command line, which sets WERGELD_SEEDING. @returns the user's id */
export async function addUser(email: string, name: string, password: string, role: Role): Promise<string> {
  const { user } = await auth().api.signUpEmail({ body: { email, name, password } });
  await db().updateTable('user').set({ role }).where('id', '=', user.id).execute();
  return user.id;
}
