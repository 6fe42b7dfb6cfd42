/** Working follow-ups: going on, closing, settling; and that no amount with a payer is forgotten. */
import { sql } from 'kysely';
import type { Db } from '../../db/connect';
import { addDays } from '../../core/calendar';
import { TODAY, fileDatabase } from '../../testing/database';
import {
  brokenInvariants,
  charge,
  decided,
  household,
  intake,
  remitText,
  sentClaim,
  secondCoverage,
} from '../../testing/desk';
import { readAccount } from '../accounts/read';
import { checkBooks } from '../books/check';
import { buildClaims } from '../claims/build';
import { readClaim } from '../claims/read';
import { findList } from '../lists/read';
import { postRemittance } from '../remittances/post';
import { reverseRemittance } from '../remittances/reverse';
import { prepareStatement } from '../statements/prepare';
import { readStatement } from '../statements/read';
import { changeFollowUp, closeFollowUp, settleWaiting } from './work';

const t = fileDatabase();
afterEach(async () => {
  expect(await brokenInvariants(t)).toEqual([]);
});

/** A claim of two lines, of which the payer denied the second, 42.00. */
async function denied() {
  const s = await sentClaim(t, ['145.00', '42.00']);
  const { outcomes } = await intake(
    t.context,
    remitText([
      decided(s.claim.control_number, [
        { control: s.controls[0]!, charge: 14500, paid: 9800, reasons: ['CO-45:47.00'] },
        { control: s.controls[1]!, charge: 4200, paid: 0, reasons: ['CO-97:42.00'] },
      ]),
    ]),
  );
  const remittanceId = outcomes[0]!.remittanceId!;
  await postRemittance(t.context, remittanceId);
  return { ...s, remittanceId, chargeId: s.charges[1]!, ...(await only(s.householdId)) };
}
/** A household's one follow-up. */
async function only(householdId: number) {
  const rows = await t.db
    .selectFrom('follow_up')
    .select(['id as followUpId', 'version'])
    .where('household_id', '=', householdId)
    .execute();
  expect(rows).toHaveLength(1);
  return rows[0]!;
}
const listed = async (householdId: number) =>
  (await findList(t.context, 'follow-ups', {})).rows.filter((row) => row.householdId === householdId);
const figures = async (householdId: number) => (await readAccount(t.context, householdId)).figures;

describe('going on', () => {
  test('with a later date, an owner and what was said: all of it is kept, newest first', async () => {
    const { followUpId, version, householdId } = await denied();
    await changeFollowUp(t.context, {
      followUpId,
      dueDate: addDays(TODAY, 14),
      owner: 'Cole',
      note: 'Asked for the records',
      version,
    });
    await changeFollowUp(t.as('collector'), {
      followUpId,
      dueDate: addDays(TODAY, 14),
      owner: 'Cole',
      note: 'Sent',
    });
    const [row] = await listed(householdId);
    expect(row).toMatchObject({ dueDate: addDays(TODAY, 14), owner: 'Cole' });
    expect(row!.notes).toMatchObject([
      { words: 'Sent', by: 'collector' },
      {
        words: expect.stringMatching(/^Asked for the records · due .* · Cole works it$/) as string,
        by: 'manager',
      },
    ]);
  });

  test('with nothing to say and nothing changed keeps no empty note', async () => {
    const { followUpId, householdId } = await denied();
    const [row] = await listed(householdId);
    await changeFollowUp(t.context, { followUpId, dueDate: row!.dueDate! });
    expect((await listed(householdId))[0]!.notes).toEqual([]);
  });

  test.each([
    ['a day that is past', { dueDate: addDays(TODAY, -1) }, /lies in the past/],
    ['no date at all', { dueDate: 'soon' }, /not a date/],
    ['a novel', { dueDate: TODAY, note: 'x'.repeat(501) }, /500 characters/],
  ])('to %s is refused', async (_what, input, words) => {
    const { followUpId } = await denied();
    await expect(changeFollowUp(t.context, { followUpId, ...input })).rejects.toThrow(words);
  });

  test('with one that is closed or not there is refused; so is who may not', async () => {
    const { followUpId, chargeId } = await denied();
    await settleWaiting(t.context, { chargeId, to: 'off', why: 'test' });
    await expect(changeFollowUp(t.context, { followUpId, dueDate: TODAY })).rejects.toThrow(/is closed/);
    await expect(changeFollowUp(t.context, { followUpId: 999999, dueDate: TODAY })).rejects.toThrow(
      /no such/,
    );
    await expect(changeFollowUp(t.as('front-desk'), { followUpId, dueDate: TODAY })).rejects.toThrow(
      /may not/,
    );
  });
});

