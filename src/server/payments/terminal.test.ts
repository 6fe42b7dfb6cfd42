/** Cards: each is charged once, or clearly not, whatever the terminal, the network and we do. */
import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import fc from 'fast-check';
import { addDays } from '../../core/calendar';
import { basisPoints, cents, toDecimal } from '../../core/money';
import { spreadAs } from '../../core/payments/spread';
import { basisOf, surchargeOf } from '../../core/payments/surcharge';
import { fileDatabase } from '../../testing/database';
import { anotherMember, brokenInvariants, charge, household } from '../../testing/desk';
import { runs } from '../../testing/runs';
import { LATE, fileTerminal } from '../../testing/terminal';
import { readAccount } from '../account-page/read';
import { setDelivery } from '../statements/household';
import { spendCredit } from './credit';
import { giveBack } from './refund';
import { returnTender, takeAgain, voidCard } from './put-right';
import { reverseReceipt } from './receipts';
import { settleWaiting } from '../follow-ups/work';
import { readTakingForm } from './form';
import { takeReceipt } from './take';
import { expectVisit } from './visits';
import { askAgain, readBatch, settleUnclear, takePayment } from './terminal';

const t = fileDatabase();
const terminal = fileTerminal(t);
const key = (): string => crypto.randomUUID();
const wait = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

const owes = async (amount = '100.00') => {
  const made = await household(t, false);
  return { ...made, chargeId: await charge(t, t.context, made.patientId, amount) };
};
const pay = async (householdId: number, lastFour: string, amount = '40.00', more: object = {}) =>
  takePayment(t.context, {
    householdId,
    tenders: [{ tender: 'card', amount, reading: await terminal.card(lastFour) }],
    key: key(),
    ...more,
  });
const figures = async (householdId: number) => (await readAccount(t.context, householdId)).figures;
const tendersOf = (receiptId: number) =>
  t.db
    .selectFrom('tender')
    .select(['id', 'state', 'amount', 'surcharge', 'approval', 'last_four', 'card_kind'])
    .where('receipt_id', '=', receiptId)
    .orderBy('id')
    .execute();
/** What the terminal did, by its own list. */
const charged = async () => readBatch('TEST-01', t.context.today);
const chargedOf = async (receiptId: number): Promise<number> => {
  const keys = await t.db
    .selectFrom('attempt as a')
    .innerJoin('tender as t', 't.id', 'a.tender_id')
    .select('a.key')
    .where('t.receipt_id', '=', receiptId)
    .execute();
  return (await charged()).filter((row) => keys.some((one) => one.key === row.key)).length;
};
const proven = async () => expect(await brokenInvariants(t)).toEqual([]);

const surcharge = (rate: number) =>
  t.db
    .updateTable('payment_policy')
    .set({ surcharge_rate: basisPoints(rate) })
    .execute();
beforeAll(() => surcharge(0));

test('approved, it pays what it was to pay; declined, nothing, with the reason', async () => {
  const { householdId } = await owes();
  const { receiptId, cards } = await pay(householdId, '2003');
  expect(cards).toMatchObject([{ state: 'approved', words: 'Visa 2003 was charged 40.00' }]);
  expect(await tendersOf(receiptId)).toMatchObject([
    { state: 'taken', amount: 4000, approval: expect.stringMatching(/^\d{6}$/), card_kind: 'debit' },
  ]);
  expect(await figures(householdId)).toMatchObject({ withPatient: 6000, credit: 0 });
  const no = await pay(householdId, '5106');
  expect(no.cards).toMatchObject([
    { state: 'declined', words: 'Mastercard 5106 was declined: not enough funds' },
  ]);
  expect(await tendersOf(no.receiptId)).toMatchObject([{ state: 'declined' }]);
  expect(await figures(householdId)).toMatchObject({ withPatient: 6000, credit: 0 });
  expect(await chargedOf(no.receiptId)).toBe(0);
  await proven();
});

