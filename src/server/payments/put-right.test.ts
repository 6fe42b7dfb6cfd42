/** Payments that came back, were written down wrongly or were another account's; with a plan, an agency and a refund in between. */
import { fileDatabase } from '../../testing/database';
import { cents } from '../../core/money';
import { brokenInvariants, charge, household, planOf } from '../../testing/desk';
import { readAccount } from '../account-page/read';
import { setConfidential } from '../accounts/confidential';
import { readOwed } from '../books/owed';
import { setDelivery } from '../statements/household';
import { spendCredit } from './credit';
import { decideRefund, refundCredit } from './refund';
import { correctTender, moveReceipt, returnTender, takeAgain, transferCredit } from './put-right';
import { findList } from '../lists/read';
import { reverseAllocation, reverseReceipt } from './receipts';
import { takeReceipt } from './take';
import { expectVisit, freeReserved } from './visits';

const t = fileDatabase();
const key = (): string => crypto.randomUUID();
const owes = async (...amounts: string[]) => {
  const made = await household(t, false);
  for (const amount of amounts) await charge(t, t.context, made.patientId, amount);
  return made;
};
type Tenders = Parameters<typeof takeReceipt>[1]['tenders'];
const take = (householdId: number, tenders: Tenders, more: object = {}) =>
  takeReceipt(t.context, { householdId, tenders, key: key(), ...more });
const tendersOf = (receiptId: number) =>
  t.db.selectFrom('tender').selectAll().where('receipt_id', '=', receiptId).orderBy('id').execute();
const figures = async (householdId: number) => (await readAccount(t.context, householdId)).figures;
const proven = async () => expect(await brokenInvariants(t)).toEqual([]);
const back = (tenderId: number, more: object = {}) =>
  returnTender(t.context, { tenderId, why: 'not covered', key: key(), ...more });

test('a check of several tenders comes back: what it paid is open again, what cash paid stays paid', async () => {
  const { householdId } = await owes('120.00', '580.00', '318.00');
  const { receiptId } = await take(householdId, [
    { tender: 'cash', amount: '700.00' },
    { tender: 'check', amount: '300.00', reference: '501' },
  ]);
  expect(await figures(householdId)).toMatchObject({ withPatient: 1800 });
  const [cash, check] = await tendersOf(receiptId);
  const { chargeId } = await back(check!.id, { fee: true, noChecks: true });
  expect(await figures(householdId)).toMatchObject({ withPatient: 31800 + 3500, credit: 0 });
  expect(await tendersOf(receiptId)).toMatchObject([{ state: 'taken' }, { state: 'returned' }]);
  const account = await readAccount(t.context, householdId);
  expect(account.receipts).toMatchObject([{ amount: 70000, how: 'Cash', reversed: null }]);
  expect(account.charges.find(({ id }) => id === chargeId)).toMatchObject({ kind: 'returned' });
  // No more checks, but when it is meant.
  await expect(take(householdId, [{ tender: 'check', amount: '1.00', reference: '502' }])).rejects.toThrow(
    /No checks are taken from this account since/,
  );
  await expect(back(check!.id)).rejects.toThrow(/came back or was taken back before/);
  await expect(back(cash!.id)).rejects.toThrow(/does not come back from a bank/);
  await takeAgain(t.context, { tenderId: check!.id, why: 'handed in again', key: key() });
  expect(await figures(householdId)).toMatchObject({ withPatient: 31800 + 3500, credit: 30000 });
  // And it may come back once more.
  await back(check!.id);
  expect(await figures(householdId)).toMatchObject({ withPatient: 31800 + 3500, credit: 0 });
  await proven();
});

test('what was used of its credit since comes off too, the newest first, and no more than is missing', async () => {
  const { householdId, patientId } = await owes('50.00');
  const { receiptId } = await take(householdId, [
    { tender: 'check', amount: '80.00', reference: '601' },
    { tender: 'cash', amount: '20.00' },
  ]);
  expect(await figures(householdId)).toMatchObject({ credit: 5000 });
  await charge(t, t.context, patientId, '45.00');
  await spendCredit(t.context, { householdId, key: key() });
  expect(await figures(householdId)).toMatchObject({ withPatient: 0, credit: 500 });
  const [check] = await tendersOf(receiptId);
  await back(check!.id);
  // 80.00 are gone: 50.00 that the check paid, and 45.00 of credit that was used; 20.00 of cash stay.
  expect(await figures(householdId)).toMatchObject({ withPatient: 9500, credit: 2000 });
  await proven();
});

