/** What a remittance's page and the list say, before and after it is posted, taken back and decided; and what its ways out refuse. */
import { sql } from 'kysely';
import { cents } from '../../core/money';
import { TODAY, fileDatabase } from '../../testing/database';
import { decided, intake, remitText, sentClaim } from '../../testing/desk';
import { readList } from '../lists/read';
import { checkRemittance, decideHeld, matchHeld, takeUpAgain } from './held';
import { postRemittance } from './post';
import { placeOfCharge, readRemittance } from './read';
import { reverseRemittance } from './reverse';

const t = fileDatabase();

const PLAIN = ['CO-45:47.00', 'PR-3:30.00'];
/** A remittance with a claim of ours, one of nobody's, and two provider adjustments, of which one names our claim. */
async function mixed() {
  const s = await sentClaim(t);
  const ours = decided(s.claim.control_number, [
    { control: s.controls[0]!, charge: 14_500, paid: 6800, reasons: PLAIN },
  ]);
  const strange = decided('NOBODY-1', [
    { control: 'L0', charge: 5000, paid: 2000, reasons: ['CO-45:30.00'] },
  ]);
  const { outcomes } = await intake(
    t.context,
    remitText([ours, strange], {
      payment: cents(6800 + 2000 + 137 - 1000),
      providerAdjustments: [
        { code: 'L6', reference: 'I1', amount: cents(-137) },
        { code: 'WO', reference: s.claim.control_number, amount: cents(1000) },
      ],
    }),
    'evening.835',
  );
  return { ...s, remittanceId: outcomes[0]!.remittanceId! };
}

test('ready: what it pays, of whom, and what would be held', async () => {
  const { remittanceId, claim, householdId } = await mixed();
  const page = await readRemittance(t.context, remittanceId);
  expect(page).toMatchObject({
    id: remittanceId,
    payer: 'Cedar Sound Health',
    trace: expect.stringMatching(/^TR\d+$/) as string,
    amount: 7937,
    date: TODAY,
    claims: 2,
    status: 'ready',
    holdReasons: [],
    posted: 0,
    returned: 0,
    count: 2,
    reversed: false,
    file: 'evening.835',
  });
  expect(page.words['CO-45']).toBe('Over the contracted fee');
  expect(page.rows.map((row) => [row.number, row.controlNumber, row.claimId, row.householdId])).toEqual([
    [1, claim.control_number, claim.id, householdId],
    [2, 'NOBODY-1', null, null],
  ]);
  expect(page.rows[0]).toMatchObject({ charge: 14_500, paid: 6800, status: 'ready', version: 1 });
  expect(page.rows[0]!.content.lines[0]!.adjustments).toHaveLength(2);
  expect(page.providerAdjustments).toMatchObject([
    { code: 'L6', reference: 'I1', amount: -137, claim: null, credit: null },
    { code: 'WO', amount: 1000, claim: { id: claim.id, controlNumber: claim.control_number }, credit: null },
  ]);
  const trail = await t.db
    .selectFrom('audit')
    .select('action')
    .where('subject_kind', '=', 'remittance')
    .where('subject_id', '=', String(remittanceId))
    .execute();
  expect(trail.filter(({ action }) => action === 'read')).toHaveLength(1);
  await expect(readRemittance(t.context, 999_999)).rejects.toThrow('There is no such remittance');
  await expect(readRemittance(t.as('front-desk'), remittanceId)).rejects.toThrow(/may not/);
});

test('posted: what is held says why, what is in the payer’s credit says how much; page by page; taken back', async () => {
  const { remittanceId, claim } = await mixed();
  await postRemittance(t.context, remittanceId);
  const page = await readRemittance(t.context, remittanceId);
  expect(page).toMatchObject({ status: 'posted', posted: 6800, held: 2000, unmatched: 1, returned: 0 });
  expect(page.rows.map(({ status }) => status)).toEqual(['posted', 'unmatched']);
  expect(page.rows[1]!.holdReason).not.toBe('');
  expect(page.providerAdjustments[0]!.credit).toBeNull();
  expect(page.providerAdjustments[1]!.credit).toMatchObject({ open: -1000, uses: [] });
  expect((await readRemittance(t.context, remittanceId, 2)).rows).toEqual([]);
  expect((await readRemittance(t.context, remittanceId, 2)).count).toBe(2);

  const [held] = page.rows.filter(({ status }) => status === 'unmatched');
  await decideHeld(t.context, { remittanceClaimId: held!.id, as: 'returned', why: 'not our patient' });
  expect(await readRemittance(t.context, remittanceId)).toMatchObject({
    held: 0,
    returned: 2000,
    unmatched: 0,
  });
  await reverseRemittance(t.context, { remittanceId, why: 'wrong month' });
  const reversed = await readRemittance(t.context, remittanceId);
  expect(reversed).toMatchObject({ reversed: true, posted: 0, returned: 0 });
  await takeUpAgain(t.context, { remittanceId });
  await postRemittance(t.context, remittanceId);
  const again = await readRemittance(t.context, remittanceId);
  expect(again).toMatchObject({ reversed: false, posted: 6800, held: 2000, count: 4 });
  expect(again.rows.map(({ number, version, status }) => [number, version, status])).toEqual([
    [1, 1, 'reversed'],
    [1, 2, 'posted'],
    [2, 1, 'reversed'],
    [2, 2, 'unmatched'],
  ]);
  expect(again.rows[1]!.claimId).toBe(claim.id);
  expect(again.providerAdjustments[1]!.credit).toMatchObject({ open: -1000 });
});

