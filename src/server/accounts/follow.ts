/** What nobody was billed for yet follows the coverage that is in force on its day. */
import { type RawBuilder, sql } from 'kysely';
import { type Owing, coverageChangeEntry } from '../../core/books/entries/charges';
import { type CalendarDate, formatDate } from '../../core/calendar';
import { type Cents, ZERO, minus } from '../../core/money';
import type { Tx } from '../../db/connect';
import { noteContract, takeExpectedBack } from '../estimates/door';
import { movesSomething, unreversedEntries, writeEntries } from '../books/journal';
import type { Act } from '../use-case';

/** A charge of a case whose first coverage on its day is another one than it was entered under. */
interface Misplaced {
  id: number;
  service_date: CalendarDate;
  provider_id: number | null;
  location_id: number | null;
  old_coverage: number | null;
  old_payer: number | null;
  new_coverage: number | null;
  new_payer: number | null;
  payer_name: string | null;
  held: Cents;
}

/**
 * Charges that are on no claim, with the coverage that they stand under and the one of their day; none where they are
 * kept from insurers.
 */
export async function owingOf(tx: Tx, which: RawBuilder<unknown>, kept: boolean): Promise<Misplaced[]> {
  const { rows } = await sql<Misplaced>`
    select c.id, c.service_date, c.provider_id, c.location_id, c.coverage_id as old_coverage,
      o.payer_id as old_payer, n.id as new_coverage, n.payer_id as new_payer, y.name as payer_name,
      case when c.coverage_id is null then b.with_patient else coalesce(w.with_payer, 0) + b.expected end as held
    from charge c join charge_balance b on b.charge_id = c.id
      left join coverage_plan o on o.id = c.coverage_id
      left join payer_balance w on w.charge_id = c.id and w.coverage_id = c.coverage_id
      left join coverage_plan n on not ${kept}::boolean and n.id = coverage_on(c.case_id, 1, c.service_date)
      left join payer y on y.id = n.payer_id
    where ${which} and c.kind = 'service' and c.status = 'done'
      and not exists (select 1 from claim_line l where l.charge_id = c.id and l.bills)
    order by c.id for no key update of c`.execute(tx);
  return rows;
}

/** Whether money has moved on a charge since it was entered. */
export async function isMoved(tx: Tx, chargeId: number): Promise<boolean> {
  const others = (await unreversedEntries(tx, chargeId)).filter(
    ({ kind }) =>
      kind !== 'charge' &&
      kind !== 'charge-correction' &&
      kind !== 'coverage-change' &&
      kind !== 'expected-write-off',
  );
  return movesSomething(
    tx,
    chargeId,
    others.map(({ id }) => id),
  );
}

/** Moves what nobody was billed for to who owes it now. Charges on which money has moved stay as they are. */
export async function follow(
  act: Act,
  patient: { id: number; household_id: number; case_id: number },
): Promise<{ followed: number; left: number }> {
  const rows = (
    await owingOf(act.db, sql`c.case_id = ${patient.case_id} and not c.kept_from_payers`, false)
  ).filter((row) => row.new_coverage !== row.old_coverage);
  let followed = 0;
  for (const row of rows) {
    if (await isMoved(act.db, row.id)) continue;
    await moveOwing(act, patient, row);
    followed += 1;
  }
  return { followed, left: rows.length - followed };
}

/** Moves what is owed on a charge from one payer, or the patient, to the other. */
export async function moveOwing(
  act: Act,
  patient: { id: number; household_id: number; case_id: number },
  row: Misplaced,
  why = row.payer_name
    ? `${row.payer_name} is asked now`
    : `no coverage was in force on ${formatDate(row.service_date)}`,
): Promise<void> {
  // What the contract of the one before was expected to take off is no longer expected.
  await takeExpectedBack(act.db, act, [row.id], 'service');
  const owing = (coverageId: number | null, payerId: number | null): Owing =>
    coverageId && payerId ? { coverageId, payerId } : null;
  const from = owing(row.old_coverage, row.old_payer);
  const to = owing(row.new_coverage, row.new_payer);
  // Tax on a service is the patient's, whoever owes the service, unless its payer takes it.
  const tax = await taxOf(act.db, row);
  const billed = tax.now && to !== null;
  await writeEntries(act.db, act, [
    coverageChangeEntry({
      businessDate: row.service_date,
      memo: why,
      amount: minus(row.held, from === null || tax.billed ? tax.amount : ZERO),
      about: {
        chargeId: row.id,
        householdId: patient.household_id,
        patientId: patient.id,
        caseId: patient.case_id,
        providerId: row.provider_id,
        locationId: row.location_id,
      },
      from,
      to,
      tax: { amount: tax.amount, from: tax.billed ? from : null, to: billed ? to : null },
    }),
  ]);
  await act.db
    .updateTable('charge')
    .set({ coverage_id: row.new_coverage, tax_billed: billed })
    .where('id', '=', row.id)
    .execute();
  await noteContract(act.db, act, [row.id]);
}

/** Tax on a charge, whether its payer is asked for it, and whether the next one takes it. */
const taxOf = (
  tx: Tx,
  { id, new_payer }: Misplaced,
): Promise<{ amount: Cents; billed: boolean; now: boolean }> =>
  tx
    .selectFrom('charge as c')
    .select([
      'c.tax as amount',
      'c.tax_billed as billed',
      sql<boolean>`coalesce((select y.takes_tax from payer y where y.id = ${new_payer}), false)`.as('now'),
    ])
    .where('c.id', '=', id)
    .executeTakeFirstOrThrow();
