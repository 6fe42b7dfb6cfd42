/** Policies behind coverages: one of a family, its holder, its numbers by day, and benefits that belong to it. */
import fc from 'fast-check';
import { sql } from 'kysely';
import { type CalendarDate, addDays, calendarDate } from '../../core/calendar';
import { TODAY, fileDatabase } from '../../testing/database';
import {
  estimateTyped,
  brokenInvariants,
  charge,
  decided,
  household,
  postedRemittance,
  sentClaim,
} from '../../testing/desk';
import { cents } from '../../core/money';
import { runs } from '../../testing/runs';
import { readAccount } from '../account-page/read';
import { buildClaims } from '../claims/build';
import { readClaim } from '../claims/read';
import { sendClaims } from '../claims/send';
import { Refused } from '../access';
import { changeCharge } from '../claims/fix';
import { completeCharge, enterCharge } from './charges';
import { addCoverage, changeCoverage, orderCoverages } from './coverage';
import { addMember, changePatient } from './register';

const t = fileDatabase();
let serial = 0;
const key = (): string => `policies-test-${(serial += 1)}`;
const TOMORROW = addDays(TODAY, 1);
const tomorrow = () => ({ ...t.context, today: TOMORROW });
const covered = (patientId: number) =>
  t.db.selectFrom('covered').selectAll().where('patient_id', '=', patientId).orderBy('id').execute();
const plan = () => t.insurancePlans['CS-350']!;

/** A visit decided with 50.00 of the deductible and 48.00 paid. */
async function someUsed() {
  const s = await sentClaim(t);
  await postedRemittance(t, [
    decided(s.claim.control_number, [
      { control: s.controls[0]!, charge: 14500, paid: 4800, reasons: ['CO-45:47.00', 'PR-1:50.00'] },
    ]),
  ]);
  return s;
}
/** What payers decided to be used of the policy that covers a person today: of the deductible, and paid. */
const usedOf = async (patientId: number, context = t.context) => {
  const { rows } = await sql<{ kind: string; quantity: number }>`
    select b.kind, b.quantity
    from coverage_on((select id from care_case where patient_id = ${patientId} and standing), 1, ${context.today}::date) c (id)
      join coverage o on o.id = c.id
      join benefit_counter b on b.policy_id = o.policy_id and b.patient_id = ${patientId}
    where b.period_start = date_trunc('year', ${context.today}::date)`.execute(t.db);
  return ['deductible', 'maximum'].map((kind) => rows.find((row) => row.kind === kind)?.quantity ?? 0);
};
const used = async (householdId: number, context = t.context) =>
  usedOf((await readAccount(context, householdId)).members[0]!.id, context);

test('two remittances of one person are posted at once: what both used is counted', async () => {
  const { householdId, patientId } = await household(t);
  const said = [];
  for (const day of [addDays(TODAY, -3), addDays(TODAY, -2), addDays(TODAY, -1)]) {
    await charge(t, t.context, patientId, '145.00', '99213', day);
    const [claimId] = await buildClaims(t.context, { householdId });
    await sendClaims(t.context, { claimIds: [claimId!] });
    const { content } = await readClaim(t.context, claimId!);
    const { control } = content.lines[0]!;
    const line = { control, charge: 14500, paid: 4800, reasons: ['CO-45:47.00', 'PR-1:50.00'] };
    said.push(decided(content.controlNumber, [line]));
  }
  await Promise.all(said.map((one) => postedRemittance(t, [one])));
  expect(await used(householdId)).toEqual([15_000, 14_400]);
  expect(await brokenInvariants(t)).toEqual([]);
});

test('a new member number from tomorrow forgets nothing of what was used this year', async () => {
  const s = await someUsed();
  expect(await used(s.householdId)).toEqual([5000, 4800]);
  const expects = async () =>
    estimateTyped(tomorrow(), { caseId: s.caseId, code: '99214', units: 1, fee: '205.00', date: TOMORROW });
  const before = await expects();
  await addCoverage(t.context, {
    patientId: s.patientId,
    insurancePlanId: plan(),
    memberId: 'NEWCARD1',
    groupNumber: 'CS-350',
    validFrom: TOMORROW,
    key: key(),
  });
  expect(await used(s.householdId, tomorrow())).toEqual([5000, 4800]);
  expect(await expects()).toEqual(before);
  const [old, now] = await covered(s.patientId);
  expect([old!.policy_id, old!.member_id]).toEqual([
    now!.policy_id,
    (await covered(s.patientId))[0]!.member_id,
  ]);
  expect(now!.member_id).toBe('NEWCARD1');
  expect(old!.member_id).not.toBe('NEWCARD1');
});

