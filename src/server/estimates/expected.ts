/**
 * Expected write-offs: where a practice counts them on the day of service, what the first coverage's contract will take off reduces at
 * once what its payer is expected to owe. The first decision that allows or reduces takes it back first, and so does whoever settles a
 * denial, a void and another coverage; a decision that is taken back whole brings it back.
 */
import { sql } from 'kysely';
import { expectedWriteOffEntry } from '../../core/books/entries/payers';
import type { CalendarDate } from '../../core/calendar';
import { type Cents, ZERO, minus, negate } from '../../core/money';
import type { Tx } from '../../db/connect';
import type { Context } from '../access';
import { isUndecided } from '../books/decided';
import { writeEntries } from '../books/journal';
import { estimateEach, inFacility } from './read';

interface Expecting {
  chargeId: number;
  householdId: number;
  patientId: number;
  caseId: number;
  providerId: number;
  locationId: number;
  date: CalendarDate;
  /** Its first coverage, where it is done, not kept from payers, undecided and counts what is expected. */
  coverageId: number | null;
  payerId: number | null;
  payer: string;
  /** What waits with that payer, before anything is expected to come off. */
  open: Cents;
  /** What its contract takes off. */
  off: Cents;
  /** What stands as expected, by coverage. */
  stands: { coverageId: number; payerId: number; amount: Cents }[];
}

/** Charges that count expected write-offs, or on which some stand; one query. */
async function expectingOf(tx: Tx, chargeIds: readonly number[]): Promise<Expecting[]> {
  const { rows } = await sql<Expecting>`
    select c.id as "chargeId", c.household_id as "householdId", c.patient_id as "patientId", c.case_id as "caseId",
      c.provider_id as "providerId", c.location_id as "locationId", c.service_date as date,
      o.id as "coverageId", o.payer_id as "payerId", coalesce(y.name, '') as payer,
      coalesce(w.with_payer, 0) + coalesce(s.amount, 0) as open, c.contract_off as off, coalesce(s.each, '[]') as stands
    from charge c
      join charge_balance b on b.charge_id = c.id
      left join coverage_plan o on o.id = c.coverage_id
        and c.expects
        and c.status = 'done'
        and not c.kept_from_payers
        and ${isUndecided(sql`c.id`)}
      left join payer y on y.id = o.payer_id
      left join payer_balance w on w.charge_id = c.id and w.coverage_id = o.id
      left join lateral (
        select sum(e.amount) filter (where e.coverage_id = o.id) as amount,
          json_agg(json_build_object('coverageId', e.coverage_id, 'payerId', e.payer_id, 'amount', e.amount)) as each
        from (
          select p.coverage_id, max(p.payer_id) as payer_id, sum(p.amount)::bigint as amount
          from posting p
          where p.charge_id = c.id and p.account = 'reduction/expected'
          group by p.coverage_id
          having sum(p.amount) <> 0
        ) e
      ) s on true
    where c.id = any(${[...chargeIds]}::bigint[]) and (c.expects or b.expected <> 0)
    order by c.id`.execute(tx);
  return rows;
}

/** Writes so much more as expected to come off, or takes it back. */
const entry = (
  on: CalendarDate | 'service',
  one: Expecting,
  to: { coverageId: number; payerId: number },
  amount: Cents,
) =>
  expectedWriteOffEntry({
    businessDate: on === 'service' ? one.date : on,
    memo: amount > 0 ? 'expected to come off by contract' : 'no longer only expected',
    amount,
    about: {
      chargeId: one.chargeId,
      householdId: one.householdId,
      patientId: one.patientId,
      caseId: one.caseId,
      providerId: one.providerId,
      locationId: one.locationId,
      ...to,
    },
  });

/**
 * Puts what is expected to come off charges that count it to what it is to be: nothing once a decision stands, or where nothing waits
 * with the first payer, else what its contract takes off. It counts on the day of service, or on the day on which it is so again. What
 * would leave nothing with the payer is not expected: a claim has to be answered.
 */
