/** Entering and voiding charges: services of patients, and what is put on an account. */
import { accountChargeInput, chargeInput, voidInput } from '../../core/accounts/input';
import { ACCOUNT_CHARGES, accountChargeEntry, chargeEntry } from '../../core/books/entries';
import { type Cents, ZERO, parseMoney, times } from '../../core/money';
import type { Db } from '../../db/connect';
import { Refused } from '../access';
import { lockHouseholds, reverseEntries, standingEntries, writeEntries } from '../books/journal';
import { useCase } from '../use-case';

/** @throws Refused when a diagnosis is not in the list */
export async function knownDiagnoses(db: Db, codes: readonly string[]): Promise<void> {
  if (codes.length === 0) return;
  const rows = await db.selectFrom('diagnosis').select('code').where('code', 'in', codes).execute();
  const known = new Set(rows.map((row) => row.code));
  const missing = codes.find((code) => !known.has(code));
  if (missing) throw new Refused(`Diagnosis ${missing} is not in the list`, 'diagnoses');
}

async function officeFee(db: Db, code: string, units: number): Promise<Cents | null> {
  const row = await db
    .selectFrom('fee')
    .innerJoin('fee_schedule as s', 's.id', 'fee.fee_schedule_id')
    .select('amount')
    .where('s.kind', '=', 'office')
    .where('code', '=', code)
    .executeTakeFirst();
  return row ? times(row.amount, units) : null;
}

/** The fee as typed, or the office fee. @throws Refused when it is none */
async function feeOf(db: Db, text: string, code: string, units: number): Promise<Cents> {
  const fee = text === '' ? await officeFee(db, code, units) : parseMoney(text);
  if (fee === null)
    throw new Refused(text === '' ? `${code} has no office fee: enter one` : 'Fee is not an amount', 'fee');
  if (fee < 0) throw new Refused('Fee cannot be below zero', 'fee');
  return fee;
}

function taxOf(text: string): Cents {
  const tax = text === '' ? ZERO : parseMoney(text);
  if (tax === null || tax < 0) throw new Refused('Tax is not an amount', 'tax');
  return tax;
}

