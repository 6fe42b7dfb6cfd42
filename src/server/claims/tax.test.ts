/** Tax on a service: whose it is, what a claim says of it, and where it goes when the insurer is another one. */
import fc from 'fast-check';
import { addDays } from '../../core/calendar';
import { TODAY, fileDatabase } from '../../testing/database';
import {
  brokenInvariants,
  decided,
  household,
  plannedCharge,
  postedRemittance,
  secondCoverage,
  anotherMember,
} from '../../testing/desk';
import { runs } from '../../testing/runs';
import { completeCharge, enterCharge } from '../accounts/charges';
import { addCoverage } from '../accounts/coverage';
import { moveCharge } from '../accounts/move';
import { previewVisit } from '../accounts/visits';
import { readAccount } from '../account-page/read';
import { notBillable } from '../books/not-billable';
import { estimatePlanned } from '../estimates/door';
import { withdrawClaim } from './hold';
import { buildClaims } from './build';
import { changeCharge } from './fix';
import { claimText, readClaim } from './read';
import { sendClaims } from './send';
import { addKeyedClaim, startKeyed } from '../remittances/keyed';
import { readKeyed } from '../remittances/keyed-page';

const t = fileDatabase();
afterEach(async () => {
  expect(await brokenInvariants(t)).toEqual([]);
});

let serial = 0;
const key = (): string => `tax-test-${(serial += 1)}`;
/** Which payers take tax on their claims. */
async function taken(...names: string[]): Promise<void> {
  await t.db.updateTable('payer').set({ takes_tax: false }).execute();
  if (names.length > 0)
    await t.db.updateTable('payer').set({ takes_tax: true }).where('name', 'in', names).execute();
}
const CEDAR = 'Cedar Sound Health';
/** A plan of another payer, and who that is. */
const other = (): number => Object.entries(t.insurancePlans).find(([group]) => !group.startsWith('CS'))![1];
const enter = (patientId: number, more: object = {}): Promise<number> =>
  enterCharge(t.context, {
    patientId,
    providerId: t.providers.family,
    serviceDate: TODAY,
    code: '99213',
    fee: '145.00',
    tax: '12.33',
    sure: true,
    diagnoses: ['I10'],
    key: key(),
    ...more,
  });
const figures = async (householdId: number) => {
  const { withPayer, withPatient } = (await readAccount(t.context, householdId)).figures;
  return { withPayer, withPatient };
};
/** Covers a person by another plan from a day on that is later with each. */
const cover = (patientId: number, plan: number, days: number) =>
  addCoverage(t.context, {
    patientId,
    insurancePlanId: plan,
    memberId: `TX${(serial += 1)}`,
    validFrom: addDays(TODAY, days - 20),
    key: key(),
  });

// Both guides: what AMT*T (2400) says is in SV102 or SV302 and in CLM02. From memory.
test('a payer that takes tax is asked for it in the line, and says what becomes of it', async () => {
  await taken(CEDAR);
  const { householdId, patientId } = await household(t);
  const [preview] = await previewVisit(t.context, {
    patientId,
    providerId: t.providers.family,
    serviceDate: TODAY,
    lines: [{ code: '99213', fee: '145.00', tax: '12.33' }],
  });
  const chargeId = await enter(patientId);
  expect(await figures(householdId)).toEqual({ withPayer: 15733, withPatient: 0 });
  // The copay of the plan alone: nothing of the tax.
  expect(preview).toMatchObject({ fee: 14500, tax: 1233, patient: 3000 });
  const [claimId] = await buildClaims(t.context, { householdId });
  const claim = (await readClaim(t.context, claimId!))!;
  expect(claim.content).toMatchObject({ total: 15733, lines: [{ charge: 15733, tax: 1233 }] });
  expect(await claimText(t.context, claim)).toMatch(
    /CLM\*[^*]+\*157\.33\*[^]*SV1\*HC:99213\*157\.33\*[^]*AMT\*T\*12\.33/,
  );
  // 98.00 by contract, 30.00 of it copay, and the tax.
  expect(claim.lines).toMatchObject([{ expectedAllowed: 11033, expectedPaid: 8033 }]);
  await sendClaims(t.context, { claimIds: [claimId!] });
  const { id } = await t.db
    .selectFrom('claim_line')
    .select('id')
    .where('claim_id', '=', claimId!)
    .executeTakeFirstOrThrow();
  await postedRemittance(t, [
    decided(claim.content.controlNumber, [
      { control: `L${id}`, charge: 15733, paid: 7500, reasons: ['CO-45:47.00', 'PR-3:30.00', 'PR-137:5.33'] },
    ]),
  ]);
  expect(await figures(householdId)).toEqual({ withPayer: 0, withPatient: 3533 });
  const follow = await t.db
    .selectFrom('follow_up')
    .select(['kind', 'words'])
    .where('household_id', '=', householdId)
    .where('kind', '=', 'short-payment')
    .execute();
  expect(follow).toEqual([]);
  expect(chargeId).toBeGreaterThan(0);
});

