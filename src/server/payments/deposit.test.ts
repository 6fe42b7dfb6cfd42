/** Money on its way to the bank: where it lies, what is taken there, and what bounces afterwards. */
import { sql } from 'kysely';
import { addDays } from '../../core/calendar';
import { TODAY, fileDatabase } from '../../testing/database';
import { brokenInvariants, charge, household } from '../../testing/desk';
import { reportOf } from '../reports';
import { saveSetup } from '../setup/save';
import { readDay } from './day';
import { makeDeposit, undoDeposit } from './deposit';
import { depositPaper } from './paper';
import { returnTender } from './put-right';
import { refundCredit } from './refund';
import { reverseReceipt } from './receipts';
import { takeReceipt } from './take';

const t = fileDatabase();
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

let serial = 0;
const key = (): string => `deposit-test-${(serial += 1)}`;
const placeOf = async (kind: 'undeposited' | 'bank') =>
  (
    await t.db
      .selectFrom('place')
      .select('id')
      .where('kind', '=', kind)
      .orderBy('id')
      .executeTakeFirstOrThrow()
  ).id;

/** A check or cash that was taken for a visit, with its tender. */
async function taken(
  amount: string,
  {
    means,
    ...more
  }: { means?: { tender: 'cash'; amount: string }; sure?: boolean; receivedOn?: string } = {},
) {
  const { householdId, patientId } = await household(t, false);
  await charge(t, t.context, patientId, amount);
  const { receiptId } = await takeReceipt(t.context, {
    householdId,
    tenders: [means ?? { tender: 'check', amount, reference: key() }],

    key: key(),
    ...more,
  });
  const { id: tenderId } = await t.db
    .selectFrom('tender')
    .select('id')
    .where('receipt_id', '=', receiptId!)
    .executeTakeFirstOrThrow();
  return { householdId, receiptId: receiptId!, tenderId };
}
const deposit = async (tenderIds: number[], more: object = {}, context = t.context) =>
  makeDeposit(context, {
    fromPlaceId: await placeOf('undeposited'),
    toPlaceId: await placeOf('bank'),
    date: TODAY,
    number: 'Slip 7',
    tenderIds,
    key: key(),
    ...more,
  });
/** What lies where of tenders, in cents by kind of place. */
const lies = async (tenderIds: number[]) => {
  const { rows } = await sql<{ kind: string; amount: number }>`
    select l.kind, sum(p.amount) as amount
    from posting p
      join place l on l.id = p.place_id
    where p.tender_id = any(${tenderIds}::bigint[])
    group by 1
    having sum(p.amount) <> 0
    order by 1`.execute(t.db);
  return Object.fromEntries(rows.map(({ kind, amount }) => [kind, amount]));
};
const cashInBooks = async () =>
  (
    await sql<{ amount: number }>`
      select coalesce(sum(amount), 0) as amount from posting where account like 'cash/%'`.execute(t.db)
  ).rows[0]!.amount;

test('what is deposited is in the bank, and nothing is received by it', async () => {
  const [one, two, left] = [await taken('20.00'), await taken('35.50'), await taken('10.00')];
  const [before, report] = [await cashInBooks(), reportOf('received')!];
  const told = JSON.stringify((await report.read(t.context, {})).rows);
  const { depositId, amount } = await deposit([one.tenderId, two.tenderId]);
  expect(amount).toBe(5550);
  expect(await lies([one.tenderId, two.tenderId])).toEqual({ bank: 5550 });
  expect(await lies([left.tenderId])).toEqual({ undeposited: 1000 });
  expect(await cashInBooks()).toBe(before);
  expect(JSON.stringify((await report.read(t.context, {})).rows)).toBe(told);
  // One that bounces is gone from the bank by itself; the rest of the deposit stays.
  await reverseReceipt(t.context, { receiptId: one.receiptId, why: 'bounced' });
  expect(await lies([one.tenderId, two.tenderId])).toEqual({ bank: 3550 });
  await undoDeposit(t.context, { depositId, why: 'the slip was not taken along' });
  expect(await lies([one.tenderId, two.tenderId])).toEqual({ undeposited: 3550 });
  await expect(undoDeposit(t.context, { depositId, why: 'again' })).rejects.toMatchObject({
    code: 'already',
  });
  await deposit([two.tenderId]);
  expect(await lies([two.tenderId])).toEqual({ bank: 3550 });
});

test('what was given back in cash lessens what is deposited', async () => {
  const { receiptId, tenderId } = await taken('40.00', {
    means: { tender: 'cash', amount: '50.00' },
    sure: true,
  });
  const { refundId } = await refundCredit(t.context, {
    receiptId,
    amount: '10.00',
    tender: 'cash',
    reference: '',
    why: 'too much',
    key: key(),
  });
  const { id } = await t.db
    .selectFrom('tender')
    .select('id')
    .where('receipt_id', '=', refundId)
    .executeTakeFirstOrThrow();
  expect((await deposit([tenderId, id])).amount).toBe(4000);
});

