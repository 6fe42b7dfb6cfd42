/** Entering and voiding charges: services of patients, and what is put on an account. */
import { sql } from 'kysely';
import { accountChargeInput, chargeInput, completeInput, voidInput } from '../../core/accounts/input';
import { ACCOUNT_CHARGES, accountChargeEntry, chargeEntry } from '../../core/books/entries/charges';
import { type CalendarDate, addDays, formatDate } from '../../core/calendar';
import { type Cents, ZERO, cents, formatMoneyPlain, parseMoney, times, toDecimal } from '../../core/money';
import type { EntryKind } from '../../core/books/kinds';
import type { Db, Tx } from '../../db/connect';
import { Refused, lookAgain } from '../access';
import {
  lockHouseholds,
  movesSomething,
  reverseEntries,
  unreversedEntries,
  writeEntries,
} from '../books/journal';
import { limitDoubts } from '../estimates/door';
import { type Act, useCase } from '../use-case';

/** @throws Refused when a diagnosis is not in the list */
export async function knownDiagnoses(db: Db, codes: readonly string[]): Promise<void> {
  if (codes.length === 0) return;
  const rows = await db.selectFrom('diagnosis').select('code').where('code', 'in', codes).execute();
  const known = new Set(rows.map((row) => row.code));
  const missing = codes.find((code) => !known.has(code));
  if (missing) throw new Refused('invalid', `Diagnosis ${missing} is not in the list`, 'diagnoses');
}

async function officeFee(db: Db, code: string, units: number, day: CalendarDate): Promise<Cents | null> {
  const row = await db
    .selectFrom('fee_schedule as s')
    .select(sql<Cents | null>`fee_on(s.id, ${code}, ${day}::date)`.as('amount'))
    .where('s.kind', '=', 'office')
    .executeTakeFirst();
  return row?.amount ? times(row.amount, units) : (row?.amount ?? null);
}

/** The price of a service that a case has by itself, for all units. */
async function caseFee(db: Db, caseId: number, code: string, units: number): Promise<Cents | null> {
  const own = await db
    .selectFrom('case_service')
    .select('fee')
    .where('case_id', '=', caseId)
    .where('code', '=', code)
    .executeTakeFirst();
  return own?.fee ? times(own.fee, units) : (own?.fee ?? null);
}

/** The fee as typed, or what the case says of it, or the office fee. @throws Refused when it is none */
async function feeOf(
  db: Db,
  { fee: text, code, units, serviceDate }: Pick<ServiceFacts, 'fee' | 'code' | 'units' | 'serviceDate'>,
  caseId: number,
): Promise<Cents> {
  const fee =
    text === ''
      ? ((await caseFee(db, caseId, code, units)) ?? (await officeFee(db, code, units, serviceDate)))
      : parseMoney(text);
  if (fee === null)
    throw new Refused(
      'state',
      text === '' ? `${code} has no office fee: enter one` : 'Fee is not an amount',
      'fee',
    );
  if (fee < 0) throw new Refused('limit', 'Fee cannot be below zero', 'fee');
  return fee;
}

function taxOf(text: string): Cents {
  const tax = text === '' ? ZERO : parseMoney(text);
  if (tax === null || tax < 0) throw new Refused('invalid', 'Tax is not an amount', 'tax');
  return tax;
}

/** What is said of a service when it is entered or put right. */
interface ServiceFacts {
  /** For which case of the patient; the standing one where nothing is said. */
  caseId?: number | null;
  providerId: number;
  serviceDate: CalendarDate;
  code: string;
  units: number;
  /** As typed; empty for the office fee. */
  fee: string;
  diagnoses: string[];
  tooth: string;
  surfaces: string;
  /** Not done yet: its day may lie ahead. */
  planned?: boolean;
  /** The patient pays it, and no insurer learns of it. */
  keptFromPayers?: boolean;
}

/** A service is looked at again when it is older than this. */
const OLD_DAYS = 365;
/** A service is planned at most so far ahead. */
const PLANNED_DAYS = 5 * 366;
/** A fee is looked at again from here, in cents. */
const HIGH_FEE = cents(100_000_00);

/**
 * Looks up whom and what a service is about: patient, coverage on its day, provider, code, fee.
 * @throws Refused naming the field that is wrong
 */
