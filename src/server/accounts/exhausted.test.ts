/** A coverage of which nothing is left by its payer's letter: who is asked instead, and what the next payer's claim says. */
import { calendarDate } from '../../core/calendar';
import { TODAY, fileDatabase } from '../../testing/database';
import { brokenInvariants, charge, household, sentClaim, estimateTyped } from '../../testing/desk';
import { readAccount } from '../account-page/read';
import { buildClaims } from '../claims/build';
import { claimText, readClaim } from '../claims/read';
import { addCoverage } from './coverage';
import { exhaustCoverage, notExhausted, readLetter } from './exhausted';

const t = fileDatabase();
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

let serial = 0;
const key = (): string => `exhausted-test-${(serial += 1)}`;
const PDF = new TextEncoder().encode('%PDF-1.4 a letter');
const other = (): number => Object.entries(t.insurancePlans).find(([group]) => !group.startsWith('CS'))![1];

/** A person with two insurers in their order. */
async function twice() {
  const { householdId, patientId, caseId } = await household(t);
  await addCoverage(t.context, {
    patientId,
    insurancePlanId: other(),
    memberId: 'SEC1',
    position: 2,
    key: key(),
  });
  const [first, second] = (await readAccount(t.context, householdId)).members[0]!.cases[0].coverages;
  return { householdId, patientId, caseId, first: first!, second: second! };
}
const waits = async (householdId: number) =>
  (await readAccount(t.context, householdId)).charges.map(({ payers }) =>
    payers.filter(({ withPayer }) => withPayer > 0).map(({ payer, withPayer }) => [payer, withPayer]),
  );

test('what nobody was billed for goes to the next one, as if it were the first; taken back, it returns', async () => {
  const { householdId, patientId, caseId, first, second } = await twice();
  await charge(t, t.context, patientId, '145.00');
  expect(await waits(householdId)).toEqual([[[first.payer, 14500]]]);
  const came = await exhaustCoverage(t.context, { coverageId: first.id, from: TODAY, letter: PDF });
  expect(came).toMatchObject({ followed: 1, left: 0 });
  expect(await waits(householdId)).toEqual([[[second.payer, 14500]]]);
  // What is entered now goes there at once, and the estimate says why.
  await charge(t, t.context, patientId, '40.00', '80053');
  expect((await waits(householdId))[1]).toEqual([[second.payer, 4000]]);
  const told = await estimateTyped(t.context, {
    caseId,
    code: '99213',
    units: 1,
    fee: '145.00',
    date: TODAY,
  });
  expect(told!.steps.map(({ words }) => words)).toContainEqual(
    expect.stringMatching(new RegExp(`^${first.payer}: nothing left from .* on, as its letter says$`)),
  );
  expect(told!.payers[0]).toMatchObject({ payer: first.payer, pays: 0, allowed: 0 });
  const [claimId] = await buildClaims(t.context, { householdId });
  const claim = await readClaim(t.context, claimId!);
  // The one that has nothing left is no payer before it, and its letter can be had.
  expect([claim!.payer, claim!.content.coverageOrder, claim!.content.otherPayers]).toEqual([
    second.payer,
    1,
    undefined,
  ]);
  expect(claim!.content.attachments).toEqual([{ type: 'OZ', by: 'AA', control: '' }]);
  expect(claim!.findings.filter(({ rule }) => rule.startsWith('payer-before'))).toEqual([]);
  expect(await claimText(t.context, claim!)).toMatch(/SBR\*P\*/);
  expect((await readLetter(t.context, first.id)).bytes.toString()).toBe('%PDF-1.4 a letter');
  const back = await household(t);
  expect(back.householdId).not.toBe(householdId);
  await notExhausted(t.context, { coverageId: first.id });
  await charge(t, t.context, patientId, '30.00', '85025');
  expect((await waits(householdId))[2]).toEqual([[first.payer, 3000]]);
  await expect(readLetter(t.context, first.id)).rejects.toThrow(/no letter/);
});