describe('closing', () => {
  test('is refused while money waits with the payer, and it stays in the list', async () => {
    const { followUpId, householdId } = await denied();
    await expect(closeFollowUp(t.context, { followUpId, outcome: 'done' })).rejects.toThrow(
      /42\.00 still waits with Cedar Sound Health: give it a later date/,
    );
    expect(await listed(householdId)).toHaveLength(1);
  });

  test('is possible once another open follow-up holds the amount', async () => {
    const { followUpId, householdId, chargeId, claim } = await denied();
    await t.db
      .insertInto('follow_up')
      .values({
        kind: 'reason',
        household_id: householdId,
        claim_id: claim.id,
        charge_id: chargeId,
        words: 'Besides',
        due_date: TODAY,
        key: `besides ${followUpId}`,
      })
      .execute();
    await closeFollowUp(t.context, { followUpId, outcome: 'the other one goes on' });
    expect((await listed(householdId)).map((row) => row.words)).toEqual(['Besides']);
  });

  test('without an outcome is refused, by the form and by the database', async () => {
    const { followUpId } = await denied();
    await expect(closeFollowUp(t.context, { followUpId, outcome: ' ' })).rejects.toMatchObject({
      field: 'outcome',
    });
    await expect(
      t.db.updateTable('follow_up').set({ closed_at: new Date() }).where('id', '=', followUpId).execute(),
    ).rejects.toThrow(/check/);
  });
});

