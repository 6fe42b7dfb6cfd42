/**
 * Whether a placement that was approved may be written for its agency: weighed when it leaves, and decided by a
 * person where it may not.
 */
import { sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import type { Cents } from '../../core/money';
import {
  OBJECTIONS,
  type Objection,
  objectionWords,
  objectionsIn,
  objectionsTo,
  objectionsWords,
  undecided,
} from '../../core/overdue/hand-over';
import { releaseInput } from '../../core/overdue/input';
import { Refused, lookAgain } from '../access';
import { type Act, useCase } from '../use-case';
import { isKept, lockPlacement, notePlacement } from './placements';

interface Waiting {
  id: number;
  household_id: number;
  objections: unknown;
  decided: unknown;
}

/** What speaks against handing a placement over now. */
export async function objectionsNow(
  { db, today }: Act,
  placement: Pick<Waiting, 'id' | 'household_id'>,
): Promise<Objection[]> {
  const { rows } = await sql<{
    stops: string[];
    amount: Cents | null;
    madeOn: CalendarDate;
    by: CalendarDate;
    promisePaid: Cents;
    hardshipAsked: CalendarDate | null;
    paid: Cents;
  }>`
    select
      coalesce(
        (select array_agg(r.name order by r.name)
          from account_stop o join stop_reason r on r.id = o.reason_id
          where o.household_id = h.id and r.agency and o.lifted_on is null
            and o.since <= ${today}::date and (o.until is null or o.until >= ${today}::date)), '{}') as stops,
      p.amount, p.made_on as "madeOn", p.by_date as by,
      case when p.id is null then 0 else paid_since(h.id, p.made_at, p.by_date) end as "promisePaid",
      y.asked_on as "hardshipAsked",
      coalesce(
        (select sum(d.gross) from agency_payment d
          where d.placement_id = ${placement.id} and d.reversed_on is null), 0) as paid
    from household h
      left join promise p on p.household_id = h.id and p.ended_on is null
      left join hardship y on y.household_id = h.id and y.status = 'asked'
    where h.id = ${placement.household_id}`.execute(db);
  const { stops, amount, madeOn, by, promisePaid, hardshipAsked, paid } = rows[0]!;
  return objectionsTo(
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

/** Asks what speaks against a placement whose file is written next, and holds it where nobody decided that. @returns whether it may go */
export async function mayBeWritten(act: Act, placement: Waiting): Promise<boolean> {
  const found = undecided(await objectionsNow(act, placement), objectionsIn(placement.decided));
  const words = objectionsWords(found);
  if (words !== objectionsWords(objectionsIn(placement.objections))) {
    await act.db
      .updateTable('placement')
      .set({ objections: found.length > 0 ? OBJECTIONS.write(found) : null })
      .where('id', '=', placement.id)
      .execute();
    await (found.length > 0
      ? notePlacement(act.db, act, placement.id, 'held back', { words })
      : notePlacement(act.db, act, placement.id, 'no longer held back'));
  }
  return found.length === 0;
}

/** Lets a placement go to its agency that was held back: a person decided. A stop is lifted first, where it stands. */
export const releasePlacement = useCase({
  name: 'release placement',
  permission: 'approve placements',
  input: releaseInput,
  async run(act, { placementId, sure }) {
    const placement = await lockPlacement(act.db, placementId);
    if (placement.ended_on !== null || placement.objections === null)
      throw new Refused('state', 'It is not held back');
    const found = await objectionsNow(act, placement);
    const stop = found.find(({ code }) => code === 'stop');
    if (stop)
      throw new Refused(
        'state',
        `It is held back: ${objectionWords(stop)}. Lift the stop first, or recall the placement`,
      );
    const [shown, before] = [objectionsIn(placement.objections), objectionsIn(placement.decided)];
    lookAgain(sure, undecided(found, [...shown, ...before]).map(objectionWords));
    await act.db
      .updateTable('placement')
      .set({ objections: null, decided: OBJECTIONS.write([...undecided(before, found), ...found]) })
      .where('id', '=', placementId)
      .execute();
    const words = objectionsWords(found);
    await notePlacement(act.db, act, placementId, 'handed over all the same', { words });
    await act.note(
      'released',
      { kind: 'placement', id: placementId },
      { despite: found.map(({ code }) => code) },
    );
  },
});
