/** The end of a day, and receipts and slips on paper: every sum against what was taken, counted by hand. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { calendarDate } from '../../core/calendar';
import { type Cents, basisPoints, sum } from '../../core/money';
import { fileDatabase } from '../../testing/database';
import { anotherMember, brokenInvariants, charge, household } from '../../testing/desk';
import { fileTerminal } from '../../testing/terminal';
import { setConfidential } from '../accounts/confidential';
import { reportOf } from '../reports';
import { giveBack } from './refund';
import { compareDay, readDay } from './day';
import { makeDeposit, undoDeposit } from './deposit';
import { closeDrawer, openDrawer } from './drawers';
import { depositPaper, receiptPaper } from './paper';
import { readAccount } from '../account-page/read';
import { spendCredit } from './credit';
import { setDelivery } from '../statements/household';
import { transferCredit, voidCard } from './put-right';
import { reverseReceipt } from './receipts';
import { takePayment } from './terminal';
import { takeReceipt } from './take';

const t = fileDatabase();
const terminal = fileTerminal(t);
const folder = mkdtempSync(join(tmpdir(), 'wergeld-day-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const key = (): string => crypto.randomUUID();
let site: number;
beforeAll(async () => {
  site = (await t.db.selectFrom('location').select('id').orderBy('id').executeTakeFirstOrThrow()).id;
  await t.db
    .updateTable('payment_policy')
    .set({ surcharge_rate: basisPoints(0) })
    .execute();
});
type Tenders = Parameters<typeof takeReceipt>[1]['tenders'];
const owes = async (amount: string) => {
  const made = await household(t, false);
  return { ...made, chargeId: await charge(t, t.context, made.patientId, amount) };
};
const take = (householdId: number, tenders: Tenders, more: object = {}, context = t.context) =>
  takeReceipt(context, { householdId, tenders, locationId: site, key: key(), ...more });
const byCard = async (householdId: number, lastFour: string, amount: string) =>
  takePayment(t.context, {
    householdId,
    tenders: [{ tender: 'card', amount, reading: await terminal.card(lastFour) }],
    key: key(),
  });
const placeOf = async (kind: 'undeposited' | 'bank' | 'clearing', merchant = '') =>
  (
    await t.db
      .selectFrom('place')
      .select('id')
      .where('kind', '=', kind)
      .where('merchant', '=', merchant)
      .executeTakeFirstOrThrow()
  ).id;
const total = (rows: readonly { amount: Cents }[]): Cents => sum(rows.map(({ amount }) => amount));
function textOf({ bytes }: { bytes: Buffer }): string {
  const file = join(folder, 'read.pdf');
  writeFileSync(file, bytes);
  execFileSync('qpdf', ['--check', file]);
  return execFileSync('pdftotext', ['-layout', file, '-'], { encoding: 'utf8' }).replace(/\s+/g, ' ');
}

test('a day says who took what of each tender and what went back, and what waits for the bank is what was not brought there', async () => {
  const { householdId } = await owes('30.00');
  const mixed = await take(householdId, [
    { tender: 'cash', amount: '50.00', given: '60.00' },
    { tender: 'check', amount: '12.50', reference: '991' },
  ]);
  await giveBack(t.context, {
    receiptId: mixed.receiptId,
    amount: '8.00',
    tender: 'cash',
    reference: '',
    why: 'too much',
    key: key(),
  });
  const undone = await take(householdId, [{ tender: 'cash', amount: '3.00' }]);
  await reverseReceipt(t.context, { receiptId: undone.receiptId, why: 'not meant' });
  const earlier = calendarDate('2026-03-12');
  await take(householdId, [{ tender: 'check', amount: '4.25', reference: 'Friday' }], {
    receivedOn: earlier,
  });
  const clerk = t.as('front-desk');
  const theirs = await take(householdId, [{ tender: 'cash', amount: '9.00' }], {}, clerk);

  const page = await readDay(t.context, undefined);
  expect(page.day).toBe(t.context.today);
  const mine = page.taken.filter(({ by }) => by === t.context.user.name);
  expect(mine).toMatchObject([
    { tender: 'cash', count: 2, came: 5000, back: -800, surcharge: 0 },
    { tender: 'check', count: 1, came: 1250, back: 0 },
  ]);
  expect(page.taken.find(({ by }) => by === clerk.user.name)).toMatchObject({ tender: 'cash', came: 900 });
  expect(page.waiting.filter((row) => row.householdId === householdId).map(({ amount }) => amount)).toEqual([
    5000, -800, 900, 425, 1250,
  ]);
  expect((await readDay(t.context, earlier)).taken).toMatchObject([{ tender: 'check', came: 425 }]);

  // Who may not deposit sees what is their own, and nothing that waits.
  const own = await readDay(clerk, undefined);
  expect(own.taken).toMatchObject([{ tender: 'cash', came: 900, by: clerk.user.name }]);
  expect([own.waiting, own.differences, own.deposits]).toEqual([[], [], []]);
  await expect(readDay(t.context, '2026-02-30')).rejects.toThrow();

  // To the bank: what was chosen waits no more, and the slip says it.
  const chosen = page.waiting.filter(
    (row) => row.householdId === householdId && row.receivedOn === t.context.today,
  );
  const { depositId, amount } = await makeDeposit(t.context, {
    fromPlaceId: await placeOf('undeposited'),
    toPlaceId: await placeOf('bank'),
    date: t.context.today,
    number: 'Slip 7',
    tenderIds: chosen.map(({ id }) => id),
    key: key(),
  });
  expect(amount).toBe(total(chosen));
  const after = await readDay(t.context, undefined);
  expect(after.deposits.find(({ id }) => id === depositId)).toMatchObject({
    number: 'Slip 7',
    amount: 6350,
    tenders: 4,
    undone: false,
  });
  expect(after.waiting.filter((row) => row.householdId === householdId)).toMatchObject([{ amount: 425 }]);
  const slip = textOf(await depositPaper(t.context, { depositId }));
  expect(slip).toMatch(/Deposit Slip 7, 16 Mar 2026/);
  // 50.00 and 9.00 of cash less the 8.00 that went back; one check by its number.
  expect(slip).toMatch(/Cash 51\.00/);
  expect(slip).toMatch(/Check 991 \S+ 12\.50/);
  expect(slip).toMatch(/63\.50/);
  await expect(depositPaper(clerk, { depositId })).rejects.toThrow(/may not/);
  await expect(depositPaper(t.context, { depositId: 999_999 })).rejects.toThrow(/no such deposit/);
  await undoDeposit(t.context, { depositId, why: 'not made' });
  await expect(depositPaper(t.context, { depositId })).rejects.toThrow(/was undone/);
  expect((await readDay(t.context, undefined)).deposits[0]).toMatchObject({ amount: 0, undone: true });
  expect(theirs.receiptId).toBeGreaterThan(0);
  expect(await brokenInvariants(t)).toEqual([]);
});

test('a drawer that was over waits with its difference for the bank', async () => {
  const { householdId } = await owes('20.00');
  const drawerId = await openDrawer(t.context, { locationId: site, opening: '10.00', key: key() });
  await take(householdId, [{ tender: 'cash', amount: '20.00' }]);
  await closeDrawer(t.context, { drawerId, counted: '30.50', checks: 0, why: 'two quarters', key: key() });
  const { differences, drawers } = await readDay(t.context, undefined);
  expect(drawers.find(({ id }) => id === drawerId)).toMatchObject({ closed: { difference: 50 } });
  const both = await reportOf('charges-and-payments')!.read(t.context, {});
  expect(both.totals.drawers).toBe(50);
  expect(differences).toMatchObject([
    { id: drawerId, amount: 50, words: expect.stringContaining('two quarters') },
  ]);
});

test('the terminal’s list of a day is ours, row by row, also with what went back and what was void; what differs is said', async () => {
  const placeId = await placeOf('clearing', 'TEST-01');
  const ask = () => compareDay(t.context, { placeId, day: t.context.today });
  const before = await ask();
  expect(before.differences).toEqual([]);
  const { householdId } = await owes('30.00');
  const paid = await byCard(householdId, '2003', '45.00');
  const undone = await byCard(householdId, '2003', '7.00');
  const no = await byCard(householdId, '6104', '6.00');
  expect(no.cards).toMatchObject([{ state: 'declined' }]);
  const back = await giveBack(t.context, {
    receiptId: paid.receiptId,
    amount: '15.00',
    tender: 'card',
    reference: '',
    why: 'too much',
    key: key(),
  });
  expect(back.card).toMatchObject({ state: 'approved' });
  const { id: tenderId } = await t.db
    .selectFrom('tender')
    .select('id')
    .where('receipt_id', '=', undone.receiptId)
    .executeTakeFirstOrThrow();
  await voidCard(t.context, { tenderId, why: 'another card', key: key() });
  // 45 that came, 15 that went back; 7 came and was taken back.
  expect(await ask()).toEqual({
    place: 'Cards of the test',
    theirs: 3000,
    ours: 3000,
    count: 4,
    differences: [],
  });
  const named = await t.db
    .selectFrom('attempt as a')
    .innerJoin('tender as t', 't.id', 'a.tender_id')
    .select(['a.id', 'a.key'])
    .where('t.receipt_id', '=', paid.receiptId)
    .executeTakeFirstOrThrow();
  // Ours says another authorization than the terminal; what a terminal answered is changed by nobody but by force.
  await t.pool.query('alter table attempt disable trigger all');
  await t.pool.query(`update attempt set approval = '000000' where id = $1`, [named.id]);
  await t.pool.query('alter table attempt enable always trigger attempt_moves');
  expect((await ask()).differences).toMatchObject([{ key: named.key, words: 'Another authorization' }]);
  await expect(compareDay(t.as('front-desk'), { placeId, day: t.context.today })).rejects.toThrow(/may not/);
  await expect(
    compareDay(t.context, { placeId: await placeOf('bank'), day: t.context.today }),
  ).rejects.toThrow(/no such merchant/);
  await expect(compareDay(t.context, { placeId, day: '1805-02-30' })).rejects.toThrow();
});

test('a receipt says how it came, what it paid and what is left; again it is a copy; of an address apart it names nothing', async () => {
  const { householdId } = await owes('30.00');
  const { patientId: apart } = await anotherMember(t, householdId, { first: 'Ottilie' });
  await setConfidential(t.context, {
    patientId: apart,
    name: 'Ottilie',
    line1: '9 Elsewhere Road',
    city: 'Osprey Landing',
    state: 'WA',
    zip: '98199',
  });
  const { receiptId } = await take(
    householdId,
    [
      { tender: 'cash', amount: '25.00', given: '40.00' },
      { tender: 'check', amount: '15.00', reference: '77' },
    ],
    { paidBy: 'Aunt Łucja' },
  );
  const first = textOf(await receiptPaper(t.context, { receiptId }));
  expect(first).toMatch(/Receipt \d+ /);
  expect(first).not.toContain('COPY');
  for (const said of [
    'From Aunt Łucja, for',
    'Cash: 25.00',
    'Handed over 40.00, change 15.00',
    'Check, 77: 15.00',
    '40.00 US dollars were paid.',
    '10.00 of it is held as credit.',
  ])
    expect(first).toContain(said);
  // Paid 30.00 of 30.00.
  expect(first).toMatch(/30\.00 0\.00/);
  const roll = textOf(await receiptPaper(t.context, { receiptId, roll: true }));
  expect(roll).toContain('COPY');
  expect(roll).toContain('paid 30.00, left 0.00');
  const back = await giveBack(t.context, {
    receiptId,
    amount: '10.00',
    tender: 'cash',
    reference: '',
    why: 'asked for it',
    key: key(),
  });
  const given = textOf(await receiptPaper(t.context, { receiptId: back.refundId }));
  expect(given).toMatch(/Given back \d+/);
  expect(given).toContain('10.00 US dollars were given back.');

  // The patient with an address apart: on the household's receipt the service has no name, on her own it has.
  await charge(t, t.context, apart, '12.00');
  const own = await take(householdId, [{ tender: 'cash', amount: '12.00' }], { patientId: apart });
  expect(textOf(await receiptPaper(t.context, { receiptId: own.receiptId }))).toContain('Ottilie');

  const gone = await take(householdId, [{ tender: 'cash', amount: '1.00' }]);
  await reverseReceipt(t.context, { receiptId: gone.receiptId, why: 'not meant' });
  await expect(receiptPaper(t.context, { receiptId: gone.receiptId })).rejects.toThrow(
    /Nothing of it was taken/,
  );
  await expect(receiptPaper(t.context, { receiptId: 999_999 })).rejects.toThrow(/no such receipt/);
});

test('a receipt names no service of an account that gets its mail elsewhere', async () => {
  const [one, other] = [await owes('5.00'), await owes('30.00')];
  const { receiptId } = await take(one.householdId, [{ tender: 'cash', amount: '50.00' }]);
  await transferCredit(t.context, {
    receiptId,
    fromHouseholdId: one.householdId,
    toHouseholdId: other.householdId,
    amount: '45.00',
    why: 'the brother pays',
    key: key(),
  });
  await spendCredit(t.context, { householdId: other.householdId, key: key() });
  const { first } = await t.db
    .selectFrom('patient')
    .select('first')
    .where('id', '=', other.patientId)
    .executeTakeFirstOrThrow();
  const named = async () => textOf(await receiptPaper(t.context, { receiptId })).includes(first);
  expect(await named()).toBe(false);
  expect(textOf(await receiptPaper(t.context, { receiptId }))).toMatch(/A service 30\.00 0\.00/);
  await setDelivery(t.context, {
    householdId: other.householdId,
    delivery: 'mail',
    mailedWith: (await readAccount(t.context, one.householdId)).household.number,
  });
  expect(await named()).toBe(true);
});
