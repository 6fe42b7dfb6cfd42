/** What accounts owe, net of their credit and past due: the one reader of it. Lists ask the same of the view `owed_part`. */
import { type RawBuilder, sql } from 'kysely';
import type { Cents } from '../../core/money';
import { ZERO } from '../../core/money';
import { type Debt, type Layer, type Owed, type Stated, owedOf } from '../../core/books/owed';
import type { ChargePart } from '../../core/books/entry';
import type { CalendarDate } from '../../core/calendar';
import type { Context } from '../access';
import { readPolicies } from '../statements/policies';

/** A charge that is owed, with what an entry of it is about. */
export type OwedChargeRow = Owed['charges'][number] & ChargePart['about'] & { date: CalendarDate };

/** What an account owes, or the part of it that goes to a patient’s confidential address. */
export interface OwedAccount extends Omit<Owed, 'charges'> {
  householdId: number;
  /** The patient whose services go to a confidential address; null for the rest of the household. */
  patientId: number | null;
  siteId: number | null;
  /** Oldest first. */
  charges: OwedChargeRow[];
}

type Row = ChargePart['about'] & {
  part: number;
  siteId: number | null;
  date: CalendarDate;
  owed: Cents;
  layers: Layer[];
  stated: Stated[] | null;
};

/** Rows of some households, or of all. */
const within = (column: string, ids: readonly number[] | undefined): RawBuilder<unknown> =>
  ids ? sql`${sql.ref(column)} = any(${[...ids]}::bigint[])` : sql`true`;

/**
 * Reads what accounts owe, in the order of their ids: all that owe, or those of the households named. Two queries whatever
 * their number.
 * @param only `past due`: accounts alone of which something was stated whose due day is over
 */
export async function readOwed(
  context: Context,
  ids?: readonly number[],
  only: 'all' | 'past due' = 'all',
): Promise<OwedAccount[]> {
  const { db, today } = context;
  const part = sql`coalesce(a.patient_id, 0)`;
  // What statements said comes by what is owed now: those of ten years say mostly what was paid long ago.
  const asked =
    only === 'all'
      ? sql``
      : sql`where exists (select 1 from late where late.household_id = d.household_id and late.part = d.part)`;
  const [policies, { rows }, credits] = await Promise.all([
    readPolicies(db),
    sql<Row>`
      with debt as materialized (
        select c.id as charge_id, c.household_id, ${part} as part, c.patient_id, c.case_id, c.provider_id, c.location_id, c.service_date, b.with_patient - coalesce(n.amount, 0) as owed
        from charge_balance b join charge c on c.id = b.charge_id left join not_billable n on n.charge_id = b.charge_id
          left join confidential_address a on a.patient_id = c.patient_id and a.ended_on is null
        where b.with_patient > coalesce(n.amount, 0) and b.with_patient > 0 and ${within('c.household_id', ids)}),
      said as materialized (
        select t.charge_id, m.date, m.due_date, t.owed, t.credit, m.created_at from debt d join statement_charge t on t.charge_id = d.charge_id join statement m on m.id = t.statement_id
        where not exists (select 1 from statement_void v where v.statement_id = m.id)),
      late as materialized (select distinct d.household_id, d.part from said s join debt d on d.charge_id = s.charge_id where s.due_date < ${today}::date),
      stated as materialized (
        select s.charge_id, json_agg(json_build_object('on', s.date, 'due', s.due_date, 'owed', s.owed, 'credit', s.credit, 'since', coalesce(l.lowered, 0))) as stated
        from said s left join lateral (select sum(y.lowered) as lowered from debt_layer y where y.charge_id = s.charge_id and y.lowered > 0 and y.at > s.created_at) l on true group by 1),
      site as materialized (
        select distinct on (c.household_id) c.household_id, c.location_id from charge c where c.kind = 'service' and c.status <> 'void' and c.household_id in (select household_id from debt)
        order by c.household_id, c.service_date desc, c.id desc)
      select d.charge_id as "chargeId", d.household_id as "householdId", d.part, d.patient_id as "patientId", d.case_id as "caseId", d.provider_id as "providerId", d.location_id as "locationId",
        coalesce(h.location_id, site.location_id) as "siteId", d.service_date as date, d.owed, stated.stated,
        (select json_agg(json_build_object('since', y.since, 'amount', y.with_patient) order by y.since, y.entry_id) from debt_layer y where y.charge_id = d.charge_id and y.with_patient > 0) as layers
      from debt d join household h on h.id = d.household_id left join site on site.household_id = d.household_id left join stated on stated.charge_id = d.charge_id ${asked}
      order by d.household_id, d.part`.execute(db),
    readCredits(context, ids),
  ]);
  const accounts = new Map<string, Row[]>();
  for (const row of rows) {
    const key = `${row.householdId}/${row.part}`;
    const own = accounts.get(key);
    if (own) own.push(row);
    else accounts.set(key, [row]);
  }
  if (only === 'all') for (const key of credits.keys()) if (!accounts.has(key)) accounts.set(key, []);
  return [...accounts].map(([key, own]) => {
    const [householdId, partId] = key.split('/').map(Number) as [number, number];
    const siteId = own[0]?.siteId ?? null;
    const debts = own.map(({ chargeId, date, owed, layers, stated }): Debt => ({
      chargeId,
      date,
      owed,
      layers,
      stated: stated ?? [],
    }));
    const owed = owedOf(debts, credits.get(key) ?? ZERO, policies.of(siteId).graceDays, context.today);
    const about = new Map(own.map((row) => [row.chargeId, row]));
    return {
      ...owed,
      householdId,
      patientId: partId === 0 ? null : partId,
      siteId,
      charges: owed.charges.map((charge) => {
        const { patientId, caseId, providerId, locationId, date } = about.get(charge.chargeId)!;
        return { ...charge, householdId, patientId, caseId, providerId, locationId, date };
      }),
    };
  });
}

/** Credit that is not applied, by account. */
async function readCredits({ db }: Context, ids: readonly number[] | undefined): Promise<Map<string, Cents>> {
  const { rows } = await sql<{ householdId: number; part: number; credit: Cents }>`
    select household_id as "householdId", part, credit from owed_part where credit <> 0 and ${within('household_id', ids)}`.execute(
    db,
  );
  return new Map(rows.map(({ householdId, part, credit }) => [`${householdId}/${part}`, credit]));
}

/** Parts of entries about charges, of what is left to be asked for once the credit is spent; oldest first, by household. */
export async function leftToAsk(
  context: Context,
  householdIds: readonly number[],
): Promise<Map<number, ChargePart[]>> {
  const found = new Map<number, ChargePart[]>();
  for (const { householdId, charges } of await readOwed(context, householdIds)) {
    const own = charges.flatMap(
      ({ left, chargeId, patientId, caseId, providerId, locationId }): ChargePart[] =>
        left > 0
          ? [{ about: { chargeId, householdId, patientId, caseId, providerId, locationId }, amount: left }]
          : [],
    );
    if (own.length > 0) found.set(householdId, [...(found.get(householdId) ?? []), ...own]);
  }
  return found;
}
