/** What was tried and said about what is overdue: contacts with their limits, promises, disputes, owners. */
import { sql } from 'kysely';
import { type CalendarDate, addDays, formatDate } from '../../core/calendar';
import { type Cents, formatMoneyPlain } from '../../core/money';
import {
  type ContactKind,
  type ContactOutcome,
  OUTCOMES,
  callDoubts,
  hourDoubt,
} from '../../core/overdue/contacts';
import { assignInput, contactInput, endPromiseInput, voidContactInput } from '../../core/overdue/input';
import { promiseState } from '../../core/overdue/stage';
import { type Context, Refused, allow, lookAgain, may } from '../access';
import { opened } from '../closed';
import { lockHouseholds } from '../books/journal';
import { setStop } from '../accounts/door';
import { noteBeside, wordsBeside } from '../notes/notes';
import { type Act, useCase } from '../use-case';
import { readOverduePolicy } from './policy';

/** A contact as the account shows it. */
export interface ContactRow {
  id: number;
  kind: ContactKind;
  direction: 'out' | 'in';
  outcome: ContactOutcome;
  whom: string;
  said: string;
  day: CalendarDate;
  at: Date;
  againOn: CalendarDate | null;
  by: string;
  /** Why it does not count; empty when it does. */
  voided: string;
  promise: {
    id: number;
    amount: Cents;
    by: CalendarDate;
    state: 'open' | 'kept' | 'broken' | 'ended';
    paid: Cents;
    why: string;
  } | null;
}

/** The contacts of a household, the newest first. */
export async function readContacts(context: Context, householdId: number): Promise<ContactRow[]> {
  allow(context, 'read accounts');
  const { rows } = await sql<
    Omit<ContactRow, 'promise'> & {
      promiseId: number | null;
      amount: Cents;
      madeOn: CalendarDate;
      byDate: CalendarDate;
      endedWhy: string;
      paid: Cents;
    }
  >`
    select c.id, c.kind, c.direction, c.outcome, c.whom,
      ${wordsBeside('contact_id', sql`c.id`)} as said, c.business_date as day, c.at,
      c.again_on as "againOn", c.user_name as by, coalesce(v.why, '') as voided,
      r.id as "promiseId", r.amount, r.made_on as "madeOn", r.by_date as "byDate", r.ended_why as "endedWhy",
      case when r.id is null then 0 else paid_since(r.household_id, r.made_at, r.by_date) end as paid
    from contact c left join contact_void v on v.contact_id = c.id left join promise r on r.contact_id = c.id
    where c.household_id = ${householdId} order by c.at desc, c.id desc limit 200`.execute(context.db);
  await opened(context, { kind: 'household', id: householdId });
  return rows.map(({ promiseId, amount, madeOn, byDate, endedWhy, paid, ...row }) => ({
    ...row,
    promise:
      promiseId === null
        ? null
        : {
            id: promiseId,
            amount,
            by: byDate,
            paid,
            why: endedWhy,
            state:
              endedWhy !== '' ? 'ended' : promiseState({ amount, madeOn, by: byDate, paid }, context.today),
          },
  }));
}

/** What speaks against calling a household now, in words: stops, the policy's limits, the hour where it is. */
export async function callsNow(context: Context, householdId: number): Promise<string[]> {
  allow(context, 'read accounts');
  const { db, now, today } = context;
  const { policy } = await readOverduePolicy(db);
  const since = addDays(today, -Math.max(policy.calls.callDays, policy.calls.quietDays));
  const [household, stops, history] = await Promise.all([
    db.selectFrom('household').select(['state', 'zip']).where('id', '=', householdId).executeTakeFirst(),
    db
      .selectFrom('account_stop as o')
      .innerJoin('stop_reason as r', 'r.id', 'o.reason_id')
      .select('r.name')
      .where('o.household_id', '=', householdId)
      .where('r.calls', '=', true)
      .where('o.lifted_on', 'is', null)
      .where('o.since', '<=', today)
      .where(sql<boolean>`(o.until is null or o.until >= ${today}::date)`)
      .execute(),
    db
      .selectFrom('contact as c')
      .select(['c.kind', 'c.direction', 'c.outcome', 'c.business_date as day'])
      .where('c.household_id', '=', householdId)
      .where('c.business_date', '>=', since)
      .where(({ not, exists, selectFrom }) =>
        not(
          exists(
            selectFrom('contact_void as v').select('v.contact_id').whereRef('v.contact_id', '=', 'c.id'),
          ),
        ),
      )
      .execute(),
  ]);
  if (!household) return [];
  const hour = hourDoubt(household, policy.calls, now);
  return [
    ...stops.map(({ name }) => `Calls are stopped: ${name}`),
    ...callDoubts(history, policy.calls, today),
    ...(hour ? [hour] : []),
  ];
}