test('one in the middle is no payer of the claims of the others, which close up', async () => {
  const { householdId, patientId, first, second } = await twice();
  await addCoverage(t.context, {
    patientId,
    insurancePlanId: t.insurancePlans['TD-5']!,
    memberId: 'THIRD1',
    position: 3,
    key: key(),
  });
  await exhaustCoverage(t.context, { coverageId: second.id, from: TODAY, letter: PDF });
  await charge(t, t.context, patientId, '145.00');
  const [claimId] = await buildClaims(t.context, { householdId });
  const { content, payer } = (await readClaim(t.context, claimId!))!;
  expect([payer, content.coverageOrder]).toEqual([first.payer, 1]);
  expect(
    content.otherPayers!.map(({ coverageOrder, subscriber }) => [coverageOrder, subscriber.memberId]),
  ).toEqual([[2, 'THIRD1']]);
});

test('what the payer was billed for stays with it until it decides, and a service of the day before is still its own', async () => {
  const { claim: sent, householdId, patientId } = await sentClaim(t, ['145.00']);
  await addCoverage(t.context, {
    patientId,
    insurancePlanId: other(),
    memberId: 'SEC2',
    position: 2,
    key: key(),
  });
  const [first, second] = (await readAccount(t.context, householdId)).members[0]!.cases[0].coverages;
  await exhaustCoverage(t.context, { coverageId: first!.id, from: TODAY, letter: PDF });
  const claim = await readClaim(t.context, sent.id);
  expect([claim!.status, claim!.payer]).toEqual(['sent', first!.payer]);
  const { charges } = await readAccount(t.context, householdId);
  expect(charges[0]!.payers[0]).toMatchObject({ payer: first!.payer, withPayer: 14500 });
  // It decides after all, and passes on to the next one.
  await charge(t, t.context, patientId, '40.00', '80053');
  expect((await waits(householdId)).at(-1)).toEqual([[second!.payer, 4000]]);
});

test('both have nothing left: the patient pays, and an estimate has no payer that pays', async () => {
  const { householdId, patientId, first, second, caseId } = await twice();
  for (const { id } of [first, second])
    await exhaustCoverage(t.context, { coverageId: id, from: TODAY, letter: PDF });
  await charge(t, t.context, patientId, '145.00');
  const page = await readAccount(t.context, householdId);
  expect([page.figures.withPayer, page.figures.withPatient]).toEqual([0, 14500]);
  const told = await estimateTyped(t.context, {
    caseId,
    code: '99213',
    units: 1,
    fee: '145.00',
    date: TODAY,
  });
  expect([told!.patient, told!.writeOff]).toEqual([14500, 0]);
});

test('a letter is a PDF or a picture, of a day that has come and on which the coverage was in force, from whoever may', async () => {
  const { first } = await twice();
  const ask = (more: object) =>
    exhaustCoverage(t.context, { coverageId: first.id, from: TODAY, letter: PDF, ...more });
  await expect(ask({ letter: new TextEncoder().encode('<script>') })).rejects.toThrow(
    /no PDF and no picture/,
  );
  await expect(ask({ letter: new Uint8Array() })).rejects.toThrow(/empty/);
  await expect(ask({ from: calendarDate('2026-03-17') })).rejects.toThrow(/a day that has come/);
  await expect(ask({ coverageId: 99999999 })).rejects.toThrow(/no such coverage/);
  await expect(
    exhaustCoverage(t.as('collector'), { coverageId: first.id, from: TODAY, letter: PDF }),
  ).rejects.toThrow(/may not/);
  await t.db.updateTable('coverage').set({ valid_from: TODAY }).where('id', '=', first.id).execute();
  await expect(ask({ from: calendarDate('2026-03-15') })).rejects.toThrow(/not in force on 15 Mar 2026/);
  // A day without its letter is refused by the database too.
  await expect(
    t.db.updateTable('coverage').set({ exhausted_from: TODAY }).where('id', '=', first.id).execute(),
  ).rejects.toMatchObject({ code: '23514' });
});
