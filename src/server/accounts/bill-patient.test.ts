/** What may not be billed to patients, and what is kept from insurers: held by posting and by statements alike. */
import fc from 'fast-check';
import type { BillPatient, BillPatientWhy } from '../../core/accounts/bill-patient';
import { addDays } from '../../core/calendar';
import { TODAY, fileDatabase } from '../../testing/database';
import { sql } from 'kysely';
import { charge, decided, household, intake, remitText, secondCoverage, sentClaim } from '../../testing/desk';
import { checkBooks } from '../books/check';
import { notBillable } from '../books/not-billable';
import { buildClaims } from '../claims/build';
import { withdrawClaim } from '../claims/hold';
import { settleWaiting } from '../follow-ups/work';
import { takeReceipt } from '../payments/take';
import { takeUpAgain } from '../remittances/held';
import { postRemittance } from '../remittances/post';
import { reverseRemittance } from '../remittances/reverse';
import { weighHouseholds } from '../statements/choosing';
import { prepareStatement } from '../statements/prepare';
import { readStatement } from '../statements/read';
import { takeOffForbidden } from './bill-patient';
import { completeCharge, enterCharge, voidCharge } from './charges';
import { changeCoverage, keepFromPayers } from './coverage';
import { readStory } from './ledger';
import { readAccount } from '../account-page/read';
import { runs } from '../../testing/runs';

const t = fileDatabase();

let serial = 0;
const key = (): string => `bill-test-${(serial += 1)}`;
const balance = (chargeId: number) =>
  t.db
    .selectFrom('charge_balance')
    .select(['with_payer', 'with_patient', 'reduced', 'patient_paid'])
    .where('charge_id', '=', chargeId)
    .executeTakeFirstOrThrow();
/** Says of a patient's coverage whether its cost shares may be billed. */
async function flag(
  patientId: number,
  billPatient: BillPatient,
  billPatientWhy: BillPatientWhy = 'medicaid',
) {
  const coverage = await t.db
    .selectFrom('covered as o')
    .innerJoin('care_case as k', 'k.id', 'o.case_id')
    .selectAll('o')
    .where('k.patient_id', '=', patientId)
    .executeTakeFirstOrThrow();
  await changeCoverage(t.context, {
    coverageId: coverage.id,
    memberId: coverage.member_id,
    groupNumber: coverage.group_number,
    billPatient,
    billPatientWhy: billPatient === 'yes' ? '' : billPatientWhy,
  });
  return coverage.id;
}
const clean = async () =>
  (await checkBooks(t.db)).flatMap(({ id, faults }) => faults.map((f) => `${id}: ${f}`));
/** Takes a remittance in and posts it. */
async function posted(text: string): Promise<number> {
  await intake(t.context, text);
  const { id } = await t.db
    .selectFrom('remittance')
    .select('id')
    .orderBy('id', 'desc')
    .executeTakeFirstOrThrow();
  await postRemittance(t.context, id);
  return id;
}
/** A claim of one visit of 145.00 that the payer decided: 80.00 paid, the reasons as given. */
async function decidedClaim(billPatient: BillPatient, reasons: string[]) {
  const made = await sentClaim(t);
  await flag(made.patientId, billPatient);
  const remit = remitText([
    decided(made.claim.control_number, [{ control: made.controls[0]!, charge: 14500, paid: 8000, reasons }]),
  ]);
  return { ...made, chargeId: made.charges[0]!, remittanceId: await posted(remit) };
}