test('a check that paid a plan comes back: the plan owes it again', async () => {
  const plan = await planOf(t);
  const before = await figures(plan.householdId);
  const { receiptId } = await take(plan.householdId, [{ tender: 'check', amount: '40.00', reference: '7' }], {
    plans: { [plan.planId]: '40.00' },
  });
  expect((await figures(plan.householdId)).onPlan).toBe(before.onPlan - 4000);
  const [check] = await tendersOf(receiptId);
  await back(check!.id);
  expect(await figures(plan.householdId)).toMatchObject({ onPlan: before.onPlan, credit: before.credit });
  await proven();
});

test('a check that was cash: the cash moves between the rows, what it paid stays, and both versions are seen', async () => {
  const { householdId } = await owes('60.00');
  const { receiptId } = await take(householdId, [{ tender: 'cash', amount: '60.00' }]);
  const [cash] = await tendersOf(receiptId);
  const right = (tenderId: number, tender: 'check' | 'cash' | 'transfer' | 'card', reference: string) =>
    correctTender(t.context, { tenderId, tender, reference, why: 'keyed wrongly', key: key() });
  await expect(right(cash!.id, 'cash', '')).rejects.toThrow(/says so already/);
  await expect(right(cash!.id, 'card', '1')).rejects.toThrow(/terminal/);
  await expect(right(cash!.id, 'check', '')).rejects.toThrow(/is missing/);
  const id = await right(cash!.id, 'check', '4410');
  expect(await tendersOf(receiptId)).toMatchObject([
    { kind: 'cash', state: 'void' },
    { id, kind: 'check', reference: '4410', state: 'taken', corrects: cash!.id },
  ]);
  const account = await readAccount(t.context, householdId);
  expect(account.figures).toMatchObject({ withPatient: 0, credit: 0 });
  expect(account.receipts).toMatchObject([{ amount: 6000, how: 'Check 4410', reversed: null }]);
  await expect(right(cash!.id, 'check', '1')).rejects.toThrow(/not in the books/);
  const { rows } = await t.pool.query(
    `select account, sum(amount)::int as amount from posting where receipt_id = $1 and account like 'cash/%'
     group by 1 having sum(amount) <> 0`,
    [receiptId],
  );
  expect(rows).toEqual([{ account: 'cash/check', amount: 6000 }]);
  await right(id, 'check', '4411');
  await right((await tendersOf(receiptId)).at(-1)!.id, 'transfer', 'X');
  await proven();
  await reverseReceipt(t.context, { receiptId, why: 'all of it' });
  expect(await figures(householdId)).toMatchObject({ withPatient: 6000, credit: 0 });
  await proven();
});

test('a payment on the wrong account is moved as it is: its day and its tender stay, all of it is credit there', async () => {
  const [wrong, right] = [await owes('50.00'), await owes('30.00')];
  const { receiptId } = await take(
    wrong.householdId,
    [{ tender: 'check', amount: '80.00', reference: '9' }],
    {
      receivedOn: '2026-03-13',
    },
  );
  const move = (toHouseholdId: number) =>
    moveReceipt(t.context, { receiptId, toHouseholdId, why: 'the sister’s', key: key() });
  await expect(move(wrong.householdId)).rejects.toThrow(/there already/);
  await expect(move(99_999_999)).rejects.toThrow(/no such account/);
  await move(right.householdId);
  expect(await figures(wrong.householdId)).toMatchObject({ withPatient: 5000, credit: 0 });
  expect(await figures(right.householdId)).toMatchObject({ withPatient: 3000, credit: 8000 });
  const there = await readAccount(t.context, right.householdId);
  expect(there.receipts).toMatchObject([
    { id: receiptId, date: '2026-03-13', how: 'Check 9', left: 8000, from: null, moved: null },
  ]);
  const here = await readAccount(t.context, wrong.householdId);
  expect(here.receipts).toMatchObject([
    { id: receiptId, from: there.household.number, moved: { why: 'the sister’s' }, left: 0 },
  ]);
  // It goes on there as any other: used, given back, moved on, reversed.
  await spendCredit(t.context, { householdId: right.householdId, key: key() });
  const { refundId } = await refundCredit(t.context, {
    receiptId,
    amount: '50.00',
    tender: 'check',
    reference: '77',
    why: 'too much',
    key: key(),
  });
  await expect(move(wrong.householdId)).rejects.toThrow(/reverse the refund first/);
  await reverseReceipt(t.context, { receiptId: refundId, why: 'kept' });
  await move(wrong.householdId);
  expect(await figures(right.householdId)).toMatchObject({ withPatient: 3000, credit: 0 });
  expect(await figures(wrong.householdId)).toMatchObject({ withPatient: 5000, credit: 8000 });
  await reverseReceipt(t.context, { receiptId, why: 'never came' });
  expect(await figures(wrong.householdId)).toMatchObject({ withPatient: 5000, credit: 0 });
  await proven();
});