export async function serviceOf(tx: Tx, today: CalendarDate, patientId: number, data: ServiceFacts) {
  if (data.serviceDate > today && !data.planned)
    throw new Refused('date', 'Date lies in the future', 'serviceDate');
  if (data.serviceDate > addDays(today, PLANNED_DAYS))
    throw new Refused('limit', 'Date lies more than five years ahead', 'serviceDate');
  const known = await tx
    .selectFrom('patient as p')
    .innerJoin('care_case as c', 'c.patient_id', 'p.id')
    .leftJoin('coverage_plan as o', (join) =>
      join.on('o.id', '=', sql<number>`coverage_on(c.id, 1, ${data.serviceDate}::date)`),
    )
    .select(['p.household_id', 'p.birth_date', 'c.id as case_id', 'o.id as coverage_id', 'o.payer_id'])
    .select([
      'c.name as case_name',
      'c.discharged_on',
      'c.accident_date',
      'c.location_id as case_location_id',
    ])
    .select(
      sql<boolean>`exists (select 1 from coverage x where x.case_id = c.id and x.position = 1)`.as('insured'),
    )
    .where('p.id', '=', patientId)
    .where((eb) => (data.caseId ? eb('c.id', '=', data.caseId) : eb('c.standing', '=', true)))
    .executeTakeFirst();
  if (!known)
    throw data.caseId
      ? new Refused('others', 'This case is not this person’s', 'caseId')
      : new Refused('unknown', 'This person is not registered', 'patientId');
  const patient = data.keptFromPayers
    ? { ...known, coverage_id: null, payer_id: null, insured: false }
    : known;
  if (known.discharged_on !== null && data.serviceDate > known.discharged_on)
    throw new Refused(
      'state',
      `“${known.case_name}” is closed since ${formatDate(known.discharged_on)}: open it again, or choose another case`,
      { field: 'caseId', facts: { discharged_on: known.discharged_on } },
    );
  if (data.serviceDate < patient.birth_date)
    throw new Refused('date', `Date lies before the birth, ${formatDate(patient.birth_date)}`, {
      field: 'serviceDate',
      facts: { birth_date: patient.birth_date },
    });
  const provider = await tx
    .selectFrom('provider')
    .select(['id', 'location_id'])
    .where('id', '=', data.providerId)
    .executeTakeFirst();
  if (!provider) throw new Refused('missing', 'Choose a provider', 'providerId');
  const service = await tx
    .selectFrom('service_code')
    .selectAll()
    .where('code', '=', data.code)
    .where('active', '=', true)
    .executeTakeFirst();
  if (!service) throw new Refused('invalid', `Code ${data.code} is not in the list of services`, 'code');
  await knownDiagnoses(tx, data.diagnoses);
  if (service.needs_tooth && !data.tooth) throw new Refused('missing', `${data.code} needs a tooth`, 'tooth');
  if (service.needs_surface && !data.surfaces)
    throw new Refused('missing', `${data.code} needs surfaces`, 'surfaces');
  return {
    patient,
    provider: { ...provider, location_id: known.case_location_id ?? provider.location_id },
    service,
    fee: await feeOf(tx, data, known.case_id),
  };
}

/** What is doubtful about a service: long ago, entered already, no coverage on its day, a fee out of the common. */
export async function serviceDoubts(
  tx: Tx,
  today: CalendarDate,
  patientId: number,
  data: ServiceFacts,
  found: Awaited<ReturnType<typeof serviceOf>>,
  except = 0,
): Promise<(string | false)[]> {
  const day = formatDate(data.serviceDate);
  const twice = await tx
    .selectFrom('charge')
    .select('id')
    .where('patient_id', '=', patientId)
    .where('service_date', '=', data.serviceDate)
    .where('code', '=', data.code)
    .where('tooth', '=', data.tooth)
    .where('status', '=', 'done')
    .where('id', '<>', except)
    .executeTakeFirst();
  return [
    data.serviceDate < addDays(today, -OLD_DAYS) && `${day} is more than a year ago`,
    twice !== undefined &&
      `${data.code}${data.tooth ? ` on tooth ${data.tooth}` : ''} is entered already for ${day}`,
    found.patient.accident_date !== null &&
      data.serviceDate < found.patient.accident_date &&
      `${day} lies before the accident of “${found.patient.case_name}”`,
    found.patient.insured &&
      found.patient.coverage_id === null &&
      `No coverage was in force on ${day}: the patient would owe it`,
    found.fee > HIGH_FEE && `The fee is ${formatMoneyPlain(found.fee)}`,
  ];
}