describe('settling what a payer does not pay', () => {
  test('passes it to the patient: owed from today, told in the story, and the claim closes', async () => {
    const s = await denied();
    expect(
      await settleWaiting(t.context, { chargeId: s.chargeId, to: 'patient', why: 'Not a covered service' }),
    ).toBe(4200);
    expect(await figures(s.householdId)).toMatchObject({ withPayer: 0, withPatient: 4200 });
    expect(await listed(s.householdId)).toEqual([]);
    expect((await readClaim(t.context, s.claim.id)).status).toBe('closed');
    const { aging } = await readAccount(t.context, s.householdId);
    expect(aging).toEqual([4200, 0, 0, 0, 0]);
    const id = await prepareStatement(t.context, {
      householdId: s.householdId,
      key: `passed-${s.householdId}`,
    });
    const { content } = await readStatement(t.context, id);
    expect(JSON.stringify(content)).toMatch(
      /42\.00 passed from Cedar Sound Health to you: Not a covered service/,
    );
  });

  test('writes it off: the reason is for us and does not stand on the patient’s statement', async () => {
    const s = await denied();
    await settleWaiting(t.context, { chargeId: s.chargeId, to: 'off', why: 'our own mistake, say nothing' });
    await charge(t, t.context, (await household(t, false)).patientId, '1.00');
    const { charges } = await readAccount(t.context, s.householdId);
    expect(charges.find((item) => item.id === s.chargeId)).toMatchObject({ reduced: 4200, withPayer: 0 });
    const { readStory } = await import('../accounts/ledger');
    const story = await readStory(t.context, s.householdId, s.chargeId);
    expect(JSON.stringify(story)).toMatch(/we took off 42\.00/);
    expect(JSON.stringify(story)).not.toMatch(/our own mistake/);
  });

  test('takes what nobody was billed for, and what passed on to a later payer', async () => {
    const made = await household(t);
    const unbilled = await charge(t, t.context, made.patientId, '60.00');
    expect(await settleWaiting(t.context, { chargeId: unbilled, to: 'patient', why: 'not covered' })).toBe(
      6000,
    );
    const s = await sentClaim(t);
    await secondCoverage(t, s.patientId);
    const { outcomes } = await intake(
      t.context,
      remitText([
        decided(s.claim.control_number, [
          { control: s.controls[0]!, charge: 14500, paid: 6800, reasons: ['CO-45:47.00', 'PR-3:30.00'] },
        ]),
      ]),
    );
    await postRemittance(t.context, outcomes[0]!.remittanceId!);
    const [row] = await listed(s.householdId);
    expect(row).toMatchObject({ kind: 'next payer', waiting: 3000 });
    await expect(closeFollowUp(t.context, { followUpId: row!.id, outcome: 'x' })).rejects.toThrow(
      /30\.00 still/,
    );
    expect(
      await settleWaiting(t.context, {
        chargeId: s.charges[0]!,
        coverageId: row!.coverageId!,
        to: 'off',
        why: 'x',
      }),
    ).toBe(3000);
    expect(await listed(s.householdId)).toEqual([]);
  });

  test('is refused while a payer is being asked, twice, and on nothing', async () => {
    const s = await sentClaim(t);
    const chargeId = s.charges[0]!;
    await expect(settleWaiting(t.context, { chargeId, to: 'off', why: 'x' })).rejects.toThrow(
      /has not decided/,
    );
    const other = await denied();
    const settle = { chargeId: other.chargeId, to: 'patient' as const, why: 'x' };
    await settleWaiting(t.context, settle);
    await expect(settleWaiting(t.context, settle)).rejects.toThrow(/Nothing waits/);
    await expect(settleWaiting(t.context, { ...settle, chargeId: 999999 })).rejects.toThrow(/no such charge/);
    await expect(settleWaiting(t.as('collector'), settle)).rejects.toThrow(/may not/);
    await expect(settleWaiting(t.context, { ...settle, why: '' })).rejects.toMatchObject({ field: 'why' });
  });

  test('goes back with the remittance that it followed: the money is with the payer again', async () => {
    const s = await denied();
    await settleWaiting(t.context, { chargeId: s.chargeId, to: 'patient', why: 'x' });
    await reverseRemittance(t.context, { remittanceId: s.remittanceId, why: 'wrong file' });
    // What was passed on stands: it was our own decision, and the first line alone is with the payer.
    expect(await figures(s.householdId)).toMatchObject({ withPatient: 4200, withPayer: 14500 });
  });
});

test('every amount that a payer holds is on a claim, unbilled, or followed; taken away from there it is found', async () => {
  const made = await household(t);
  await charge(t, t.context, made.patientId, '80.00');
  await buildClaims(t.context, { householdId: made.householdId });
  const s = await denied();
  const faults = async (db: Db): Promise<string[]> =>
    (await checkBooks(db)).find((item) => item.id === 'with-payer-looked-after')!.faults;
  expect(await faults(t.db)).toEqual([]);
  // Off its claim, without coverage, its follow-up closed behind everybody's back: what waits there waits unseen.
  const undone = t.owner.transaction().execute(async (tx) => {
    await sql`update claim_line set current = false where charge_id = ${s.chargeId}`.execute(tx);
    await sql`update charge set coverage_id = null where id = ${s.chargeId}`.execute(tx);
    await sql`update follow_up set closed_at = now(), outcome = 'x' where charge_id = ${s.chargeId}`.execute(
      tx,
    );
    expect(await faults(tx)).toEqual([expect.stringContaining(`charge ${s.chargeId}:`)]);
    throw new Error('nothing of it stays');
  });
  await expect(undone).rejects.toThrow('nothing of it stays');
  expect(await faults(t.db)).toEqual([]);
});
