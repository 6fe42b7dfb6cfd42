/** What payers tell of what was used: a dated total, on which comes what is decided later, whatever its service date. */
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
import { keepFromPayers } from './coverage';
import { tellBenefit } from './told';

const t = fileDatabase();
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

let serial = 0;
const on = (day: CalendarDate) => ({ ...t.context, today: day });
const before = (days: number): CalendarDate => addDays(TODAY, -days);

/** A person whose policy has a deductible of 1,000.00 a year and pays for four visits. */
async function counted() {
  const made = await household(t);
  const { policy_id, id: coverageId } = await t.db
    .selectFrom('covered')
    .select(['policy_id', 'id'])
    .where('patient_id', '=', made.patientId)
    .executeTakeFirstOrThrow();
  await t.db
    .insertInto('benefit_rule')
    .values([
      { kind: 'deductible', amount: 100_000 as never, policy_id },
      { kind: 'limit', measure: 'visits', quantity: 4, policy_id },
    ])
    .execute();
  return { ...made, coverageId };
}
const countsOf = async (householdId: number, day: CalendarDate = TODAY) =>
  (await readAccount(on(day), householdId)).members[0]!.cases[0].counts;
const usedOf = async (householdId: number, words: RegExp, day?: CalendarDate) =>
  (await countsOf(householdId, day)).find((count) => words.test(count.words))!;
const ruleOf = async (householdId: number, words: RegExp) => (await usedOf(householdId, words)).rule;

/** A visit that the payer decides on a day: so much of it is deductible, in cents. */
async function visitDecided(
  { householdId, patientId }: { householdId: number; patientId: number },
  day: CalendarDate,
  decidedOn: CalendarDate,
  deductible: number,
) {
  await enterCharge(t.context, {
    patientId,
    providerId: t.providers.family,
    serviceDate: day,
    code: '99213',
    fee: '145.00',
    diagnoses: ['I10'],
    key: `told-test-${(serial += 1)}`,
    sure: true,
  });
  const [claimId] = await buildClaims(t.context, { householdId });
  await sendClaims(t.context, { claimIds: [claimId!] });
  const { content } = await readClaim(t.context, claimId!);
  const paid = 9800 - deductible;
  return postedRemittance(
    t,
    [
      decided(content.controlNumber, [
        {
          control: content.lines[0]!.control,
          charge: 14_500,
          paid,
          reasons: ['CO-45:47.00', `PR-1:${(deductible / 100).toFixed(2)}`],
        },
      ]),
    ],
    { date: decidedOn } as never,
  );
}

test('a total replaces what was decided by that day; what is decided later comes on top, whatever its service date', async () => {
  const made = await counted();
  const { householdId, coverageId } = made;
  await visitDecided(made, before(20), TODAY, 5000);
  expect(await usedOf(householdId, /^deductible$/)).toMatchObject({ used: 5000, left: 95_000, told: null });
  const rule = await ruleOf(householdId, /^deductible$/);
  await tellBenefit(t.context, { coverageId, rule, asOf: TODAY, quantity: '620.00', source: 'call' });
  expect(await usedOf(householdId, /^deductible$/)).toMatchObject({
    used: 62_000,
    left: 38_000,
    told: TODAY,
  });
  // Of a day before that nothing was told yet.
  expect(await usedOf(householdId, /^deductible$/, before(1))).toMatchObject({ used: 5000, told: null });
  // Another practice used it: the estimate knows.
  const estimate = await estimateTyped(t.context, {
    caseId: made.caseId,
    code: '99213',
    units: 1,
    fee: '145.00',
    date: TODAY,
  });
  expect(JSON.stringify(estimate)).toContain('deductible');
  // What it told before the day that it had decided ours: ours comes on top.
  await tellBenefit(t.context, { coverageId, rule, asOf: TODAY, quantity: '', source: 'call' });
  await tellBenefit(t.context, { coverageId, rule, asOf: before(1), quantity: '300.00', source: 'portal' });
  expect(await usedOf(householdId, /^deductible$/)).toMatchObject({ used: 35_000, told: before(1) });
  // The newest day counts, and an older one that is told afterwards does not.
  await tellBenefit(t.context, { coverageId, rule, asOf: before(9), quantity: '10.00', source: 'letter' });
  expect((await usedOf(householdId, /^deductible$/)).used).toBe(35_000);
});

