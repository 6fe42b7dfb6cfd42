/** Good faith estimates after they were given: what is charged so much above them that it may be disputed, and what was planned since. */
import { type RawBuilder, sql } from 'kysely';
import { aboveSeenInput } from '../../core/accounts/treatment-input';
import { DISPUTED_FROM, aboveOf, disputed } from '../../core/estimates/good-faith';
import { type Cents, formatMoneyPlain, minus } from '../../core/money';
import type { Db } from '../../db/connect';
import { Refused } from '../access';
import { lockHouseholds } from '../books/journal';
import { useCase } from '../use-case';

/** A good faith estimate of which so much more is charged that the patient may dispute the bill. */
export interface AboveEstimate {
  estimateId: number;
  householdId: number;
  patientId: number;
  /** By provider, in words. */
  words: string[];
  /** How much more, and how much of that somebody has looked at, in cents. */
  above: Cents;
  seen: Cents;
  /** Whether patients owe anything of it. */
  owed: boolean;
}

/** Estimates, of those meant by a condition on `e`, `k` the case and `p` the patient, of which so much more is charged. One query. */
export async function aboveEstimates(db: Db, which: RawBuilder<unknown>): Promise<AboveEstimate[]> {
  const { rows } = await sql<
    Pick<AboveEstimate, 'estimateId' | 'householdId' | 'patientId' | 'seen'> & {
      number: string;
      each: { provider: string; said: Cents; charged: Cents; owed: Cents }[];
    }
  >`
    select e.id as "estimateId", e.number, p.household_id as "householdId", p.id as "patientId", e.above_seen as seen,
      json_agg(
        json_build_object(
          'provider', v.last || ', ' || v.first, 'said', a.said, 'charged', a.charged, 'owed', a.owed
        ) order by v.last, v.id
      ) as each
    from treatment_estimate e
      join care_case k on k.id = e.case_id
      join patient p on p.id = k.patient_id
      join estimate_above a on a.estimate_id = e.id
      join provider v on v.id = a.provider_id
    where e.kind = 'good-faith' and a.charged - a.said >= ${DISPUTED_FROM} and (${which})
    group by e.id, p.id
    order by e.id`.execute(db);
  return rows.map(({ number, each, ...row }) => ({
    ...row,
    words: disputed(each).map(
      ({ provider, said, charged }) =>
        `${number}, ${provider}: ${formatMoneyPlain(minus(charged, said))} more than was said`,
    ),
    above: aboveOf(each),
    owed: each.some(({ owed }) => owed > 0),
  }));
}

/** Whether nobody has looked yet at how much more is charged. */
export const isUnseen = ({ above, seen }: Pick<AboveEstimate, 'above' | 'seen'>): boolean => above > seen;

/** How much above an estimate `e` is charged, of providers of whom it may be disputed, in cents. */
export const ABOVE = sql<Cents>`
  coalesce(
    (
      select sum(a.charged - a.said)
      from estimate_above a
      where a.estimate_id = e.id and a.charged - a.said >= ${DISPUTED_FROM}
    ), 0
  )`;

/**
 * Whether a good faith estimate `e` is to be given anew: it is the last of its case and way of treating, what it is booked for is still
 * to come, and what is planned now is not what it says (45 CFR 149.610(b)(1)(vii)).
 */
export const isToGiveAnew = (today: string): RawBuilder<boolean> => sql<boolean>`
  (
    e.kind = 'good-faith'
      and e.booked_for >= ${today}::date
      and not exists (
        select
        from treatment_estimate n
        where n.case_id = e.case_id and n.option_id is not distinct from e.option_id and n.id > e.id
      )
      and (
        exists (
          select
          from treatment_estimate_line l
            join charge c on c.id = l.charge_id
          where l.estimate_id = e.id and (c.status = 'void' or c.status = 'planned' and c.fee + c.tax <> l.fee)
        )
        or exists (
          select
          from charge c
            left join treatment_option o on o.id = c.option_id
          where c.case_id = e.case_id
            and c.status = 'planned'
            and (o.id is null or case when e.option_id is null then o.chosen else o.id = e.option_id end)
            and not exists (
              select
              from treatment_estimate_line l
              where l.estimate_id = e.id and l.charge_id = c.id
            )
        )
      )
  )`;

/**
 * Writes down that somebody has looked at what is charged above an estimate, and why it is asked for: statements are no longer kept back
 * for so much. @throws Refused when it is not above, or was looked at
 */
export const seeAbove = useCase({
  name: 'look at what is above an estimate',
  permission: 'enter charges',
  input: aboveSeenInput,
  async run(act, { estimateId, why }) {
    const whose = await act.db
      .selectFrom('treatment_estimate as e')
      .innerJoin('care_case as k', 'k.id', 'e.case_id')
      .innerJoin('patient as p', 'p.id', 'k.patient_id')
      .select('p.household_id')
      .where('e.id', '=', estimateId)
      .executeTakeFirst();
    if (!whose) throw new Refused('unknown', 'There is no such estimate');
    await lockHouseholds(act.db, [whose.household_id]);
    const [found] = await aboveEstimates(act.db, sql`e.id = ${estimateId}`);
    if (!found) throw new Refused('nothing', 'Nothing is charged so much above it that it may be disputed');
    if (!isUnseen(found)) throw new Refused('already', 'That was looked at already');
    await act.db
      .updateTable('treatment_estimate')
      .set({
        above_seen: found.above,
        above_seen_on: act.today,
        above_seen_by: act.user.name,
        above_seen_why: why,
      })
      .where('id', '=', estimateId)
      .execute();
    await act.note(
      'looked at what is above',
      { kind: 'treatment estimate', id: estimateId },
      { above: found.above, why },
    );
  },
});
