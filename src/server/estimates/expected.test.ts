/**
 * What the contract is expected to take off counts on the day of service where the practice says so. Worked by hand: a visit of 145.00,
 * of which the contract allows 98.00.
 */
import fc from 'fast-check';
import { sql } from 'kysely';
import { TODAY, fileDatabase } from '../../testing/database';
import { CONTRACTED, brokenInvariants, decided, household, intake, remitText } from '../../testing/desk';
import { runs } from '../../testing/runs';
import { readAccount } from '../account-page/read';
import { completeCharge, enterCharge, voidCharge } from '../accounts/charges';
import { addCoverage, keepFromPayers } from '../accounts/coverage';
import { exhaustCoverage } from '../accounts/exhausted';
import { readStory } from '../accounts/ledger';
import { readCaseTotals } from '../accounts/members';
import { moveCharge } from '../accounts/move';
import { addMember } from '../accounts/register';
import { enterVisit, undoVisit } from '../accounts/visits';
import { buildClaims } from '../claims/build';
import { changeCharge } from '../claims/fix';
import { readClaim } from '../claims/read';
import { sendClaims } from '../claims/send';
import { settleWaiting } from '../follow-ups/work';
import { postRemittance } from '../remittances/post';
import { reverseRemittance } from '../remittances/reverse';

const t = fileDatabase();
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

let serial = 0;
const key = (): string => `expected-test-${(serial += 1)}`;
const count = (when: 'answer' | 'service') =>
  t.db.updateTable('practice').set({ write_offs_count: when }).execute();
beforeEach(() => count('service'));

const visit = (patientId: number, more: object = {}) =>
  enterCharge(t.context, {
    patientId,
    providerId: t.providers.family!,
    serviceDate: TODAY,
    code: '99213',
    diagnoses: ['I10'],
    key: key(),
    ...more,
  });
/** What stands of a charge, in cents. */
const stands = async (chargeId: number) => {
  const { fee, reduced, expected, with_payer, with_patient, payer_paid } = await t.db
    .selectFrom('charge_balance')
    .selectAll()
    .where('charge_id', '=', chargeId)
    .executeTakeFirstOrThrow();
  return { fee, reduced, expected, payer: with_payer, patient: with_patient, paid: payer_paid };
};
const EXPECTED = { fee: 14500, reduced: 0, expected: 4700, payer: 9800, patient: 0, paid: 0 };

/** A claim of one visit that was sent. */
async function sent() {
  const made = await household(t);
  const chargeId = await visit(made.patientId);
  const [claimId] = await buildClaims(t.context, { householdId: made.householdId });
  await sendClaims(t.context, { claimIds: [claimId!] });
  const claim = (await readClaim(t.context, claimId!))!;
  return {
    ...made,
    chargeId,
    claimId: claimId!,
    number: claim.controlNumber,
    control: claim.content.lines[0]!.control,
  };
}
type Sent = Awaited<ReturnType<typeof sent>>;
/** The payer says something of it: paid, and why the rest is not. */
async function say(s: Sent, paid: number, reasons: string[], status = '1') {
  return post([decided(s.number, [{ control: s.control, charge: 14500, paid, reasons }], status)]);
}
/** It takes its word back, in a payment of another claim. */
async function takeBack(s: Sent) {
  const other = await sent();
  const reasons = CONTRACTED.map((one) => one.replace(':', ':-'));
  return post([
    decided(s.number, [{ control: s.control, charge: -14500, paid: -6800, reasons }], '22'),
    decided(other.number, [{ control: other.control, charge: 14500, paid: 8000, reasons: ['CO-45:65.00'] }]),
  ]);
}
async function post(claims: Parameters<typeof remitText>[0]) {
  const { outcomes } = await intake(t.context, remitText(claims, { trace: `EXP${(serial += 1)}` }));
  const { remittanceId } = outcomes[0]!;
  await postRemittance(t.context, remittanceId!);
  return remittanceId!;
}

