/** What may not be billed to patients: taken off what stands with them, and brought back when a payer corrects itself. */
import { sql } from 'kysely';
import { NOT_BILLABLE_WHY, type NotBillableWhy } from '../../core/accounts/bill-patient';
import { notBillableEntry } from '../../core/books/entries/patients';
import { type Cents, ZERO, negate, sum } from '../../core/money';
import type { Db, Tx } from '../../db/connect';
import type { Context } from '../access';
import { writeEntries } from './journal';

/** An amount that stands with a patient and may not be billed to one; in cents. */
export interface NotBillable {
  chargeId: number;
  amount: Cents;
  why: NotBillableWhy;
}

/** What of charges stands with patients and may not be billed to them. @param of charges, or all of a household */
export async function notBillable(
  db: Db,
  of: { chargeIds: readonly number[] } | { householdId: number },
): Promise<NotBillable[]> {
  const which =
    'chargeIds' in of
      ? sql`charge_id = any(${[...of.chargeIds]}::bigint[])`
      : sql`household_id = ${of.householdId}`;
  const { rows } = await sql<NotBillable>`
    select charge_id as "chargeId", amount, why from not_billable where ${which} order by charge_id`.execute(
    db,
  );
  return rows;
}

/**
 * Takes off charges what may not be billed to their patients, and brings back what was taken off where a payer has taken
 * back what it had passed on. @param cause the remittance, or one claim of it, that moved the charges, so that its
 * reversal takes this back too
 * @returns cents taken off
 */
export async function takeOffNotBillable(
  tx: Tx,
  context: Context,
  chargeIds: readonly number[],
  cause: { remittanceId?: number; remittanceClaimId?: number } = {},
): Promise<Cents> {
  if (chargeIds.length === 0) return ZERO;
  const { rows: charges } = await sql<{
    id: number;
    householdId: number;
    patientId: number | null;
    caseId: number | null;
    providerId: number | null;
    locationId: number | null;
    off: Cents | null;
    back: Cents;
    why: NotBillableWhy;
  }>`
    select * from (
      select c.id, c.household_id as "householdId", c.patient_id as "patientId", c.case_id as "caseId",
        c.provider_id as "providerId", c.location_id as "locationId", n.amount as off, n.why,
        -- Where a remark alone had forbidden it, what it forbids no longer comes back; else what stands below zero
        -- for it.
        greatest(
          0,
          least(
            case when r.remarked and o.forbids is null then taken_off(c.id) else greatest(0, -b.with_patient) end,
            taken_off(c.id) - never_collected(c.id)
          )
        ) as back
      from charge c join charge_balance b on b.charge_id = c.id left join not_billable n on n.charge_id = c.id
        cross join lateral (
          select exists (select 1 from posting p where p.charge_id = c.id and p.remark_code is not null) as remarked
        ) r
        left join lateral (
          select true as forbids from coverage v where v.case_id = c.case_id and v.bill_patient <> 'yes' limit 1
        ) o
          on true
      where c.id = any(${[...chargeIds]}::bigint[])) k
    where off is not null or back > 0 order by id`.execute(tx);
  await writeEntries(
    tx,
    context,
    charges.map(({ id, off, back, why, ...about }) =>
      notBillableEntry({
        businessDate: context.today,
        memo: off === null ? 'Corrected by the payer' : `May not be billed: ${NOT_BILLABLE_WHY[why]}`,
        amount: off ?? negate(back),
        about: { chargeId: id, ...about, ...cause },
      }),
    ),
  );
  return sum(charges.flatMap(({ off }) => off ?? []));
}
