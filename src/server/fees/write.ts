/** Writing fees: those that hold from a day on, together, with what stood there before. */
import { sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import type { Cents } from '../../core/money';
import type { Act } from '../use-case';

/** A fee as it is to stand; null takes it away. Cents. */
export interface FeeToWrite {
  code: string;
  amount: Cents | null;
  facility: Cents | null;
}

/**
 * Writes fees of a schedule from a day on and keeps what stood there. A fixed number of queries, however many they are.
 * @param from nothing: from the beginning
 * @returns the id of the change; null where nothing is another than it was
 */
export async function writeFees(
  act: Act,
  { scheduleId, from, words }: { scheduleId: number; from: CalendarDate | null; words: string },
  lines: readonly FeeToWrite[],
): Promise<number | null> {
  const tx = act.db;
  const given = sql`unnest(
    ${lines.map(({ code }) => code)}::text[], ${lines.map(({ amount }) => amount)}::bigint[],
    ${lines.map(({ facility }) => facility)}::bigint[]
  ) k (code, amount, facility)`;
  const { rows } = await sql<{ id: number | null }>`
    with line as (
      select k.code, f.amount as before, f.facility_amount as before_facility, k.amount as after,
        case when k.amount is not null then k.facility end as after_facility
      from ${given}
        left join fee f on f.fee_schedule_id = ${scheduleId}
          and f.code = k.code
          and f.valid_from is not distinct from ${from}::date
      where (f.amount, f.facility_amount) is distinct from (k.amount, case when k.amount is not null then k.facility end)
    ),
    change as (
      insert into fee_change (fee_schedule_id, valid_from, words, user_name, made_on)
      select ${scheduleId}, ${from}::date, ${words}, ${act.user.name}, ${act.today}::date
      where exists (select from line)
      returning id
    )
    insert into fee_change_line (change_id, code, before, before_facility, after, after_facility)
    select change.id, line.* from change cross join line
    returning change_id as id`.execute(tx);
  const [changed] = rows;
  if (!changed) return null;
  await sql`
    delete from fee f
    using ${given}
    where k.amount is null
      and f.fee_schedule_id = ${scheduleId}
      and f.code = k.code
      and f.valid_from is not distinct from ${from}::date`.execute(tx);
  await sql`
    insert into fee (fee_schedule_id, code, valid_from, amount, facility_amount)
    select ${scheduleId}, k.code, ${from}::date, k.amount, k.facility
    from ${given}
    where k.amount is not null
    on conflict (fee_schedule_id, code, valid_from) do update set amount = excluded.amount,
      facility_amount = excluded.facility_amount
    where (fee.amount, fee.facility_amount) is distinct from (excluded.amount, excluded.facility_amount)`.execute(
    tx,
  );
  return changed.id;
}
