/** Drawers: what is in them, what is missing, that a closed one takes nothing, and that the bank gets what was counted. */
import { fileDatabase } from '../../testing/database';
import { brokenInvariants, charge, household } from '../../testing/desk';
import { refundCredit } from './refund';
import { makeDeposit, undoDeposit } from './deposit';
import { closeDrawer, dropFromDrawer, openDrawer, readDrawers } from './drawers';
import { reportOf } from '../reports';
import { returnTender } from './put-right';
import { reverseReceipt } from './receipts';
import { takeReceipt } from './take';

const t = fileDatabase();
const key = (): string => crypto.randomUUID();
let site: number;
beforeAll(async () => {
  site = (await t.db.selectFrom('location').select('id').orderBy('id').executeTakeFirstOrThrow()).id;
});
type Tenders = Parameters<typeof takeReceipt>[1]['tenders'];
const take = async (tenders: Tenders, context = t.context) => {
  const made = await household(t, false);
  await charge(t, t.context, made.patientId, '5.00');
  return takeReceipt(context, { householdId: made.householdId, tenders, locationId: site, key: key() });
};
const open = (opening = '100.00', context = t.context) =>
  openDrawer(context, { locationId: site, opening, key: key() });
const close = (drawerId: number, counted: string, checks: number, why = '', context = t.context) =>
  closeDrawer(context, { drawerId, counted, checks, why, key: key() });
const rowOf = async (id: number) =>
  (await readDrawers(t.context, t.context.today)).find((drawer) => drawer.id === id)!;
const placeOf = async (kind: 'undeposited' | 'bank') =>
  (await t.db.selectFrom('place').select('id').where('kind', '=', kind).executeTakeFirstOrThrow()).id;
const proven = async () => expect(await brokenInvariants(t)).toEqual([]);

test('cash and checks of who opened it go into it, drops come out, and what is missing is said before it is locked', async () => {
  const drawerId = await open();
  await expect(open()).rejects.toThrow(/is open/);
  await take([
    { tender: 'cash', amount: '40.00', given: '50.00' },
    { tender: 'check', amount: '25.00', reference: '81' },
    { tender: 'transfer', amount: '7.00' },
  ]);
  // Somebody else's cash does not.
  await take([{ tender: 'cash', amount: '9.00' }], t.as('biller'));
  const over = await take([{ tender: 'cash', amount: '12.00' }]);
  await refundCredit(t.context, {
    receiptId: over.receiptId,
    amount: '7.00',
    tender: 'cash',
    reference: '',
    why: 'too much',
    key: key(),
  });
  const gone = await take([{ tender: 'cash', amount: '3.00' }]);
  await reverseReceipt(t.context, { receiptId: gone.receiptId, why: 'not meant' });
  expect(await dropFromDrawer(t.context, { drawerId, amount: '60.00', words: 'safe', key: key() })).toBe(
    8500,
  );
  await expect(
    dropFromDrawer(t.context, { drawerId, amount: '85.01', words: '', key: key() }),
  ).rejects.toThrow(/85.00 is in it/);
  expect(await rowOf(drawerId)).toMatchObject({
    opening: 10000,
    cash: 4500,
    checks: 1,
    checkAmount: 2500,
    dropped: 6000,
    expected: 8500,
    closed: null,
  });
  await expect(close(drawerId, '83.00', 1)).rejects.toMatchObject({
    field: 'why',
    message: '2.00 is missing: 85.00 was to be in it. Count it again, or say why',
  });
  await expect(close(drawerId, '85.00', 2)).rejects.toThrow(/1 check are? to be in it|1 check/);
  expect(await close(drawerId, '83.00', 1, 'two dollars for a parking meter')).toBe(-200);
  expect(await rowOf(drawerId)).toMatchObject({
    expected: 8500,
    closed: { counted: 8300, difference: -200, checks: 1 },
  });
  await expect(close(drawerId, '83.00', 1)).rejects.toThrow(/closed and locked/);
  await proven();

  // Locked by the database too.
  await expect(t.pool.query('update drawer set counted = 1 where id = $1', [drawerId])).rejects.toThrow(
    /locked|check/,
  );
  const tender = await t.db
    .selectFrom('tender')
    .select('receipt_id')
    .where('drawer_id', '=', drawerId)
    .orderBy('id')
    .executeTakeFirstOrThrow();
  await expect(
    t.pool.query(
      `insert into tender (receipt_id, kind, amount, place_id, drawer_id)
       select $1, 'cash', 1, place_id, id from drawer where id = $2`,
      [tender.receipt_id, drawerId],
    ),
  ).rejects.toThrow(/takes nothing/);

  // What was counted goes to the bank: the takings less what is missing.
  const lies = await t.db
    .selectFrom('tender')
    .select('id')
    .where('drawer_id', '=', drawerId)
    .where('kind', '=', 'cash')
    .where('state', '=', 'taken')
    .execute();
  const made = await makeDeposit(t.context, {
    fromPlaceId: await placeOf('undeposited'),
    toPlaceId: await placeOf('bank'),
    date: t.context.today,
    number: 'Slip 1',
    tenderIds: lies.map(({ id }) => id),
    drawerIds: [drawerId],
    key: key(),
  });
  expect(made.amount).toBe(4500 - 200);
  const check = await t.db
    .selectFrom('tender')
    .select('id')
    .where('drawer_id', '=', drawerId)
    .where('kind', '=', 'check')
    .executeTakeFirstOrThrow();
  await expect(
    makeDeposit(t.context, {
      fromPlaceId: await placeOf('undeposited'),
      toPlaceId: await placeOf('bank'),
      date: t.context.today,
      number: 'Slip 2',
      tenderIds: [check.id],
      drawerIds: [drawerId],
      key: key(),
    }),
  ).rejects.toThrow(/in the bank already/);
  await undoDeposit(t.context, { depositId: made.depositId, why: 'not made' });
  const { deposit_id: kept } = await t.db
    .selectFrom('drawer')
    .select('deposit_id')
    .where('id', '=', drawerId)
    .executeTakeFirstOrThrow();
  expect(kept).toBeNull();
  await proven();
  // A receipt of a closed drawer is reversed where its money is now.
  await reverseReceipt(t.context, { receiptId: over.receiptId, why: 'x' }).catch(() => undefined);
  await reverseReceipt(t.context, { receiptId: tender.receipt_id, why: 'bounced' });
  await proven();
});

