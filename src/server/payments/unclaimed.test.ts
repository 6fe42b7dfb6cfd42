/**
 * Credit whose owner is not heard of: it rests from the last contact, by the state of the owner's last address; a letter first, then the
 * state. What comes in between ends it.
 */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { sql } from 'kysely';
import { type CalendarDate, addDays, addMonths } from '../../core/calendar';
import { cents, toDecimal } from '../../core/money';
import { runs } from '../../testing/runs';
import { TODAY, fileDatabase } from '../../testing/database';
import { anotherMember, brokenInvariants, charge, household } from '../../testing/desk';
import { readAccount } from '../account-page/read';
import { setConfidential } from '../accounts/confidential';
import { mergeHouseholds } from '../accounts/merge';
import { creditLetterDocument } from '../../core/payments/dormancy';
import { readList } from '../lists/read';
import { logContact } from '../overdue/contacts';
import { spendCredit } from './credit';
import { expectVisit } from './visits';
import { refundCredit } from './refund';
import { reportOf } from '../reports';
import { reverseReceipt } from './receipts';
import { takeReceipt } from './take';
import {
  answerCreditLetter,
  bringDormancy,
  creditLettersPaper,
  handOverCredit,
  writeCreditLetters,
} from './unclaimed';

const t = fileDatabase();
const key = (): string => crypto.randomUUID();
const on = (day: CalendarDate) => ({ ...t.context, today: day });
/** The owner was last heard of on this day. */
const HEARD = addDays(TODAY, -200);
beforeAll(async () => {
  await bringDormancy(t.context, { text: 'state,months,letter days,least\nWA,12,90,50.00\n' });
});

const held = async (amount = '120.00', day = HEARD) => {
  const made = await household(t, false);
  const { receiptId } = await takeReceipt(on(day), {
    householdId: made.householdId,
    tenders: [{ tender: 'check', amount, reference: '12' }],
    key: key(),
  });
  return { ...made, receiptId };
};
const UNTIL = addMonths(HEARD, 12);
const LETTER = addDays(UNTIL, -90);
const views = ['write', 'out', 'hand', 'rests', 'unknown'] as const;
/** The views in which the credit of an account is on a day; exactly one. */
const stands = async (householdId: number, day: CalendarDate) => {
  const found: string[] = [];
  for (const view of views) {
    const { rows } = await readList(on(day), 'unclaimed', { view });
    if (rows.some((row) => row.householdId === householdId)) found.push(view);
  }
  return found.join(' ');
};
const write = (householdId: number, day: CalendarDate, patientId: number | null = null) =>
  writeCreditLetters(on(day), { owners: [{ householdId, patientId }], key: key() });
const hand = (householdId: number, day: CalendarDate, number = '9001') =>
  handOverCredit(on(day), { owners: [{ householdId, patientId: null }], number, key: key() });
const creditOf = async (householdId: number) => (await readAccount(t.context, householdId)).figures.credit;

test('it rests, then is written to, then waits as long as the state says, and is handed over whole; it is never income', async () => {
  const { householdId } = await held();
  expect(await stands(householdId, addDays(LETTER, -1))).toBe('rests');
  await expect(write(householdId, addDays(LETTER, -1))).rejects.toThrow(/No letter is due before/);
  expect(await stands(householdId, LETTER)).toBe('write');
  await expect(hand(householdId, UNTIL)).rejects.toThrow(/was not written to/);
  const late = addDays(LETTER, 30);
  await write(householdId, late);
  expect(await stands(householdId, late)).toBe('out');
  await expect(write(householdId, late)).rejects.toThrow(/A letter is out already/);
  // The day on which it rests no more comes, but the letter has had sixty days.
  expect(await stands(householdId, UNTIL)).toBe('out');
  await expect(hand(householdId, UNTIL)).rejects.toThrow(/time to be answered/);
  // The letter says the day that holds, and so does the list.
  const day = addDays(late, 90);
  const { content } = await t.db
    .selectFrom('credit_letter')
    .select('content')
    .where('household_id', '=', householdId)
    .executeTakeFirstOrThrow();
  expect(creditLetterDocument.read(content).until).toBe(day);
  const { rows: out } = await readList(on(late), 'unclaimed', { view: 'out' });
  expect(out.find((one) => one.householdId === householdId)).toMatchObject({ until: day });
  expect(await stands(householdId, day)).toBe('hand');
  await expect(
    handOverCredit(
      { ...t.as('biller'), today: day },
      { owners: [{ householdId, patientId: null }], number: '1', key: key() },
    ),
  ).rejects.toThrow(/may not/);
  expect(await hand(householdId, day)).toBe(12_000);
  expect(await creditOf(householdId)).toBe(0);
  // Its check is made out to the state, and not to the owner.
  const { groups } = await reportOf('refund-checks')!.read(on(day), {});
  const { rows: checks } = groups[0]!;
  expect(checks.find(({ amount }) => amount === 12_000)).toMatchObject({
    to: 'Unclaimed property, WA',
    address: '',
  });
  expect(await stands(householdId, day)).toBe('');
  await expect(hand(householdId, day)).rejects.toThrow(/holds no credit/);
  const income = await sql<{ n: number }>`
    select count(*) as n from posting p join book_account a on a.code = p.account
    where a.class = 'income' and p.household_id = ${householdId}`.execute(t.db);
  expect(income.rows[0]!.n).toBe(0);
  expect(await brokenInvariants(t)).toEqual([]);
  // The owner is there after all: the refund is reversed like any other, and the credit rests anew with what is known then.
  const { id } = await t.db
    .selectFrom('receipt')
    .select('id')
    .where('household_id', '=', householdId)
    .where('refund_of', 'is not', null)
    .executeTakeFirstOrThrow();
  await reverseReceipt(on(day), { receiptId: id, why: 'the state sent it back' });
  expect(await creditOf(householdId)).toBe(12_000);
  expect(await stands(householdId, day)).toBe('write');
  expect(await brokenInvariants(t)).toEqual([]);
});