describe('what may not be billed to the patient', () => {
  test('of a coverage that forbids it, what the payer passes on is taken off as it is posted', async () => {
    const { chargeId, householdId } = await decidedClaim('never', [
      'CO-45:20.00',
      'PR-1:25.00',
      'PR-3:20.00',
    ]);
    expect(await balance(chargeId)).toMatchObject({ with_payer: 0, with_patient: 0, reduced: 6500 });
    const { charges } = await readStory(t.context, householdId, chargeId);
    expect(charges[0]!.sentences.map(({ words }) => words)).toContain(
      'On 16 Mar 2026 we took off 45.00, which may not be billed to you.',
    );
    await expect(prepareStatement(t.context, { householdId, key: key() })).rejects.toThrow(/Nothing is owed/);
    expect(await clean()).toEqual([]);
  });

  test('where copays alone may be billed, the copay (PR-3) stays with the patient and nothing else', async () => {
    const { chargeId, householdId } = await decidedClaim('copay-only', [
      'CO-45:20.00',
      'PR-1:25.00',
      'PR-3:20.00',
    ]);
    expect(await balance(chargeId)).toMatchObject({ with_patient: 2000, reduced: 4500 });
    await takeReceipt(t.context, { householdId, tenders: [{ tender: 'cash', amount: '20.00' }], key: key() });
    expect(await balance(chargeId)).toMatchObject({ with_patient: 0, patient_paid: 2000 });
    expect(await notBillable(t.db, { householdId })).toEqual([]);
    expect(await clean()).toEqual([]);
  });

  test('without the flag it is the patient’s', async () => {
    const { chargeId } = await decidedClaim('yes', ['CO-45:20.00', 'PR-1:45.00']);
    expect(await balance(chargeId)).toMatchObject({ with_patient: 4500, reduced: 2000 });
  });

  test('the payer takes it back: what was taken off comes back with it, and the books hold', async () => {
    const made = await decidedClaim('never', ['CO-45:20.00', 'PR-1:45.00']);
    const line = { control: made.controls[0]!, charge: -14500, paid: -8000 };
    // With another claim's money beside it, so that the payment is not below zero.
    const other = await sentClaim(t);
    await posted(
      remitText([
        decided(made.claim.control_number, [{ ...line, reasons: ['CO-45:-20.00', 'PR-1:-45.00'] }], '22'),
        decided(other.claim.control_number, [
          { control: other.controls[0]!, charge: 14500, paid: 14500, reasons: [] },
        ]),
      ]),
    );
    expect(await balance(made.chargeId)).toMatchObject({ with_payer: 14500, with_patient: 0, reduced: 0 });
    expect(await clean()).toEqual([]);
  });

  test('the remittance reversed by us takes it back too', async () => {
    const { chargeId, remittanceId } = await decidedClaim('never', ['CO-45:20.00', 'PR-1:45.00']);
    await reverseRemittance(t.context, { remittanceId, why: 'Wrong one' });
    expect(await balance(chargeId)).toMatchObject({ with_payer: 14500, with_patient: 0, reduced: 0 });
    expect(await clean()).toEqual([]);
  });

  test('what stood there before is on no statement, named on the account, and taken off in one press', async () => {
    const { chargeId, householdId, patientId } = await decidedClaim('yes', ['CO-45:20.00', 'PR-1:45.00']);
    const later = await charge(t, t.context, patientId, '30.00', '99212');
    await settleWaiting(t.context, { chargeId: later, to: 'patient', why: 'Not covered' });
    const coverageId = await flag(patientId, 'never', 'qmb');
    const [weighed] = (await weighHouseholds(t.context, { rows: [] }, [householdId])).weighed;
    expect(weighed).toMatchObject({ in: false, due: 0, facts: { owed: 0, forbidden: 7500 } });
    expect(weighed!.reasons.map(({ id }) => id)).toEqual(['not-billable', 'nothing-due']);
    const account = await readAccount(t.context, householdId);
    expect(account.forbidden).toEqual({ amount: 7500, why: 'Qualified Medicare beneficiary' });
    expect((await readStory(t.context, householdId)).closing).toMatch(/^Nothing is yours to pay now/);
    // Money that is brought anyway does not go there.
    await takeReceipt(t.context, { householdId, tenders: [{ tender: 'cash', amount: '10.00' }], key: key() });
    expect(await balance(chargeId)).toMatchObject({ with_patient: 4500, patient_paid: 0 });
    // Two at once: it is taken off once.
    const both = await Promise.allSettled([
      takeOffForbidden(t.context, { householdId }),
      takeOffForbidden(t.context, { householdId }),
    ]);
    expect(both.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
    expect(await balance(chargeId)).toMatchObject({ with_patient: 0, reduced: 6500 });
    await expect(takeOffForbidden(t.context, { householdId })).rejects.toThrow(/Nothing stands there/);
    await expect(
      changeCoverage(t.context, { coverageId, memberId: 'X1', billPatient: 'never', billPatientWhy: '' }),
    ).rejects.toThrow(/what forbids/);
    expect(await clean()).toEqual([]);
  });

  test('a person cannot pass it to the patient either: it is written off', async () => {
    const { patientId } = await household(t);
    const chargeId = await charge(t, t.context, patientId, '60.00');
    await flag(patientId, 'never', 'injury');
    await expect(settleWaiting(t.context, { chargeId, to: 'patient', why: 'They refuse' })).rejects.toThrow(
      '60.00 of it may not be billed to the patient (Accepted injury claim): write it off',
    );
    expect(await balance(chargeId)).toMatchObject({ with_payer: 6000, with_patient: 0 });
    await settleWaiting(t.context, { chargeId, to: 'off', why: 'They refuse' });
    expect(await balance(chargeId)).toMatchObject({ with_payer: 0, reduced: 6000 });
  });

  test('tax is the patient’s all the same', async () => {
    const { patientId, householdId } = await household(t);
    await enterCharge(t.context, {
      patientId,
      providerId: t.providers.family,
      serviceDate: TODAY,
      code: '99213',
      fee: '50.00',
      tax: '4.00',
      sure: true,
      key: key(),
    });
    await flag(patientId, 'never');
    expect(await notBillable(t.db, { householdId })).toEqual([]);
    const [weighed] = (await weighHouseholds(t.context, { rows: [] }, [householdId])).weighed;
    expect(weighed!.due).toBe(400);
  });

  test('property: whatever the payer passes on, pays and takes off, nothing forbidden is ever asked for', async () => {
    const parts = fc.record({
      deductible: fc.integer({ min: 0, max: 3000 }),
      copay: fc.integer({ min: 0, max: 3000 }),
      contract: fc.integer({ min: 0, max: 3000 }),
      bill: fc.constantFrom<BillPatient>('yes', 'copay-only', 'never'),
      paid: fc.integer({ min: 0, max: 4000 }),
    });
    await fc.assert(
      fc.asyncProperty(parts, async ({ deductible, copay, contract, bill, paid }) => {
        const made = await sentClaim(t);
        await flag(made.patientId, bill);
        const amount = (value: number): string => (value / 100).toFixed(2);
        const reasons = [
          ['PR-1', deductible] as const,
          ['PR-3', copay] as const,
          ['CO-45', contract] as const,
        ].flatMap(([code, value]) => (value > 0 ? [`${code}:${amount(value)}`] : []));
        await posted(
          remitText([
            decided(made.claim.control_number, [
              {
                control: made.controls[0]!,
                charge: 14500,
                paid: 14500 - deductible - copay - contract,
                reasons,
              },
            ]),
          ]),
        );
        const billable = { yes: deductible + copay, 'copay-only': copay, never: 0 }[bill];
        const [chargeId] = made.charges as [number];
        expect(await balance(chargeId)).toMatchObject({ with_payer: 0, with_patient: billable });
        const { householdId } = made;
        if (paid > 0)
          await takeReceipt(t.context, {
            householdId,
            tenders: [{ tender: 'cash', amount: amount(paid) }],
            key: key(),
          });
        const [weighed] = (await weighHouseholds(t.context, { rows: [] }, [householdId])).weighed;
        expect(weighed!.due).toBe(billable - paid);
        expect(await notBillable(t.db, { householdId })).toEqual([]);
      }),
      { numRuns: runs(12) },
    );
    expect(await clean()).toEqual([]);
  });
});

describe('a service kept from insurers', () => {
  const kept = async (fee = '80.00', more: Record<string, unknown> = {}) => {
    const made = await household(t);
    const chargeId = await enterCharge(t.context, {
      patientId: made.patientId,
      providerId: t.providers.family,
      serviceDate: TODAY,
      code: '99213',
      fee,
      diagnoses: ['I10'],
      keptFromPayers: true,
      sure: true,
      key: key(),
      ...more,
    });
    return { ...made, chargeId };
  };

  test('is the patient’s from the beginning and on no claim, whatever becomes of the coverage', async () => {
    const { chargeId, householdId, patientId } = await kept();
    const other = await charge(t, t.context, patientId, '70.00', '99212');
    expect(await balance(chargeId)).toMatchObject({ with_payer: 0, with_patient: 8000 });
    const [claimId] = await buildClaims(t.context, { householdId });
    const lines = await t.db
      .selectFrom('claim_line')
      .select('charge_id')
      .where('claim_id', '=', claimId!)
      .execute();
    expect(lines).toEqual([{ charge_id: other }]);
    await flag(patientId, 'never');
    // It is paid by the patient, as the patient asked, though the coverage forbids to bill anything else.
    const id = await prepareStatement(t.context, { householdId, key: key() });
    expect((await readStatement(t.context, id)).content.amount).toBe(8000);
    expect(await balance(chargeId)).toMatchObject({ with_payer: 0, with_patient: 8000 });
  });

  test('kept later and billed after all: the money moves there and back, and not once it is paid or billed', async () => {
    const { patientId, householdId } = await household(t);
    const chargeId = await charge(t, t.context, patientId, '80.00');
    const keep = (yes: boolean) => keepFromPayers(t.context, { chargeId, kept: yes });
    await keep(true);
    await keep(true);
    expect(await balance(chargeId)).toMatchObject({ with_payer: 0, with_patient: 8000 });
    await keep(false);
    expect(await balance(chargeId)).toMatchObject({ with_payer: 8000, with_patient: 0 });
    const [claimId] = await buildClaims(t.context, { householdId });
    await expect(keep(true)).rejects.toThrow(/It is on claim OL/);
    await withdrawClaim(t.context, { claimId: claimId!, why: 'The patient pays' });
    await keep(true);
    await takeReceipt(t.context, { householdId, tenders: [{ tender: 'cash', amount: '80.00' }], key: key() });
    await expect(keep(false)).rejects.toThrow(/Money has moved/);
    expect(await clean()).toEqual([]);
  });

  test('the database refuses one that stands under a coverage', async () => {
    const { chargeId, patientId } = await kept();
    const coverage = await t.db
      .selectFrom('covered as o')
      .innerJoin('care_case as k', 'k.id', 'o.case_id')
      .select('o.id')
      .where('k.patient_id', '=', patientId)
      .executeTakeFirstOrThrow();
    await expect(
      t.db.updateTable('charge').set({ coverage_id: coverage.id }).where('id', '=', chargeId).execute(),
    ).rejects.toThrow(/check/);
  });
});

describe('planned services', () => {
  const planned = async (day = addDays(TODAY, 30), more: Record<string, unknown> = {}) => {
    const made = await household(t);
    const chargeId = await enterCharge(t.context, {
      patientId: made.patientId,
      providerId: t.providers.family,
      serviceDate: day,
      code: '99213',
      fee: '80.00',
      diagnoses: ['I10'],
      planned: true,
      sure: true,
      key: key(),
      ...more,
    });
    return { ...made, chargeId };
  };

  test('stand on the account and in no books until they are done', async () => {
    const { chargeId, householdId } = await planned();
    const account = await readAccount(t.context, householdId);
    expect(account.charges.map(({ id, status, fee }) => [id, status, fee])).toEqual([
      [chargeId, 'planned', 0],
    ]);
    expect(account.figures.balance).toBe(0);
    expect(await buildClaims(t.context, { householdId })).toEqual([]);
    await completeCharge(t.context, { chargeId, serviceDate: TODAY, sure: true });
    expect(await balance(chargeId)).toMatchObject({ with_payer: 8000 });
    await expect(completeCharge(t.context, { chargeId, serviceDate: TODAY })).rejects.toThrow(/done already/);
    expect(await clean()).toEqual([]);
  });

  test('done twice at once is done once; a day ahead is none on which it was done', async () => {
    const { chargeId } = await planned();
    const done = (day = TODAY) => completeCharge(t.context, { chargeId, serviceDate: day, sure: true });
    await expect(done(addDays(TODAY, 1))).rejects.toThrow(/future/);
    const both = await Promise.allSettled([done(), done()]);
    expect(both.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
    expect(await clean()).toEqual([]);
  });

  test('are taken back without a trace in the books', async () => {
    const { chargeId } = await planned(TODAY, { keptFromPayers: true });
    await voidCharge(t.context, { chargeId, why: 'Not wanted' });
    await expect(completeCharge(t.context, { chargeId, serviceDate: TODAY })).rejects.toThrow(/void/);
    expect(await t.db.selectFrom('posting').select('id').where('charge_id', '=', chargeId).execute()).toEqual(
      [],
    );
    await expect(planned(addDays(TODAY, 4000))).rejects.toThrow(/five years/);
  });

  test('tax on it is the patient’s once it is done', async () => {
    const { chargeId } = await planned(addDays(TODAY, 3), { tax: '1.00' });
    await completeCharge(t.context, { chargeId, serviceDate: TODAY, sure: true });
    expect(await balance(chargeId)).toMatchObject({ with_payer: 8000, with_patient: 100 });
  });
});

/** N781 to N783 with what is passed on; from memory. */
describe('what the payer says may never be collected', () => {
  /** What a payer says of a claim of one visit of 145.00, with a remark. */
  const remarked = (
    made: Awaited<ReturnType<typeof sentClaim>>,
    reasons: string[],
    remark: string | null,
    back = false,
  ) => {
    const sign = back ? -1 : 1;
    const said = decided(
      made.claim.control_number,
      [{ control: made.controls[0]!, charge: sign * 14500, paid: sign * 8000, reasons }],
      back ? '22' : '1',
    );
    return { ...said, lines: said.lines.map((line) => ({ ...line, remarks: remark ? [remark] : [] })) };
  };
  const PASSED = ['CO-45:20.00', 'PR-1:45.00'];
  const BACK = ['CO-45:-20.00', 'PR-1:-45.00'];
  const cleanly = async () => expect(await clean()).toEqual([]);

  test.each(['N781', 'N782', 'N783'])(
    '%s: taken off as it is posted, whatever the coverage says',
    async (remark) => {
      const made = await sentClaim(t);
      await posted(remitText([remarked(made, PASSED, remark)]));
      expect(await balance(made.charges[0]!)).toMatchObject({
        with_payer: 0,
        with_patient: 0,
        reduced: 6500,
      });
      await cleanly();
    },
  );

  test('what was collected before becomes credit', async () => {
    const made = await sentClaim(t);
    const { householdId } = made;
    await posted(remitText([remarked(made, PASSED, null)]));
    await takeReceipt(t.context, { householdId, tenders: [{ tender: 'cash', amount: '45.00' }], key: key() });
    expect(await balance(made.charges[0]!)).toMatchObject({ with_patient: 0, patient_paid: 4500 });
    await posted(remitText([remarked(made, BACK, null, true), remarked(made, PASSED, 'N781')]));
    expect(await balance(made.charges[0]!)).toMatchObject({
      with_payer: 0,
      with_patient: 0,
      patient_paid: 0,
      reduced: 6500,
    });
    expect((await readAccount(t.context, householdId)).figures).toMatchObject({ credit: 4500 });
    await cleanly();
  });

  test.each(['N781', null])(
    'said anew without the remark it is the patient’s (taken back with %s)',
    async (with_) => {
      const made = await sentClaim(t);
      await posted(remitText([remarked(made, PASSED, 'N781')]));
      await posted(remitText([remarked(made, BACK, with_, true), remarked(made, PASSED, null)]));
      expect(await balance(made.charges[0]!)).toMatchObject({
        with_payer: 0,
        with_patient: 4500,
        reduced: 2000,
      });
      await cleanly();
    },
  );

  test('the remittance reversed by us takes it back too, and posted anew it is taken off again', async () => {
    const made = await sentClaim(t);
    const remittanceId = await posted(remitText([remarked(made, PASSED, 'N781')]));
    await reverseRemittance(t.context, { remittanceId, why: 'Wrong one' });
    expect(await balance(made.charges[0]!)).toMatchObject({ with_payer: 14500, with_patient: 0, reduced: 0 });
    await takeUpAgain(t.context, { remittanceId });
    await postRemittance(t.context, remittanceId);
    expect(await balance(made.charges[0]!)).toMatchObject({ with_payer: 0, with_patient: 0, reduced: 6500 });
    await cleanly();
  });

  test('with a next payer it goes there; what that one leaves to the patient is taken off', async () => {
    const made = await sentClaim(t);
    await secondCoverage(t, made.patientId);
    await posted(remitText([remarked(made, PASSED, 'N781')]));
    expect(await balance(made.charges[0]!)).toMatchObject({ with_payer: 4500, with_patient: 0 });
    const { rows } = await sql<{ coverage_id: number }>`
      select coverage_id from payer_balance where charge_id = ${made.charges[0]!} and with_payer > 0`.execute(
      t.db,
    );
    await settleWaiting(t.context, {
      chargeId: made.charges[0]!,
      coverageId: rows[0]!.coverage_id,
      to: 'off',
      why: 'by law',
    });
    expect(await balance(made.charges[0]!)).toMatchObject({ with_payer: 0, with_patient: 0 });
    await cleanly();
  });

  test('a person cannot pass it from the next payer to the patient', async () => {
    const made = await sentClaim(t);
    await secondCoverage(t, made.patientId);
    await posted(remitText([remarked(made, PASSED, 'N782')]));
    await expect(
      settleWaiting(t.context, { chargeId: made.charges[0]!, to: 'patient', why: 'They are silent' }),
    ).rejects.toThrow(/may not be billed to the patient \(The payer’s remark\)/);
  });
});