test('the database keeps a receipt’s account, but for a move that is written down', async () => {
  const [one, other] = [await owes('5.00'), await owes('5.00')];
  const { receiptId } = await take(one.householdId, [{ tender: 'cash', amount: '5.00' }]);
  const change = () =>
    t.pool.query('update receipt set household_id = $1 where id = $2', [other.householdId, receiptId]);
  await expect(change()).rejects.toThrow(/never changed/);
});

test('two at once: one refund and one reversal, one of them wins', async () => {
  const { householdId } = await owes('1.00');
  const { receiptId } = await take(householdId, [{ tender: 'cash', amount: '11.00' }]);
  const ended = await Promise.allSettled([
    refundCredit(t.context, {
      receiptId,
      amount: '10.00',
      tender: 'cash',
      reference: '',
      why: 'x',
      key: key(),
    }),
    reverseReceipt(t.context, { receiptId, why: 'y' }),
  ]);
  expect(ended.filter(({ status }) => status === 'fulfilled')).toHaveLength(1);
  await proven();
});

test('a part of credit goes to another account, is counted there, and comes back', async () => {
  const [one, other] = [await owes('5.00'), await owes('30.00')];
  const { receiptId } = await take(one.householdId, [{ tender: 'cash', amount: '55.00' }]);
  const give = (from: number, to: number, amount: string) =>
    transferCredit(t.context, {
      receiptId,
      fromHouseholdId: from,
      toHouseholdId: to,
      amount,
      why: 'the brother pays',
      key: key(),
    });
  await expect(give(one.householdId, other.householdId, '50.01')).rejects.toThrow(
    /50.00 of it is held there/,
  );
  await expect(give(one.householdId, one.householdId, '1.00')).rejects.toThrow(/there already/);
  await expect(give(other.householdId, one.householdId, '1.00')).rejects.toThrow(/not of that account/);
  expect(await give(one.householdId, other.householdId, '20.00')).toBe(2000);
  expect(await figures(one.householdId)).toMatchObject({ credit: 3000 });
  expect(await figures(other.householdId)).toMatchObject({ credit: 2000, withPatient: 3000 });
  const { rows } = await findList(t.context, 'credits', { view: 'all' });
  const held = (householdId: number) =>
    rows.filter((row) => row.householdId === householdId).map((row) => [row.held, row.proposed]);
  expect([held(one.householdId), held(other.householdId)]).toEqual([[[3000, 0]], [[2000, 2000]]]);
  await give(other.householdId, one.householdId, '20.00');
  expect(await figures(one.householdId)).toMatchObject({ credit: 5000 });
  await proven();
  await give(one.householdId, other.householdId, '20.00');
  await spendCredit(t.context, { householdId: other.householdId, key: key() });
  expect(await figures(other.householdId)).toMatchObject({ credit: 0, withPatient: 1000 });
  await reverseReceipt(t.context, { receiptId, why: 'never came' });
  expect(await figures(other.householdId)).toMatchObject({ credit: 0, withPatient: 3000 });
  expect(await figures(one.householdId)).toMatchObject({ credit: 0, withPatient: 500 });
  await proven();
});

test('two clerks take for one household at once: each is one receipt, and nothing is paid twice', async () => {
  const { householdId } = await owes('60.00', '40.00');
  await Promise.all([
    take(householdId, [{ tender: 'cash', amount: '100.00' }]),
    takeReceipt(t.as('front-desk'), {
      householdId,
      tenders: [
        { tender: 'check', amount: '50.00', reference: '1' },
        { tender: 'cash', amount: '50.00' },
      ],
      key: key(),
    }),
  ]);
  expect(await figures(householdId)).toMatchObject({ withPatient: 0, credit: 10000 });
  await proven();
});

