/** What accounts owe, by charge, as the parts of the entries that take it off or hand it over. */
import { sql } from 'kysely';
import type { ChargePart } from '../../core/books/entry';
import { type Cents, least, minus } from '../../core/money';
import type { Db } from '../../db/connect';

/** What stands with the patients of households and may be billed, by charge, oldest first, in cents, as parts of an entry; by household. */
export async function withPatient(
  db: Db,
  householdIds: readonly number[],
): Promise<Map<number, ChargePart[]>> {
  const { rows } = await sql<{
    chargeId: number;
    householdId: number;
    patientId: number | null;
    caseId: number | null;
    providerId: number | null;
    locationId: number | null;
    amount: Cents;
  }>`
    select c.id as "chargeId", c.household_id as "householdId", c.patient_id as "patientId", c.case_id as "caseId", c.provider_id as "providerId", c.location_id as "locationId",
      b.with_patient - coalesce(n.amount, 0) as amount
    from charge c join charge_balance b on b.charge_id = c.id left join not_billable n on n.charge_id = c.id
    where c.household_id = any(${[...householdIds]}::bigint[]) and b.with_patient > coalesce(n.amount, 0) order by c.service_date, c.id`.execute(
    db,
  );
  const found = new Map<number, ChargePart[]>();
  for (const { amount, ...about } of rows) {
    const own = found.get(about.householdId);
    if (own) own.push({ about, amount });
    else found.set(about.householdId, [{ about, amount }]);
  }
  return found;
}

/** The first parts that come to an amount, oldest first. */
export function partsUpTo(parts: readonly ChargePart[], amount: Cents): ChargePart[] {
  let rest = amount;
  return parts.flatMap(({ about, amount: open }): ChargePart[] => {
    const part = least(rest, open);
    rest = minus(rest, part);
    return part > 0 ? [{ about, amount: part }] : [];
  });
}