test('another plan, another group or another holder is another policy, of which nothing is used', async () => {
  for (const [insurancePlanId, groupNumber] of [
    [t.insurancePlans['NL-A10']!, 'CS-350'],
    [plan(), 'CS-351'],
  ] as const) {
    const s = await someUsed();
    await addCoverage(t.context, {
      patientId: s.patientId,
      insurancePlanId,
      memberId: 'OTHER1',
      groupNumber,
      validFrom: TOMORROW,
      key: key(),
    });
    expect(await used(s.householdId, tomorrow())).toEqual([0, 0]);
  }
});

test('a claim says the number of the day of its service', async () => {
  const { householdId, patientId } = await household(t, true, { memberId: 'FIRST1' });
  await addCoverage(t.context, {
    patientId,
    insurancePlanId: plan(),
    memberId: 'SECOND1',
    groupNumber: 'CS-350',
    validFrom: addDays(TODAY, -5),
    key: key(),
  });
  await charge(t, t.context, patientId, '80.00', '99213', addDays(TODAY, -10));
  await charge(t, t.context, patientId, '90.00', '99213', addDays(TODAY, -2));
  const claims = await buildClaims(t.context, { householdId });
  const said = await Promise.all(claims.map(async (id) => (await readClaim(t.context, id)).content));
  expect(said.map(({ lines, subscriber }) => [lines[0]!.charge, subscriber.memberId]).sort()).toEqual([
    [8000, 'FIRST1'],
    [9000, 'SECOND1'],
  ]);
});

test('a family has one policy; what the holder is called follows, and each has a number of the own', async () => {
  const parent = await household(t, true, { memberId: 'FAM01' });
  const child = await addMember(t.context, {
    householdId: parent.householdId,
    last: 'Tester',
    first: 'Child',
    birthDate: '2015-01-01',
    sex: 'F',
    key: key(),
  });
  await addCoverage(t.context, {
    patientId: child.patientId,
    insurancePlanId: plan(),
    memberId: 'FAM02',
    groupNumber: 'CS-350',
    relationship: 'child',
    subscriberId: parent.patientId,
    key: key(),
  });
  const [own] = await covered(parent.patientId);
  const [childs] = await covered(child.patientId);
  expect(childs).toMatchObject({
    policy_id: own!.policy_id,
    relationship: 'child',
    member_id: 'FAM02',
    subscriber_id: parent.patientId,
  });
  expect(own).toMatchObject({ relationship: 'self', member_id: 'FAM01' });
  await changePatient(t.context, {
    patientId: parent.patientId,
    last: 'Renamed',
    first: 'Parent',
    birthDate: '1980-01-01',
    sex: 'F',
    line1: '1 Test Row',
    city: 'Osprey Landing',
    state: 'WA',
    zip: '98199',
  });
  expect((await covered(child.patientId))[0]).toMatchObject({ subscriber_last: 'Renamed' });
  // Put right for the child, the group is the parent's too, once that is meant.
  const right = {
    coverageId: childs!.id,
    memberId: 'FAM02',
    groupNumber: 'CS-999',
    relationship: 'child' as const,
    subscriberId: parent.patientId,
  };
  await expect(changeCoverage(t.context, right)).rejects.toMatchObject({
    doubts: [expect.stringMatching(/^It is one policy: its group is put right for \w+ too$/)],
  });
  expect((await covered(parent.patientId))[0]).toMatchObject({ group_number: 'CS-350' });
  await changeCoverage(t.context, { ...right, sure: true });
  for (const { patientId } of [parent, child])
    expect((await covered(patientId))[0]).toMatchObject({
      group_number: 'CS-999',
      policy_id: own!.policy_id,
    });
});

test('what nobody else has is put right where it stands, and keeps what was used of it', async () => {
  const s = await someUsed();
  const [before] = await covered(s.patientId);
  await changeCoverage(t.context, { coverageId: before!.id, memberId: 'RIGHT1', groupNumber: 'CS-355' });
  const [after] = await covered(s.patientId);
  expect(after).toMatchObject({ policy_id: before!.policy_id, group_number: 'CS-355', member_id: 'RIGHT1' });
  expect(await used(s.householdId)).toEqual([5000, 4800]);
});

