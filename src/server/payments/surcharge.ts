/** What decides on a surcharge at a site, and which charges are kept from it. */
import { sql } from 'kysely';
import { type BasisPoints, type Cents, ZERO, basisPoints } from '../../core/money';
import type { SurchargeRule } from '../../core/payments/surcharge';
import type { Db } from '../../db/connect';

/** How patients' money is taken at a site. Amounts in cents. */
export interface PaymentPolicy {
  surchargeRate: BasisPoints;
  cardCost: BasisPoints;
  drawerOpening: Cents;
  returnedCheck: Cents;
  refundMost: Cents;
}

/** The policy of a site, the practice's where it has none of its own. */
export async function readPaymentPolicy(db: Db, locationId: number | null): Promise<PaymentPolicy> {
  const row = await db
    .selectFrom('payment_policy')
    .selectAll()
    .where(({ or, eb }) => or([eb('location_id', 'is', null), eb('location_id', '=', locationId)]))
    .orderBy(sql`location_id nulls last`)
    .limit(1)
    .executeTakeFirst();
  return {
    surchargeRate: basisPoints(row?.surcharge_rate ?? 0),
    cardCost: basisPoints(row?.card_cost ?? 0),
    drawerOpening: row?.drawer_opening ?? ZERO,
    returnedCheck: row?.returned_check ?? ZERO,
    refundMost: row?.refund_most ?? ZERO,
  };
}

/** What decides on a surcharge at a site. */
export async function readSurchargeRule(db: Db, locationId: number | null): Promise<SurchargeRule> {
  const policy = await readPaymentPolicy(db, locationId);
  const [brands, state] = await Promise.all([
    db.selectFrom('card_brand').select(['name', 'most']).execute(),
    db
      .selectFrom('surcharge_state as s')
      .select(['s.rule', 's.most', 's.words'])
      .where(
        's.state',
        '=',
        sql<string>`
          coalesce((select l.state from location l where l.id = ${locationId}), (select p.state from practice p))`,
      )
      .executeTakeFirst(),
  ]);
  return {
    rate: policy.surchargeRate,
    cost: policy.cardCost,
    brands: new Map(brands.map(({ name, most }) => [name.toLowerCase(), basisPoints(most)])),
    state: state ? { rule: state.rule, most: basisPoints(state.most), words: state.words } : null,
  };
}

/** Payers whose patients' share bears no surcharge, as a condition on `payer as y`: Medicare, Medicaid, and by contract. */
const BEARS_NONE = sql`(y.no_surcharge or y.filing_code in ('MA', 'MB', 'MC', '16'))`;

/** Of charges those that bear no surcharge, by the coverages of their case on the day of service. */
export async function bearingNone(db: Db, chargeIds: readonly number[]): Promise<Set<number>> {
  if (chargeIds.length === 0) return new Set();
  const { rows } = await sql<{ id: number }>`
    select c.id
    from charge c
    where c.id = any(${[...chargeIds]}::bigint[])
      and exists (
        select
        from coverage_plan v
          join payer y on y.id = payer_now(v.payer_id)
        where v.case_id = c.case_id
          and coalesce(v.valid_from, '0001-01-01') <= c.service_date
          and coalesce(v.valid_to, '9999-12-31') >= c.service_date
          and ${BEARS_NONE}
      )`.execute(db);
  return new Set(rows.map(({ id }) => id));
}

/** Whether anybody of a household has such a coverage: what is not on charges that are known bears none then. */
export async function householdBearsNone(db: Db, householdId: number, today: string): Promise<boolean> {
  const { rows } = await sql`
    select 1
    from patient p
      join care_case k on k.patient_id = p.id
      join coverage_plan v on v.case_id = k.id
      join payer y on y.id = payer_now(v.payer_id)
    where p.household_id = ${householdId} and coalesce(v.valid_to, '9999-12-31') >= ${today}::date and ${BEARS_NONE}
    limit 1`.execute(db);
  return rows.length > 0;
}
