/** Charges that were entered for the wrong person or case: moved with their history, and the books hold. */
import fc from 'fast-check';
import { sql } from 'kysely';
import { addDays } from '../../core/calendar';
import { TODAY, fileDatabase } from '../../testing/database';
import {
  brokenInvariants,
  charge,
  decided,
  household,
  plannedCharge,
  postedRemittance,
} from '../../testing/desk';
import { runs } from '../../testing/runs';
import { readAccount } from '../account-page/read';
import { Refused } from '../access';
import { buildClaims } from '../claims/build';
import { readClaim } from '../claims/read';
import { freeVoided, replaceClaim } from '../claims/replace';
import { sendClaims } from '../claims/send';
import { withdrawClaim } from '../claims/hold';
import { spendCredit } from '../payments/credit';
import { takeReceipt } from '../payments/take';
import { acceptPlan, cancelPlan, proposePlan } from '../plans/agree';
import { reverseRemittance } from '../remittances/reverse';
import { setConfidential } from './confidential';
import { completeCharge, voidCharge } from './charges';
import { addCoverage } from './coverage';
import { moveCharge } from './move';
import { addMember } from './register';

const t = fileDatabase();
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

let serial = 0;
const key = (): string => `move-test-${(serial += 1)}`;
const figures = async (householdId: number) => {
  const { withPayer, withPatient, credit } = (await readAccount(t.context, householdId)).figures;
  return [withPayer, withPatient, credit];
};
const member = (householdId: number) =>
  addMember(t.context, {
    householdId,
    last: 'Tester',
    first: `Sibling${(serial += 1)}`,
    birthDate: '2015-01-01',
    sex: 'F',
    key: key(),
    sure: true,
  });
/** Voids a claim at the payer, which confirms it. */
async function freeClaim(claimId: number): Promise<void> {
  const voidId = await replaceClaim(t.context, {
    claimId,
    as: '8',
    payerClaimNumber: 'ICN1',
    why: 'not hers',
  });
  await sendClaims(t.context, { claimIds: [voidId] });
  await freeVoided(t.context, { claimId: voidId, why: 'by telephone' });
}
const row = (id: number) =>
  t.db.selectFrom('charge').selectAll().where('id', '=', id).executeTakeFirstOrThrow();

test('to another person of the household: out of the books there, in them here, for whoever covers them', async () => {
  const { householdId, patientId } = await household(t);
  const other = await member(householdId);
  const chargeId = await charge(t, t.context, patientId, '80.00');
  expect(await figures(householdId)).toEqual([8000, 0, 0]);
  const id = await moveCharge(t.context, {
    chargeId,
    patientId: other.patientId,
    why: 'the sister was here',
  });
  expect(await figures(householdId)).toEqual([0, 8000, 0]);
  const [old, now] = [await row(chargeId), await row(id)];
  expect(old.status).toBe('void');
  expect(now).toMatchObject({
    status: 'done',
    patient_id: other.patientId,
    case_id: other.caseId,
    coverage_id: null,
    moved_from: chargeId,
    fee: old.fee,
    service_date: old.service_date,
    code: old.code,
    diagnoses: old.diagnoses,
  });
  // Back again it is a third charge; the chain is kept.
  const back = await moveCharge(t.context, { chargeId: id, patientId, why: 'it was not' });
  expect((await row(back)).moved_from).toBe(id);
  expect(await figures(householdId)).toEqual([8000, 0, 0]);
});

test('to another household, to another case, and what is only planned', async () => {
  const [one, two] = [await household(t), await household(t, false)];
  const chargeId = await charge(t, t.context, one.patientId, '80.00');
  await moveCharge(t.context, { chargeId, patientId: two.patientId, why: 'a namesake' });
  expect([await figures(one.householdId), await figures(two.householdId)]).toEqual([
    [0, 0, 0],
    [0, 8000, 0],
  ]);
  const { id: accident } = await t.owner
    .insertInto('care_case')
    .values({ patient_id: two.patientId, name: 'Accident', kind: 'accident', standing: false })
    .returning('id')
    .executeTakeFirstOrThrow();
  await addCoverage(t.context, {
    patientId: two.patientId,
    caseId: accident,
    insurancePlanId: t.insurancePlans['NL-A10'],
    memberId: 'MOVE1',
    key: key(),
  });
  const planned = await plannedCharge(t, one.patientId);
  const moved = await moveCharge(t.context, {
    chargeId: planned,
    patientId: two.patientId,
    caseId: accident,
    why: 'after the accident',
  });
  expect(await row(moved)).toMatchObject({ status: 'planned', case_id: accident, moved_from: planned });
  await completeCharge(t.context, { chargeId: moved, serviceDate: TODAY, sure: true });
  expect(await figures(two.householdId)).toEqual([8000, 8000, 0]);
});