test('of a paper that is keyed, what is expected of a line has its tax', async () => {
  await taken(CEDAR);
  const { householdId, patientId } = await household(t);
  await enter(patientId);
  const [claimId] = await buildClaims(t.context, { householdId });
  await sendClaims(t.context, { claimIds: [claimId!] });
  const { control_number: controlNumber, payer_id: payerId } = await t.db
    .selectFrom('claim')
    .select(['control_number', 'payer_id'])
    .where('id', '=', claimId!)
    .executeTakeFirstOrThrow();
  const keyedId = await startKeyed(t.context, {
    payerId,
    amount: '80.33',
    method: 'CHK',
    trace: 'TAX-1',
    paymentDate: TODAY,
    source: 'mail',
    key: key(),
  });
  await addKeyedClaim(t.context, { keyedId, controlNumber, key: key() });
  const [claim] = (await readKeyed(t.context, keyedId)).claims;
  // 98.00 by contract, 30.00 of it copay, and 12.33 of tax.
  expect(claim!.lines).toMatchObject([
    { charge: 15733, expected: { allowed: 11033, copay: 3000, paid: 8033 } },
  ]);
});

test('where the payer takes none it is the patient’s, and no claim says anything of it', async () => {
  await taken();
  const { householdId, patientId } = await household(t);
  await enter(patientId);
  expect(await figures(householdId)).toEqual({ withPayer: 14500, withPatient: 1233 });
  const [claimId] = await buildClaims(t.context, { householdId });
  const claim = (await readClaim(t.context, claimId!))!;
  expect(claim.content.total).toBe(14500);
  expect(await claimText(t.context, claim)).not.toContain('AMT*T');
  // Said later, it holds for what is entered then: a claim is not asked for what the patient was told to pay.
  await taken(CEDAR);
  await withdrawClaim(t.context, { claimId: claimId!, why: 'looked at again' });
  const [again] = await buildClaims(t.context, { householdId });
  expect((await readClaim(t.context, again!))!.content.total).toBe(14500);
  expect(await figures(householdId)).toEqual({ withPayer: 14500, withPatient: 1233 });
});

test('a next payer is asked for the same as the first one, whether or not it takes tax', async () => {
  await taken(CEDAR);
  const { householdId, patientId } = await household(t);
  await secondCoverage(t, patientId);
  await enter(patientId);
  const [claimId] = await buildClaims(t.context, { householdId });
  await sendClaims(t.context, { claimIds: [claimId!] });
  const first = (await readClaim(t.context, claimId!))!;
  const { id } = await t.db
    .selectFrom('claim_line')
    .select('id')
    .where('claim_id', '=', claimId!)
    .executeTakeFirstOrThrow();
  await postedRemittance(t, [
    decided(first.content.controlNumber, [
      { control: `L${id}`, charge: 15733, paid: 8033, reasons: ['CO-45:47.00', 'PR-3:30.00'] },
    ]),
  ]);
  await taken();
  const [second] = await buildClaims(t.context, { householdId, which: 'next' });
  const claim = (await readClaim(t.context, second!))!;
  expect(claim.content).toMatchObject({ total: 15733, lines: [{ charge: 15733, tax: 1233 }] });
  expect(claim.findings.filter(({ severity }) => severity === 'stop')).toEqual([]);
});

test('tax goes with the insurer: to one that takes it, and back to the patient from one that does', async () => {
  await taken(CEDAR);
  const { householdId, patientId } = await household(t);
  await enter(patientId);
  await cover(patientId, other(), 1);
  expect(await figures(householdId)).toEqual({ withPayer: 14500, withPatient: 1233 });
  await cover(patientId, t.insurancePlans['CS-350']!, 2);
  expect(await figures(householdId)).toEqual({ withPayer: 15733, withPatient: 0 });
});

test('what is kept from insurers, or done later, or moved, asks nobody else for tax than its own payer', async () => {
  await taken(CEDAR);
  const { householdId, patientId } = await household(t);
  await enter(patientId, { keptFromPayers: true });
  expect(await figures(householdId)).toEqual({ withPayer: 0, withPatient: 15733 });
  const planned = await plannedCharge(t, patientId, '80.00');
  await t.db
    .updateTable('charge')
    .set({ tax: 640 as never })
    .where('id', '=', planned)
    .execute();
  expect((await estimatePlanned(t.context, [planned])).get(planned)).toMatchObject({
    fee: 8640,
    patient: 3000,
  });
  // Planned while nobody took any, it is asked of who takes it when it is done.
  await taken();
  await t.db.updateTable('charge').set({ tax_billed: false }).where('id', '=', planned).execute();
  expect((await estimatePlanned(t.context, [planned])).get(planned)).toMatchObject({
    fee: 8640,
    patient: 3640,
  });
  await taken(CEDAR);
  await completeCharge(t.context, { chargeId: planned, serviceDate: TODAY, sure: true });
  expect(await figures(householdId)).toEqual({ withPayer: 8640, withPatient: 15733 });
  expect(await brokenInvariants(t)).toEqual([]);
  const child = await anotherMember(t, householdId);
  await moveCharge(t.context, { chargeId: planned, patientId: child.patientId, why: 'another one was here' });
  expect(await figures(householdId)).toEqual({ withPayer: 0, withPatient: 15733 + 8640 });
});

