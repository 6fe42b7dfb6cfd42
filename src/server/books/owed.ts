/** What accounts owe, net of their credit and past due: the one reader of it. Lists ask the same of the view `owed_part`. */
import { type RawBuilder, sql } from 'kysely';
import type { Cents } from '../../core/money';
import { ZERO } from '../../core/money';
import { type Debt, type Layer, type Owed, type Stated, owedOf } from '../../core/books/owed';
import type { ChargePart } from '../../core/books/entry';
import type { CalendarDate } from '../../core/calendar';
import type { Context } from '../access';
import { readPolicies } from '../setup/statement-policies';

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

interface Row {
  chargeId: number;
  householdId: number;
  part: number;
  patientId: number | null;
  caseId: number | null;
  providerId: number | null;
  locationId: number | null;
  siteId: number | null;
  date: CalendarDate;
  owed: Cents;
  quiet: boolean;
}

/** Rows as one value, a list for each column: what is read by the ten thousand is taken apart a column at a time. */
type ColumnsOf<Kind> = { [Name in keyof Kind]: Kind[Name][] };

/** One value of all rows of a query named `q`. @param columns its columns by the names they get */
const inColumns = (columns: Record<string, string>): RawBuilder<unknown> =>
  sql`json_build_object(${sql.join(
    Object.entries(columns).map(
      ([name, column]) => sql`${sql.lit(name)}, coalesce(json_agg(${sql.ref(`q.${column}`)}), '[]')`,
    ),
  )})`;

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
  const asked =
    only === 'all'
      ? sql``
      : sql`
        where exists (
          select 1
          from said s
            join debt x on x.charge_id = s.charge_id
          where s.due_date < ${today}::date and x.household_id = d.household_id and x.part = d.part
        )`;
  const [policies, { rows: read }, credits] = await Promise.all([
    readPolicies(db),
    // One statement, so that all of it is of one moment. What statements said comes by what is owed now: those of ten years say
    // mostly what was paid long ago.
    sql<{
      debts: ColumnsOf<Row>;
      stated: ColumnsOf<Stated & { chargeId: number }>;
      layers: ColumnsOf<Layer & { chargeId: number }>;
    }>`
      with debt as materialized (
        select c.id as charge_id, c.household_id, ${part} as part, c.patient_id, c.case_id, c.provider_id,
          c.location_id, c.service_date, b.with_patient - coalesce(n.amount, 0) as owed, k.id is not null as quiet
        from charge_balance b
          join charge c on c.id = b.charge_id
          left join not_billable n on n.charge_id = b.charge_id
          left join confidential_address a on a.patient_id = c.patient_id and a.ended_on is null
          left join care_case k on k.id = c.case_id and not k.statements
        where b.with_patient > coalesce(n.amount, 0) and b.with_patient > 0 and ${within('c.household_id', ids)}),
      said as materialized (
        select t.charge_id, m.id as statement_id, m.date, m.due_date, t.owed, t.credit, m.created_at
        from debt d
          join statement_charge t on t.charge_id = d.charge_id
          join statement m on m.id = t.statement_id
        where not exists (select 1 from statement_void v where v.statement_id = m.id)),
      asked as materialized (select d.* from debt d ${asked}),
      since as (
        select s.charge_id, s.statement_id, sum(y.lowered) as amount
        from said s
          join debt_layer y on y.charge_id = s.charge_id
        where y.lowered > 0 and y.at > s.created_at
        group by 1, 2
      ),
      site as (
        select distinct on (c.household_id) c.household_id, c.location_id
        from charge c
        where c.kind = 'service' and c.status <> 'void' and c.household_id in (select household_id from asked)
        order by c.household_id, c.service_date desc, c.id desc)
      select
        (
          select
            ${inColumns({ chargeId: 'charge_id', householdId: 'household_id', part: 'part', patientId: 'patient_id', caseId: 'case_id', providerId: 'provider_id', locationId: 'location_id', siteId: 'site_id', date: 'service_date', owed: 'owed', quiet: 'quiet' })}
          from (
            select d.*, coalesce(h.location_id, s.location_id) as site_id
            from asked d
              join household h on h.id = d.household_id
              left join site s on s.household_id = d.household_id
            order by d.household_id, d.part
          ) q) as debts,
        (
          select
            ${inColumns({ chargeId: 'charge_id', on: 'date', due: 'due_date', owed: 'owed', credit: 'credit', since: 'since' })}
          from (
            select s.*, coalesce(l.amount, 0) as since
            from said s
              left join since l on l.charge_id = s.charge_id and l.statement_id = s.statement_id
          ) q) as stated,
        (select ${inColumns({ chargeId: 'charge_id', since: 'since', amount: 'with_patient' })}
          from (
            select y.charge_id, y.since, y.with_patient
            from asked d
              join debt_layer y on y.charge_id = d.charge_id and y.with_patient > 0
            order by y.charge_id, y.since, y.entry_id
          ) q) as layers`.execute(db),
    readCredits(context, ids),
  ]);
  const { debts: debt, stated: said, layers: layer } = read[0]!;
  const stated = new Map<number, Stated[]>();
  said.chargeId.forEach((chargeId, at) => {
    const one = {
      on: said.on[at]!,
      due: said.due[at]!,
      owed: said.owed[at]!,
      credit: said.credit[at]!,
      since: said.since[at]!,
    };
    const own = stated.get(chargeId);
    if (own) own.push(one);
    else stated.set(chargeId, [one]);
  });
  const layers = new Map<number, Layer[]>();
  layer.chargeId.forEach((chargeId, at) => {
    const one = { since: layer.since[at]!, amount: layer.amount[at]! };
    const own = layers.get(chargeId);
    if (own) own.push(one);
    else layers.set(chargeId, [one]);
  });
  // The charges of an account stand together, by their place in the columns.
  const placeOf = new Map(debt.chargeId.map((chargeId, at) => [chargeId, at]));
  const accounts: { householdId: number; part: number; places: number[] }[] = [];
  debt.householdId.forEach((householdId, at) => {
    const part = debt.part[at]!;
    const last = accounts.at(-1);
    if (last && last.householdId === householdId && last.part === part) last.places.push(at);
    else accounts.push({ householdId, part, places: [at] });
  });
  if (only === 'all') {
    const owing = new Set(accounts.map(({ householdId, part }) => keyOf(householdId, part)));
    for (const { householdId, part } of credits)
      if (!owing.has(keyOf(householdId, part))) accounts.push({ householdId, part, places: [] });
  }
  const held = new Map(credits.map(({ householdId, part, credit }) => [keyOf(householdId, part), credit]));
  // Written out, for there are tens of thousands: copying what is read takes longer than reading it.
  return accounts.map(({ householdId, part: own, places }): OwedAccount => {
    const siteId = places.length === 0 ? null : debt.siteId[places[0]!]!;
    const debts = places.map((at): Debt => {
      const chargeId = debt.chargeId[at]!;
      return {
        chargeId,
        date: debt.date[at]!,
        owed: debt.owed[at]!,
        layers: layers.get(chargeId) ?? [],
        stated: stated.get(chargeId) ?? [],
        quiet: debt.quiet[at]!,
      };
    });
    const credit = held.size === 0 ? ZERO : (held.get(keyOf(householdId, own)) ?? ZERO);
    const owed = owedOf(debts, credit, policies.of(siteId).graceDays, context.today);
    return {
      householdId,
      patientId: own === 0 ? null : own,
      siteId,
      charges: owed.charges.map((charge): OwedChargeRow => {
        const at = placeOf.get(charge.chargeId)!;
        return {
          chargeId: charge.chargeId,
          owed: charge.owed,
          credit: charge.credit,
          left: charge.left,
          remaining: charge.remaining,
          pastDue: charge.pastDue,
          quiet: charge.quiet,
          householdId,
          patientId: debt.patientId[at]!,
          caseId: debt.caseId[at]!,
          providerId: debt.providerId[at]!,
          locationId: debt.locationId[at]!,
          date: debt.date[at]!,
        };
      }),
      owed: owed.owed,
      credit: owed.credit,
      left: owed.left,
      pastDue: owed.pastDue,
      since: owed.since,
    };
  });
}

