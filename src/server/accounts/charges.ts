/** Entering and voiding charges: services of patients, and what is put on an account. */
import { accountChargeInput, chargeInput, completeInput, voidInput } from '../../core/accounts/input';
import { ACCOUNT_CHARGES, accountChargeEntry } from '../../core/books/entries/charges';
import { addDays, formatDate } from '../../core/calendar';
import { toDecimal } from '../../core/money';
import { Refused, lookAgain } from '../access';
import { lockHouseholds, reverseEntries, writeEntries } from '../books/journal';
import { limitDoubts } from '../estimates/door';
import { useCase } from '../use-case';
import { enteredOnly } from './entered';
import { serviceDoubts, serviceOf, writeCharges } from './services';
import { enterLines } from './visits';

/** Enters a done service and writes it to the books. @returns the charge's id */
export const enterCharge = useCase({
  name: 'enter charge',
  permission: 'enter charges',
  input: chargeInput,
  once: (data) => data.key,
  async run(
    act,
    { key: _, patientId, caseId, providerId, serviceDate, planned, keptFromPayers, sure, ...line },
  ) {
    const head = { patientId, caseId, providerId, serviceDate, planned, keptFromPayers, sure };
    return (await enterLines(act, head, [line], false))[0]!;
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
      area: charge.area,
      keptFromPayers: charge.kept_from_payers,
      modifiers: charge.modifiers,
    };
    const found = await serviceOf(tx, act.today, charge.patient_id!, data);
    lookAgain(sure, [
      ...(await serviceDoubts(tx, act.today, charge.patient_id!, data, found, chargeId)),
      ...(sure || charge.kept_from_payers
        ? []
        : await limitDoubts(act, { caseId: found.patient.case_id, householdId: found.patient.household_id }, [
            {
              code: data.code,
              units: data.units,
              fee: found.fee,
              date: serviceDate,
              tooth: data.tooth,
              modifiers: found.modifiers,
              siteId: found.provider.location_id,
            },
          ])),
    ]);
    await tx
      .updateTable('charge')
      .set({
        status: 'done',
        service_date: serviceDate,
        coverage_id: found.patient.coverage_id,
        expects: found.patient.expects,
        at_contract: found.patient.at_contract,
        tax_billed: found.patient.tax_billed,
        modifiers: found.modifiers,
      })
      .where('id', '=', chargeId)
      .execute();
    await writeCharges(act, charge.patient_id!, { serviceDate }, found, [
      { id: chargeId, memo: charge.description, fee: found.fee, tax: charge.tax },
    ]);
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
