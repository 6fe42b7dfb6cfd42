/** What is stopped on an account: statements, letters, calls, late charges, agencies. */
import { sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import { liftInput, stopInput } from '../../core/statements/input';
import { type Context, Refused, allow } from '../access';
import { allowOpen } from '../closed';
import { noteBeside, wordsBeside } from '../notes/notes';
import { useCase } from '../use-case';

/** A stop on an account. `stops` names what it stops. */
export interface AccountStop {
  id: number;
  reason: string;
  stops: string[];
  note: string;
  since: CalendarDate;
  until: CalendarDate | null;
  by: string;
  /** The moment at which it was set. */
  setAt: Date;
}

const WHAT = {
  statements: 'statements',
  late_charges: 'late charges',
  letters: 'letters',
  calls: 'calls',
  agency: 'agency',
} as const;
/** What a reason stops, in words. */
export const stopped = (row: Readonly<Record<keyof typeof WHAT, boolean>>): string[] =>
  (Object.keys(WHAT) as (keyof typeof WHAT)[]).filter((what) => row[what]).map((what) => WHAT[what]);

/** Stops on an account that are not lifted and not over. */
export async function readStops(context: Context, householdId: number): Promise<AccountStop[]> {
  allow(context, 'read accounts');
  await allowOpen(context, { householdId });
  const rows = await context.db
    .selectFrom('account_stop as s')
    .innerJoin('stop_reason as r', 'r.id', 's.reason_id')
    .select([
      's.id',
      'r.name as reason',
      wordsBeside('stop_id', sql`s.id`).as('note'),
      's.since',
      's.until',
      's.user_name as by',
      's.created_at as setAt',
      'r.statements',
      'r.late_charges',
      'r.letters',
      'r.calls',
      'r.agency',
    ])
    .where('s.household_id', '=', householdId)
    .where('s.lifted_on', 'is', null)
    .where(({ or, eb }) => or([eb('s.until', 'is', null), eb('s.until', '>=', context.today)]))
    .orderBy('s.id')
    .execute();
  return rows.map(({ statements, late_charges, letters, calls, agency, ...row }) => ({
    ...row,
    stops: stopped({ statements, late_charges, letters, calls, agency }),
  }));
}

/** Stops something on an account, for a reason of Setup's list. A reason stands once: again, it says the new end and note. */
export const setStop = useCase({
  name: 'set stop',
  permission: 'work follow-ups',
  input: stopInput,
  async run(act, { householdId, reasonId, note, until }) {
    if (until !== null && until < act.today) throw new Refused('date', 'This day is past', 'until');
    const household = await act.db
      .selectFrom('household')
      .select('id')
      .where('id', '=', householdId)
      .forNoKeyUpdate()
      .executeTakeFirst();
    if (!household) throw new Refused('unknown', 'There is no such account');
    const reason = await act.db
      .selectFrom('stop_reason')
      .select('name')
      .where('id', '=', reasonId)
      .executeTakeFirst();
    if (!reason) throw new Refused('unknown', 'This reason is not in Setup', 'reasonId');
    const there = await act.db
      .selectFrom('account_stop')
      .select(['id', 'until', wordsBeside('stop_id', sql`account_stop.id`).as('note')])
      .where('household_id', '=', householdId)
      .where('reason_id', '=', reasonId)
      .where('lifted_on', 'is', null)
      .executeTakeFirst();
    if (there && there.note === note && there.until === until) return there.id;
    await act.db
      .updateTable('account_stop')
      .set({ lifted_on: act.today, lifted_by: act.user.name, lifted_why: 'said anew' })
      .where('household_id', '=', householdId)
      .where('reason_id', '=', reasonId)
      .where('lifted_on', 'is', null)
      .execute();
    const { id } = await act.db
      .insertInto('account_stop')
      .values({
        household_id: householdId,
        reason_id: reasonId,
        since: act.today,
        until,
        user_name: act.user.name,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    await noteBeside(act, { stop_id: id, household_id: householdId }, note);
    await act.note('stopped', { kind: 'household', id: householdId }, { reason: reason.name, until, note });
    return id;
  },
});

/** Lifts a stop, for a stated reason. */
export const liftStop = useCase({
  name: 'lift stop',
  permission: 'work follow-ups',
  input: liftInput,
  async run(act, { stopId, why }) {
    const stop = await act.db
      .updateTable('account_stop')
      .set({ lifted_on: act.today, lifted_by: act.user.name, lifted_why: why })
      .where('id', '=', stopId)
      .where('lifted_on', 'is', null)
      .returning('household_id')
      .executeTakeFirst();
    if (!stop) throw new Refused('already', 'This stop is lifted already');
    await act.note('lifted a stop', { kind: 'household', id: stop.household_id }, { why });
  },
});