test('a group that nobody said is not another one: what was used is not forgotten, and the group is known', async () => {
  const card = async (patientId: number, groupNumber: string | undefined, more: object = {}) =>
    addCoverage(t.context, {
      patientId,
      insurancePlanId: plan(),
      memberId: 'CARD1',
      validFrom: TOMORROW,
      ...(groupNumber === undefined ? {} : { groupNumber }),
      ...more,
      key: key(),
    });
  // Not said for the new card.
  const later = await someUsed();
  await card(later.patientId, undefined);
  expect(await used(later.householdId, tomorrow())).toEqual([5000, 4800]);
  expect((await covered(later.patientId)).map(({ group_number }) => group_number)).toEqual([
    'CS-350',
    'CS-350',
  ]);
  // Not said before: the new card says it, for both.
  const [first] = await covered(later.patientId);
  await changeCoverage(t.context, {
    coverageId: first!.id,
    memberId: first!.member_id!,
    validTo: first!.valid_to,
    groupNumber: '',
  });
  await card(later.patientId, 'CS-360', { validFrom: addDays(TOMORROW, 30) });
  const all = await covered(later.patientId);
  expect(all.map(({ group_number }) => group_number)).toEqual(['CS-360', 'CS-360', 'CS-360']);
  expect(new Set(all.map(({ policy_id }) => policy_id)).size).toBe(1);
  // Put right on one of them, it is right on all: they are one policy.
  await changeCoverage(t.context, {
    coverageId: all[2]!.id,
    memberId: 'CARD1',
    groupNumber: 'CS-361',
    validFrom: all[2]!.valid_from,
  });
  expect((await covered(later.patientId)).map(({ group_number }) => group_number)).toEqual([
    'CS-361',
    'CS-361',
    'CS-361',
  ]);
  // Of two policies of one plan at one time one has a group, and stays without what the other has used.
  const two = await household(t, true, { memberId: 'FIRST1', groupNumber: '' });
  await card(two.patientId, 'CS-370', { position: 2, validFrom: null });
  const [one, other] = await covered(two.patientId);
  expect([one!.group_number, other!.group_number]).toEqual(['', 'CS-370']);
  expect(one!.policy_id).not.toBe(other!.policy_id);
  // Put right to the group of the other it is the other one, and has two places then.
  await expect(
    changeCoverage(t.context, { coverageId: one!.id, memberId: 'FIRST1', groupNumber: 'CS-370' }),
  ).rejects.toMatchObject({ code: 'already' });
  expect(await brokenInvariants(t)).toEqual([]);
});

test('entered as the own one and put right to the parent’s, who has none of the plan: the same policy, and what was used', async () => {
  const parent = await household(t, false);
  const child = await addMember(t.context, {
    householdId: parent.householdId,
    last: 'Tester',
    first: 'Only',
    birthDate: '2015-01-01',
    sex: 'F',
    insurancePlanId: plan(),
    memberId: 'ONLY1',
    key: key(),
  });
  const [before] = await covered(child.patientId);
  await changeCoverage(t.context, {
    coverageId: before!.id,
    memberId: 'ONLY1',
    relationship: 'child',
    subscriberId: parent.patientId,
  });
  expect(await covered(child.patientId)).toMatchObject([
    { policy_id: before!.policy_id, relationship: 'child', subscriber_id: parent.patientId },
  ]);
  expect(await brokenInvariants(t)).toEqual([]);
});

test('put right to the parent’s policy, it is that one, with what was used of it', async () => {
  const parent = await someUsed();
  const child = await addMember(t.context, {
    householdId: parent.householdId,
    last: 'Tester',
    first: 'Own',
    birthDate: '2015-01-01',
    sex: 'F',
    insurancePlanId: plan(),
    memberId: 'WRONG1',
    groupNumber: 'CS-350',
    key: key(),
  });
  const [wrong] = await covered(child.patientId);
  await changeCoverage(t.context, {
    coverageId: wrong!.id,
    memberId: 'CHILD1',
    groupNumber: 'CS-350',
    relationship: 'child',
    subscriberId: parent.patientId,
  });
  const [own] = await covered(parent.patientId);
  expect((await covered(child.patientId))[0]).toMatchObject({
    policy_id: own!.policy_id,
    member_id: 'CHILD1',
    relationship: 'child',
  });
  // The child has used nothing of it, the parent what was used before.
  expect(await used(parent.householdId)).toEqual([5000, 4800]);
  expect(await brokenInvariants(t)).toEqual([]);
});