test('cash and a card at once: the cash is taken and posted though the card is declined', async () => {
  const { householdId } = await owes();
  const taken = await takePayment(t.context, {
    householdId,
    tenders: [
      { tender: 'cash', amount: '30.00', given: '50.00' },
      { tender: 'card', amount: '70.00', reading: await terminal.card('6104') },
    ],
    key: key(),
  });
  expect(taken.cards).toMatchObject([{ state: 'declined', about: 'the card has expired' }]);
  expect(await figures(householdId)).toMatchObject({ withPatient: 7000, credit: 0 });
  expect((await tendersOf(taken.receiptId)).map(({ state }) => state)).toEqual(['taken', 'declined']);
  await proven();
});

test('an answer that comes late or is lost is unclear, and settled by asking again under the same key', async () => {
  for (const lastFour of ['7102', '8100']) {
    const { householdId } = await owes();
    const { receiptId, cards } = await pay(householdId, lastFour);
    expect(cards).toMatchObject([{ state: 'unclear' }]);
    expect(await tendersOf(receiptId)).toMatchObject([{ state: 'pending' }]);
    expect(await figures(householdId)).toMatchObject({ withPatient: 10000, credit: 0 });
    // Nobody takes it for money that is there, nor takes it back.
    await expect(reverseReceipt(t.context, { receiptId, why: 'x' })).rejects.toThrow(
      /waits for the terminal/,
    );
    await wait(LATE + 50);
    const { attemptId } = cards[0]!;
    const both = await Promise.all([
      askAgain(t.context, { attemptId }),
      askAgain(t.context, { attemptId }),
      settleUnclear(t.context, 0),
    ]);
    expect(both.slice(0, 2)).toMatchObject([{ state: 'approved' }, { state: 'approved' }]);
    expect(await figures(householdId)).toMatchObject({ withPatient: 6000, credit: 0 });
    expect(await chargedOf(receiptId)).toBe(1);
  }
  await proven();
});

test('while it is being decided it stays unclear, and is not closed', async () => {
  const { householdId } = await owes();
  const { cards } = await pay(householdId, '7102');
  expect(await askAgain(t.context, cards[0]!)).toMatchObject({ state: 'unclear' });
  await wait(LATE + 50);
  expect(await askAgain(t.context, cards[0]!)).toMatchObject({ state: 'approved' });
});

test('a card is charged at the site where it was read', async () => {
  const { householdId } = await owes();
  const reading = await terminal.card('2003');
  const [here, there] = await t.db.selectFrom('location').select('id').orderBy('id').limit(2).execute();
  const at = (locationId: number | null) =>
    t.db.updateTable('place').set({ location_id: locationId }).where('merchant', '=', 'TEST-01').execute();
  const press = (locationId: number) =>
    takePayment(t.context, {
      householdId,
      locationId,
      tenders: [{ tender: 'card', amount: '40.00', reading }],
      key: key(),
    });
  await at(here!.id);
  await expect(press(there!.id)).rejects.toMatchObject({ field: 'reading', code: 'others' });
  expect((await press(here!.id)).cards).toMatchObject([{ state: 'approved' }]);
  await at(null);
  await proven();
});

test('a terminal that answers twice, and a press that comes twice, charge once', async () => {
  const { householdId } = await owes();
  const press = {
    householdId,
    tenders: [{ tender: 'card' as const, amount: '40.00', reading: await terminal.card('9108') }],
    key: key(),
  };
  const [one, two] = await Promise.all([takePayment(t.context, press), takePayment(t.context, press)]);
  expect(two.receiptId).toBe(one.receiptId);
  expect([one.cards[0]!.state, two.cards[0]!.state]).toEqual(['approved', 'approved']);
  expect(await chargedOf(one.receiptId)).toBe(1);
  expect(await figures(householdId)).toMatchObject({ withPatient: 6000 });
  // The same reading is no second payment.
  await expect(takePayment(t.context, { ...press, key: key() })).rejects.toThrow(/read it once more/);
  await proven();
});

