/** Credit that is held, account by account: how old it is, what it could pay, and paying that for many at once or by night. */
import { sql } from 'kysely';
import { type Cents, ZERO, add } from '../../core/money';
import { applyCreditsInput } from '../../core/payments/input';
import { type Context, Refused } from '../access';
import { day, list, money, textLike, words } from '../lists/list';
import { type Act, inTransaction, useCase } from '../use-case';
import { spendCredit } from './credit';

/** Credit of each account, and of each patient with an address apart: how much, since when, from how many receipts. */
export const HELD = sql`
  (
    select x.household_id, coalesce(a.patient_id, 0) as part, sum(x.held)::bigint as held, min(r.received_on) as since,
      (array_agg(r.location_id order by r.id desc))[1] as location_id,
      (array_agg(r.provider_id order by r.id desc))[1] as provider_id, min(x.id) as id
    from (
        select r.household_id, r.id as receipt_id, k.held, r.id as id
        from receipt_balance k
          join receipt r on r.id = k.receipt_id
        where k.held > 0 and not exists (select from receipt_household s where s.receipt_id = r.id)
        union all
        -- What is of several accounts is held by each as its postings say.
        select s.household_id, s.receipt_id, -sum(p.amount), -(s.receipt_id * 1000000 + s.household_id)
        from (
            select receipt_id, household_id from receipt_household
            union
            select t.id, t.household_id from receipt t where t.id in (select receipt_id from receipt_household)
          ) s
          join posting p on p.receipt_id = s.receipt_id and p.account = 'credit/patient'
            and household_now(p.household_id) = s.household_id
        group by s.household_id, s.receipt_id
        having -sum(p.amount) > 0
      ) x
      join receipt r on r.id = x.receipt_id
      left join confidential_address a on a.patient_id = r.patient_id and a.ended_on is null
    group by 1, 2
  ) g
  join household h on h.id = g.household_id
  left join reserved_part v on v.household_id = g.household_id and v.part = g.part
  left join owed_part o on o.household_id = g.household_id and o.part = g.part`;

/** What of it is reserved for no visit. */
export const FREE = sql<Cents>`(g.held - coalesce(v.credit, 0))`;
/** What of it open charges of the same account, or of the same patient, take. */
export const PROPOSED = sql<Cents>`greatest(0, least(${FREE}, coalesce(o.owed, 0)))`;

/** Credit by account, the oldest first. */
export const creditsList = list({
  name: 'credits',
  noun: ['credit', 'credits'],
  permission: 'read accounts',
  station: 'Payments',
  path: '/payments/credits',
  from: HELD,
  household: sql`g.household_id`,
  id: sql`g.id`,
  columns: {
    account: words('Account', sql`h.number`),
    guarantor: words('Guarantor', sql`h.last || ', ' || h.first`),
    apart: words(
      'Kept apart for',
      sql`coalesce((select p.first || ' ' || p.last from patient p where p.id = g.part), '')`,
    ),
    since: day('Held since', sql`g.since`),
    site: words('Site', sql`coalesce((select l.name from location l where l.id = g.location_id), '')`),
    provider: words(
      'Provider',
      sql`coalesce((select d.last from provider d where d.id = g.provider_id), '')`,
      { extra: true },
    ),
    held: money('Held', sql`g.held`),
    reserved: money('Reserved for visits', sql<Cents>`coalesce(v.credit, 0)`),
    owed: money('Owed', sql<Cents>`coalesce(o.owed, 0)`),
    proposed: money('It can pay', PROPOSED),
  },
  hidden: { householdId: sql<number>`g.household_id`, part: sql<number>`g.part` },
  filters: { site: sql`g.location_id` },
  views: {
    pays: { label: 'Can pay something', where: () => sql`${PROPOSED} > 0` },
    all: { label: 'All' },
    reserved: { label: 'Reserved', where: () => sql`coalesce(v.credit, 0) > 0` },
    old: {
      label: 'Older than a year',
      where: ({ today }) => sql`g.since < ${today}::date - interval '1 year'`,
    },
  },
  search: (like) => sql`lower(h.last || ', ' || h.first) like ${like} or ${textLike(sql`h.number`, like)}`,
  order: sql`g.since, g.id`,
});

/** Whose credit may pay something now: accounts, and patients with an address apart. */
export async function creditsToApply(
  context: Context,
  householdIds: readonly number[] | null = null,
): Promise<{ householdId: number; patientId: number | null }[]> {
  const { rows } = await sql<{ householdId: number; patientId: number | null }>`
    select g.household_id as "householdId", nullif(g.part, 0) as "patientId"
    from ${HELD}
    where ${PROPOSED} > 0
      and ${householdIds === null ? sql`true` : sql`g.household_id = any(${[...householdIds]}::bigint[])`}
    order by g.household_id, g.part`.execute(context.db);
  return rows;
}

/** What came of paying with credit. `amount` in cents. */
export interface CreditsApplied {
  accounts: number;
  amount: Cents;
}

async function applyAll(
  act: Act,
  whose: readonly { householdId: number; patientId: number | null }[],
  key: string,
): Promise<CreditsApplied> {
  const done: CreditsApplied = { accounts: 0, amount: ZERO };
  for (const { householdId, patientId } of whose)
    try {
      const amount = await spendCredit(act, {
        householdId,
        patientId,
        key: `${key.slice(0, 50)} ${householdId} ${patientId ?? 0}`,
      });
      done.accounts += 1;
      done.amount = add(done.amount, amount);
    } catch (error) {
      // What was used or paid meanwhile is no fault.
      if (!(error instanceof Refused)) throw error;
    }
  return done;
}

/** Pays open charges of the accounts that are named with their own credit, oldest first; what has nothing to pay is left out. */
export const applyCredits = useCase({
  name: 'apply credits',
  permission: 'take payments',
  input: applyCreditsInput,
  once: (data) => data.key,
  async run(act, { householdIds, key }): Promise<CreditsApplied> {
    const whose = await creditsToApply(act, householdIds);
    if (whose.length === 0) throw new Refused('nothing', 'None of these has credit that can pay something');
    return applyAll(act, whose, key);
  },
});

/** By night, where the practice says so: credit pays what is open, an account at a time. @returns what came of it */
export async function applyCreditsByNight(context: Context): Promise<CreditsApplied> {
  const done: CreditsApplied = { accounts: 0, amount: ZERO };
  const policy = await context.db
    .selectFrom('payment_policy')
    .select('credit_by_night')
    .where('location_id', 'is', null)
    .executeTakeFirst();
  if (policy?.credit_by_night !== true) return done;
  for (const one of await creditsToApply(context)) {
    const part = await inTransaction(context, (act) => applyAll(act, [one], `night ${context.today}`));
    done.accounts += part.accounts;
    done.amount = add(done.amount, part.amount);
  }
  return done;
}