test('a coverage that gets another policy takes along what was used of it', async () => {
  const parent = await someUsed();
  const child = await addMember(t.context, {
    householdId: parent.householdId,
    last: 'Tester',
    first: 'Seen',
    birthDate: '2016-01-01',
    sex: 'F',
    insurancePlanId: plan(),
    memberId: 'WRONG2',
    groupNumber: 'CS-350',
    key: key(),
  });
  await charge(t, t.context, child.patientId, '145.00');
  const [claimId] = await buildClaims(t.context, { householdId: parent.householdId });
  await sendClaims(t.context, { claimIds: [claimId!] });
  const { content } = await readClaim(t.context, claimId!);
  await postedRemittance(t, [
    decided(content.controlNumber, [
      {
        control: content.lines[0]!.control,
        charge: 14500,
        paid: 3800,
        reasons: ['CO-45:47.00', 'PR-1:60.00'],
      },
    ]),
  ]);
  const usedBy = async (first: string) => {
    const { members } = await readAccount(t.context, parent.householdId);
    return usedOf(members.find((one) => one.first === first)!.id);
  };
  expect(await usedBy('Seen')).toEqual([6000, 3800]);
  const [wrong] = await covered(child.patientId);
  await changeCoverage(t.context, {
    coverageId: wrong!.id,
    memberId: 'CHILD2',
    groupNumber: 'CS-350',
    relationship: 'child',
    subscriberId: parent.patientId,
  });
  expect((await covered(child.patientId))[0]!.policy_id).not.toBe(wrong!.policy_id);
  expect(await usedBy('Seen')).toEqual([6000, 3800]);
  expect(await used(parent.householdId)).toEqual([5000, 4800]);
  expect(await brokenInvariants(t)).toEqual([]);
});

test('a policy or a coverage says otherwise than the plan, from a day on, and the database keeps one word a day', async () => {
  const { patientId, caseId } = await household(t, true);
  const [own] = await covered(patientId);
  const paid = async () =>
    (await estimateTyped(t.context, { caseId, code: '99214', units: 1, fee: '205.00', date: TODAY }))!
      .payers[0]!.pays;
  const before = await paid();
  const rule = { kind: 'copay' as const, amount: cents(0), valid_from: TODAY };
  await t.db
    .insertInto('benefit_rule')
    .values({ ...rule, policy_id: own!.policy_id })
    .execute();
  const spared = await paid();
  expect(spared).toBeGreaterThan(before);
  await t.db
    .insertInto('benefit_rule')
    .values({ kind: 'maximum', amount: cents(100), coverage_id: own!.id })
    .execute();
  expect(await paid()).toBe(100);
  const write = (more: object) =>
    t.db
      .insertInto('benefit_rule')
      .values({ ...rule, policy_id: own!.policy_id, ...more })
      .execute();
  await expect(write({})).rejects.toThrow(/one_word_on_a_day/);
  for (const wrong of [
    { coverage_id: own!.id },
    { policy_id: null },
    { amount: null },
    { category: 'office' },
    { kind: 'share', category: 'office' },
    { kind: 'share', amount: null, share: 100 },
    { kind: 'limit', amount: null, measure: 'visits', every: 'months' },
    { kind: 'limit', amount: null, quantity: 5 },
    { renews: false },
    { codes: ['99213'], category: 'office', kind: 'deductible' },
    { kind: 'weekly' },
  ])
    await expect(write(wrong)).rejects.toThrow(/check|foreign key/);
});