test('counted on the day of service it reduces what the payer is expected to owe; the claim bears the office fee', async () => {
  const s = await sent();
  expect(await stands(s.chargeId)).toEqual(EXPECTED);
  const claim = (await readClaim(t.context, s.claimId))!;
  expect([claim.total, claim.content.total, claim.content.lines[0]!.charge]).toEqual([14500, 14500, 14500]);
  const story = await readStory(t.context, s.householdId, s.chargeId);
  expect(story.charges[0]!.sentences.map(({ words }) => words)).toContainEqual(
    expect.stringMatching(/^47.00 is expected to come off by our contract with /),
  );
  const page = await readAccount(t.context, s.householdId);
  expect([page.figures.withPayer, page.charges[0]!.expected]).toEqual([9800, 4700]);
});

test('counted when the payer answers, nothing is expected; what was entered before keeps its policy, and a plan may have its own', async () => {
  const one = await household(t);
  const before = await visit(one.patientId);
  await count('answer');
  const other = await household(t);
  const after = await visit(other.patientId);
  expect([(await stands(before)).expected, (await stands(after)).expected]).toEqual([4700, 0]);
  const plan = t.db.updateTable('insurance_plan').where('id', '=', t.insurancePlans['CS-350']!);
  await plan.set({ write_offs_count: 'service' }).execute();
  const third = await visit((await household(t)).patientId);
  await plan.set({ write_offs_count: '' }).execute();
  expect((await stands(third)).expected).toBe(4700);
});

test('what is planned, kept from insurers or without a contract expects nothing; once done it does', async () => {
  const { patientId } = await household(t);
  const planned = await visit(patientId, { planned: true });
  await completeCharge(t.context, { chargeId: planned, serviceDate: TODAY });
  expect(await stands(planned)).toEqual(EXPECTED);
  const kept = await visit((await household(t)).patientId, { keptFromPayers: true });
  expect(await stands(kept)).toMatchObject({ expected: 0, patient: 14500 });
  const alone = await visit((await household(t, false)).patientId);
  expect(await stands(alone)).toMatchObject({ expected: 0, patient: 14500 });
});

test('the answer takes it back first and counts once: what comes off is what the payer takes off', async () => {
  const s = await sent();
  await say(s, 6800, [...CONTRACTED]);
  expect(await stands(s.chargeId)).toMatchObject({
    expected: 0,
    reduced: 4700,
    payer: 0,
    paid: 6800,
    patient: 3000,
  });
  const other = await sent();
  // Another amount than expected is the true one.
  await say(other, 8000, ['CO-45:65.00']);
  expect(await stands(other.chargeId)).toEqual({
    ...EXPECTED,
    expected: 0,
    reduced: 6500,
    payer: 0,
    paid: 8000,
  });
});

test('a denial leaves it while it is worked; whoever settles it takes it back first', async () => {
  const s = await sent();
  await say(s, 0, ['CO-50:145.00'], '4');
  expect(await stands(s.chargeId)).toEqual(EXPECTED);
  await settleWaiting(t.context, { chargeId: s.chargeId, to: 'off', why: 'not worth an appeal' });
  expect(await stands(s.chargeId)).toEqual({ ...EXPECTED, expected: 0, reduced: 14500, payer: 0 });
});

test('a decision taken back whole brings it back, and a new one takes it off again', async () => {
  const s = await sent();
  const remittanceId = await say(s, 6800, [...CONTRACTED]);
  await reverseRemittance(t.context, { remittanceId, why: 'another payer’s' });
  expect(await stands(s.chargeId)).toEqual(EXPECTED);
  const again = await sent();
  await say(again, 6800, [...CONTRACTED]);
  await takeBack(again);
  expect(await stands(again.chargeId)).toEqual(EXPECTED);
  await say(again, 7000, ['CO-45:47.00', 'PR-3:28.00']);
  expect(await stands(again.chargeId)).toMatchObject({
    expected: 0,
    reduced: 4700,
    paid: 7000,
    payer: 0,
    patient: 2800,
  });
});