test('whatever is heard of the owner begins it anew: an answer, a visit, a call in which somebody spoke; a call that nobody took does not', async () => {
  const answered = await held();
  const [letterId] = await write(answered.householdId, LETTER);
  await answerCreditLetter(on(addDays(LETTER, 5)), {
    creditLetterId: letterId!,
    words: 'keep it for the next visit',
  });
  expect(await stands(answered.householdId, UNTIL)).toBe('rests');
  await expect(answerCreditLetter(t.context, { creditLetterId: letterId!, words: 'again' })).rejects.toThrow(
    /was answered/,
  );
  expect(await stands(answered.householdId, addDays(addMonths(addDays(LETTER, 5), 12), -90))).toBe('write');

  const visited = await held();
  await write(visited.householdId, LETTER);
  const came = addDays(LETTER, 10);
  await charge(t, on(came), visited.patientId, '5.00', '99213', came);
  expect(await stands(visited.householdId, addDays(LETTER, 120))).toBe('rests');

  const called = await held();
  await logContact(on(LETTER), {
    householdId: called.householdId,
    kind: 'call',
    direction: 'out',
    outcome: 'no-answer',
    sure: true,
    key: key(),
  });
  expect(await stands(called.householdId, LETTER)).toBe('write');
  await logContact(on(LETTER), {
    householdId: called.householdId,
    kind: 'call',
    direction: 'in',
    outcome: 'spoke',
    said: 'asked for it',
    sure: true,
    key: key(),
  });
  expect(await stands(called.householdId, LETTER)).toBe('rests');
});

test('a small one needs no letter; one of a state that is not in the table rests; what is reserved for a visit is none', async () => {
  const small = await held('49.99');
  expect(await stands(small.householdId, LETTER)).toBe('rests');
  expect(await stands(small.householdId, UNTIL)).toBe('hand');
  expect(await hand(small.householdId, UNTIL)).toBe(4999);
  const far = await held();
  await t.db.updateTable('household').set({ state: 'OR' }).where('id', '=', far.householdId).execute();
  expect(await stands(far.householdId, UNTIL)).toBe('unknown');
  await expect(hand(far.householdId, UNTIL)).rejects.toThrow(/OR is not in the table/);
  await bringDormancy(t.context, { text: 'WA,12,90,50.00\nOR,36,60,0' });
  const near = await held('60.00');
  const both = [far, near].map(({ householdId }) => ({ householdId, patientId: null }));
  const late = addMonths(HEARD, 40);
  await writeCreditLetters(on(late), { owners: both, key: key() });
  await expect(
    handOverCredit(on(addDays(late, 400)), { owners: both, number: '1', key: key() }),
  ).rejects.toThrow(/OR, WA: each state/);
  const coming = await household(t, false);
  const expectedVisitId = await expectVisit(t.context, {
    patientId: coming.patientId,
    day: t.context.today,
    key: key(),
  });
  await takeReceipt(t.context, {
    householdId: coming.householdId,
    expectedVisitId,
    tenders: [{ tender: 'cash', amount: '80.00' }],
    key: key(),
  });
  expect(await stands(coming.householdId, addMonths(t.context.today, 60))).toBe('');
  expect(await brokenInvariants(t)).toEqual([]);
});

test('what open charges take is nobody’s to claim: it is used first, and the rest is written about', async () => {
  const { householdId, patientId } = await held('120.00');
  await charge(t, on(HEARD), patientId, '45.00', '99213', HEARD);
  const row = (await readList(on(LETTER), 'unclaimed', { view: 'write' })).rows.find(
    (one) => one.householdId === householdId,
  );
  expect(row).toMatchObject({ amount: 7500 });
  await expect(write(householdId, LETTER)).rejects.toThrow(/45.00 of its credit can pay what is open/);
  await spendCredit(on(LETTER), { householdId, key: key() });
  const [letterId] = await write(householdId, LETTER);
  const { amount } = await t.db
    .selectFrom('credit_letter')
    .select('amount')
    .where('id', '=', letterId!)
    .executeTakeFirstOrThrow();
  expect(amount).toBe(7500);
});

