/** Putting right a charge: what claims say of it, and what stands in the books while nobody was billed for it. */
import type { z } from 'zod';
import { chargeFixInput } from '../../core/accounts/input';
import { isOurs } from '../../core/claims/life';
import { type Cents, ZERO, add, formatMoneyPlain, minus, toDecimal } from '../../core/money';
import { chargeCorrectionEntry } from '../../core/books/entries/charges';
import { type CalendarDate, formatDate } from '../../core/calendar';
import { type Selectable, sql } from 'kysely';
import { Refused, lookAgain } from '../access';
import { enteredOnly, knownDiagnoses, serviceDoubts, serviceOf, taxAt, writeCharges } from '../accounts/door';
import { lockHouseholds, reverseEntries, writeEntries } from '../books/journal';
import { noteContract } from '../estimates/door';
import { settleParts } from '../settle';
import type { DB } from '../../db/views';
import type { Tx } from '../../db/connect';
import { type Act, useCase } from '../use-case';
import { changesOf, refuseOlder } from '../versions';
import { refreshClaims } from './check';

const LABELS = {
  diagnoses: 'Diagnoses',
  modifiers: 'Modifiers',
  tooth: 'Tooth',
  surfaces: 'Surfaces',
  area: 'Area',
  prosthesis: 'Prosthesis',
  priorPlacement: 'Placed before',
  units: 'Units',
  fee: 'Fee',
  providerId: 'Provider',
  serviceDate: 'Date',
} as const;

/** What stands in the books of a charge. */
interface Booked {
  patientId: number;
  caseId: number | null;
  code: string;
  units: number;
  fee: string;
  providerId: number;
  serviceDate: CalendarDate;
  tax: Cents;
  keptFromPayers: boolean;
}

/**
 * Changes a charge. What only claims say of it may be changed until a payer has one of them; units, fee, provider and date
 * while it is on no claim and no money has moved on it: then its entry is reversed and written anew. On a claim that corrects one that
 * the payer has, units and fee are changed too: the difference is written, and what was decided stays until the payer decides anew.
 * @throws Refused in words; Doubtful; Conflict when somebody else has changed it since the form was filled
 */
export const changeCharge = useCase({
  name: 'change charge',
  permission: 'enter charges',
  input: chargeFixInput,
  async run(act, { chargeId, version, sure, units, fee, providerId, serviceDate, ...facts }) {
    const tx = act.db;
    const known = await tx
      .selectFrom('charge')
      .select('household_id')
      .where('id', '=', chargeId)
      .where('kind', '=', 'service')
      .executeTakeFirst();
    if (!known) throw new Refused('unknown', 'There is no such charge');
    await lockHouseholds(tx, [known.household_id]);
    // Every current claim of the charge, whoever its payer is.
    const claims = await tx
      .selectFrom('claim_line as l')
      .innerJoin('claim as m', 'm.id', 'l.claim_id')
      .select(['m.id', 'm.status', 'm.control_number', 'm.frequency', 'm.replaces'])
      .where('l.charge_id', '=', chargeId)
      .where('l.current', '=', true)
      .orderBy('m.id')
      .forNoKeyUpdate('m')
      .execute();
    const gone = claims.find((claim) => !isOurs(claim.status));
    if (gone)
      throw new Refused('already', `Claim ${gone.control_number} is with the payer already`, {
        facts: { control_number: gone.control_number },
      });
    await knownDiagnoses(tx, facts.diagnoses);
    const row = await tx
      .selectFrom('charge')
      .selectAll()
      .where('id', '=', chargeId)
      .where('status', '=', 'done')
      .forNoKeyUpdate()
      .executeTakeFirst();
    if (!row) throw new Refused('state', 'This charge is void');
    const there: Booked & z.output<typeof chargeFixInput> = {
      ...row,
      chargeId,
      sure,
      patientId: row.patient_id!,
      caseId: row.case_id,
      code: row.code!,
      fee: toDecimal(row.fee),
      providerId: row.provider_id!,
      serviceDate: row.service_date,
      priorPlacement: row.prior_placement,
      keptFromPayers: row.kept_from_payers,
    };
    const wanted: Booked = {
      ...there,
      units: units ?? there.units,
      // With other units the office fee is asked for anew, unless one is typed.
      fee: fee ?? (units !== undefined && units !== there.units ? '' : there.fee),
      providerId: providerId ?? there.providerId,
      serviceDate: serviceDate ?? there.serviceDate,
    };
    refuseOlder(version, row.version, there, { ...wanted, ...facts }, LABELS);
    const booked = (['units', 'fee', 'providerId', 'serviceDate'] as const).some(
      (name) => wanted[name] !== there[name],
    );
    if (booked) {
      const original = claims.find(({ frequency, replaces }) => replaces === null || frequency === '8');
      const [corrects] = claims;
      if (original)
        throw new Refused(
          'blocked',
          `It is on claim ${original.control_number}: withdraw that to change units, fee, provider or date`,
          { facts: { control_number: original.control_number } },
        );
      if (corrects && wanted.providerId !== there.providerId)
        throw new Refused(
          'blocked',
          `Claim ${corrects.control_number} corrects it: say there who did it, for all its lines`,
          { field: 'providerId', facts: { control_number: corrects.control_number } },
        );
      if (corrects) await bookDifference(act, row, { ...wanted, ...facts }, sure);
      else await bookAnew(act, chargeId, { ...wanted, ...facts }, sure);
    }
    const { priorPlacement, ...columns } = facts;
    await tx
      .updateTable('charge')
      .set({ ...columns, prior_placement: priorPlacement })
      .where('id', '=', chargeId)
      .execute();
    await refreshClaims(
      tx,
      act,
      claims.map(({ id }) => id),
    );
    await act.note(
      'changed',
      { kind: 'charge', id: chargeId },
      changesOf(there, { ...wanted, ...facts }, LABELS),
    );
  },
});