test('the ways out refuse what is not there, what is not held, and a role that may not', async () => {
  const { remittanceId, claim } = await mixed();
  const none = { remittanceClaimId: 999_999 };
  await expect(matchHeld(t.context, { ...none, controlNumber: claim.control_number })).rejects.toThrow(
    `No claim has the number ${claim.control_number}`,
  );
  await expect(decideHeld(t.context, { ...none, as: 'kept', why: 'x' })).rejects.toThrow('no such claim');
  await expect(checkRemittance(t.context, { remittanceId })).rejects.toThrow('Only a held remittance');
  await expect(checkRemittance(t.context, { remittanceId: 999_999 })).rejects.toThrow(
    'Only a held remittance',
  );
  for (const id of [999_999, remittanceId])
    await expect(takeUpAgain(t.context, { remittanceId: id })).rejects.toThrow(
      'Only what was posted and reversed',
    );
  for (const id of [999_999, remittanceId])
    await expect(reverseRemittance(t.context, { remittanceId: id, why: 'x' })).rejects.toThrow(
      'Only a posted remittance can be reversed',
    );
  await postRemittance(t.context, remittanceId);
  const [posted, held] = (await readRemittance(t.context, remittanceId)).rows;
  for (const as of ['kept', 'returned', 'correction'] as const)
    await expect(decideHeld(t.context, { remittanceClaimId: posted!.id, as, why: 'x' })).rejects.toThrow(
      /not held any more/,
    );
  await expect(
    matchHeld(t.context, { remittanceClaimId: posted!.id, controlNumber: claim.control_number }),
  ).rejects.toThrow(/not held any more/);
  await expect(
    matchHeld(t.context, { remittanceClaimId: held!.id, controlNumber: 'NOBODY-2' }),
  ).rejects.toMatchObject({ field: 'controlNumber' });
  await expect(
    decideHeld(t.as('collector'), { remittanceClaimId: held!.id, as: 'kept', why: 'x' }),
  ).rejects.toThrow(/may not/);
  await decideHeld(t.context, { remittanceClaimId: held!.id, as: 'kept', why: 'they will correct it' });
  const page = await readRemittance(t.context, remittanceId);
  expect(page.rows[1]).toMatchObject({ status: 'kept', note: 'they will correct it' });
  expect(page.held).toBe(2000);
  const { rows } = await sql<{ n: number }>`
    select count(*)::int as n
    from audit
    where subject_kind = 'remittance claim' and subject_id = ${String(held!.id)} and action = 'decided'`.execute(
    t.db,
  );
  expect(rows[0]!.n).toBe(1);
});

test('reversed, claim by claim and as a whole: the trail says which and why', async () => {
  const { remittanceId } = await mixed();
  await postRemittance(t.context, remittanceId);
  const [first] = (await readRemittance(t.context, remittanceId)).rows;
  await reverseRemittance(t.context, { remittanceId, remittanceClaimId: first!.id, why: 'this one' });
  expect((await readRemittance(t.context, remittanceId)).rows.map(({ status }) => status)).toEqual([
    'reversed',
    'unmatched',
  ]);
  await reverseRemittance(t.context, { remittanceId, why: 'all of it' });
  const trail = await t.db
    .selectFrom('audit')
    .select('detail')
    .where('subject_kind', '=', 'remittance')
    .where('subject_id', '=', String(remittanceId))
    .where('action', '=', 'reversed')
    .orderBy('id')
    .execute();
  expect(trail.map(({ detail }) => detail)).toEqual([
    { why: 'this one', claim: first!.id },
    { why: 'all of it', claim: null },
  ]);
});

test('the list: by state, with what waits, found by trace and payer', async () => {
  const { remittanceId } = await mixed();
  const { trace } = await readRemittance(t.context, remittanceId);
  const find = async (view: string) =>
    (await readList(t.context, 'remittances', { view, search: trace })).rows.map(({ id }) => id);
  expect(await find('ready')).toEqual([remittanceId]);
  expect(await find('all')).toEqual([remittanceId]);
  await postRemittance(t.context, remittanceId);
  expect(await find('ready')).toEqual([]);
  expect(await find('all')).toEqual([remittanceId]);
  expect(
    (await readList(t.context, 'remittances', { view: 'all', search: 'cedar' })).rows.length,
  ).toBeGreaterThan(1);
  expect((await readList(t.context, 'remittances', { view: 'all', search: 'no such payer' })).rows).toEqual(
    [],
  );
});

test('where it speaks of a charge: the row and its page, also far down; of another’s nowhere', async () => {
  const s = await sentClaim(t);
  const strange = (at: number) =>
    decided(`NOBODY-${at}`, [{ control: 'L0', charge: 500, paid: 100, reasons: ['CO-45:4.00'] }]);
  const ours = decided(s.claim.control_number, [
    { control: s.controls[0]!, charge: 14_500, paid: 6800, reasons: PLAIN },
  ]);
  const { outcomes } = await intake(
    t.context,
    remitText([...Array.from({ length: 130 }, (_, at) => strange(at)), ours]),
  );
  const remittanceId = outcomes[0]!.remittanceId!;
  const found = await placeOfCharge(t.context, remittanceId, s.charges[0]!);
  expect(found?.page).toBe(2);
  const { rows } = await readRemittance(t.context, remittanceId, 2);
  expect(rows.find(({ id }) => id === found?.row)?.controlNumber).toBe(s.claim.control_number);
  expect(await placeOfCharge(t.context, remittanceId, 99_999_999)).toBeNull();
  await expect(placeOfCharge(t.as('front-desk'), remittanceId, s.charges[0]!)).rejects.toThrow(/may not/);
});