test('a drawer is its user’s; one without difference needs no reason; closed while money comes, either is first', async () => {
  const clerk = t.as('front-desk');
  const drawerId = await open('50.00', clerk);
  expect(await readDrawers(t.as('collector'), t.context.today)).toEqual([]);
  expect((await readDrawers(clerk, t.context.today)).map(({ id }) => id)).toEqual([drawerId]);
  await expect(close(drawerId, '50.00', 0, '', t.as('collector'))).rejects.toThrow(/somebody else/);
  const [taken, closed] = await Promise.allSettled([
    take([{ tender: 'cash', amount: '10.00' }], clerk),
    close(drawerId, '50.00', 0, '', clerk),
  ]);
  expect(taken.status).toBe('fulfilled');
  if (closed.status === 'rejected') await close(drawerId, '60.00', 0, '', clerk);
  await proven();
  const next = await open('50.00', clerk);
  expect(next).not.toBe(drawerId);
  await close(next, '50.00', 0, '', clerk);
  await proven();
});

test('a closed drawer says what was in it, also when its check bounces and its cash is taken back', async () => {
  const drawerId = await open();
  const paid = await take([
    { tender: 'cash', amount: '40.00' },
    { tender: 'check', amount: '25.00', reference: '91' },
  ]);
  const cash = await take([{ tender: 'cash', amount: '6.00' }]);
  await close(drawerId, '146.00', 1);
  const told = { opening: 10000, cash: 4600, checks: 1, checkAmount: 2500, expected: 14600 };
  expect(await rowOf(drawerId)).toMatchObject(told);
  const report = async () => {
    const page = await reportOf('charges-and-payments')!.read(t.context, { by: 'day' });
    const { rows } = page.groups[0]!;
    return rows.find((row) => row.on === t.context.today)!;
  };
  const before = await report();
  const check = await t.db
    .selectFrom('tender')
    .select('id')
    .where('receipt_id', '=', paid.receiptId)
    .where('kind', '=', 'check')
    .executeTakeFirstOrThrow();
  await returnTender(t.context, { tenderId: check.id, why: 'not covered', key: key() });
  await reverseReceipt(t.context, { receiptId: cash.receiptId, why: 'not meant' });
  expect(await rowOf(drawerId)).toMatchObject(told);
  // What was moved out of the drawer came from nobody, back and forth.
  const after = await report();
  expect([after.patients, after.back]).toEqual([before.patients, Number(before.back ?? 0) - 2500 - 600]);
  await proven();
});