test('what is taken back comes off what was told, never below nothing', async () => {
  const made = await counted();
  const { householdId, coverageId } = made;
  const remittanceId = await visitDecided(made, before(20), TODAY, 5000);
  const rule = await ruleOf(householdId, /^deductible$/);
  await tellBenefit(t.context, { coverageId, rule, asOf: TODAY, quantity: '80.00', source: 'portal' });
  const tomorrow = on(addDays(TODAY, 1));
  await reverseRemittance(tomorrow, { remittanceId, why: 'wrong claim' });
  expect((await usedOf(householdId, /^deductible$/, addDays(TODAY, 1))).used).toBe(3000);
  await tellBenefit(t.context, { coverageId, rule, asOf: TODAY, quantity: '20.00', source: 'portal' });
  expect((await usedOf(householdId, /^deductible$/, addDays(TODAY, 1))).used).toBe(0);
});

test('visits are counted on from what was told; a year later nothing is told of that year', async () => {
  const made = await counted();
  const { householdId, coverageId } = made;
  const rule = await ruleOf(householdId, /visits/);
  await tellBenefit(t.context, { coverageId, rule, asOf: before(5), quantity: '3', source: 'portal' });
  expect(await usedOf(householdId, /visits/)).toMatchObject({ used: 3, left: 1 });
  await visitDecided(made, before(30), TODAY, 0);
  expect(await usedOf(householdId, /visits/)).toMatchObject({ used: 4, left: 0 });
  const next = await usedOf(householdId, /visits/, '2027-01-02' as CalendarDate);
  expect([next.used, next.told]).toEqual([0, null]);
});

test('planned and undecided work is spoken for until it is decided, void or kept from insurers', async () => {
  const made = await counted();
  const { householdId, patientId } = made;
  const spoken = async () => {
    const [visits, deductible] = [
      await usedOf(householdId, /visits/),
      await usedOf(householdId, /^deductible$/),
    ];
    return [visits.spoken, visits.used, deductible.spoken > 0, deductible.used];
  };
  expect(await spoken()).toEqual([0, 0, false, 0]);
  const chargeId = await plannedCharge(t, patientId);
  expect(await spoken()).toEqual([1, 0, true, 0]);
  await keepFromPayers(t.context, { chargeId, kept: true });
  expect(await spoken()).toEqual([0, 0, false, 0]);
  await keepFromPayers(t.context, { chargeId, kept: false });
  await completeCharge(t.context, { chargeId, serviceDate: before(1), sure: true });
  expect(await spoken()).toEqual([1, 0, true, 0]);
  await keepFromPayers(t.context, { chargeId, kept: true });
  expect(await spoken()).toEqual([0, 0, false, 0]);
  await keepFromPayers(t.context, { chargeId, kept: false });
  await voidCharge(t.context, { chargeId, why: 'x' });
  await visitDecided(made, before(3), TODAY, 4000);
  expect(await spoken()).toEqual([0, 1, false, 4000]);
});

test.each([
  ['a day that is not yet', { asOf: addDays(TODAY, 1) }, 'asOf'],
  ['a rule that is not counted', { rule: 'no such rule' }, 'rule'],
  ['no amount', { quantity: '-1' }, 'quantity'],
  ['a source that is none', { source: 'a dream' }, 'source'],
  ['30 February', { asOf: '2026-02-30' }, 'asOf'],
])('%s is refused', async (_, more, field) => {
  const { householdId, coverageId } = await counted();
  const rule = await ruleOf(householdId, /^deductible$/);
  await expect(
    tellBenefit(t.context, {
      coverageId,
      rule,
      asOf: TODAY,
      quantity: '1.00',
      source: 'call',
      ...(more as object),
    }),
  ).rejects.toMatchObject({ field });
});

test('half a visit is none', async () => {
  const { householdId, coverageId } = await counted();
  const rule = await ruleOf(householdId, /visits/);
  await expect(
    tellBenefit(t.context, { coverageId, rule, asOf: TODAY, quantity: '1.5', source: 'call' }),
  ).rejects.toThrow(/whole number/);
});
