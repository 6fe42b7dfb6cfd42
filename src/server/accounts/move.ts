/** Moving a charge to another person or another case: its postings stay whose they are, and a linked charge takes its place. */
import { moveInput } from '../../core/accounts/input';
import { toDecimal } from '../../core/money';
import { Refused } from '../access';
import { lockHouseholds, reverseEntries } from '../books/journal';
import { useCase } from '../use-case';
import { enteredOnly, serviceOf, writeCharge } from './charges';

/**
 * Moves a service that was entered for the wrong person or case: the charge is taken out of the books and a new one, linked with it,
 * is written for whose it is, in pairs of entries of one day. It keeps what was said of it, with its fee.
 * @returns the new charge's id
 * @throws Refused when it is on a claim, when money has moved on it, or when it stands there already
 */
export const moveCharge = useCase({
  name: 'move charge',
  permission: 'reverse entries',
  input: moveInput,
  async run(act, { chargeId, patientId, caseId, why }): Promise<number> {
    const tx = act.db;
    const known = await tx
      .selectFrom('charge')
      .select(['household_id', 'kind'])
      .where('id', '=', chargeId)
      .executeTakeFirst();
    if (known?.kind !== 'service') throw new Refused('unknown', 'There is no such service');
    const whose = await tx
      .selectFrom('patient')
      .select('household_id')
      .where('id', '=', patientId)
      .executeTakeFirst();
    if (!whose) throw new Refused('unknown', 'This person is not registered', 'patientId');
    await lockHouseholds(tx, [known.household_id, whose.household_id]);
    const charge = await tx
      .selectFrom('charge')
      .selectAll()
      .where('id', '=', chargeId)
      .forNoKeyUpdate()
      .executeTakeFirstOrThrow();
    if (charge.status === 'void') throw new Refused('state', 'This charge is void');
    const claim = await tx
      .selectFrom('claim_line as l')
      .innerJoin('claim as m', 'm.id', 'l.claim_id')
      .select('m.control_number')
      .where('l.charge_id', '=', chargeId)
      .where('l.current', '=', true)
      .executeTakeFirst();
    if (claim)
      throw new Refused('blocked', `It is on claim ${claim.control_number}: withdraw or void that first`, {
        facts: { control_number: claim.control_number },
      });
    const found = await serviceOf(tx, act.today, patientId, {
      caseId,
      providerId: charge.provider_id!,
      serviceDate: charge.service_date,
      code: charge.code!,
      units: charge.units,
      fee: toDecimal(charge.fee),
      diagnoses: charge.diagnoses,
      tooth: charge.tooth,
      surfaces: charge.surfaces,
      planned: charge.status === 'planned',
      keptFromPayers: charge.kept_from_payers,
    });
    if (charge.patient_id === patientId && charge.case_id === found.patient.case_id)
      throw new Refused('already', 'It stands there already', 'patientId');
    if (charge.status === 'done')
      await reverseEntries(tx, act, await enteredOnly(tx, chargeId), `Moved: ${why}`);
    await tx.updateTable('charge').set({ status: 'void' }).where('id', '=', chargeId).execute();
    const { id: _, version: __, created_at: ___, ...facts } = charge;
    const { id } = await tx
      .insertInto('charge')
      .values({
        ...facts,
        household_id: found.patient.household_id,
        patient_id: patientId,
        case_id: found.patient.case_id,
        coverage_id: found.patient.coverage_id,
        moved_from: chargeId,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    if (charge.status === 'done')
      await writeCharge(act, id, patientId, { serviceDate: charge.service_date, tax: charge.tax }, found);
    await act.note('moved', { kind: 'charge', id: chargeId }, { to: id, why });
    await act.note('moved here', { kind: 'charge', id }, { from: chargeId, why });
    return id;
  },
});