test('killed between keeping and asking, it is closed at the terminal and charges nothing later', async () => {
  const { householdId } = await owes();
  const { receiptId, attempts } = await takeReceipt(t.context, {
    householdId,
    tenders: [{ tender: 'card', amount: '40.00', reading: await terminal.card('2003') }],
    key: key(),
  });
  // Here we were killed: nobody asked. Fresh ones are left alone.
  expect(await settleUnclear(t.context)).toBe(0);
  expect(await settleUnclear(t.context, 0)).toBe(1);
  expect(await tendersOf(receiptId)).toMatchObject([{ state: 'declined' }]);
  const { key: asked } = await t.db
    .selectFrom('attempt')
    .select('key')
    .where('id', '=', attempts[0]!)
    .executeTakeFirstOrThrow();
  // What was on its way arrives after all.
  const late = await fetch(`${terminal.url}/v1/payments`, {
    method: 'POST',
    body: JSON.stringify({
      key: asked,
      merchant: 'TEST-01',
      what: 'sale',
      token: 'any',
      amount: 4000,
      surcharge: 0,
      of: null,
    }),
  });
  expect(await late.json()).toMatchObject({ state: 'declined' });
  expect(await chargedOf(receiptId)).toBe(0);
  await proven();
});

test('with the terminal away it is unclear; there again, it still knows what it did', async () => {
  const { householdId } = await owes();
  const reading = await terminal.card('8100');
  const { receiptId, cards } = await takePayment(t.context, {
    householdId,
    tenders: [{ tender: 'card', amount: '40.00', reading }],
    key: key(),
  });
  await terminal.stop();
  expect(await askAgain(t.context, cards[0]!)).toMatchObject({ state: 'unclear' });
  await terminal.start();
  expect(await askAgain(t.context, cards[0]!)).toMatchObject({ state: 'approved' });
  expect(await chargedOf(receiptId)).toBe(1);
  await proven();
});

test('what was to be paid was paid meanwhile: the card is credit, and nothing is paid twice', async () => {
  const { householdId } = await owes();
  const { cards } = await pay(householdId, '8100', '100.00');
  const cash = (more: object = {}) =>
    takeReceipt(t.context, {
      householdId,
      tenders: [{ tender: 'cash', amount: '70.00' }],
      key: key(),
      ...more,
    });
  // Who takes money beside it is told so, on the form and when it is taken.
  const words = '100.00 of Visa 8100 waits for the terminal’s answer: it may have been charged';
  expect((await readTakingForm(t.context, householdId)).waiting).toEqual([words]);
  await expect(cash()).rejects.toMatchObject({ doubts: [words] });
  await cash({ sure: true });
  await askAgain(t.context, cards[0]!);
  expect(await figures(householdId)).toMatchObject({ withPatient: 0, credit: 7000 });
  await proven();
});