test('what is kept for a visit, or waits for a manager, is not moved to another account', async () => {
  const [one, other] = [await owes('5.00'), await owes('5.00')];
  const visit = await expectVisit(t.context, { patientId: one.patientId, day: t.context.today, key: key() });
  const { receiptId } = await take(one.householdId, [{ tender: 'cash', amount: '50.00' }], {
    expectedVisitId: visit,
    reserve: '50.00',
  });
  const give = () =>
    transferCredit(t.context, {
      receiptId,
      fromHouseholdId: one.householdId,
      toHouseholdId: other.householdId,
      amount: '20.00',
      why: 'the brother pays',
      key: key(),
    });
  const move = () =>
    moveReceipt(t.context, { receiptId, toHouseholdId: other.householdId, why: 'theirs', key: key() });
  for (const act of [give, move])
    await expect(act()).rejects.toThrow(/kept for the visit of 16 Mar 2026: free that money first/);
  await freeReserved(t.context, { expectedVisitId: visit, why: 'asked to' });
  await give();
  expect((await readOwed(t.context, [one.householdId]))[0]).toMatchObject({ credit: 3000 });
  const { refund_most: before } = await t.db
    .selectFrom('payment_policy')
    .select('refund_most')
    .executeTakeFirstOrThrow();
  await t.db
    .updateTable('payment_policy')
    .set({ refund_most: cents(100) })
    .execute();
  const asked = await refundCredit(t.as('biller'), {
    receiptId,
    amount: '10.00',
    tender: 'cash',
    reference: '',
    why: 'x',
    key: key(),
  });
  expect(asked.requestId).not.toBeNull();
  await expect(move()).rejects.toThrow(/A refund of 10.00 of it waits for a manager/);
  await decideRefund(t.context, { refundRequestId: asked.requestId!, approve: false, why: 'not theirs' });
  await move();
  expect(await figures(other.householdId)).toMatchObject({ credit: 5000, withPatient: 500 });
  await t.db.updateTable('payment_policy').set({ refund_most: before }).execute();
  await proven();
});

test('what another account holds of money that is kept for a visit is reserved for nobody', async () => {
  const [one, other] = [await owes('5.00'), await owes('30.00')];
  await setDelivery(t.context, {
    householdId: other.householdId,
    delivery: 'mail',
    mailedWith: (await readAccount(t.context, one.householdId)).household.number,
  });
  const visit = await expectVisit(t.context, { patientId: one.patientId, day: t.context.today, key: key() });
  const { receiptId } = await take(one.householdId, [{ tender: 'cash', amount: '75.00' }], {
    expectedVisitId: visit,
    reserve: '40.00',
    together: true,
  });
  expect(await figures(other.householdId)).toMatchObject({ withPatient: 0 });
  const { id } = await t.db
    .selectFrom('posting as p')
    .innerJoin('entry as e', 'e.id', 'p.entry_id')
    .select('e.id')
    .where('p.receipt_id', '=', receiptId)
    .where('e.kind', '=', 'allocation')
    .where('p.household_id', '=', other.householdId)
    .executeTakeFirstOrThrow();
  await reverseAllocation(t.context, { entryId: id, why: 'not theirs' });
  expect(await figures(one.householdId)).toMatchObject({ credit: 4000, reserved: 4000 });
  expect(await figures(other.householdId)).toMatchObject({ credit: 3000, withPatient: 3000, reserved: 0 });
  const owed = async (householdId: number) => (await readOwed(t.context, [householdId]))[0];
  expect(await owed(one.householdId)).toBeUndefined();
  expect(await owed(other.householdId)).toMatchObject({ owed: 3000, credit: 3000, left: 0 });
  await spendCredit(t.context, { householdId: other.householdId, key: key() });
  expect(await figures(other.householdId)).toMatchObject({ credit: 0, withPatient: 0 });
  await proven();
});

test('the charge for a check that came back is on no statement of a household whose check it was not', async () => {
  const { householdId, patientId } = await owes('40.00');
  await setConfidential(t.context, {
    patientId,
    name: 'Apart',
    line1: '9 Elsewhere Road',
    city: 'Osprey Landing',
    state: 'WA',
    zip: '98199',
  });
  const { receiptId } = await take(householdId, [{ tender: 'check', amount: '40.00', reference: '12' }], {
    patientId,
  });
  const [check] = await tendersOf(receiptId);
  await expect(back(check!.id, { fee: true })).rejects.toMatchObject({
    field: 'fee',
    message: expect.stringContaining('on the statement of the household'),
  });
  await back(check!.id);
  expect(await figures(householdId)).toMatchObject({ withPatient: 4000, credit: 0 });
  await proven();
});
