/** Claims that another insurer has, or has decided, than the one that covered their day, as is known by now. */
import { DECIDED, WENT } from '../../core/claims/life';
import { claimIn } from '../claim-states';
import { sql } from 'kysely';
import { type CalendarDate, addDays, formatDate } from '../../core/calendar';
import type { Cents } from '../../core/money';
import type { Act } from '../use-case';

/** A claim that went to another insurer than the one of its day. */
export interface WentElsewhere {
  claimId: number;
  number: string;
  date: CalendarDate;
  /** Who has it, and who covered that day. */
  went: string;
  covers: string;
  /** Until when that one may be billed: its filing limit. */
  until: CalendarDate;
}

/** What its follow-up says where it is right again; should it not be after all, that one goes on. */
const RIGHT_AGAIN = 'The claim went to the insurer of its day';

/** Days until somebody looks, where the filing limit leaves them. */
const LOOK_DAYS = 5;

/**
 * Looks which claims of a case went to another insurer than the one that covers their day now, and makes each work: taken back, and
 * billed anew before the filing limit. What was work and is right again is done. @returns them, the oldest first
 */
export async function raiseWentElsewhere(act: Act, caseId: number): Promise<WentElsewhere[]> {
  const { rows } = await sql<
    Omit<WentElsewhere, 'until'> & {
      householdId: number;
      coverageId: number;
      days: number;
      total: Cents;
      decided: boolean;
    }
  >`
    select m.id as "claimId", m.control_number as number, m.service_date as date, m.household_id as "householdId",
      m.total, ${claimIn(sql`m.status`, DECIDED)} as decided, w.name as went, y.name as covers, n.id as "coverageId",
      y.timely_filing_days as days
    from claim m join coverage o on o.id = m.coverage_id join payer w on w.id = m.payer_id
      join coverage_plan n on n.id = coverage_on(m.case_id, o.position, m.service_date) and n.policy_id <> o.policy_id
      join payer y on y.id = n.payer_id
    where m.case_id = ${caseId}
      and ${claimIn(sql`m.status`, WENT)}
      and exists (select 1 from claim_line l where l.claim_id = m.id and l.bills)
    order by m.service_date, m.id`.execute(act.db);
  const keyOf = ({ claimId, coverageId }: { claimId: number; coverageId: number }): string =>
    `other-insurer:${claimId}:${coverageId}`;
  await sql`
    update follow_up f set closed_at = desk_now(), outcome = ${RIGHT_AGAIN} from claim m
    where f.kind = 'other-insurer'
      and f.closed_at is null
      and m.id = f.claim_id
      and m.case_id = ${caseId}
      and f.key <> all(${rows.map(keyOf)}::text[])`.execute(act.db);
  const found = rows.map(({ householdId, coverageId, days, total, decided, ...one }) => ({
    one: { ...one, until: addDays(one.date, days) },
    householdId,
    coverageId,
    total,
    decided,
  }));
  for (const { one, householdId, coverageId, total, decided } of found)
    await sql`
      insert into follow_up (kind, household_id, claim_id, coverage_id, words, amount, due_date, key)
      values
        (
          'other-insurer', ${householdId}, ${one.claimId}, ${coverageId},
          ${`${one.went} ${decided ? 'has decided' : 'has'} the claim of ${formatDate(one.date)}, and ${one.covers} covers that day: take it back and bill ${one.covers} ${one.until < act.today ? `(its filing limit was ${formatDate(one.until)})` : `by ${formatDate(one.until)}`}`},
        ${total}, greatest(${act.today}::date, least(${addDays(act.today, LOOK_DAYS)}::date, ${one.until}::date)),
        ${keyOf({ claimId: one.claimId, coverageId })}
      ) on conflict (key)
      do update set closed_at = null, outcome = '', due_date = excluded.due_date
      where follow_up.closed_at is not null and follow_up.outcome = ${RIGHT_AGAIN}`.execute(act.db);
  return found.map(({ one }) => one);
}