test('taken back on the day, given back in part later, never more than was charged', async () => {
  const { householdId } = await owes();
  const first = await pay(householdId, '2003');
  const [tender] = await tendersOf(first.receiptId);
  await expect(reverseReceipt(t.context, { receiptId: first.receiptId, why: 'x' })).rejects.toThrow(
    /charged by the terminal/,
  );
  expect(await voidCard(t.context, { tenderId: tender!.id, why: 'wrong card', key: key() })).toMatchObject({
    state: 'approved',
    words: '40.00 was taken back from Visa 2003',
  });
  expect(await tendersOf(first.receiptId)).toMatchObject([{ state: 'void' }]);
  expect(await figures(householdId)).toMatchObject({ withPatient: 10000, credit: 0 });
  await expect(voidCard(t.context, { tenderId: tender!.id, why: 'again', key: key() })).rejects.toThrow(
    /not in the books/,
  );

  const held = await household(t, false);
  const { receiptId } = await pay(held.householdId, '2003', '50.00');
  const back = (amount: string, more: object = {}) =>
    giveBack(t.context, {
      receiptId,
      amount,
      tender: 'card',
      reference: '',
      why: 'too much',
      key: key(),
      ...more,
    });
  await expect(back('50.01')).rejects.toThrow(/less than that/);
  await expect(back('10.00', { tender: 'cash' })).rejects.toThrow(/came by card/);
  expect((await back('20.00')).card).toMatchObject({ state: 'approved' });
  // Two at once: together never more than is there.
  const both = await Promise.allSettled([back('20.00'), back('20.00')]);
  expect(both.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
  expect(await figures(held.householdId)).toMatchObject({ credit: 1000 });
  // A charge of which something went back is not taken back whole.
  const [sold] = await tendersOf(receiptId);
  await expect(voidCard(t.context, { tenderId: sold!.id, why: 'x', key: key() })).rejects.toThrow(
    /give back the rest of it too/,
  );
  await proven();
});

test('a refund whose answer is waited for: its money is not given back twice, and what is spent meanwhile comes back', async () => {
  const made = await household(t, false);
  const { receiptId } = await pay(made.householdId, '2003', '50.00');
  await terminal.stop();
  const back = (amount: string) =>
    giveBack(t.context, { receiptId, amount, tender: 'card', reference: '', why: 'x', key: key() });
  const { card } = await back('40.00');
  expect(card).toMatchObject({ state: 'unclear' });
  await expect(back('20.00')).rejects.toThrow(/10.00 of it is held/);
  // The terminal did it, though its answer was lost.
  await terminal.start();
  const asked = await t.db
    .selectFrom('attempt')
    .select('key')
    .where('id', '=', card!.attemptId)
    .executeTakeFirstOrThrow();
  const sale = await t.db
    .selectFrom('attempt as a')
    .innerJoin('tender as t', 't.id', 'a.tender_id')
    .select(['a.key', 't.token'])
    .where('t.receipt_id', '=', receiptId)
    .executeTakeFirstOrThrow();
  await fetch(`${terminal.url}/v1/payments`, {
    method: 'POST',
    body: JSON.stringify({
      key: asked.key,
      merchant: 'TEST-01',
      what: 'refund',
      token: sale.token,
      amount: 4000,
      surcharge: 0,
      of: sale.key,
    }),
  });
  // Meanwhile all of the credit pays a charge.
  await charge(t, t.context, made.patientId, '50.00');
  await spendCredit(t.context, { householdId: made.householdId, key: key() });
  expect(await figures(made.householdId)).toMatchObject({ withPatient: 0, credit: 0 });
  expect(await askAgain(t.context, card!)).toMatchObject({ state: 'approved' });
  expect(await figures(made.householdId)).toMatchObject({ withPatient: 5000, credit: 1000 });
  await proven();
});

test('on another day a card is given back, and not taken back', async () => {
  const { householdId } = await owes();
  const { receiptId } = await pay(householdId, '2003');
  const [tender] = await tendersOf(receiptId);
  const next = t.as('manager', addDays(t.context.today, 1));
  await expect(voidCard(next, { tenderId: tender!.id, why: 'x', key: key() })).rejects.toThrow(/another day/);
});

test('contested, it is taken out under a follow-up; won, it is credit again', async () => {
  const { householdId } = await owes();
  const { receiptId } = await pay(householdId, '2003');
  const [tender] = await tendersOf(receiptId);
  await returnTender(t.context, { tenderId: tender!.id, why: 'says it was not theirs', key: key() });
  expect(await figures(householdId)).toMatchObject({ withPatient: 10000 });
  const found = await t.db
    .selectFrom('follow_up')
    .select(['kind', 'amount', 'due_date'])
    .where('household_id', '=', householdId)
    .executeTakeFirstOrThrow();
  expect(found).toMatchObject({ kind: 'charge-back', amount: 4000, due_date: '2026-03-26' });
  await takeAgain(t.context, { tenderId: tender!.id, why: 'won', key: key() });
  expect(await figures(householdId)).toMatchObject({ withPatient: 10000, credit: 4000 });
  await proven();
});

test('a surcharge is said before, is income of its own, pays nothing, and goes back in proportion', async () => {
  await surcharge(250);
  const { householdId } = await owes();
  const reading = await terminal.card('1005');
  const press = (more: object) =>
    takePayment(t.context, {
      householdId,
      tenders: [{ tender: 'card', amount: '40.00', reading, ...more }],
      key: key(),
    });
  await expect(press({})).rejects.toMatchObject({ field: 'surcharge', facts: { surcharge: 100, rate: 250 } });
  await expect(press({ surcharge: 99 })).rejects.toThrow(/The surcharge is 1.00, and 0.99 was said/);
  const { receiptId } = await press({ surcharge: 100 });
  expect(await tendersOf(receiptId)).toMatchObject([{ amount: 4000, surcharge: 100, state: 'taken' }]);
  const { rows } = await t.pool.query<{ account: string; amount: number }>(
    'select account, sum(amount)::int as amount from posting where receipt_id = $1 group by 1 order by 1',
    [receiptId],
  );
  expect(rows).toEqual([
    { account: 'cash/card', amount: 4100 },
    { account: 'credit/patient', amount: 0 },
    { account: 'income/surcharge', amount: -100 },
    { account: 'receivable/patient', amount: -4000 },
  ]);
  // A debit card bears none, though none is said.
  expect((await pay(householdId, '2003', '10.00')).cards[0]).toMatchObject({ state: 'approved' });
  const held = await household(t, false);
  const over = await takePayment(t.context, {
    householdId: held.householdId,
    tenders: [{ tender: 'card', amount: '30.00', reading: await terminal.card('1005'), surcharge: 75 }],
    key: key(),
  });
  const back = (amount: string) =>
    giveBack(t.context, {
      receiptId: over.receiptId,
      amount,
      tender: 'card',
      reference: '',
      why: 'x',
      key: key(),
    });
  const parts: number[] = [];
  for (const amount of ['10.01', '10.01', '9.98']) {
    const { refundId } = await back(amount);
    parts.push((await tendersOf(refundId!))[0]!.surcharge);
  }
  // 75 cents on 30.00: 25.025, 50.05 and 75 by what went back until then.
  expect(parts).toEqual([-25, -25, -25]);
  expect((await charged()).reduce((all, row) => all + row.amount, 0)).toBeGreaterThan(0);
  await surcharge(0);
  await proven();
});

test('what Medicare leaves to its patients bears no surcharge, beside a charge that does', async () => {
  await surcharge(250);
  const made = await household(t);
  await t.db.updateTable('payer').set({ no_surcharge: true }).execute();
  await charge(t, t.context, made.patientId, '100.00');
  const none = await takePayment(t.context, {
    householdId: made.householdId,
    tenders: [{ tender: 'card', amount: '25.00', reading: await terminal.card('1005') }],
    key: key(),
  });
  expect(none.cards).toMatchObject([{ state: 'approved' }]);
  await t.db.updateTable('payer').set({ no_surcharge: false }).execute();
  await surcharge(0);
});

test('what the form says of a surcharge is what the server takes: before a visit, with an old balance that bears none beside', async () => {
  await surcharge(250);
  const made = await household(t);
  const own = await household(t, false);
  await t.db.updateTable('payer').set({ no_surcharge: true }).execute();
  // An insured charge that is the patient's now, and one of who pays for himself.
  const insured = await charge(t, t.context, made.patientId, '20.00');
  await settleWaiting(t.context, {
    chargeId: insured,
    to: 'patient',
    why: 'signed before',
  });
  await charge(t, t.context, own.patientId, '40.00');
  // Of two people of one household one bears none, and the other does.
  const member = (await anotherMember(t, made.householdId)) as { patientId: number };
  await charge(t, t.context, member.patientId, '20.00');
  for (const { householdId, patientId } of [made, own]) {
    const expectedVisitId = await expectVisit(t.context, { patientId, day: t.context.today, key: key() });
    const form = await readTakingForm(t.context, householdId);
    const rule = form.sites.find(({ id }) => id === form.siteId)!.rule;
    const spread = spreadAs(cents(4000), form.open, { way: 'oldest' });
    if (typeof spread === 'string') throw new Error(spread);
    const left = cents(7000 - spread.parts.reduce((all, part) => all + part.amount, 0));
    const said = surchargeOf(
      basisOf(
        { parts: spread.parts, plans: [], agency: cents(0), left },
        new Set(form.bearNone),
        form.allBearNone,
      ),
      { kind: 'credit', brand: 'Visa' },
      { ...rule, brands: new Map(rule.brands) },
    );
    const taken = await takePayment(t.context, {
      householdId,
      expectedVisitId,
      reserve: '30.00',
      locationId: form.siteId,
      tenders: [
        { tender: 'card', amount: '70.00', reading: await terminal.card('1005'), surcharge: said.amount },
      ],
      key: key(),
    });
    expect(taken.cards).toMatchObject([{ state: 'approved' }]);
    // 2.5 % of 70.00; of the member's 20.00 alone, where the rest bears none.
    expect(said.amount).toBe(householdId === own.householdId ? 175 : 50);
  }
  await t.db.updateTable('payer').set({ no_surcharge: false }).execute();
  await surcharge(0);
  await proven();
});

test('their list of the day is ours', async () => {
  const ours = await t.db
    .selectFrom('attempt as a')
    .innerJoin('tender as t', 't.id', 'a.tender_id')
    .select(['a.key', 'a.approval'])
    .where('a.state', '=', 'approved')
    .orderBy('a.key')
    .execute();
  const theirs = (await charged()).map(({ key: own, authorization }) => ({
    key: own,
    approval: authorization,
  }));
  expect(theirs.sort((a, b) => (a.key < b.key ? -1 : 1))).toEqual(
    ours.sort((a, b) => (a.key < b.key ? -1 : 1)),
  );
});

test('no number of a card is anywhere with us; and text that looks like one is refused', async () => {
  // Made up, with its check digit.
  const number = '4539578763621486';
  const reading = key();
  await fetch(`${terminal.url}/v1/readings`, {
    method: 'POST',
    body: JSON.stringify({ key: reading, merchant: 'TEST-01', entry: 'keyed', amount: 100 }),
  });
  const typed = await fetch(`${terminal.url}/frame/${reading}`, {
    method: 'POST',
    body: new URLSearchParams({ number, expires: '04/29', code: '123' }),
  });
  expect(await typed.text()).toContain('Read: Visa 1486');
  const { householdId } = await owes();
  const press = (more: object) =>
    takeReceipt(t.context, {
      householdId,
      tenders: [{ tender: 'check', amount: '1.00', reference: '7', ...more }],
      key: key(),
    });
  for (const text of [number, '4539 5787 6362 1486', `card 4539-5787-6362-1486`])
    await expect(press({ reference: text })).rejects.toThrow(/looks like a card number/);
  await expect(press({ reference: '4539578763621487' })).resolves.toHaveProperty('receiptId');
  // The database, whole, and what the terminal keeps.
  const { rows } = await t.pool.query<{ table: string }>(
    `select format('%I', table_name) as table from information_schema.tables
     where table_schema = 'public' and table_type = 'BASE TABLE'`,
  );
  for (const { table } of rows) {
    const found = await t.pool.query(`select 1 from ${table} t where t::text like $1 limit 1`, [
      `%${number}%`,
    ]);
    expect([table, found.rowCount]).toEqual([table, 0]);
  }
  for (const name of readdirSync(terminal.folder))
    expect(readFileSync(join(terminal.folder, name), 'utf8')).not.toContain(number);
});

test('a part was given back, then the rest is contested: what is left of it goes, the surcharge with it; won, it is credit again', async () => {
  await surcharge(290);
  const { householdId } = await owes('70.00');
  const { receiptId } = await takePayment(t.context, {
    householdId,
    tenders: [
      { tender: 'cash', amount: '20.00' },
      { tender: 'card', amount: '100.00', reading: await terminal.card('1005'), surcharge: 290 },
    ],
    key: key(),
  });
  expect(await figures(householdId)).toMatchObject({ withPatient: 0, credit: 5000 });
  const card = (await tendersOf(receiptId)).find(({ last_four }) => last_four === '1005')!;
  const refund = await giveBack(t.context, {
    receiptId,
    tenderId: card.id,
    amount: '40.00',
    tender: 'card',
    reference: '',
    why: 'too much',
    key: key(),
  });
  expect((await tendersOf(refund.refundId!))[0]).toMatchObject({ amount: -4000, surcharge: -116 });
  // What went back to the card stands: it is not taken back otherwise, and the words say how it goes on.
  await expect(reverseReceipt(t.context, { receiptId: refund.refundId!, why: 'x' })).rejects.toThrow(
    /charge the card anew/,
  );
  for (const act of [
    () => reverseReceipt(t.context, { receiptId, why: 'x' }),
    () => voidCard(t.context, { tenderId: card.id, why: 'x', key: key() }),
  ])
    await expect(act()).rejects.toThrow(/40.00 of it was given back to the card, and that stands/);
  const contest = () =>
    returnTender(t.context, { tenderId: card.id, why: 'says it was not theirs', key: key() });
  await contest();
  // 120.00 came, 40.00 and 60.00 are gone: 20.00 of cash stay paid, and of 70.00 are 50.00 owed again.
  expect(await figures(householdId)).toMatchObject({ withPatient: 5000, credit: 0 });
  const { rows } = await t.pool.query<{ account: string; amount: number }>(
    `select account, sum(amount)::int as amount from posting where household_id = $1 and account similar to '(cash|income)/(cash|card|surcharge)'
     group by 1 order by 1`,
    [householdId],
  );
  expect(rows).toEqual([
    { account: 'cash/card', amount: 0 },
    { account: 'cash/cash', amount: 2000 },
    { account: 'income/surcharge', amount: 0 },
  ]);
  const followUp = await t.db
    .selectFrom('follow_up')
    .select('amount')
    .where('household_id', '=', householdId)
    .where('kind', '=', 'charge-back')
    .executeTakeFirstOrThrow();
  expect(followUp.amount).toBe(6000);
  await expect(contest()).rejects.toThrow(/All of it was given back/);
  await proven();
  const { id } = await t.db
    .selectFrom('receipt')
    .select('id')
    .where('refund_of', '=', receiptId)
    .orderBy('id', 'desc')
    .executeTakeFirstOrThrow();
  await reverseReceipt(t.context, { receiptId: id, why: 'won' });
  expect(await figures(householdId)).toMatchObject({ withPatient: 5000, credit: 6000 });
  await surcharge(0);
  await proven();
});

test('property: a card of one account or two, a part given back, the rest contested: what came less what is gone is all there is', async () => {
  await surcharge(290);
  const some = fc.record({
    cash: fc.integer({ min: 0, max: 9_000 }),
    card: fc.integer({ min: 300, max: 20_000 }),
    own: fc.integer({ min: 100, max: 12_000 }),
    other: fc.integer({ min: 100, max: 12_000 }),
    back: fc.double({ min: 0.05, max: 0.95, noNaN: true }),
    late: fc.integer({ min: 0, max: 5_000 }),
  });
  await fc.assert(
    fc.asyncProperty(some, async ({ cash, card, own, other, back, late }) => {
      const [one, two] = [await owes(toDecimal(cents(own))), await owes(toDecimal(cents(other)))];
      const { household: head } = await readAccount(t.context, one.householdId);
      await setDelivery(t.context, {
        householdId: two.householdId,
        delivery: 'mail',
        mailedWith: head.number,
      });
      const added = Math.round((card * 290) / 10_000);
      const { receiptId } = await takePayment(t.context, {
        householdId: one.householdId,
        together: true,
        tenders: [
          ...(cash > 0 ? [{ tender: 'cash' as const, amount: toDecimal(cents(cash)) }] : []),
          {
            tender: 'card' as const,
            amount: toDecimal(cents(card)),
            reading: await terminal.card('1005'),
            surcharge: added,
          },
        ],
        key: key(),
      });
      const held = (await figures(one.householdId)).credit;
      const tender = (await tendersOf(receiptId)).find(({ last_four }) => last_four === '1005')!;
      const part = Math.min(Math.floor(held * back), card - 1);
      if (part > 0)
        await giveBack(t.context, {
          receiptId,
          tenderId: tender.id,
          amount: toDecimal(cents(part)),
          tender: 'card',
          reference: '',
          why: 'too much',
          key: key(),
        });
      // What is left of the credit pays a later visit, before the rest is contested.
      if (late > 0) {
        await charge(t, t.context, one.patientId, toDecimal(cents(late)));
        if ((await figures(one.householdId)).credit > 0)
          await spendCredit(t.context, { householdId: one.householdId, key: key() });
      }
      await returnTender(t.context, { tenderId: tender.id, why: 'not theirs', key: key() });
      const [a, b] = [await figures(one.householdId), await figures(two.householdId)];
      // By hand: all that was charged, less the cash, which is all that is left.
      const owed = a.withPatient + b.withPatient - a.credit - b.credit;
      expect(owed).toBe(own + other + late - cash);
      expect([a.withPatient, b.withPatient, a.credit, b.credit].every((amount) => amount >= 0)).toBe(true);
      const { rows } = await t.pool.query<{ account: string; amount: number }>(
        `select account, sum(amount)::int as amount from posting
         where account in ('cash/card', 'income/surcharge') and household_id = any($1) group by 1 having sum(amount) <> 0`,
        [[one.householdId, two.householdId]],
      );
      expect(rows).toEqual([]);
    }),
    { numRuns: runs(24) },
  );
  await surcharge(0);
  await proven();
});