/** A day that is wanted and is past. */
const past = (day: CalendarDate | null, today: CalendarDate): boolean => day !== null && day < today;

/**
 * Notes that somebody was tried or spoke to us. A call that is too much is doubtful and noted all the same when it was made;
 * a promise takes the place of the one before; a dispute and a hardship stop what Setup says. @returns its id
 */
export const logContact = useCase({
  name: 'log contact',
  permission: 'work overdue',
  input: contactInput,
  once: (data) => data.key,
  async run(act, { householdId, kind, direction, whom, said, outcome, amount, by, againOn, sure }) {
    const tx = act.db;
    await lockHouseholds(tx, [householdId]);
    const household = await tx
      .selectFrom('household')
      .select('id')
      .where('id', '=', householdId)
      .executeTakeFirst();
    if (!household) throw new Refused('unknown', 'There is no such account');
    if (past(by, act.today)) throw new Refused('date', 'This day is past', 'by');
    if (past(againOn, act.today)) throw new Refused('date', 'This day is past', 'againOn');
    const doubts = kind === 'call' && direction === 'out' ? await callsNow(act, householdId) : [];
    lookAgain(sure, doubts);
    const { id } = await tx
      .insertInto('contact')
      .values({
        household_id: householdId,
        kind,
        direction,
        whom,
        outcome,
        at: sql<Date>`desk_now()` as never,
        business_date: act.today,
        again_on: againOn,
        warned: doubts.join('; '),
        user_id: act.user.id,
        user_name: act.user.name,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    await noteBeside(act, { contact_id: id, household_id: householdId }, said);
    if (outcome === 'promise') {
      await tx
        .updateTable('promise')
        .set({ ended_on: act.today, ended_why: 'another took its place' })
        .where('household_id', '=', householdId)
        .where('ended_on', 'is', null)
        .execute();
      await tx
        .insertInto('promise')
        .values({
          household_id: householdId,
          contact_id: id,
          amount: amount!,
          made_on: act.today,
          by_date: by!,
        })
        .execute();
    }
    if (outcome === 'dispute' || outcome === 'hardship') await stopFor(act, householdId, outcome, said);
    await act.note('noted a contact', { kind: 'household', id: householdId }, { kind, outcome, doubts });
    return id;
  },
});

/** Stops what Setup says for a dispute or a hardship. @throws Refused when the policy names no reason */
async function stopFor(
  act: Act,
  householdId: number,
  outcome: 'dispute' | 'hardship',
  said: string,
): Promise<void> {
  const { disputeReason, hardshipReason } = await readOverduePolicy(act.db);
  const reasonId = outcome === 'dispute' ? disputeReason : hardshipReason;
  if (reasonId === null)
    throw new Refused(
      'invalid',
      `The overdue policy in Setup names no stop for “${OUTCOMES[outcome]}”`,
      'outcome',
    );
  await setStop(act, { householdId, reasonId, note: said.slice(0, 300), until: null });
}

/** Says that a contact was noted by mistake: it counts no more, and the promise in it neither. */
export const voidContact = useCase({
  name: 'void contact',
  permission: 'work overdue',
  input: voidContactInput,
  async run(act, { contactId, why }) {
    const contact = await act.db
      .selectFrom('contact')
      .select(['household_id', 'user_id'])
      .where('id', '=', contactId)
      .executeTakeFirst();
    if (!contact) throw new Refused('unknown', 'There is no such contact');
    await lockHouseholds(act.db, [contact.household_id]);
    if (contact.user_id !== act.user.id && !may(act.user.role, 'void contacts of others'))
      throw new Refused('state', 'Who noted it says so, or a manager');
    const made = await act.db
      .insertInto('contact_void')
      .values({ contact_id: contactId, why, user_name: act.user.name, on_day: act.today })
      .onConflict((conflict) => conflict.doNothing())
      .returning('contact_id')
      .executeTakeFirst();
    if (!made) throw new Refused('already', 'It does not count already');
    await act.db
      .updateTable('promise')
      .set({ ended_on: act.today, ended_why: `noted by mistake: ${why}` })
      .where('contact_id', '=', contactId)
      .where('ended_on', 'is', null)
      .execute();
    await act.note('voided a contact', { kind: 'household', id: contact.household_id }, { why });
  },
});

/** Takes a promise back, for a stated reason: whether it was kept is asked no more. */
export const endPromise = useCase({
  name: 'end promise',
  permission: 'work overdue',
  input: endPromiseInput,
  async run(act, { promiseId, why }) {
    const ended = await act.db
      .updateTable('promise')
      .set({ ended_on: act.today, ended_why: why })
      .where('id', '=', promiseId)
      .where('ended_on', 'is', null)
      .returning(['household_id', 'amount', 'by_date'])
      .executeTakeFirst();
    if (!ended) throw new Refused('already', 'This promise does not stand any more');
    await act.note(
      'ended a promise',
      { kind: 'household', id: ended.household_id },
      { why, promise: `${formatMoneyPlain(ended.amount)} by ${formatDate(ended.by_date)}` },
    );
  },
});

/** Gives accounts to somebody who works them, or to nobody. @returns how many */
export const assignOverdue = useCase({
  name: 'assign overdue',
  permission: 'work overdue',
  input: assignInput,
  async run(act, { householdIds, userId }) {
    const ids = [...new Set(householdIds)];
    const found = await act.db.selectFrom('household').select('id').where('id', 'in', ids).execute();
    if (found.length < ids.length) throw new Refused('unknown', 'There is no such account');
    await lockHouseholds(act.db, ids);
    if (userId === null) await act.db.deleteFrom('overdue_owner').where('household_id', 'in', ids).execute();
    else {
      const user = (await workers(act)).find(({ id }) => id === userId);
      if (!user) throw new Refused('invalid', 'This person does not work what is overdue', 'userId');
      await act.db
        .insertInto('overdue_owner')
        .values(
          ids.map((id) => ({
            household_id: id,
            user_id: userId,
            assigned_on: act.today,
            assigned_by: act.user.name,
          })),
        )
        .onConflict((conflict) =>
          conflict.column('household_id').doUpdateSet({
            user_id: userId,
            assigned_on: act.today,
            assigned_by: act.user.name,
          }),
        )
        .execute();
    }
    await act.note('assigned', { kind: 'households', id: ids[0]! }, { accounts: ids.length, userId });
    return ids.length;
  },
});

/** Who may work what is overdue, by name. */
export async function workers(context: Context): Promise<{ id: string; name: string }[]> {
  allow(context, 'read accounts');
  const rows = await context.db
    .selectFrom('user')
    .select(['id', 'name', 'role'])
    .where('disabled_at', 'is', null)
    .orderBy('name')
    .execute();
  return rows
    .filter(({ role }) => may(role as Context['user']['role'], 'work overdue'))
    .map(({ id, name }) => ({ id, name }));
}

/** Promises whose day is over and that were not kept are followed up, each once. @returns how many */
export async function watchPromises(context: Context): Promise<number> {
  const { rows } = await sql`
    insert into follow_up (kind, household_id, words, amount, due_date, key)
    select 'broken-promise', r.household_id,
      'Promised ' || to_char(
        r.amount / 100.0, 'FM999999990.00'
      ) || ' by ' || to_char(r.by_date, 'FMDD Mon YYYY') || ', paid ' || to_char(
        paid_since(r.household_id, r.made_at, r.by_date) / 100.0, 'FM999999990.00'
      ),
      r.amount - paid_since(r.household_id, r.made_at, r.by_date), ${context.today}::date, 'broken-promise:' || r.id
    from promise r
    where r.ended_on is null
      and r.by_date < ${context.today}::date
      and paid_since(r.household_id, r.made_at, r.by_date) < r.amount
    on conflict (key) do nothing returning id`.execute(context.db);
  return rows.length;
}
