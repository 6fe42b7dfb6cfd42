/** What is tried at the door: how often, by account and by address, and that a code opens it once. */
import { createHash } from 'node:crypto';
import { sql } from 'kysely';
import type { Db } from '../../db/connect';

/** Failures without delay, and the longest delay; the first delay is two seconds, each further one twice the last. */
const ALLOWANCE = { account: 5, address: 20 } as const;
const LONGEST_SECONDS = 15 * 60;
/** After so long without a try the count begins anew. */
const AGAIN = sql`interval '1 hour'`;
/** An address from which the account was signed in within so long is counted by itself: nobody else can lock it out. */
const KNOWN_FOR = sql`interval '30 days'`;

const digest = (text: string): string => createHash('sha256').update(text).digest('base64url');

/** Who knocks: the e-mail as typed, and the address of the connection. */
export interface Knock {
  email: string;
  address: string;
}

/** The keys under which tries are counted. E-mails are kept as digests: what is typed there may be anything. */
async function keysOf(db: Db, { email, address }: Knock): Promise<[account: string, address: string]> {
  const { rows } = await sql<{ known: boolean }>`select exists (
    select 1 from audit a join "user" u on u.id = a.user_id
    where lower(u.email) = lower(${email})
      and a.address = ${address}
      and a.action = 'signed in'
      and a.at > desk_now() - ${KNOWN_FOR}) as known`.execute(db);
  const account = `account ${digest(email.toLowerCase())}`;
  return [rows[0]!.known ? `${account} ${digest(address)}` : account, `address ${digest(address)}`];
}

/** Counts a try, unless one has to wait. @returns the seconds to wait; 0 when the try counts */
async function count(db: Db, key: string, allowance: number): Promise<number> {
  const tries = sql`case when l.last_at < now() - ${AGAIN} then 1 else l.failures + 1 end`;
  const { rows } = await sql`insert into sign_in_limit as l (key, failures) values (${key}, 1)
    on conflict (key) do update set failures = ${tries}, last_at = now(),
      free_at = case when ${tries} < ${allowance} then now()
        else now() + make_interval(
          secs => least(${LONGEST_SECONDS}, power(2, least(20, ${tries} - ${allowance} + 1)))
        ) end
    where l.free_at <= now() returning 1`.execute(db);
  if (rows.length > 0) return 0;
  const waiting = await sql<{ seconds: number }>`
    select ceil(extract(epoch from free_at - now()))::int as seconds from sign_in_limit where key = ${key}`.execute(
    db,
  );
  return Math.max(1, waiting.rows[0]?.seconds ?? 1);
}

/**
 * Counts a try before anything is worked out, so that many at once are as many as one after the other.
 * @returns the seconds to wait; 0 when one may try
 */
export async function knock(db: Db, who: Knock): Promise<number> {
  const [account, address] = await keysOf(db, who);
  const wait = await count(db, address, ALLOWANCE.address);
  return wait > 0 ? wait : count(db, account, ALLOWANCE.account);
}

/**
 * What was counted as a try was none: the address has one less, and so has the account, which begins anew when its owner is
 * in. The password alone, where a code comes after it, lets nobody try codes without end.
 */
export async function opened(db: Db, who: Knock, inside: boolean): Promise<void> {
  const [account, address] = await keysOf(db, who);
  await sql`
    update sign_in_limit set failures = case when ${inside} then 0 else greatest(0, failures - 1) end,
      free_at = now()
    where key = ${account}`.execute(db);
  await sql`update sign_in_limit set failures = greatest(0, failures - 1), free_at = now() where key = ${address}`.execute(
    db,
  );
}

/** Takes a code of the second factor, which opens the door once. @returns false when it was used already */
export async function spend(db: Db, userId: string, code: string): Promise<boolean> {
  const { rows } =
    await sql`insert into spent_code (user_id, digest) values (${userId}, ${digest(`${userId} ${code}`)})
    on conflict (user_id, digest)
    do update set at = now()
    where spent_code.at < now() - interval '3 minutes'
    returning 1`.execute(db);
  return rows.length > 0;
}

/** Forgets what is of no use any more. */
export async function forgetTries({ db }: { db: Db }): Promise<void> {
  await sql`delete from sign_in_limit where last_at < now() - interval '2 days'`.execute(db);
  await sql`delete from spent_code where at < now() - interval '2 days'`.execute(db);
  await sql`delete from session where "expiresAt" < now() - interval '1 day'`.execute(db);
  await sql`delete from verification where "expiresAt" < now() - interval '1 day'`.execute(db);
}