describe('a holder who is nobody’s patient', () => {
  const father = {
    holderLast: 'Quill',
    holderFirst: 'Otto',
    holderBirthDate: '1975-05-05',
    holderSex: 'M' as const,
  };
  const childOf = async (householdId: number, more: object = {}) => {
    const child = await addMember(t.context, {
      householdId,
      last: 'Quill',
      first: `Child${(serial += 1)}`,
      birthDate: '2016-02-29',
      sex: 'F',
      key: key(),
      sure: true,
    });
    const insured = {
      patientId: child.patientId,
      insurancePlanId: plan(),
      memberId: `OUT${serial}`,
      groupNumber: 'CS-350',
      relationship: 'child' as const,
      key: key(),
      ...father,
      ...more,
    };
    return { ...child, coverage: () => addCoverage(t.context, insured) };
  };

  test('insures both children by one policy; put right it is for both, and claims say whose it is', async () => {
    const { householdId } = await household(t, false);
    const [one, two] = [await childOf(householdId), await childOf(householdId, { holderFirst: 'OTTO' })];
    await one.coverage();
    const { coverageId } = await two.coverage();
    const [first, second] = [(await covered(one.patientId))[0]!, (await covered(two.patientId))[0]!];
    expect(second.policy_id).toBe(first.policy_id);
    expect(second).toMatchObject({ subscriber_id: null, subscriber_last: 'Quill', relationship: 'child' });
    await charge(t, t.context, one.patientId, '145.00');
    const [claimId] = await buildClaims(t.context, { householdId });
    const { content } = await readClaim(t.context, claimId!);
    expect(content.subscriber).toMatchObject({
      last: 'Quill',
      first: 'OTTO',
      birthDate: '1975-05-05',
      sex: 'M',
    });
    // What is shown is put right where it stands.
    const { version } = second;
    const put = {
      coverageId,
      memberId: second.member_id,
      groupNumber: 'CS-350',
      relationship: 'child' as const,
      version,
    };
    await changeCoverage(t.context, { ...put, ...father, holderLast: 'Quille' });
    expect((await covered(one.patientId))[0]).toMatchObject({
      subscriber_last: 'Quille',
      subscriber_first: 'Otto',
    });
    const { members } = await readAccount(t.context, householdId);
    expect(members.find(({ id }) => id === one.patientId)!.cases[0].coverages[0]!.holder).toEqual({
      organization: false,
      last: 'Quille',
      first: 'Otto',
      birthDate: '1975-05-05',
      sex: 'M',
      line1: '',
      city: '',
      state: '',
      zip: '',
    });
    // Another person is another policy, of the one child alone.
    await changeCoverage(t.context, {
      ...put,
      ...father,
      holderFirst: 'Mina',
      holderBirthDate: '1978-01-01',
      version: undefined,
    });
    const [mine, theirs] = [(await covered(two.patientId))[0]!, (await covered(one.patientId))[0]!];
    expect([mine.subscriber_first, theirs.subscriber_first]).toEqual(['Mina', 'Otto']);
    expect(mine.policy_id).not.toBe(theirs.policy_id);
    expect(await brokenInvariants(t)).toEqual([]);
  });

  test('a namesake of another household is another one; what does not go together is refused at its field', async () => {
    const [here, there] = [await household(t, false), await household(t, false)];
    const [one, two] = [await childOf(here.householdId), await childOf(there.householdId)];
    await one.coverage();
    await two.coverage();
    expect((await covered(one.patientId))[0]!.policy_id).not.toBe(
      (await covered(two.patientId))[0]!.policy_id,
    );
    const rejects = async (more: object, field: string) => {
      const child = await childOf(here.householdId, more);
      await expect(child.coverage()).rejects.toMatchObject({ field });
    };
    await rejects({ relationship: 'self' }, 'holderLast');
    await rejects({ subscriberId: here.patientId }, 'holderLast');
    await rejects({ holderLast: '' }, 'holderLast');
    await rejects({ holderFirst: '' }, 'holderFirst');
    await rejects({ holderBirthDate: '' }, 'holderBirthDate');
    await rejects({ holderBirthDate: '1975-02-30' }, 'holderBirthDate');
  });
});

test('a policy that is in force for the case is not taken a second time, and its number stays', async () => {
  const { patientId } = await household(t, true, { memberId: 'ONCE1' });
  await expect(
    addCoverage(t.context, {
      patientId,
      insurancePlanId: plan(),
      memberId: 'TWICE1',
      groupNumber: 'CS-350',
      position: 2,
      key: key(),
    }),
  ).rejects.toMatchObject({ code: 'already', field: 'insurancePlanId' });
  expect(await covered(patientId)).toMatchObject([{ member_id: 'ONCE1', position: 1 }]);
});

test('property: on each day the number is the one that was last written for it', async () => {
  const days = 12;
  const first = calendarDate('2026-03-01');
  const span = fc
    .record({
      from: fc.option(fc.nat(days - 1)),
      length: fc.option(fc.nat(5)),
      number: fc.constantFrom('A1', 'B2', 'C3', 'D4'),
    })
    .map(({ from, length, number }) => ({
      from: from === null ? null : addDays(first, from),
      to: length === null ? null : addDays(first, (from ?? 0) + length),
      number,
    }));
  await fc.assert(
    fc.asyncProperty(fc.array(span, { minLength: 1, maxLength: 6 }), async (spans) => {
      const { patientId } = await household(t, true, { memberId: 'START' });
      const [own] = await covered(patientId);
      const model = new Map<CalendarDate, string>();
      for (let day = 0; day < days + 6; day += 1) model.set(addDays(first, day), 'START');
      for (const { from, to, number } of spans) {
        await changeCoverage(t.context, {
          coverageId: own!.id,
          memberId: number,
          groupNumber: 'CS-350',
          validFrom: from,
          validTo: to,
        });
        for (const day of model.keys())
          if ((from === null || day >= from) && (to === null || day <= to)) model.set(day, number);
      }
      const { rows } = await sql<{ day: CalendarDate; number: string }>`
        select d.day, member_on(${own!.policy_person_id}, d.day) as number
        from unnest(${[...model.keys()]}::date[]) as d (day)`.execute(t.db);
      expect(new Map(rows.map(({ day, number }) => [day, number]))).toEqual(model);
    }),
    { numRuns: runs(60) },
  );
});

