/** Checking without a file: what was found stays in its place, and the file is the one that would be sent. */
import { fileDatabase } from '../../testing/database';
import { charge, household } from '../../testing/desk';
import { buildClaims } from './build';
import { checkFile, checkOnceMore, checkOnly, readCheck, readCheckFiles, readSegments } from './check-only';
import { changeCharge } from './fix';
import { readClaim } from './read';
import { sendClaims } from './send';
import { addUser } from '../users/manage';

const t = fileDatabase();

/** A claim of a visit with a diagnosis, or without. */
async function claimOf(diagnoses: string[]) {
  const made = await household(t);
  const chargeId = await charge(t, t.context, made.patientId, '145.00');
  await t.db.updateTable('charge').set({ diagnoses }).where('id', '=', chargeId).execute();
  const [claimId] = await buildClaims(t.context, { householdId: made.householdId });
  return { ...made, chargeId, claimId: claimId! };
}
const groupsOf = async (checkId: number) =>
  (await readCheck(t.context, checkId)).groups.map(({ field, claims, left }) => [field, claims, left]);

test('what is missing is grouped by what mends it, and stays in its place when it is mended', async () => {
  const [one, two, good] = [await claimOf([]), await claimOf([]), await claimOf(['I10'])];
  const id = await checkOnly(t.context, { claimIds: [one.claimId, two.claimId, good.claimId] });
  expect(await groupsOf(id)).toEqual([['diagnoses', 2, 2]]);
  await changeCharge(t.context, { chargeId: one.chargeId, diagnoses: ['I10'], modifiers: [] });
  const { groups, ready, stopped, gone } = await readCheck(t.context, id);
  expect([ready, stopped, gone]).toEqual([2, 1, 0]);
  expect(groups.map(({ field, claims, left }) => [field, claims, left])).toEqual([['diagnoses', 2, 1]]);
  expect([
    ...new Set(groups[0]!.found.map(({ claimId, mended }) => `${claimId === one.claimId} ${mended}`)),
  ]).toEqual(['true true', 'false false']);
  // What is found since is said so.
  await t.db.updateTable('patient').set({ sex: 'U' }).where('id', '=', good.patientId).execute();
  await checkOnceMore(t.context, { checkId: id });
  const later = (await readCheck(t.context, id)).groups.find(({ field }) => field === 'sex')!;
  expect(later.found.map(({ late, finding }) => [late, finding.severity])).toEqual([[true, 'warn']]);
  await sendClaims(t.context, { claimIds: [one.claimId] });
  expect((await readCheck(t.context, id)).gone).toBe(1);
  await expect(checkOnly(t.context, { claimIds: [one.claimId] })).rejects.toThrow('nothing to check');
  await expect(readCheck(t.context, 99_999_999)).rejects.toThrow('not kept any more');
});

test('the file that is looked at is the one that is sent, claim by claim', async () => {
  const [one, two] = [await claimOf(['I10']), await claimOf(['J06.9'])];
  const claimIds = [one.claimId, two.claimId];
  const id = await checkOnly(t.context, { claimIds });
  const [file, ...more] = await readCheckFiles(t.context, id);
  expect(more).toEqual([]);
  expect([file!.form, file!.total, file!.claims.map((claim) => claim.id)]).toEqual([
    'professional',
    29_000,
    claimIds,
  ]);
  const { name, text } = await checkFile(t.context, id, file!);
  const { controlNumber } = await readClaim(t.context, two.claimId);
  const segments = await readSegments(t.context, id, { ...file!, controlNumber });
  expect(segments).toContain(`CLM*${controlNumber}*145.00`);
  expect(segments).not.toContain((await readClaim(t.context, one.claimId)).controlNumber);
  const [sent] = await sendClaims(t.context, { claimIds, ready: true });
  expect(sent!.file).toBe(name);
  const { content } = await t.db
    .selectFrom('transmission as x')
    .innerJoin('claim as m', 'm.transmission_id', 'x.id')
    .select('x.content')
    .where('m.id', '=', one.claimId)
    .executeTakeFirstOrThrow();
  expect(content).toBe(text);
  await expect(checkFile(t.context, id, file!)).rejects.toThrow('Nothing of this file is ready');
});

test('of an account that is closed to who asks nothing is told', async () => {
  const shut = await claimOf([]);
  const id = await checkOnly(t.context, { claimIds: [shut.claimId] });
  const userId = await addUser(t.context, {
    email: 'another@example.com',
    name: 'Another Biller',
    role: 'biller',
    password: 'a quiet otter counts beans',
  });
  await t.db
    .insertInto('household_open_to')
    .values({ household_id: shut.householdId, user_id: userId })
    .execute();
  try {
    expect((await readCheck(t.context, id)).groups).toEqual([]);
  } finally {
    await t.db.deleteFrom('household_open_to').where('household_id', '=', shut.householdId).execute();
  }
});