test('what a manager is asked to give back is not handed over beside it', async () => {
  const { householdId, receiptId } = await held();
  await write(householdId, LETTER);
  const day = addDays(LETTER, 120);
  await t.db
    .insertInto('refund_request')
    .values({
      receipt_id: receiptId,
      amount: cents(1000),
      kind: 'check',
      reference: '1',
      why: 'asked for it',
      asked_on: day,
      asked_by: 'Tester',
    })
    .execute();
  await expect(hand(householdId, day)).rejects.toThrow(/is asked back/);
  expect(await creditOf(householdId)).toBe(12_000);
});

test('whatever came, was used and went back before: all that is held is handed over, to the cent, and the books hold', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.integer({ min: 1, max: 20_000 }), { minLength: 1, maxLength: 3 }),
      fc.integer({ min: 0, max: 15_000 }),
      fc.integer({ min: 0, max: 15_000 }),
      async (came, owed, back) => {
        const { householdId, patientId } = await household(t, false);
        const receipts: number[] = [];
        for (const amount of came)
          receipts.push(
            (
              await takeReceipt(on(HEARD), {
                householdId,
                tenders: [{ tender: 'check', amount: toDecimal(cents(amount)), reference: '12' }],
                key: key(),
              })
            ).receiptId,
          );
        let left = came.reduce((all, one) => all + one, 0);
        if (owed > 0) {
          await charge(t, on(HEARD), patientId, toDecimal(cents(owed)), '99213', HEARD);
          await spendCredit(on(HEARD), { householdId, key: key() });
          left = Math.max(0, left - owed);
        }
        // Of the last receipt, which is used last.
        const part = Math.min(back, left, came.at(-1)!);
        if (part > 0) {
          await refundCredit(on(HEARD), {
            receiptId: receipts.at(-1)!,
            amount: toDecimal(cents(part)),
            tender: 'check',
            reference: '13',
            why: 'asked for it',
            key: key(),
          });
          left -= part;
        }
        expect(await creditOf(householdId)).toBe(left);
        if (left === 0) return;
        const day = addDays(UNTIL, 200);
        if (left >= 5000) await write(householdId, addDays(day, -120));
        expect(await hand(householdId, day)).toBe(left);
        expect(await creditOf(householdId)).toBe(0);
      },
    ),
    { numRuns: runs(24) },
  );
  expect(await brokenInvariants(t)).toEqual([]);
});

test('what is kept apart is written to at the address apart alone; merged, the letter is the other account’s', async () => {
  const { householdId, ...made } = await household(t, false);
  const { patientId } = await anotherMember(t, householdId, { first: 'Ottilie' });
  await setConfidential(on(HEARD), {
    patientId,
    name: 'Ottilie',
    line1: '9 Elsewhere Road',
    city: 'Osprey Landing',
    state: 'WA',
    zip: '98199',
    why: 'asked for it',
  });
  await takeReceipt(on(HEARD), {
    householdId,
    patientId,
    tenders: [{ tender: 'cash', amount: '70.00' }],
    key: key(),
  });
  const [letterId] = await write(householdId, LETTER, patientId);
  const folder = mkdtempSync(join(tmpdir(), 'wergeld-unclaimed-'));
  const file = join(folder, 'letter.pdf');
  const { bytes } = await creditLettersPaper(t.context, { ids: [letterId!] });
  writeFileSync(file, bytes);
  execFileSync('qpdf', ['--check', file]);
  const text = execFileSync('pdftotext', ['-layout', file, '-'], { encoding: 'utf8' }).replace(/\s+/g, ' ');
  rmSync(folder, { recursive: true, force: true });
  for (const said of ['9 Elsewhere Road', '70.00 US dollars', 'law of your state, WA'])
    expect(text).toContain(said);
  await expect(creditLettersPaper(t.context, { ids: [letterId!, 999_999] })).rejects.toThrow(
    /no such letter/,
  );

  const twin = await held();
  const [twinLetter] = await write(twin.householdId, LETTER);
  await mergeHouseholds(t.context, {
    householdId: twin.householdId,
    intoHouseholdId: householdId,
    why: 'the same',
  });
  const { household_id: now } = await t.db
    .selectFrom('credit_letter')
    .select('household_id')
    .where('id', '=', twinLetter!)
    .executeTakeFirstOrThrow();
  expect(now).toBe(householdId);
  expect(made.patientId).toBeGreaterThan(0);
  // What was written is never another; by the database too.
  await expect(t.pool.query(`update credit_letter set amount = 1 where id = $1`, [letterId])).rejects.toThrow(
    /never changed/,
  );
  await expect(t.pool.query('delete from credit_letter')).rejects.toThrow();
});

test('a table with a line that is wrong changes nothing; brought in anew, what it has no more is gone', async () => {
  await expect(bringDormancy(t.context, { text: 'WA,12\nIdaho,60' })).rejects.toThrow(
    /Line 2: .*Nothing was brought in/,
  );
  expect(await bringDormancy(t.context, { text: 'WA,12,90,50.00' })).toBe(1);
  expect(await t.db.selectFrom('dormancy').select(['state', 'months']).execute()).toEqual([
    { state: 'WA', months: 12 },
  ]);
  await expect(bringDormancy(t.as('biller'), { text: 'WA,12' })).rejects.toThrow(/may not/);
});