/** Whether the tax on a charge is what its site says of the service. */
async function isTaxOfSite(tx: Tx, chargeId: number): Promise<boolean> {
  const row = await tx
    .selectFrom('charge as c')
    .innerJoin('service_code as s', 's.code', 'c.code')
    .innerJoin('location as l', 'l.id', 'c.location_id')
    .select(['c.fee', 'c.tax', 's.taxable', 'l.tax_rate'])
    .where('c.id', '=', chargeId)
    .executeTakeFirstOrThrow();
  return row.tax === taxAt(row.tax_rate, row);
}

/**
 * Writes so much more or less as a corrected claim asks for, with whom it was asked of. What payers decided and patients paid stays as it
 * is until the payer decides anew; what we had settled ourselves is put right at once.
 */
async function bookDifference(
  act: Act,
  row: Selectable<DB['charge']>,
  wanted: Booked & Pick<z.output<typeof chargeFixInput>, 'diagnoses' | 'tooth' | 'surfaces' | 'area'>,
  sure: boolean,
): Promise<void> {
  const tx = act.db;
  const asked = { ...wanted, tax: (await isTaxOfSite(tx, row.id)) ? '' : toDecimal(wanted.tax) };
  const found = await serviceOf(tx, act.today, wanted.patientId, asked);
  const [before, now] = [add(row.fee, row.tax), add(found.fee, found.tax)];
  if (found.patient.coverage_id !== row.coverage_id)
    throw new Refused(
      'blocked',
      'On that day another insurer covers it: void what the payer has, and bill it anew',
      'serviceDate',
    );
  await tx.updateTable('charge').set({ service_date: wanted.serviceDate }).where('id', '=', row.id).execute();
  await sql`
    update claim m set service_date = (
      select min(c.service_date) from claim_line l join charge c on c.id = l.charge_id where l.claim_id = m.id
    )
    where m.status in ('draft', 'ready', 'held', 'rejected')
      and exists (select from claim_line l where l.claim_id = m.id and l.current and l.charge_id = ${row.id})`.execute(
    tx,
  );
  const owing = await tx
    .selectFrom('coverage_plan as o')
    .innerJoin('payer as y', 'y.id', 'o.payer_id')
    .leftJoin('payer_balance as b', (join) =>
      join.onRef('b.coverage_id', '=', 'o.id').on('b.charge_id', '=', row.id),
    )
    .select(['o.id as coverageId', 'y.id as payerId', 'y.name', 'b.with_payer as waits'])
    .where('o.id', '=', row.coverage_id)
    .executeTakeFirstOrThrow();
  const waits = add(owing.waits ?? ZERO, minus(now, before));
  lookAgain(sure, [
    ...(await serviceDoubts(tx, act.today, wanted.patientId, asked, found, row.id)),
    ...(wanted.serviceDate === row.service_date
      ? []
      : [`It was done on ${formatDate(wanted.serviceDate)} instead of ${formatDate(row.service_date)}`]),
    ...(now === before
      ? []
      : [
          `It comes to ${formatMoneyPlain(now)} instead of ${formatMoneyPlain(before)}: ${formatMoneyPlain(waits)} then waits with ${owing.name} until it decides anew`,
        ]),
  ]);
  if (now !== before)
    await writeEntries(tx, act, [
      chargeCorrectionEntry({
        businessDate: act.today,
        memo: `${formatMoneyPlain(now)} instead of ${formatMoneyPlain(before)}`,
        fee: minus(found.fee, row.fee),
        tax: minus(found.tax, row.tax),
        taxBilled: row.tax_billed,
        about: {
          chargeId: row.id,
          householdId: row.household_id,
          patientId: row.patient_id!,
          caseId: row.case_id,
          providerId: row.provider_id!,
          locationId: row.location_id,
        },
        coverage: { coverageId: owing.coverageId, payerId: owing.payerId },
      }),
    ]);
  await tx
    .updateTable('charge')
    .set({ units: wanted.units, fee: found.fee, tax: found.tax })
    .where('id', '=', row.id)
    .execute();
  await noteContract(tx, act, [row.id]);
  await settleParts(tx, act, [row.id]);
}

/** Takes a charge out of the books and writes it anew with what it says now. */
async function bookAnew(
  act: Act,
  chargeId: number,
  wanted: Booked & Pick<z.output<typeof chargeFixInput>, 'diagnoses' | 'tooth' | 'surfaces' | 'area'>,
  sure: boolean,
): Promise<void> {
  const tx = act.db;
  const entered = await enteredOnly(tx, chargeId);
  // What the site's tax came to is counted anew; what was typed stays.
  const asked = { ...wanted, tax: (await isTaxOfSite(tx, chargeId)) ? '' : toDecimal(wanted.tax) };
  const found = await serviceOf(tx, act.today, wanted.patientId, asked);
  lookAgain(sure, await serviceDoubts(tx, act.today, wanted.patientId, asked, found, chargeId));
  await reverseEntries(tx, act, entered, 'Put right before it was billed');
  await tx
    .updateTable('charge')
    .set({
      units: wanted.units,
      fee: found.fee,
      provider_id: wanted.providerId,
      location_id: found.provider.location_id,
      service_date: wanted.serviceDate,
      coverage_id: found.patient.coverage_id,
      tax_billed: found.patient.tax_billed,
      tax: found.tax,
    })
    .where('id', '=', chargeId)
    .execute();
  await writeCharges(
    act,
    wanted.patientId,
    wanted,
    found,
    [{ id: chargeId, memo: found.service.description, fee: found.fee, tax: found.tax }],
    String(entered[0] ?? 0),
  );
}