test('the database keeps it, whoever writes', async () => {
  const one = await household(t);
  const two = await household(t);
  const [own] = await covered(one.patientId);
  const [others] = await covered(two.patientId);
  await expect(
    t.db.updateTable('coverage').set({ policy_id: others!.policy_id }).where('id', '=', own!.id).execute(),
  ).rejects.toThrow(/covers only whom it insures/);
  await expect(
    t.db
      .insertInto('policy_person')
      .values({ policy_id: own!.policy_id, patient_id: two.patientId, relationship: 'other' })
      .execute(),
  ).rejects.toThrow(/has a member number from the beginning/);
  await expect(
    t.db
      .updateTable('policy_person')
      .set({ relationship: 'spouse' })
      .where('id', '=', own!.policy_person_id)
      .execute(),
  ).rejects.toThrow(/The holder is insured by the own policy/);
  await expect(t.db.insertInto('party').values({ last: 'Nobody', first: 'Known' }).execute()).rejects.toThrow(
    /check/,
  );
  // An employer, and somebody who is nobody's patient, may hold one.
  await t.db.insertInto('party').values({ organization: true, last: 'Harbor Works' }).execute();
  await t.db
    .insertInto('party')
    .values({ last: 'Away', first: 'Father', birth_date: calendarDate('1970-05-05'), sex: 'M' })
    .execute();
});

test('a decided charge that gets another case breaks nothing: its postings keep the case of their coverage', async () => {
  const s = await sentClaim(t);
  const { id } = await t.owner
    .insertInto('care_case')
    .values({ patient_id: s.patientId, name: 'Accident', kind: 'accident', standing: false })
    .returning('id')
    .executeTakeFirstOrThrow();
  await t.owner.updateTable('charge').set({ case_id: id }).where('id', '=', s.charges[0]!).execute();
  await postedRemittance(t, [
    decided(s.claim.control_number, [
      { control: s.controls[0]!, charge: 14500, paid: 6800, reasons: ['CO-45:47.00', 'PR-3:30.00'] },
    ]),
  ]);
  const { rows } = await sql<{ case_id: number }>`
    select distinct case_id from posting where charge_id = ${s.charges[0]!} and coverage_id is not null`.execute(
    t.db,
  );
  expect(rows).toEqual([{ case_id: s.caseId }]);
  const { charges } = await readAccount(t.context, s.householdId);
  expect(charges[0]!.payers).toMatchObject([{ payer: 'Cedar Sound Health', withPayer: 0 }]);
});