/** Whose what is owed is: a household’s, or a patient’s with an address apart. */
const keyOf = (householdId: number, part: number): string => `${householdId}/${part}`;

interface Credit {
  householdId: number;
  part: number;
  credit: Cents;
}

/**
 * Credit that is not applied, by account: as `owed_part` has it, which for one household looks at what may not be billed of all of
 * them.
 */
async function readCredits({ db }: Context, ids: readonly number[] | undefined): Promise<Credit[]> {
  const { rows } = await sql<Credit>`
    with own as (
      select p.household_id, p.id as part, coalesce(sum(k.held), 0) as credit
      from confidential_address a join patient p on p.id = a.patient_id
        left join receipt r on r.patient_id = p.id and r.household_id = p.household_id
        left join receipt_balance k on k.receipt_id = r.id
      where a.ended_on is null and ${within('p.household_id', ids)} group by 1, 2),
    reserved as materialized (
      select household_id, part, credit from reserved_part where ${within('household_id', ids)}),
    credit as (
      select b.household_id, 0 as part, b.credit - coalesce(o.credit, 0) - coalesce(v.credit, 0) as credit
      from household_balance b
        left join reserved v on v.household_id = b.household_id and v.part = 0
        left join (select household_id, sum(credit) as credit from own group by 1) o
          on o.household_id = b.household_id
      where ${within('b.household_id', ids)}
      union all
      select w.household_id, w.part, w.credit - coalesce(v.credit, 0)
      from own w left join reserved v on v.household_id = w.household_id and v.part = w.part)
    select household_id as "householdId", part::bigint as part, credit::bigint as credit
    from credit
    where credit <> 0`.execute(db);
  return rows;
}

/** Parts of entries about charges, of what is left to be asked for once the credit is spent, and is asked for at all; oldest first, by household. */
export async function leftToAsk(
  context: Context,
  householdIds: readonly number[],
): Promise<Map<number, ChargePart[]>> {
  const found = new Map<number, ChargePart[]>();
  for (const { householdId, charges } of await readOwed(context, householdIds)) {
    const own = charges.flatMap(
      ({ left, quiet, chargeId, patientId, caseId, providerId, locationId }): ChargePart[] =>
        left > 0 && !quiet
          ? [{ about: { chargeId, householdId, patientId, caseId, providerId, locationId }, amount: left }]
          : [],
    );
    if (own.length > 0) found.set(householdId, [...(found.get(householdId) ?? []), ...own]);
  }
  return found;
}