test('pressed twice it is one; of two at once one is told that it lies there no more', async () => {
  const { tenderId } = await taken('20.00');
  const same = key();
  const [one, two] = [await deposit([tenderId], { key: same }), await deposit([tenderId], { key: same })];
  expect(two).toEqual(one);
  const other = await taken('30.00');
  const tried = await Promise.allSettled([deposit([other.tenderId]), deposit([other.tenderId])]);
  expect(tried.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
  expect(await lies([other.tenderId])).toEqual({ bank: 3000 });
  // And of one who deposits what another one reverses, the money is in the bank or nowhere.
  const third = await taken('40.00');
  await Promise.allSettled([
    deposit([third.tenderId]),
    reverseReceipt(t.context, { receiptId: third.receiptId, why: 'bounced' }),
  ]);
  expect(await lies([third.tenderId])).toEqual({});
});

test('what cannot be is refused at its field, and nothing moves', async () => {
  const { tenderId, receiptId } = await taken('20.00');
  const [bank, here] = [await placeOf('bank'), await placeOf('undeposited')];
  const rejects = (more: object, about: object) =>
    expect(deposit([tenderId], more)).rejects.toMatchObject(about);
  await rejects({ date: addDays(TODAY, 1) }, { code: 'date', field: 'date' });
  await rejects(
    { date: addDays(TODAY, -1) },
    { code: 'date', message: 'Something of it came after that day' },
  );
  await rejects({ fromPlaceId: bank }, { code: 'invalid', field: 'fromPlaceId' });
  await rejects({ toPlaceId: here }, { code: 'invalid', field: 'toPlaceId' });
  await rejects({ toPlaceId: 99_999_999 }, { code: 'unknown', field: 'toPlaceId' });
  await rejects({ tenderIds: [tenderId, 99_999_999] }, { code: 'unknown', field: 'tenderIds' });
  await rejects({ tenderIds: [] }, { code: 'invalid', field: 'tenderIds' });
  await expect(deposit([tenderId], {}, t.as('front-desk'))).rejects.toThrow(/may not/);
  const closed = await saveSetup(t.context, {
    table: 'places',
    values: { name: 'Old account', kind: 'bank', closed_on: TODAY },
  });
  await rejects({ toPlaceId: Number(closed) }, { code: 'state', field: 'toPlaceId' });
  await reverseReceipt(t.context, { receiptId, why: 'bounced' });
  await rejects({}, { code: 'state', field: 'tenderIds' });
  expect(await lies([tenderId])).toEqual({});
  const early = await taken('15.00', { receivedOn: addDays(TODAY, -5) });
  await sql`select close_period(${addDays(TODAY, -1)}::date, 'test')`.execute(t.owner);
  await expect(deposit([early.tenderId], { date: addDays(TODAY, -1) })).rejects.toMatchObject({
    code: 'date',
  });
  await expect(undoDeposit(t.context, { depositId: 99_999_999, why: 'x' })).rejects.toMatchObject({
    code: 'unknown',
  });
});

test('a slip stays what the bank has, though all of its checks bounce; undone, it is none', async () => {
  const [one, two] = [await taken('20.00'), await taken('35.50')];
  const { depositId } = await deposit([one.tenderId, two.tenderId]);
  const shown = async () => {
    const { deposits } = await readDay(t.context, TODAY);
    return deposits.find(({ id }) => id === depositId);
  };
  await returnTender(t.context, { tenderId: one.tenderId, why: 'not covered', key: key() });
  expect(await shown()).toMatchObject({ amount: 5550, tenders: 2, undone: false });
  await returnTender(t.context, { tenderId: two.tenderId, why: 'not covered', key: key() });
  expect(await lies([one.tenderId, two.tenderId])).toEqual({});
  expect(await shown()).toMatchObject({ amount: 5550, tenders: 2, undone: false });
  await expect(depositPaper(t.context, { depositId })).resolves.toHaveProperty('bytes');
  await expect(undoDeposit(t.context, { depositId, why: 'x' })).rejects.toMatchObject({ code: 'already' });
  const other = await taken('8.00');
  const made = await deposit([other.tenderId]);
  await undoDeposit(t.context, { depositId: made.depositId, why: 'not taken along' });
  const { deposits } = await readDay(t.context, TODAY);
  expect(deposits.find(({ id }) => id === made.depositId)).toMatchObject({ undone: true });
  await expect(depositPaper(t.context, { depositId: made.depositId })).rejects.toThrow(/was undone/);
});
