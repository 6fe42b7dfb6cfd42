/** Moving a charge to another person or another case: its postings stay whose they are, and a linked charge takes its place. */
import { NOTICE_MODIFIERS } from '../../core/accounts/treatment-input';
import { moveInput } from '../../core/accounts/input';
import { allocationEntry, overpaidEntry } from '../../core/books/entries/patients';
import { type Cents, ZERO, least, minus, toDecimal } from '../../core/money';
import { sql } from 'kysely';
import { Refused } from '../access';
import { lockHouseholds, reverseEntries, writeEntries } from '../books/journal';
import { openCharges } from '../books/open-lines';
import { type Act, useCase } from '../use-case';
import { enteredOnly } from './entered';
import { serviceOf, writeCharges } from './services';

/** What of a receipt pays a charge, in cents, and of which part of its household the money is. */
interface Paid {
  receiptId: number;
  amount: Cents;
  householdId: number;
  part: number | null;
}

/** Takes what patients paid off a charge that goes elsewhere: the money is theirs again, as credit of each receipt. */
async function takePaymentsOff(act: Act, chargeId: number, memo: string): Promise<Paid[]> {
  const { rows } = await sql<Paid & { patientId: number | null }>`
    select p.receipt_id as "receiptId", sum(p.amount) as amount, household_now(p.household_id) as "householdId",
      c.patient_id as "patientId",
      (
        select a.patient_id from confidential_address a where a.patient_id = r.patient_id and a.ended_on is null
      ) as part
    from posting p
      join charge c on c.id = p.charge_id
      join receipt r on r.id = p.receipt_id
    where p.charge_id = ${chargeId} and p.account = 'credit/patient'
    group by 1, 3, 4, 5
    having sum(p.amount) > 0
    order by 1`.execute(act.db);
  const about = (row: (typeof rows)[number]) => ({
    householdId: row.householdId,
    patientId: row.patientId,
    chargeId,
    receiptId: row.receiptId,
  });
  await writeEntries(
    act.db,
    act,
    rows.map((row) =>
      overpaidEntry({ businessDate: act.today, memo, about: about(row), amount: row.amount }),
    ),
  );
  return rows;
}

/** Pays a charge with the same money that paid it where it stood before, as far as it is owed and that is the household's own. */
async function payAgain(
  act: Act,
  chargeId: number,
  householdId: number,
  paid: readonly Paid[],
  memo: string,
) {
  const owing = (await openCharges(act, [householdId])).find(({ id }) => id === chargeId);
  let rest = owing?.owed ?? ZERO;
  const drafts = [];
  for (const { receiptId, amount, householdId: payer, part } of paid) {
    const used = least(rest, amount);
    if (!owing || payer !== householdId || part !== owing.apart || used <= 0) continue;
    rest = minus(rest, used);
    const about = { householdId, chargeId, receiptId, patientId: owing.patientId };
    drafts.push(allocationEntry({ businessDate: act.today, memo, about, amount: used }));
  }
  await writeEntries(act.db, act, drafts);
}

/**
 * Moves a service that was entered for the wrong person or case: the charge is taken out of the books and a new one, linked with it,
 * is written for whose it is, in pairs of entries of one day. It keeps what was said of it, with its fee. What patients paid of it pays
 * it there as far as it is owed by the same household, and is credit otherwise.
 * @returns the new charge's id
 * @throws Refused when it is on a claim, when what a payer decided of it stands, when it is on a plan, with an agency or written off, or
 * when it stands there already
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
      area: charge.area,
      planned: charge.status === 'planned',
      keptFromPayers: charge.kept_from_payers,
      // A notice is one case's.
      modifiers: charge.modifiers.filter((one) => !Object.hasOwn(NOTICE_MODIFIERS, one)),
    });
    if (charge.patient_id === patientId && charge.case_id === found.patient.case_id)
      throw new Refused('already', 'It stands there already', 'patientId');
    const memo = `Moved: ${why}`;
    const paid = charge.status === 'done' ? await takePaymentsOff(act, chargeId, memo) : [];
    if (charge.status === 'done') await reverseEntries(tx, act, await enteredOnly(tx, chargeId), memo);
    await tx.updateTable('charge').set({ status: 'void' }).where('id', '=', chargeId).execute();
    const { id: _, version: __, created_at: ___, billed: ____, ...facts } = charge;
    const { id } = await tx
      .insertInto('charge')
      .values({
        ...facts,
        household_id: found.patient.household_id,
        patient_id: patientId,
        case_id: found.patient.case_id,
        coverage_id: found.patient.coverage_id,
        tax_billed: found.patient.tax_billed,
        modifiers: found.modifiers,
        moved_from: chargeId,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    if (charge.status === 'done')
      await writeCharges(act, patientId, { serviceDate: charge.service_date }, found, [
        { id, memo: charge.description, fee: found.fee, tax: charge.tax },
      ]);
    await payAgain(act, id, found.patient.household_id, paid, memo);
    await act.note('moved', { kind: 'charge', id: chargeId }, { to: id, why });
    await act.note('moved here', { kind: 'charge', id }, { from: chargeId, why });
    return id;
  },
});