test('what was paid of it pays it there as far as it is owed, and is credit otherwise', async () => {
  const { householdId, patientId } = await household(t, false);
  const namesake = await household(t, false);
  const brother = await member(householdId);
  const chargeId = await charge(t, t.context, patientId, '80.00');
  for (const amount of ['30.00', '25.00'])
    await takeReceipt(t.context, { householdId, tenders: [{ tender: 'cash', amount }], key: key() });
  const id = await moveCharge(t.context, {
    chargeId,
    patientId: brother.patientId,
    why: 'the brother was here',
  });
  expect(await figures(householdId)).toEqual([0, 2500, 0]);
  const { rows } = await sql<{ receipt: number; amount: number }>`
    select receipt_id as receipt, sum(amount) as amount from posting
    where charge_id = ${id} and account = 'credit/patient' group by 1 order by 1`.execute(t.db);
  expect(rows.map(({ amount }) => amount)).toEqual([3000, 2500]);
  // Elsewhere it is another's to pay: the money stays with who paid it.
  const gone = await moveCharge(t.context, {
    chargeId: id,
    patientId: namesake.patientId,
    why: 'a namesake',
  });
  expect(await figures(householdId)).toEqual([0, 0, 5500]);
  expect(await figures(namesake.householdId)).toEqual([0, 8000, 0]);
  // And back it is paid no second time by itself: what is credit is applied by whoever says so.
  await moveCharge(t.context, { chargeId: gone, patientId, why: 'it was her after all' });
  expect(await figures(householdId)).toEqual([0, 8000, 5500]);
});

test('money that is kept apart pays no charge of the household', async () => {
  const { householdId, patientId } = await household(t, false);
  const own = await member(householdId);
  await setConfidential(t.context, {
    patientId: own.patientId,
    name: 'Own',
    line1: '9 Quiet Lane',
    city: 'Osprey Landing',
    state: 'WA',
    zip: '98191',
    why: 'asked for it',
  });
  const chargeId = await charge(t, t.context, own.patientId, '60.00');
  await takeReceipt(t.context, {
    householdId,
    patientId: own.patientId,
    tenders: [{ tender: 'cash', amount: '60.00' }],

    key: key(),
  });
  await moveCharge(t.context, { chargeId, patientId, why: 'the mother was here' });
  expect(await figures(householdId)).toEqual([0, 6000, 6000]);
});

test('what a payer took back whole is moved; what it decided that stands is not', async () => {
  const { householdId, patientId } = await household(t);
  const other = await household(t);
  const chargeId = await charge(t, t.context, patientId, '145.00');
  const [claimId] = await buildClaims(t.context, { householdId });
  await sendClaims(t.context, { claimIds: [claimId!] });
  const { content } = await readClaim(t.context, claimId!);
  const [line] = content.lines;
  const word = { control: line!.control, charge: 14_500, paid: 6800, reasons: ['CO-45:47.00', 'PR-3:30.00'] };
  const remittanceId = await postedRemittance(t, [decided(content.controlNumber, [word])]);
  await takeReceipt(t.context, { householdId, tenders: [{ tender: 'cash', amount: '30.00' }], key: key() });
  const move = () => moveCharge(t.context, { chargeId, patientId: other.patientId, why: 'x' });
  await expect(move()).rejects.toMatchObject({ code: 'blocked' });
  expect(await figures(householdId)).toEqual([0, 0, 0]);
  await reverseRemittance(t.context, { remittanceId, why: 'of another file' });
  await freeClaim(claimId!);
  await move();
  expect(await figures(householdId)).toEqual([0, 0, 3000]);
  expect(await figures(other.householdId)).toEqual([14_500, 0, 0]);
});

