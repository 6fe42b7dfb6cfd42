/** Limits that count themselves: what is left is what was decided and entered, and going beyond one has to be meant. */
import { type CalendarDate, addDays } from '../../core/calendar';
import { TODAY, fileDatabase } from '../../testing/database';
import {
  brokenInvariants,
  decided,
  household,
  plannedCharge,
  postedRemittance,
  estimateTyped,
} from '../../testing/desk';
import { readAccount } from '../account-page/read';
import { buildClaims } from '../claims/build';
import { readClaim } from '../claims/read';
import { sendClaims } from '../claims/send';
import { reverseRemittance } from '../remittances/reverse';
import { completeCharge, enterCharge, voidCharge } from './charges';

const t = fileDatabase();
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

let serial = 0;
/** A person whose policy pays for so many visits a year, which has to be meant beyond. */
async function limited(quantity: number, more: object = {}) {
  const made = await household(t);
  const { policy_id } = await t.db
    .selectFrom('covered')
    .select('policy_id')
    .where('patient_id', '=', made.patientId)
    .executeTakeFirstOrThrow();
  await t.db
    .insertInto('benefit_rule')
    .values({ kind: 'limit', measure: 'visits', quantity, warning: 'confirm', policy_id, ...more })
    .execute();
  return made;
}
const enter = (patientId: number, day: CalendarDate, more: object = {}) =>
  enterCharge(t.context, {
    patientId,
    providerId: t.providers.family,
    serviceDate: day,
    code: '99213',
    fee: '145.00',
    diagnoses: ['I10'],
    key: `limits-test-${(serial += 1)}`,
    ...more,
  });
const before = (days: number): CalendarDate => addDays(TODAY, -days);
const beyond = /98\.00 goes beyond 2 visits a year of .*: 98\.00 is expected from the patient/;

test('the third of two visits has to be meant, whether they were entered or decided; the next of a day is no third', async () => {
  const { householdId, patientId, caseId } = await limited(2);
  await enter(patientId, before(9));
  const [claimId] = await buildClaims(t.context, { householdId });
  await sendClaims(t.context, { claimIds: [claimId!] });
  const { content } = await readClaim(t.context, claimId!);
  const line = {
    control: content.lines[0]!.control,
    charge: 14_500,
    paid: 6800,
    reasons: ['CO-45:47.00', 'PR-3:30.00'],
  };
  const remittanceId = await postedRemittance(t, [decided(content.controlNumber, [line])]);
  const { members } = await readAccount(t.context, householdId);
  expect(members[0]!.cases[0].counts.map(({ words, left }) => [left, words])).toContainEqual([
    1,
    '2 visits a year',
  ]);
  const second = await enter(patientId, before(5));
  await enter(patientId, before(5), { code: '99212', fee: '90.00' });
  await expect(enter(patientId, before(1))).rejects.toThrow(beyond);
  const typed = { caseId, code: '99213', units: 1, fee: '145.00', date: before(1) };
  const found = (await estimateTyped(t.context, typed))!;
  expect(found.steps.map(({ words }) => words)).toContainEqual(
    expect.stringMatching(/: over 2 visits a year$/),
  );
  expect(found.patient).toBe(9800);
  // What is taken back, or voided, is there again.
  await reverseRemittance(t.context, { remittanceId, why: 'x' });
  await expect(enter(patientId, before(1))).rejects.toThrow(beyond);
  const [other] = await t.db
    .selectFrom('charge')
    .select('id')
    .where('code', '=', '99212')
    .where('patient_id', '=', patientId)
    .execute();
  for (const chargeId of [second, other!.id]) await voidCharge(t.context, { chargeId, why: 'x' });
  await enter(patientId, before(1));
  await expect(enter(patientId, TODAY)).rejects.toThrow(beyond);
  expect(await enter(patientId, TODAY, { sure: true })).toBeGreaterThan(0);
});

test('two enter the last visit at once: one of them is asked', async () => {
  const { patientId } = await limited(1);
  const tried = await Promise.allSettled([enter(patientId, before(3)), enter(patientId, before(2))]);
  expect(tried.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
  expect(tried.find(({ status }) => status === 'rejected')).toMatchObject({ reason: { code: 'doubtful' } });
});

test('one of an earlier day that pushes another one beyond is asked too', async () => {
  const { patientId } = await limited(2);
  for (const days of [1, 3]) await enter(patientId, before(days));
  await expect(enter(patientId, before(8))).rejects.toThrow(beyond);
  await enter(patientId, before(8), { sure: true });
});

test('planned it is not asked, done it is; kept from insurers, or with a limit that only shows, it is not', async () => {
  const { patientId } = await limited(0);
  const planned = await plannedCharge(t, patientId);
  await expect(completeCharge(t.context, { chargeId: planned, serviceDate: TODAY })).rejects.toThrow(
    /goes beyond 0 visits/,
  );
  await enter(patientId, before(1), { keptFromPayers: true });
  const shown = await limited(0, { warning: 'none' });
  await enter(shown.patientId, before(1));
});
