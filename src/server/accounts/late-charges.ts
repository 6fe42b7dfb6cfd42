/** Whether an account bears late charges, and when it bore the last one. */
import { sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import type { Context } from '../access';

/** A household as late charges see it: whether it bears them at all, what stops them, when it bore the last one. */
interface HouseholdRow {
  householdId: number;
  account: string;
  name: string;
  charges: boolean;
  stops: string[];
  /** Money is reserved for a visit to come. */
  reserved: boolean;
  last: CalendarDate | null;
}

/** What is known of households that are past due, in the order of their names. */
export async function householdsOf({ db, today }: Context, ids: readonly number[]): Promise<HouseholdRow[]> {
  const { rows } = await sql<HouseholdRow>`
    select h.id as "householdId", h.number as account, h.last || ', ' || h.first as name, h.late_charges as charges,
      coalesce(
        (select array_agg(r.name order by r.name) from account_stop o join stop_reason r on r.id = o.reason_id
        where o.household_id = h.id
          and r.late_charges
          and o.lifted_on is null
          and o.since <= ${today}::date
          and (o.until is null or o.until >= ${today}::date)), '{}') as stops,
      exists (select from reserved_part v where v.household_id = h.id) as reserved,
      -- One that we gave back counts too, from the day on which we did.
      (
        select
          max(
            greatest(
              l.service_date,
              (
                select max(e.posting_date)
                from posting p
                  join entry e on e.id = p.entry_id
                where p.charge_id = l.id and (e.kind = 'write-off' or e.kind = 'reversal' and l.status = 'void')
              )
            )
          )
        from charge l
        where l.household_id = h.id and l.kind = 'late' and l.status in ('done', 'void')
      ) as last
    from household h where h.id = any(${[...ids]}::bigint[]) order by h.last, h.first, h.id`.execute(db);
  return rows;
}

/** Why a household bears no late charge, in words; nothing where it may bear one. */
export const sparedBy = ({ charges, stops, reserved }: HouseholdRow): string =>
  reserved
    ? 'money is reserved for a visit to come'
    : stops.length > 0
      ? `stopped: ${stops.join(', ')}`
      : charges
        ? ''
        : 'switched off for the account';

/** Whether a household may bear a late charge: nothing stops them, and they are not switched off for it. */
export async function bearsLateCharges(context: Context, householdId: number): Promise<boolean> {
  const [household] = await householdsOf(context, [householdId]);
  return household !== undefined && sparedBy(household) === '';
}