test('under a coverage that may bill nobody, tax that the payer passes on is not asked of the patient', async () => {
  await taken(CEDAR);
  const { householdId, patientId } = await household(t);
  await enter(patientId);
  await t.db
    .updateTable('coverage')
    .set({ bill_patient: 'never', bill_patient_why: 'injury' })
    .where('case_id', 'in', t.db.selectFrom('care_case').select('id').where('patient_id', '=', patientId))
    .execute();
  const [claimId] = await buildClaims(t.context, { householdId });
  await sendClaims(t.context, { claimIds: [claimId!] });
  const { content } = (await readClaim(t.context, claimId!))!;
  await postedRemittance(t, [
    decided(content.controlNumber, [
      {
        control: content.lines[0]!.control,
        charge: 15733,
        paid: 8000,
        reasons: ['CO-45:47.00', 'PR-1:30.33'],
      },
    ]),
  ]);
  // It was taken off as it was posted.
  expect(await notBillable(t.db, { householdId })).toEqual([]);
  expect(await figures(householdId)).toEqual({ withPayer: 0, withPatient: 0 });
});

test('with another fee the tax of the site is counted anew; one that was typed stays', async () => {
  await taken(CEDAR);
  const { householdId, patientId } = await household(t);
  await t.db
    .updateTable('location')
    .set({ tax_rate: 850 as never })
    .execute();
  await t.db.updateTable('service_code').set({ taxable: true }).where('code', '=', '99213').execute();
  const bySite = await enter(patientId, { fee: '100.00', tax: '' });
  const typed = await enter(patientId, { fee: '100.00', tax: '3.00' });
  const fixed = async (chargeId: number) => {
    const { version } = await t.db
      .selectFrom('charge')
      .select('version')
      .where('id', '=', chargeId)
      .executeTakeFirstOrThrow();
    await changeCharge(t.context, {
      chargeId,
      version,
      fee: '200.00',
      sure: true,
      diagnoses: ['I10'],
      modifiers: [],
    } as never);
    return t.db
      .selectFrom('charge')
      .select(['fee', 'tax', 'billed'])
      .where('id', '=', chargeId)
      .executeTakeFirstOrThrow();
  };
  try {
    expect(await fixed(bySite)).toEqual({ fee: 20000, tax: 1700, billed: 21700 });
    expect(await fixed(typed)).toEqual({ fee: 20000, tax: 300, billed: 20300 });
  } finally {
    await t.db.updateTable('location').set({ tax_rate: null }).execute();
    await t.db.updateTable('service_code').set({ taxable: false }).where('code', '=', '99213').execute();
  }
  expect(await figures(householdId)).toEqual({ withPayer: 42000, withPatient: 0 });
});

test('property: over any changes of who covers, fee and tax are each with whom they are asked of', async () => {
  const step = fc.constantFrom('cedar', 'other', 'cedar takes', 'other takes', 'nobody takes');
  const others = await t.db
    .selectFrom('insurance_plan as n')
    .innerJoin('payer as y', 'y.id', 'n.payer_id')
    .select('y.name')
    .where('n.id', '=', other())
    .executeTakeFirstOrThrow();
  await fc.assert(
    fc.asyncProperty(
      fc.integer({ min: 0, max: 20_000 }),
      fc.integer({ min: 0, max: 2000 }),
      fc.array(step, { minLength: 1, maxLength: 6 }),
      async (fee, tax, steps) => {
        await taken(CEDAR);
        const { householdId, patientId } = await household(t);
        await enter(patientId, { fee: (fee / 100).toFixed(2), tax: (tax / 100).toFixed(2) });
        let takes = [CEDAR];
        let covers = CEDAR;
        let asked = true;
        for (const [at, one] of steps.entries()) {
          if (one === 'cedar' || one === 'other') {
            const next = one === 'cedar' ? CEDAR : others.name;
            await cover(patientId, one === 'cedar' ? t.insurancePlans['CS-350']! : other(), at);
            covers = next;
            asked = takes.includes(covers);
          } else
            await taken(
              ...(takes = one === 'cedar takes' ? [CEDAR] : one === 'other takes' ? [others.name] : []),
            );
        }
        expect(await figures(householdId)).toEqual({
          withPayer: fee + (asked ? tax : 0),
          withPatient: asked ? 0 : tax,
        });
      },
    ),
    { numRuns: runs(12) },
  );
});