/** Enters a done service and writes it to the books. @returns the charge's id */
export const enterCharge = useCase({
  name: 'enter charge',
  permission: 'enter charges',
  input: chargeInput,
  once: (data) => data.key,
  async run(act, data) {
    const tx = act.db;
    if (data.serviceDate > act.today) throw new Refused('Date lies in the future', 'serviceDate');
    const patient = await tx
      .selectFrom('patient')
      .innerJoin('care_case as c', 'c.patient_id', 'patient.id')
      .leftJoin('coverage as o', (join) => join.onRef('o.case_id', '=', 'c.id').on('o.position', '=', 1))
      .leftJoin('plan', 'plan.id', 'o.plan_id')
      .select(['patient.household_id', 'c.id as case_id', 'o.id as coverage_id', 'plan.payer_id'])
      .where('patient.id', '=', data.patientId)
      .where('c.standing', '=', true)
      .executeTakeFirst();
    if (!patient) throw new Refused('This person is not registered', 'patientId');
    const provider = await tx
      .selectFrom('provider')
      .select(['id', 'location_id'])
      .where('id', '=', data.providerId)
      .executeTakeFirst();
    if (!provider) throw new Refused('Choose a provider', 'providerId');
    const service = await tx
      .selectFrom('service_code')
      .selectAll()
      .where('code', '=', data.code)
      .where('active', '=', true)
      .executeTakeFirst();
    if (!service) throw new Refused(`Code ${data.code} is not in the list of services`, 'code');
    await knownDiagnoses(tx, data.diagnoses);
    if (service.needs_tooth && !data.tooth) throw new Refused(`${data.code} needs a tooth`, 'tooth');
    if (service.needs_surface && !data.surfaces) throw new Refused(`${data.code} needs surfaces`, 'surfaces');
    const fee = await feeOf(tx, data.fee, data.code, data.units);
    const tax = taxOf(data.tax);
    const { id } = await tx
      .insertInto('charge')
      .values({
        household_id: patient.household_id,
        patient_id: data.patientId,
        case_id: patient.case_id,
        coverage_id: patient.coverage_id,
        provider_id: provider.id,
        location_id: provider.location_id,
        code: data.code,
        description: service.description,
        form: service.form,
        modifiers: data.modifiers,
        units: data.units,
        fee,
        tax,
        service_date: data.serviceDate,
        tooth: data.tooth,
        surfaces: data.surfaces,
        diagnoses: data.diagnoses,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    await writeEntries(tx, act, [
      chargeEntry({
        businessDate: data.serviceDate,
        memo: service.description,
        fee,
        tax,
        about: {
          chargeId: id,
          householdId: patient.household_id,
          patientId: data.patientId,
          caseId: patient.case_id,
          providerId: provider.id,
          locationId: provider.location_id,
        },
        coverage:
          patient.coverage_id && patient.payer_id
            ? { coverageId: patient.coverage_id, payerId: patient.payer_id }
            : null,
      }),
    ]);
    await act.note('entered', { kind: 'charge', id });
    return id;
  },
});

/** Puts interest, a late charge or a balance brought in on an account: no service, no provider. @returns the charge's id */
export const chargeAccount = useCase({
  name: 'charge account',
  permission: 'enter charges',
  input: accountChargeInput,
  once: (data) => data.key,
  async run(act, { householdId, kind, amount, date, memo }) {
    if (amount <= 0) throw new Refused('Amount must be more than zero', 'amount');
    if (date > act.today) throw new Refused('Date lies in the future', 'date');
    await lockHouseholds(act.db, [householdId]);
    const household = await act.db
      .selectFrom('household')
      .select('id')
      .where('id', '=', householdId)
      .executeTakeFirst();
    if (!household) throw new Refused('There is no such account');
    const description = memo || ACCOUNT_CHARGES[kind].words;
    const { id } = await act.db
      .insertInto('charge')
      .values({ household_id: householdId, kind, description, fee: amount, service_date: date })
      .returning('id')
      .executeTakeFirstOrThrow();
    await writeEntries(act.db, act, [
      accountChargeEntry({
        kind,
        businessDate: date,
        memo: description,
        amount,
        about: { chargeId: id, householdId },
      }),
    ]);
    await act.note('charged', { kind: 'charge', id }, { kind, amount });
    return id;
  },
});

/** Voids a charge that is on no current claim and on which no money has moved. */
export const voidCharge = useCase({
  name: 'void charge',
  permission: 'enter charges',
  input: voidInput,
  async run(act, { chargeId, why }) {
    const tx = act.db;
    const charge = await tx
      .selectFrom('charge')
      .select('household_id')
      .where('id', '=', chargeId)
      .executeTakeFirst();
    if (!charge) throw new Refused('There is no such charge');
    await lockHouseholds(tx, [charge.household_id]);
    const { status } = await tx
      .selectFrom('charge')
      .select('status')
      .where('id', '=', chargeId)
      .forNoKeyUpdate()
      .executeTakeFirstOrThrow();
    if (status !== 'done') throw new Refused('This charge is void already');
    const billed = await tx
      .selectFrom('claim_line')
      .select('id')
      .where('charge_id', '=', chargeId)
      .where('current', '=', true)
      .executeTakeFirst();
    if (billed) throw new Refused('This charge is on a claim: withdraw the claim first');
    const standing = await standingEntries(tx, chargeId);
    if (standing.some(({ kind }) => kind !== 'charge' && kind !== 'account-charge' && kind !== 'opening'))
      throw new Refused('Money has moved on this charge: reverse that first');
    await reverseEntries(
      tx,
      act,
      standing.map((entry) => entry.id),
      why,
    );
    await tx.updateTable('charge').set({ status: 'void' }).where('id', '=', chargeId).execute();
    await act.note('voided', { kind: 'charge', id: chargeId }, { why });
  },
});