test('what is on a claim, on a plan, void or there already is refused, says what to do, and stays', async () => {
  const { householdId, patientId } = await household(t);
  const other = await household(t);
  const chargeId = await charge(t, t.context, patientId, '80.00');
  const move = (id = chargeId, to = other.patientId) =>
    moveCharge(t.context, { chargeId: id, patientId: to, why: 'x' });
  await expect(move(chargeId, patientId)).rejects.toMatchObject({ code: 'already' });
  const [claimId] = await buildClaims(t.context, { householdId });
  await expect(move()).rejects.toMatchObject({
    code: 'blocked',
    message: expect.stringMatching(/on claim .*withdraw/),
  });
  await withdrawClaim(t.context, { claimId: claimId!, why: 'x' });
  const own = await household(t, false);
  const paid = await charge(t, t.context, own.patientId, '50.00');
  await takeReceipt(t.context, {
    householdId: own.householdId,
    tenders: [{ tender: 'cash', amount: '20.00' }],
    key: key(),
  });
  const planId = await proposePlan(t.context, {
    householdId: own.householdId,
    installments: 3,
    first: addDays(TODAY, 30),
    key: key(),
  });
  await acceptPlan(t.context, { planId, signedBy: 'Nr Tester' });
  await expect(move(paid)).rejects.toMatchObject({
    code: 'blocked',
    message: expect.stringMatching(/Money has moved .* payment plan/),
  });
  expect(await row(paid)).toMatchObject({ status: 'done' });
  await cancelPlan(t.context, { planId, why: 'x' });
  await move(paid);
  await expect(move(paid)).rejects.toMatchObject({ code: 'state' });
  await expect(move(chargeId, 99_999_999)).rejects.toMatchObject({ field: 'patientId' });
  await expect(
    moveCharge(t.context, { chargeId, patientId: other.patientId, caseId: own.caseId, why: 'x' }),
  ).rejects.toMatchObject({ code: 'others' });
  expect(await figures(householdId)).toEqual([8000, 0, 0]);
});

test('two move one charge at once: it is moved once', async () => {
  const [one, two, three] = [await household(t), await household(t), await household(t)];
  const chargeId = await charge(t, t.context, one.patientId, '80.00');
  const tried = await Promise.allSettled(
    [two, three].map(({ patientId }) => moveCharge(t.context, { chargeId, patientId, why: 'x' })),
  );
  expect(tried.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
  const all = await Promise.all([one, two, three].map(({ householdId }) => figures(householdId)));
  expect(all.reduce((sum, [payer]) => sum + payer!, 0)).toBe(8000);
});

test('property: moved about, billed, paid and voided, what all owe together is what stands', async () => {
  const step = fc.record({
    kind: fc.constantFrom('move', 'pay', 'spend', 'void', 'bill'),
    which: fc.nat(5),
    to: fc.nat(2),
  });
  await fc.assert(
    fc.asyncProperty(fc.array(step, { minLength: 2, maxLength: 10 }), async (steps) => {
      const people = [await household(t), await household(t, false), await household(t)];
      const charges: number[] = [];
      for (const { patientId } of people) charges.push(await charge(t, t.context, patientId, '60.00'));
      let paid = 0;
      for (const { kind, which, to } of steps) {
        const chargeId = charges[which % charges.length]!;
        const person = people[to]!;
        try {
          if (kind === 'move')
            charges.push(await moveCharge(t.context, { chargeId, patientId: person.patientId, why: 'x' }));
          else if (kind === 'pay') {
            await takeReceipt(t.context, {
              householdId: person.householdId,
              tenders: [{ tender: 'cash', amount: '10.00' }],

              key: key(),
              sure: true,
            });
            paid += 1000;
          } else if (kind === 'spend')
            await spendCredit(t.context, { householdId: person.householdId, key: key() });
          else if (kind === 'bill') await buildClaims(t.context, { householdId: person.householdId });
          else await voidCharge(t.context, { chargeId, why: 'x' });
        } catch (error) {
          if (!(error instanceof Refused)) throw error;
        }
      }
      const [all, standing] = await Promise.all([
        Promise.all(people.map(({ householdId }) => figures(householdId))),
        t.db
          .selectFrom('charge')
          .select(['fee'])
          .where('status', '=', 'done')
          .where(
            'household_id',
            'in',
            people.map(({ householdId }) => householdId),
          )
          .execute(),
      ]);
      const owed = all.reduce((sum, [payer, patient, credit]) => sum + payer! + patient! - credit!, 0);
      expect(owed).toBe(standing.reduce((sum, { fee }) => sum + fee, 0) - paid);
      expect(await brokenInvariants(t)).toEqual([]);
    }),
    { numRuns: runs(16) },
  );
});