type Found = Awaited<ReturnType<typeof serviceOf>>;
const whereOf = ({ patient }: Found) => ({ caseId: patient.case_id, householdId: patient.household_id });
/** A service as it is estimated before it is entered. */
const typedOf = (
  { code, units, serviceDate: date, tooth }: Pick<ServiceFacts, 'code' | 'units' | 'serviceDate' | 'tooth'>,
  { fee }: Found,
) => ({ code, units, fee, date, tooth });

/** The entry of a service in the books; `again` when it was in them before, with other facts. */
export async function writeCharge(
  act: Act,
  id: number,
  patientId: number,
  data: Pick<ServiceFacts, 'serviceDate'> & { tax: Cents },
  { patient, provider, service, fee }: Awaited<ReturnType<typeof serviceOf>>,
  again?: string,
): Promise<void> {
  const draft = chargeEntry({
    businessDate: data.serviceDate,
    memo: service.description,
    fee,
    tax: data.tax,
    about: {
      chargeId: id,
      householdId: patient.household_id,
      patientId,
      caseId: patient.case_id,
      providerId: provider.id,
      locationId: provider.location_id,
    },
    coverage:
      patient.coverage_id && patient.payer_id
        ? { coverageId: patient.coverage_id, payerId: patient.payer_id }
        : null,
  });
  await writeEntries(act.db, act, [again ? { ...draft, key: `${draft.key}:${again}` } : draft]);
}

/** Enters a done service and writes it to the books. @returns the charge's id */
export const enterCharge = useCase({
  name: 'enter charge',
  permission: 'enter charges',
  input: chargeInput,
  once: (data) => data.key,
  async run(act, data) {
    const tx = act.db;
    const found = await serviceOf(tx, act.today, data.patientId, data);
    const tax = taxOf(data.tax);
    lookAgain(data.sure, [
      ...(await serviceDoubts(tx, act.today, data.patientId, data, found)),
      ...(data.sure || data.planned || data.keptFromPayers
        ? []
        : await limitDoubts(act, whereOf(found), typedOf(data, found))),
    ]);
    const { patient, provider, service, fee } = found;
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
        area: data.area,
        prosthesis: data.prosthesis,
        prior_placement: data.priorPlacement,
        diagnoses: data.diagnoses,
        kept_from_payers: data.keptFromPayers,
        status: data.planned ? 'planned' : 'done',
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    if (!data.planned)
      await writeCharge(act, id, data.patientId, { serviceDate: data.serviceDate, tax }, found);
    await act.note(data.planned ? 'planned' : 'entered', { kind: 'charge', id });
    return id;
  },
});

/** Enters a planned service as done on a day: it is written to the books at its fee, for the coverage of that day. */
export const completeCharge = useCase({
  name: 'complete charge',
  permission: 'enter charges',
  input: completeInput,
  async run(act, { chargeId, serviceDate, sure }) {
    const tx = act.db;
    const known = await tx
      .selectFrom('charge')
      .select('household_id')
      .where('id', '=', chargeId)
      .executeTakeFirst();
    if (!known) throw new Refused('unknown', 'There is no such charge');
    await lockHouseholds(tx, [known.household_id]);
    const charge = await tx
      .selectFrom('charge')
      .selectAll()
      .where('id', '=', chargeId)
      .forNoKeyUpdate()
      .executeTakeFirstOrThrow();
    if (charge.status !== 'planned')
      throw new Refused('state', charge.status === 'done' ? 'This is done already' : 'This is void');
    const data = {
      caseId: charge.case_id,
      providerId: charge.provider_id!,
      serviceDate,
      code: charge.code!,
      units: charge.units,
      fee: toDecimal(charge.fee),
      diagnoses: charge.diagnoses,
      tooth: charge.tooth,
      surfaces: charge.surfaces,
      keptFromPayers: charge.kept_from_payers,
    };
    const found = await serviceOf(tx, act.today, charge.patient_id!, data);
    lookAgain(sure, [
      ...(await serviceDoubts(tx, act.today, charge.patient_id!, data, found, chargeId)),
      ...(sure || charge.kept_from_payers
        ? []
        : await limitDoubts(act, whereOf(found), typedOf(data, found))),
    ]);
    await tx
      .updateTable('charge')
      .set({ status: 'done', service_date: serviceDate, coverage_id: found.patient.coverage_id })
      .where('id', '=', chargeId)
      .execute();
    await writeCharge(act, chargeId, charge.patient_id!, { serviceDate, tax: charge.tax }, found);
    await act.note('completed', { kind: 'charge', id: chargeId });
  },
});

