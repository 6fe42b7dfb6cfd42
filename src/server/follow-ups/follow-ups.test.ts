/** Working follow-ups: going on, closing, settling; and that no amount with a payer is forgotten. */
import { sql } from 'kysely';
import type { Db } from '../../db/connect';
import { toPatientEntry } from '../../core/books/entries/payers';
import { addDays } from '../../core/calendar';
import { cents } from '../../core/money';
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
import { readStory } from '../accounts/ledger';
import { readAccount } from '../account-page/read';
import { undoWriteOff } from './undo';
import { checkBooks } from '../books/check';
import { writeEntries } from '../books/journal';
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
      await settleWaiting(t.context, {
        chargeId: s.chargeId,
        to: 'patient',
        exception: 'notice',
        why: 'Not a covered service',
      }),
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
    const settle = {
      chargeId: other.chargeId,
      to: 'patient' as const,
      exception: 'no-contract' as const,
      why: 'x',
    };
    await settleWaiting(t.context, settle);
    await expect(settleWaiting(t.context, settle)).rejects.toThrow(/Nothing waits/);
    await expect(settleWaiting(t.context, { ...settle, chargeId: 999999 })).rejects.toThrow(/no such charge/);
    await expect(settleWaiting(t.as('collector'), settle)).rejects.toThrow(/may not/);
    await expect(settleWaiting(t.context, { ...settle, why: '' })).rejects.toMatchObject({ field: 'why' });
  });

  test('goes back with the remittance that it followed: the money is with the payer again', async () => {
    const s = await denied();
    await settleWaiting(t.context, {
      chargeId: s.chargeId,
      to: 'patient',
      exception: 'not-in-force',
      why: 'x',
    });
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

describe('what a payer took off under its own groups', () => {
  /** One visit of 145.00 of which nothing was paid, for a reason. */
  async function refused(reason: string) {
    const s = await sentClaim(t);
    await posted(s, 0, [`${reason}:145.00`]);
    return { ...s, chargeId: s.charges[0]! };
  }
  async function posted(s: Awaited<ReturnType<typeof sentClaim>>, paid: number, reasons: string[]) {
    const { outcomes } = await intake(
      t.context,
      remitText([
        decided(s.claim.control_number, [{ control: s.controls[0]!, charge: 14500, paid, reasons }]),
      ]),
    );
    await postRemittance(t.context, outcomes[0]!.remittanceId!);
  }
  const exceptionOf = async (chargeId: number) =>
    (
      await t.db
        .selectFrom('entry as e')
        .innerJoin('posting as p', 'p.entry_id', 'e.id')
        .select('e.exception')
        .where('p.charge_id', '=', chargeId)
        .where('e.kind', '=', 'to-patient')
        .execute()
    ).map((row) => row.exception);

  test.each(['CO-50', 'CO-29', 'PI-204', 'CO-45'])(
    '%s is not passed to the patient by one press: an exception is stated and kept',
    async (reason) => {
      const { chargeId, householdId } = await refused(reason);
      const pass = { chargeId, to: 'patient' as const, why: 'as agreed' };
      await expect(settleWaiting(t.context, pass)).rejects.toMatchObject({
        field: 'exception',
        message: expect.stringContaining('145.00'),
      });
      await expect(settleWaiting(t.context, { ...pass, exception: 'because' as never })).rejects.toThrow();
      expect(await figures(householdId)).toMatchObject({ withPayer: 14500, withPatient: 0 });
      await settleWaiting(t.context, { ...pass, exception: 'notice' });
      expect(await figures(householdId)).toMatchObject({ withPayer: 0, withPatient: 14500 });
      expect(await exceptionOf(chargeId)).toEqual(['notice', 'notice']);
      const story = JSON.stringify((await readStory(t.context, householdId, chargeId)).charges);
      expect(story).toContain('you had signed a notice');
      expect(story).not.toContain('following it up');
    },
  );

  test.each(['PR-27', 'OA-50'])('%s needs none, and takes none', async (reason) => {
    const { chargeId, householdId } = await refused(reason);
    const pass = { chargeId, to: 'patient' as const, why: 'the coverage had ended' };
    await expect(settleWaiting(t.context, { ...pass, exception: 'not-in-force' })).rejects.toMatchObject({
      field: 'exception',
    });
    await settleWaiting(t.context, pass);
    expect(await figures(householdId)).toMatchObject({ withPayer: 0, withPatient: 14500 });
    expect(await exceptionOf(chargeId)).toEqual([null, null]);
  });

  test('taken back and said anew under another group, it needs none any more', async () => {
    const s = await refused('CO-50');
    const { outcomes } = await intake(
      t.context,
      remitText([
        decided(
          s.claim.control_number,
          [{ control: s.controls[0]!, charge: -14500, paid: 0, reasons: ['CO-50:-145.00'] }],
          '22',
        ),
        decided(s.claim.control_number, [
          { control: s.controls[0]!, charge: 14500, paid: 0, reasons: ['OA-50:145.00'] },
        ]),
      ]),
    );
    await postRemittance(t.context, outcomes[0]!.remittanceId!);
    const pass = { chargeId: s.chargeId, to: 'patient' as const, why: 'x' };
    await settleWaiting(t.context, pass);
    expect(await figures(s.householdId)).toMatchObject({ withPatient: 14500 });
  });

  test('OA-209 is collected from nobody: no exception helps', async () => {
    const { chargeId } = await refused('OA-209');
    for (const exception of [undefined, 'notice'] as const)
      await expect(
        settleWaiting(t.context, { chargeId, to: 'patient', exception, why: 'x' }),
      ).rejects.toMatchObject({ field: 'to', message: expect.stringContaining('OA-209') });
    await settleWaiting(t.context, { chargeId, to: 'off', why: 'by law' });
  });

  test('the invariant names what went to a patient without one', async () => {
    const { chargeId, claim, householdId } = await refused('CO-50');
    const about = {
      chargeId,
      householdId,
      caseId: claim.case_id,
      coverageId: claim.coverage_id,
      payerId: claim.payer_id,
      claimId: claim.id,
    };
    const entry = { businessDate: TODAY, why: 'x', about };
    await t.db
      .transaction()
      .execute((tx) => writeEntries(tx, t.context, [toPatientEntry({ ...entry, amount: cents(14500) })]));
    const broken = await brokenInvariants(t);
    expect(broken.find(({ id }) => id === 'passed-to-patients')?.faults).toEqual([
      `charge ${chargeId}: 14500 was taken off by the payer and passed to the patient`,
    ]);
    await t.db
      .transaction()
      .execute((tx) => writeEntries(tx, t.context, [toPatientEntry({ ...entry, amount: cents(-14500) })]));
  });

  describe('goes on to the next payer', () => {
    test('whatever the group: it waits there, under a follow-up, and the first one is done', async () => {
      const s = await refused('CO-50');
      const next = await secondCoverage(t, s.patientId);
      await settleWaiting(t.context, { chargeId: s.chargeId, to: 'next', why: 'refused by the first' });
      expect(await figures(s.householdId)).toMatchObject({ withPayer: 14500, withPatient: 0 });
      expect(await listed(s.householdId)).toMatchObject([
        { kind: 'next payer', coverageId: next, waiting: 14500, amount: 14500 },
      ]);
      expect((await readClaim(t.context, s.claim.id)).status).toBe('closed');
      const { charges } = await readStory(t.context, s.householdId, s.chargeId);
      expect(JSON.stringify(charges)).toContain('was put before your other insurer');
      expect(JSON.stringify(charges)).not.toContain('following it up');
    });

    test('the first payer pays after all: it comes back from the next, in full or in part', async () => {
      for (const [paid, left] of [
        [14500, 0],
        [8000, 6500],
      ] as const) {
        const s = await refused('CO-50');
        await secondCoverage(t, s.patientId);
        await settleWaiting(t.context, { chargeId: s.chargeId, to: 'next', why: 'x' });
        await posted(s, paid, left > 0 ? [`CO-45:${(left / 100).toFixed(2)}`] : []);
        expect(await figures(s.householdId)).toMatchObject({ withPayer: 0, withPatient: 0 });
        expect((await listed(s.householdId)).map(({ kind }) => kind)).not.toContain('next payer');
      }
    });

    test('taken back by a person it waits with the first one again, followed as before', async () => {
      const s = await refused('CO-50');
      await secondCoverage(t, s.patientId);
      await settleWaiting(t.context, { chargeId: s.chargeId, to: 'next', why: 'x' });
      const { id: entryId } = await t.db
        .selectFrom('entry as e')
        .innerJoin('posting as p', 'p.entry_id', 'e.id')
        .select('e.id')
        .where('p.charge_id', '=', s.chargeId)
        .where('e.kind', '=', 'to-next-payer')
        .executeTakeFirstOrThrow();
      await undoWriteOff(t.context, { entryId, why: 'the first one is asked again' });
      expect(await listed(s.householdId)).toMatchObject([{ kind: 'denial', waiting: 14500 }]);
      expect((await readClaim(t.context, s.claim.id)).status).toBe('decided');
    });

    test('is refused where none comes after, where none has decided, and with an exception', async () => {
      const s = await refused('CO-50');
      const next = { chargeId: s.chargeId, to: 'next' as const, why: 'x' };
      await expect(settleWaiting(t.context, next)).rejects.toMatchObject({ field: 'to' });
      await secondCoverage(t, s.patientId);
      await expect(settleWaiting(t.context, { ...next, exception: 'notice' })).rejects.toMatchObject({
        field: 'exception',
      });
      const unbilled = await charge(t, t.context, s.patientId, '60.00');
      await expect(settleWaiting(t.context, { ...next, chargeId: unbilled })).rejects.toThrow(
        /bill it first/,
      );
    });
  });
});