test('a second case has its own coverages: what is done for it is billed there, and stays there when put right', async () => {
  const { householdId, patientId, caseId } = await household(t);
  const { id: accident } = await t.owner
    .insertInto('care_case')
    .values({ patient_id: patientId, name: 'Accident', kind: 'accident', standing: false })
    .returning('id')
    .executeTakeFirstOrThrow();
  const { coverageId } = await addCoverage(t.context, {
    patientId,
    caseId: accident,
    insurancePlanId: t.insurancePlans['NL-A10'],
    memberId: 'ACC100',
    key: key(),
  });
  const service = { patientId, providerId: t.providers.family, code: '99213', diagnoses: ['J06.9'] };
  const chargeId = await enterCharge(t.context, {
    ...service,
    caseId: accident,
    serviceDate: TODAY,
    key: key(),
  });
  const planned = await enterCharge(t.context, {
    ...service,
    caseId: accident,
    serviceDate: TOMORROW,
    planned: true,
    key: key(),
  });
  await completeCharge(tomorrow(), { chargeId: planned, serviceDate: TOMORROW });
  const own = await charge(t, t.context, patientId, '80.00');
  await changeCharge(t.context, { chargeId, units: 2, diagnoses: ['J06.9'], sure: true });
  const rows = await t.db
    .selectFrom('charge as c')
    .innerJoin('payer_balance as b', 'b.charge_id', 'c.id')
    .innerJoin('covered as o', 'o.id', 'b.coverage_id')
    .select(['c.id', 'c.case_id', 'o.case_id as of', 'o.member_id', 'b.with_payer'])
    .where('c.household_id', '=', householdId)
    .where('b.with_payer', '>', cents(0))
    .orderBy('c.id')
    .execute();
  expect(rows.map((row) => [row.id, row.case_id, row.of])).toEqual([
    [chargeId, accident, accident],
    [planned, accident, accident],
    [own, caseId, caseId],
  ]);
  expect(rows[0]).toMatchObject({ member_id: 'ACC100', with_payer: 29_000 });
  // An end of the one touches nothing of the other.
  await changeCoverage(t.context, { coverageId, memberId: 'ACC100', validTo: addDays(TODAY, -1) });
  const after = await t.db
    .selectFrom('charge_balance as b')
    .select(['b.charge_id', 'b.with_payer'])
    .where('b.charge_id', 'in', [chargeId, own])
    .orderBy('b.charge_id')
    .execute();
  expect(after.map((row) => row.with_payer)).toEqual([0, 8000]);
  expect(await brokenInvariants(t)).toEqual([]);
});

