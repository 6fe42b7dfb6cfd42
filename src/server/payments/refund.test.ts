/** Refunds above the limit: asked for, approved once, refused with a reason, and never more than is held. */
import { cents } from '../../core/money';
import { fileDatabase } from '../../testing/database';
import { brokenInvariants, charge, household } from '../../testing/desk';
import { fileTerminal } from '../../testing/terminal';
import { basisPoints } from '../../core/money';
import { readAccount } from '../account-page/read';
import { readList } from '../lists/read';
import { reportOf } from '../reports';
import { spendCredit } from './credit';
import { decideRefund, giveBack, settleRefund } from './refund';
import { reverseReceipt } from './receipts';
import { takeReceipt } from './take';
import { takePayment } from './terminal';

const t = fileDatabase();
const terminal = fileTerminal(t);
const key = (): string => crypto.randomUUID();
beforeAll(() =>
  t.db
    .updateTable('payment_policy')
    .set({ refund_most: cents(5000), surcharge_rate: basisPoints(0) })
    .execute(),
);

type Tender = 'cash' | 'check';
const held = async (amount = '200.00', tender: Tender = 'check') => {
  const made = await household(t, false);
  const { receiptId } = await takeReceipt(t.context, {
    householdId: made.householdId,
    tenders: [{ tender, amount, reference: tender === 'cash' ? '' : '4711' }],
    key: key(),
  });
  return { ...made, receiptId };
};
const ask = (receiptId: number, amount: string, context = t.as('biller'), more: object = {}) =>
  giveBack(context, {
    receiptId,
    amount,
    tender: 'check',
    reference: '88',
    why: 'moved away',
    key: key(),
    ...more,
  });
const decide = (refundRequestId: number, approve: boolean, why = '', context = t.context) =>
  decideRefund(context, { refundRequestId, approve, why, reference: '' });
const creditOf = async (householdId: number) => (await readAccount(t.context, householdId)).figures.credit;
const statusOf = async (id: number) =>
  t.db.selectFrom('refund_request').selectAll().where('id', '=', id).executeTakeFirstOrThrow();

test('up to the limit it goes back at once; above it waits for a manager, who needs nobody', async () => {
  const { householdId, receiptId } = await held();
  expect(await ask(receiptId, '50.00')).toMatchObject({ requestId: null, refundId: expect.any(Number) });
  expect(await creditOf(householdId)).toBe(15_000);
  const asked = await ask(receiptId, '50.01');
  expect(asked).toMatchObject({ refundId: null, card: null });
  // Nothing moved; a second asking for the same receipt is refused.
  expect(await creditOf(householdId)).toBe(15_000);
  await expect(ask(receiptId, '60.00')).rejects.toThrow(/50.01 of it is asked for/);
  const list = await readList(t.context, 'refund-requests', {});
  expect(list.rows.find(({ id }) => id === asked.requestId)).toMatchObject({
    amount: 5001,
    askedBy: t.as('biller').user.name,
    status: 'asked',
    tender: 'Check 88',
  });
  await expect(decide(asked.requestId!, true, '', t.as('biller'))).rejects.toThrow(/may not/);
  const { refundId } = await decide(asked.requestId!, true);
  expect(await creditOf(householdId)).toBe(9999);
  expect(await statusOf(asked.requestId!)).toMatchObject({ status: 'approved', refund_id: refundId });
  await expect(decide(asked.requestId!, true)).rejects.toThrow(/was approved/);
  expect(await ask(receiptId, '99.99', t.context)).toMatchObject({ requestId: null });
  expect(await creditOf(householdId)).toBe(0);
  expect(await brokenInvariants(t)).toEqual([]);
});

test('two managers decide at once: it goes back once', async () => {
  const { householdId, receiptId } = await held();
  const { requestId } = await ask(receiptId, '120.00');
  const both = await Promise.allSettled([decide(requestId!, true), decide(requestId!, true)]);
  expect(both.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
  expect(await creditOf(householdId)).toBe(8000);
  expect(await brokenInvariants(t)).toEqual([]);
});

test('refused with a reason it stays credit; what was used or reversed meanwhile does not go back', async () => {
  const { householdId, receiptId, patientId } = await held();
  const first = await ask(receiptId, '120.00');
  await expect(decide(first.requestId!, false)).rejects.toMatchObject({ field: 'why' });
  await decide(first.requestId!, false, 'it pays the next visit');
  expect(await creditOf(householdId)).toBe(20_000);
  const second = await ask(receiptId, '150.00');
  await charge(t, t.context, patientId, '90.00');
  await spendCredit(t.context, { householdId, key: key() });
  await expect(decide(second.requestId!, true)).rejects.toThrow(/110.00 of it is held/);
  expect(await statusOf(second.requestId!)).toMatchObject({ status: 'asked' });
  await reverseReceipt(t.context, { receiptId, why: 'not covered' });
  await expect(decide(second.requestId!, true)).rejects.toThrow(/Nothing of this receipt/);
  await decide(second.requestId!, false, 'came back');
  // Decided stays decided, and is never another; by the database too.
  await expect(
    t.pool.query(`update refund_request set status = 'asked', decided_on = null where id = $1`, [
      second.requestId,
    ]),
  ).rejects.toThrow();
  await expect(t.pool.query('delete from refund_request')).rejects.toThrow();
  expect(await brokenInvariants(t)).toEqual([]);
});

test('a card goes back through its terminal when it is approved, and not before', async () => {
  const { householdId } = await household(t, false);
  const { receiptId } = await takePayment(t.context, {
    householdId,
    tenders: [{ tender: 'card', amount: '130.00', reading: await terminal.card('2003') }],
    key: key(),
  });
  const { requestId, card } = await ask(receiptId, '130.00', undefined, { tender: 'card', reference: '' });
  expect(card).toBeNull();
  expect(await creditOf(householdId)).toBe(13_000);
  expect(
    (await settleRefund(t.context, { refundRequestId: requestId!, approve: true, why: '', reference: '' }))
      .card,
  ).toMatchObject({ state: 'approved' });
  expect(await creditOf(householdId)).toBe(0);
  expect(await brokenInvariants(t)).toEqual([]);
});

test('the list of checks names the number, the payee and the address, a reversed one counts nothing', async () => {
  const { householdId, receiptId } = await held();
  const { refundId } = await ask(receiptId, '40.00', t.context, { reference: 'C-501' });
  const gone = await ask(receiptId, '30.00', t.context, { reference: 'C-502' });
  await reverseReceipt(t.context, { receiptId: gone.refundId!, why: 'lost in the mail' });
  const page = await reportOf('refund-checks')!.read(t.context, {});
  const rows = page.groups.flatMap(({ rows: some }) => some);
  const { line1 } = await t.db
    .selectFrom('household')
    .select('line1')
    .where('id', '=', householdId)
    .executeTakeFirstOrThrow();
  expect(rows.find(({ number }) => number === 'C-501')).toMatchObject({
    amount: 4000,
    address: expect.stringContaining(line1),
  });
  expect(rows.find(({ number }) => number === 'C-502')).toMatchObject({ amount: 0 });
  expect(refundId).toBeGreaterThan(0);
});