/** So many days ago at most something is put on an account without any service. */
const LONGEST_AGO = 31;

/** Puts interest, a late charge or a balance brought in on an account: no service, no provider. @returns the charge's id */
export const chargeAccount = useCase({
  name: 'charge account',
  permission: 'enter charges',
  input: accountChargeInput,
  once: (data) => data.key,
  async run(act, { householdId, kind, amount, date, memo }) {
    if (amount <= 0) throw new Refused('limit', 'Amount must be more than zero', 'amount');
    if (date > act.today) throw new Refused('date', 'Date lies in the future', 'date');
    await lockHouseholds(act.db, [householdId]);
    const household = await act.db
      .selectFrom('household')
      .select('id')
      .where('id', '=', householdId)
      .executeTakeFirst();
    if (!household) throw new Refused('unknown', 'There is no such account');
    // What is brought in has the age that it had; what is added now was owed at the earliest since the first service.
    if (kind !== 'opening') {
      const { first } = await act.db
        .selectFrom('charge')
        .select(({ fn }) => fn.min('service_date').as('first'))
        .where('household_id', '=', householdId)
        .where('status', '=', 'done')
        .executeTakeFirstOrThrow();
      const earliest = first ?? addDays(act.today, -LONGEST_AGO);
      if (date < earliest)
        throw new Refused(
          'nothing',
          `Date lies before ${formatDate(earliest)}: nothing was owed on this account then`,
          { field: 'date', facts: { earliest } },
        );
    }
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

/** Entries on a charge on which no money has moved. */
const ENTERED: ReadonlySet<EntryKind> = new Set(['charge', 'coverage-change', 'account-charge', 'opening']);

/** What stands in the way of taking a charge out of the books, with what to do about it. */
async function whatMoved(tx: Tx, chargeId: number): Promise<string> {
  const b = await tx
    .selectFrom('charge_balance')
    .select(['on_plan', 'at_agency', 'agency_paid', 'payer_paid', 'patient_paid'])
    .where('charge_id', '=', chargeId)
    .executeTakeFirstOrThrow();
  if (b.on_plan !== 0) return 'it is on a payment plan, which is changed or cancelled first';
  if (b.at_agency !== 0 || b.agency_paid !== 0)
    return 'it is with an agency, or was paid there: recall it first';
  if (b.payer_paid !== 0) return 'a payer has paid it: void its claim, or reverse the remittance first';
  if (b.patient_paid !== 0) return 'it is paid: take the payments off it first';
  return 'what was decided or written off of it is undone first';
}

/**
 * The entries that put a charge into the books and stand.
 * @throws Refused when money has moved on it and was not taken back
 */
export async function enteredOnly(tx: Tx, chargeId: number): Promise<number[]> {
  const unreversed = await unreversedEntries(tx, chargeId);
  const others = unreversed.filter(({ kind }) => !ENTERED.has(kind));
  const moved = await movesSomething(
    tx,
    chargeId,
    others.map(({ id }) => id),
  );
  if (moved) throw new Refused('blocked', `Money has moved on this charge: ${await whatMoved(tx, chargeId)}`);
  return unreversed.filter(({ kind }) => ENTERED.has(kind)).map(({ id }) => id);
}

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
    if (!charge) throw new Refused('unknown', 'There is no such charge');
    await lockHouseholds(tx, [charge.household_id]);
    const { status } = await tx
      .selectFrom('charge')
      .select('status')
      .where('id', '=', chargeId)
      .forNoKeyUpdate()
      .executeTakeFirstOrThrow();
    if (status === 'void') throw new Refused('already', 'This charge is void already');
    const billed = await tx
      .selectFrom('claim_line')
      .select('id')
      .where('charge_id', '=', chargeId)
      .where('current', '=', true)
      .executeTakeFirst();
    if (billed) throw new Refused('blocked', 'This charge is on a claim: withdraw the claim first');
    await reverseEntries(tx, act, await enteredOnly(tx, chargeId), why);
    await tx.updateTable('charge').set({ status: 'void' }).where('id', '=', chargeId).execute();
    await act.note('voided', { kind: 'charge', id: chargeId }, { why });
  },
});
