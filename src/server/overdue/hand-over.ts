/** Whether a placement that was approved may be written for its agency: weighed when it leaves, and decided by a person where it may not. */
import { sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import type { Cents } from '../../core/money';
import { type AgainstHandOver, againstHandOver, heldWhy } from '../../core/overdue/hand-over';
import { releaseInput } from '../../core/overdue/input';
import { Refused, lookAgain } from '../access';
import { type Act, useCase } from '../use-case';
import { isKept, lockPlacement, notePlacement } from './placements';

interface Waiting {
  id: number;
  household_id: number;
  held_why: string;
  seen: readonly string[];
}

/** What speaks against handing a placement over that waits to be written. */
async function weighHandOver({ db, today }: Act, placement: Waiting): Promise<AgainstHandOver> {
  const { rows } = await sql<{
    stops: string[];
    amount: Cents | null;
    madeOn: CalendarDate;
    by: CalendarDate;
    promisePaid: Cents;
    hardshipAsked: CalendarDate | null;
    paid: Cents;
  }>`
    select coalesce((select array_agg(r.name order by r.name) from account_stop o join stop_reason r on r.id = o.reason_id
        where o.household_id = h.id and r.agency and o.lifted_on is null and o.since <= ${today}::date and (o.until is null or o.until >= ${today}::date)), '{}') as stops,
      p.amount, p.made_on as "madeOn", p.by_date as by, case when p.id is null then 0 else paid_since(h.id, p.made_at, p.by_date) end as "promisePaid", y.asked_on as "hardshipAsked",
      coalesce((select sum(d.gross) from agency_payment d where d.placement_id = ${placement.id} and d.reversed_on is null), 0) as paid
    from household h left join promise p on p.household_id = h.id and p.ended_on is null left join hardship y on y.household_id = h.id and y.status = 'asked'
    where h.id = ${placement.household_id}`.execute(db);
  const { stops, amount, madeOn, by, promisePaid, hardshipAsked, paid } = rows[0]!;
  return againstHandOver(
    {
      stops,
      promise: amount === null ? null : { amount, madeOn, by, paid: promisePaid },
      hardshipAsked,
      paid,
      suspended: await isKept(db, placement.id),
    },
    today,
  );
}

/** Weighs a placement whose file is written next, and holds it where something speaks against it that nobody decided. @returns whether it may go */
export async function mayBeWritten(act: Act, placement: Waiting): Promise<boolean> {
  const why = heldWhy(await weighHandOver(act, placement), placement.seen);
  if (why !== placement.held_why) {
    await act.db.updateTable('placement').set({ held_why: why }).where('id', '=', placement.id).execute();
    await notePlacement(
      act.db,
      act,
      placement.id,
      why === '' ? 'no longer held back' : 'held back',
      why === '' ? {} : { words: why },
    );
  }
  return why === '';
}

/** Lets a placement go to its agency that was held back: a person decided. A stop is lifted first, where it stands. */
export const releasePlacement = useCase({
  name: 'release placement',
  permission: 'approve placements',
  input: releaseInput,
  async run(act, { placementId, sure }) {
    const placement = await lockPlacement(act.db, placementId);
    if (placement.ended_on !== null || placement.held_why === '') throw new Refused('It is not held back');
    const against = await weighHandOver(act, placement);
    if (against.stop !== '')
      throw new Refused(`It is held back: ${against.stop}. Lift the stop first, or recall the placement`);
    const asked = against.doubts.filter((words) => !placement.held_why.includes(words));
    lookAgain(sure, asked);
    await act.db
      .updateTable('placement')
      .set({ held_why: '', seen: [...new Set([...placement.seen, ...against.doubts])] })
      .where('id', '=', placementId)
      .execute();
    await notePlacement(act.db, act, placementId, 'handed over all the same', {
      words: against.doubts.join('; '),
    });
    await act.note('released', { kind: 'placement', id: placementId }, { despite: against.doubts });
  },
});