describe('another order', () => {
  /** A person with three coverages, of three policies. */
  async function three() {
    const made = await household(t);
    const ids = [(await covered(made.patientId))[0]!.id];
    for (const [position, group] of [
      [2, 'NL-A10'],
      [3, 'CS-200'],
    ] as const)
      ids.push(
        (
          await addCoverage(t.context, {
            patientId: made.patientId,
            insurancePlanId: t.insurancePlans[group],
            memberId: `ORD${position}`,
            position,
            key: key(),
          })
        ).coverageId,
      );
    return { ...made, ids };
  }
  /** The policies of a case on a day, in their order. */
  const orderOn = async (patientId: number, day: CalendarDate) =>
    (
      await sql<{ policy: number }>`
        select policy_id as policy from covered
        where patient_id = ${patientId} and daterange(valid_from, valid_to, '[]') @> ${day}::date
        order by position`.execute(t.db)
    ).rows.map(({ policy }) => policy);

  test('is dated: before the day it is the old one, from it on the new one, and unbilled charges follow', async () => {
    const { householdId, patientId, ids } = await three();
    const before = await orderOn(patientId, TODAY);
    await charge(t, t.context, patientId, '80.00', '99213', addDays(TODAY, -3));
    await charge(t, t.context, patientId, '90.00', '99213', TODAY);
    const done = await orderCoverages(t.context, { patientId, from: TODAY, first: ids[1]!, second: null });
    expect(done).toMatchObject({ followed: 1, left: 0, elsewhere: [] });
    expect(await orderOn(patientId, addDays(TODAY, -1))).toEqual(before);
    expect(await orderOn(patientId, TODAY)).toEqual([before[1], before[0], before[2]]);
    const owed = await t.db
      .selectFrom('payer_balance as b')
      .innerJoin('covered as o', 'o.id', 'b.coverage_id')
      .innerJoin('charge as c', 'c.id', 'b.charge_id')
      .select(['c.service_date as day', 'o.policy_id as policy'])
      .where('c.household_id', '=', householdId)
      .where('b.with_payer', '>', cents(0))
      .orderBy('c.service_date')
      .execute();
    expect(owed.map(({ policy }) => policy)).toEqual([before[0], before[1]]);
    expect(await brokenInvariants(t)).toEqual([]);
  });

  test('a claim keeps the place that it was sent with: what it passes on goes where it would have gone', async () => {
    const { householdId, patientId, ids } = await three();
    await charge(t, t.context, patientId, '145.00', '99213', TODAY);
    const [claimId] = await buildClaims(t.context, { householdId });
    await sendClaims(t.context, { claimIds: [claimId!] });
    const { rows } = await sql<{ number: string; control: string }>`
      select m.control_number as number, 'L' || l.id as control
      from claim m join claim_line l on l.claim_id = m.id where m.id = ${claimId!}`.execute(t.db);
    const ordered = await orderCoverages(t.context, { patientId, from: TODAY, first: ids[1]!, second: null });
    expect(ordered.elsewhere).toMatchObject([{ claimId }]);
    await postedRemittance(t, [
      decided(rows[0]!.number, [
        { control: rows[0]!.control, charge: 14500, paid: 6800, reasons: ['CO-45:47.00', 'PR-3:30.00'] },
      ]),
    ]);
    const [waiting] = await t.db
      .selectFrom('payer_balance as b')
      .innerJoin('covered as o', 'o.id', 'b.coverage_id')
      .select(['o.position', 'b.with_payer'])
      .where('o.patient_id', '=', patientId)
      .where('b.with_payer', '<>', cents(0))
      .execute();
    expect(waiting).toMatchObject({ position: 2, with_payer: 3000 });
    expect(await brokenInvariants(t)).toEqual([]);
  });

  test.each([
    [
      'one that is not in force',
      async (ids: number[]) => ({ first: ids[0]! + 100_000 }),
      'first',
      /not in force/,
    ],
    [
      'one in two places',
      async (ids: number[]) => ({ first: ids[0]!, second: ids[0]! }),
      'second',
      /Two places/,
    ],
    [
      'the order that there is',
      async (ids: number[]) => ({ first: ids[0]! }),
      'first',
      /in this order already/,
    ],
  ])('%s is refused, and nothing changes', async (_what, input, field, words) => {
    const { patientId, ids } = await three();
    const before = await covered(patientId);
    await expect(
      orderCoverages(t.context, { patientId, from: TODAY, ...(await input(ids)) }),
    ).rejects.toMatchObject({ field, message: expect.stringMatching(words) });
    expect(await covered(patientId)).toEqual(before);
  });

  test('on the day on which one begins, or where another comes later, it is refused with what to do', async () => {
    const { patientId, ids } = await three();
    await orderCoverages(t.context, { patientId, from: TODAY, first: ids[1]! });
    const now = (await covered(patientId)).filter(({ valid_from }) => valid_from === TODAY);
    await expect(
      orderCoverages(t.context, {
        patientId,
        from: TODAY,
        first: now.find(({ position }) => position === 2)!.id,
      }),
    ).rejects.toMatchObject({ field: 'from', message: expect.stringMatching(/begins on that day/) });
  });

  test('two people order at once: one order stands, the other is told', async () => {
    for (let round = 0; round < 3; round += 1) {
      const { patientId, ids } = await three();
      const before = await orderOn(patientId, TODAY);
      const tried = await Promise.allSettled([
        orderCoverages(t.context, { patientId, from: TODAY, first: ids[1]! }),
        orderCoverages(t.context, { patientId, from: TODAY, first: ids[2]! }),
      ]);
      expect(tried.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
      expect([...(await orderOn(patientId, TODAY))].sort()).toEqual([...before].sort());
      expect(await orderOn(patientId, addDays(TODAY, -1))).toEqual(before);
    }
  });

  test('property: on every day each policy has one place, whatever is ordered when', async () => {
    const step = fc.record({ day: fc.nat(20), first: fc.nat(2), second: fc.option(fc.nat(2)) });
    await fc.assert(
      fc.asyncProperty(fc.array(step, { minLength: 1, maxLength: 5 }), async (steps) => {
        const { patientId } = await three();
        const policies = await orderOn(patientId, TODAY);
        const days = Array.from({ length: 22 }, (_, index) => addDays(TODAY, index));
        const model = new Map(days.map((day) => [day, policies]));
        // In the order of their days: what comes later stands in the way of what is ordered before it.
        for (const { day, first, second } of [...steps].sort((a, b) => a.day - b.day)) {
          const from = addDays(TODAY, day);
          const there = model.get(from)!;
          const on = await covered(patientId);
          const idOf = (policy: number) =>
            on.find(
              (one) =>
                one.policy_id === policy &&
                (one.valid_from === null || one.valid_from <= from) &&
                (one.valid_to === null || one.valid_to >= from),
            )!.id;
          const chosen = [first, ...(second === null ? [] : [second])].map((at) => there[at]!);
          try {
            await orderCoverages(
              { ...t.context, today: from },
              {
                patientId,
                from,
                first: idOf(chosen[0]!),
                second: chosen[1] === undefined ? null : idOf(chosen[1]),
              },
            );
          } catch (error) {
            if (!(error instanceof Refused)) throw error;
            continue;
          }
          const next = [...chosen, ...there.filter((policy) => !chosen.includes(policy))];
          for (const one of days) if (one >= from) model.set(one, next);
        }
        for (const day of days) expect(await orderOn(patientId, day)).toEqual(model.get(day));
      }),
      { numRuns: runs(24) },
    );
  });
});