test('void, undone, moved, put right, kept from payers: it goes and comes with the charge', async () => {
  const { householdId, patientId } = await household(t);
  const gone = await visit(patientId);
  await voidCharge(t.context, { chargeId: gone, why: 'x' });
  expect(await stands(gone)).toMatchObject({ fee: 0, expected: 0, payer: 0 });
  const [first, second] = await enterVisit(t.context, {
    patientId,
    providerId: t.providers.family!,
    serviceDate: TODAY,
    lines: [{ code: '99213' }, { code: '80053' }],
    key: key(),
  });
  expect((await stands(first!)).expected).toBe(4700);
  await undoVisit(t.context, { chargeId: second!, why: 'x' });
  expect(await stands(first!)).toMatchObject({ fee: 0, expected: 0, payer: 0 });
  const put = await visit(patientId);
  await changeCharge(t.context, { chargeId: put, diagnoses: ['I10'], units: 2, fee: '290.00' });
  expect(await stands(put)).toMatchObject({ fee: 29000, expected: 9400, payer: 19600 });
  await keepFromPayers(t.context, { chargeId: put, kept: true });
  expect(await stands(put)).toMatchObject({ expected: 0, payer: 0, patient: 29000 });
  await keepFromPayers(t.context, { chargeId: put, kept: false });
  expect(await stands(put)).toMatchObject({ expected: 9400, payer: 19600, patient: 0 });
  const other = await addMember(t.context, {
    householdId,
    last: 'Tester',
    first: 'Second',
    birthDate: '2001-01-01',
    sex: 'M',
    key: key(),
  });
  const moved = await moveCharge(t.context, {
    chargeId: put,
    patientId: other.patientId,
    caseId: null,
    why: 'x',
  });
  expect(await stands(put)).toMatchObject({ expected: 0, payer: 0 });
  expect(await stands(moved)).toMatchObject({ expected: 0, patient: 29000 });
});

test('where the contract takes all of it off nothing is expected, so that the claim is answered', async () => {
  const { householdId, patientId } = await household(t);
  const { rows } = await sql<{ schedule: number }>`
    select n.fee_schedule_id as schedule
    from covered o
      join insurance_plan n on n.id = o.insurance_plan_id
    where o.patient_id = ${patientId}`.execute(t.db);
  const fee = { fee_schedule_id: rows[0]!.schedule, code: '99051', valid_from: TODAY };
  await t.db
    .insertInto('fee')
    .values({ ...fee, amount: 0 as never })
    .execute();
  const chargeId = await visit(patientId, { code: '99051', fee: '35.00' });
  await t.owner.deleteFrom('fee').where('code', '=', '99051').where('valid_from', '=', TODAY).execute();
  expect(await stands(chargeId)).toMatchObject({ expected: 0, payer: 3500 });
  expect(await buildClaims(t.context, { householdId })).toHaveLength(1);
});

test('another coverage has its own contract, and one that is exhausted none', async () => {
  const { patientId, householdId } = await household(t);
  const chargeId = await visit(patientId);
  const [first] = (await readAccount(t.context, householdId)).members[0]!.cases[0].coverages;
  const others = Object.entries(t.insurancePlans).find(([group]) => !group.startsWith('CS'))![1];
  await addCoverage(t.context, {
    patientId,
    insurancePlanId: others,
    memberId: 'X1',
    position: 2,
    key: key(),
  });
  await exhaustCoverage(t.context, {
    coverageId: first!.id,
    from: TODAY,
    letter: new TextEncoder().encode('%PDF-1.4 x'),
  });
  const { rows } = await sql<{ coverage_id: number; amount: number }>`
    select coverage_id, sum(amount)::bigint as amount from posting
    where charge_id = ${chargeId} and account = 'reduction/expected' group by 1 having sum(amount) <> 0`.execute(
    t.db,
  );
  expect(rows.every(({ coverage_id }) => coverage_id !== first!.id)).toBe(true);
  const { payer, expected } = await stands(chargeId);
  expect(payer + expected).toBe(14500);
});