export async function expectWriteOffs(
  tx: Tx,
  context: Context,
  chargeIds: readonly number[],
  on: CalendarDate | 'service' = context.today,
): Promise<void> {
  if (chargeIds.length === 0) return;
  const found = await expectingOf(tx, chargeIds);
  if (found.length === 0) return;
  const drafts = found.flatMap((one) => {
    const { coverageId, payerId, open, off, stands } = one;
    const target = coverageId === null || open <= 0 || off >= open ? ZERO : off;
    const there = stands.find((stand) => stand.coverageId === coverageId)?.amount ?? ZERO;
    const elsewhere = stands.filter((stand) => stand.coverageId !== coverageId);
    return [
      ...elsewhere.map((stand) => entry(on, one, stand, negate(stand.amount))),
      ...(coverageId !== null && payerId !== null && target !== there
        ? [entry(on, one, { coverageId, payerId }, minus(target, there))]
        : []),
    ];
  });
  await writeEntries(tx, context, drafts);
}

/**
 * Notes what the contract of their first coverage takes off charges that were entered, or stand under another coverage, and lets those
 * count it that do so. Two queries, and those of an estimate where there is a contract.
 */
export async function noteContract(tx: Tx, context: Context, chargeIds: readonly number[]): Promise<void> {
  const { rows } = await sql<{
    id: number;
    caseId: number;
    code: string;
    category: string;
    units: number;
    fee: Cents;
    day: CalendarDate;
    tooth: string;
    modifiers: string[];
    facility: boolean;
    wanted: boolean;
    off: Cents;
  }>`
    select c.id, c.case_id as "caseId", c.code, s.category, c.units, c.fee, c.service_date as day, c.tooth, c.modifiers,
      ${inFacility(sql`c.case_id`, sql`c.location_id`)} as facility, c.id = any(${[...chargeIds]}::bigint[]) as wanted,
      c.contract_off as off
    from charge c
      join service_code s on s.code = c.code
    where c.status = 'done'
      and (c.case_id, c.service_date) in (
        select k.case_id, k.service_date from charge k where k.id = any(${[...chargeIds]}::bigint[])
      )
      and exists (
        select
        from coverage_plan o
          join insurance_plan n on n.id = o.insurance_plan_id
        where o.id = c.coverage_id and n.contracted
      )
    order by c.id`.execute(tx);
  // What was done for one case on one day is one visit; others have their own.
  const estimates = await estimateEach(
    tx,
    rows.map((row) => ({ ...row, visit: `${row.caseId}/${row.day}` })),
  );
  const offs = new Map(estimates.map(({ id, writeOff }) => [id, writeOff]));
  const changed = [
    ...rows.filter(({ id, wanted, off }) => wanted && offs.get(id) !== off).map(({ id }) => id),
    ...chargeIds.filter((id) => !offs.has(id)),
  ];
  if (changed.length > 0)
    await sql`
      update charge c set contract_off = s.off
      from unnest(
        ${changed}::bigint[], ${changed.map((id) => offs.get(id) ?? ZERO)}::bigint[]
      ) as s (id, off)
      where c.id = s.id and c.contract_off <> s.off`.execute(tx);
  await expectWriteOffs(tx, context, chargeIds, 'service');
}

/** Takes back what is expected to come off charges, before something is said of them that counts in full, on its day. */
export async function takeExpectedBack(
  tx: Tx,
  context: Context,
  chargeIds: readonly number[],
  on: CalendarDate | 'service' = context.today,
): Promise<void> {
  if (chargeIds.length === 0) return;
  const { rows } = await sql<{ id: number }>`
    select charge_id as id
    from charge_balance
    where charge_id = any(${[...chargeIds]}::bigint[]) and expected <> 0`.execute(tx);
  if (rows.length === 0) return;
  const found = await expectingOf(
    tx,
    rows.map(({ id }) => id),
  );
  await writeEntries(
    tx,
    context,
    found.flatMap((one) => one.stands.map((stand) => entry(on, one, stand, negate(stand.amount)))),
  );
}