test('a plan whose charges stand at the contracted fee: the books and the claim bear the office fee, the ledger shows the other', async () => {
  await count('answer');
  const plan = t.db.updateTable('insurance_plan').where('id', '=', t.insurancePlans['CS-350']!);
  await plan.set({ charges_at: 'contract' }).execute();
  const s = await sent();
  await plan.set({ charges_at: 'office' }).execute();
  expect(await stands(s.chargeId)).toEqual(EXPECTED);
  expect((await readClaim(t.context, s.claimId))!.content.total).toBe(14500);
  const row = async () => (await readAccount(t.context, s.householdId)).charges[0]!;
  expect(await row()).toMatchObject({
    fee: 9800,
    expected: 0,
    reduced: 0,
    withPayer: 9800,
    contractOff: 4700,
  });
  const told = await readStory(t.context, s.householdId, s.chargeId);
  expect(told.charges[0]!.sentences[0]!.words).toMatch(
    /The fee is 98.00, by our contract with your insurer, and would be 145.00 without it\.$/,
  );
  expect(told.charges[0]!.sentences.some(({ words }) => words.includes('expected to come off'))).toBe(false);
  await say(s, 6800, [...CONTRACTED]);
  expect(await row()).toMatchObject({ fee: 9800, reduced: 0, payerPaid: 6800, withPatient: 3000 });
  const { case: own } = await readCaseTotals(t.context, s.caseId);
  expect(own).toMatchObject({ charged: 9800, reduced: 0, paid: 6800, withPatient: 3000 });
});

/** What may happen to a charge, one after another. */
const STEPS = ['allow', 'deny', 'take back', 'reverse', 'settle off', 'settle patient'] as const;

test('whatever is said, taken back and settled, in any order: what is expected is 47.00 while nothing of it is decided or settled, else nothing', async () => {
  await fc.assert(
    fc.asyncProperty(fc.array(fc.constantFrom(...STEPS), { maxLength: 6 }), async (steps) => {
      const s = await sent();
      // Own arithmetic: what stands of the payer's words, and whether a denial was settled.
      let allowed = false;
      let denied = false;
      let settled = false;
      let last: number | null = null;
      for (const step of steps) {
        if (step === 'allow' && !allowed) {
          last = await say(s, 6800, [...CONTRACTED]);
          allowed = true;
          denied = false;
          settled = false;
        } else if (step === 'deny' && !allowed && !denied && !settled) {
          await say(s, 0, ['CO-50:145.00'], '4');
          denied = true;
        } else if (step === 'take back' && allowed) {
          await takeBack(s);
          allowed = false;
          last = null;
        } else if (step === 'reverse' && allowed && last !== null) {
          await reverseRemittance(t.context, { remittanceId: last, why: 'x' });
          allowed = false;
          last = null;
        } else if (step === 'settle off' && denied) {
          await settleWaiting(t.context, { chargeId: s.chargeId, to: 'off', why: 'x' });
          denied = false;
          settled = true;
        } else if (step === 'settle patient' && denied) {
          await settleWaiting(t.context, {
            chargeId: s.chargeId,
            to: 'patient',
            exception: 'no-contract',
            why: 'x',
          }).catch(() => undefined);
          const { payer } = await stands(s.chargeId);
          settled = payer === 0;
          denied = !settled;
        }
        const now = await stands(s.chargeId);
        expect([steps, step, now.expected]).toEqual([steps, step, allowed || settled ? 0 : 4700]);
        // All of the fee is somewhere: gross production is the same, whichever way it is counted.
        expect(now.reduced + now.expected + now.paid + now.payer + now.patient).toBe(14500);
        if (allowed) expect(now).toMatchObject({ reduced: 4700, paid: 6800 });
      }
    }),
    { numRuns: runs(12) },
  );
  expect(await brokenInvariants(t)).toEqual([]);
});
