/** Receipts by e-mail: to whom each goes, that it goes once, and what becomes of one that comes back. */
import { mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { writeAnswers } from '../../core/mail/answers';
import { basisPoints } from '../../core/money';
import { gatewayRound } from '../../standins/mail';
import { fileDatabase } from '../../testing/database';
import { anotherMember, brokenInvariants, charge, household } from '../../testing/desk';
import { fileTerminal } from '../../testing/terminal';
import { setConfidential } from '../accounts/confidential';
import { exchangeRound } from '../exchange/round';
import { setDelivery } from '../statements/household';
import { emailReceipt, sendReceipts } from './receipt-mail';
import { reverseReceipt } from './receipts';
import { takeReceipt } from './take';
import { takePayment } from './terminal';

const t = fileDatabase();
const terminal = fileTerminal(t);
const key = (): string => crypto.randomUUID();
const folder = mkdtempSync(join(tmpdir(), 'wergeld-receipt-mail-'));
const before = process.env.WERGELD_EXCHANGE;
let gateway: string;
beforeAll(async () => {
  await t.db
    .updateTable('payment_policy')
    .set({ surcharge_rate: basisPoints(0) })
    .execute();
  process.env.WERGELD_EXCHANGE = folder;
  gateway = (
    await t.db
      .selectFrom('connection')
      .select('folder')
      .where('kind', '=', 'message-gateway')
      .executeTakeFirstOrThrow()
  ).folder;
});
afterAll(() => {
  process.env.WERGELD_EXCHANGE = before ?? '';
  rmSync(folder, { recursive: true, force: true });
});

const of = async (email: string) => {
  const made = await household(t, false);
  await charge(t, t.context, made.patientId, '20.00');
  await t.db.updateTable('household').set({ email }).where('id', '=', made.householdId).execute();
  return made;
};
const pay = (householdId: number, more: object = {}) =>
  takeReceipt(t.context, {
    householdId,
    tenders: [{ tender: 'cash', amount: '20.00' }],
    key: key(),
    ...more,
  });
const always = (householdId: number) =>
  setDelivery(t.context, { householdId, delivery: 'mail', receiptsByEmail: true });
const messages = (receiptId: number) =>
  t.db
    .selectFrom('receipt_message')
    .select(['id', 'state', 'email', 'why', 'outcome', 'asked'])
    .where('receipt_id', '=', receiptId)
    .orderBy('id')
    .execute();
const outbox = (): string[] =>
  readdirSync(join(folder, gateway, 'outbox')).filter((name) => name.startsWith('R'));
const letter = (id: number): string =>
  readFileSync(join(folder, gateway, 'outbox', `R${String(id).padStart(8, '0')}.eml`), 'utf8');
const round = async () => {
  await new Promise((resolve) => setTimeout(resolve, 1_600));
  return exchangeRound(t.context);
};

test('asked for, it goes to the account’s address with the receipt and no word of health; again it is another message', async () => {
  const { householdId } = await of('payer@example.com');
  const { receiptId } = await pay(householdId);
  expect(await messages(receiptId)).toEqual([]);
  const asked = key();
  expect(await emailReceipt(t.context, { receiptId, key: asked })).toBe('payer@example.com');
  // The same press twice is one message.
  await emailReceipt(t.context, { receiptId, key: asked });
  expect(await sendReceipts(t.context)).toBe(1);
  expect(await sendReceipts(t.context)).toBe(0);
  const [message] = await messages(receiptId);
  expect(message).toMatchObject({ state: 'sent', email: 'payer@example.com', asked: true });
  const text = letter(message!.id);
  expect(text).toMatch(/^To: .*payer@example\.com/m);
  expect(text).toMatch(/^Subject: Your receipt from/m);
  expect(text).toContain(`filename=receipt-${receiptId}.pdf`);
  expect(text).not.toMatch(/99213|99212|Office/);
  await emailReceipt(t.context, { receiptId, key: key() });
  await sendReceipts(t.context);
  expect(await messages(receiptId)).toHaveLength(2);
  // What was sent is never another afterwards.
  await expect(
    t.pool.query(`update receipt_message set email = 'other@example.com' where id = $1`, [message!.id]),
  ).rejects.toThrow(/never|change/i);
  await expect(t.pool.query('delete from receipt_message')).rejects.toThrow();
});

test('a household that wants them all has each once, by card when the card is answered, and none of what was declined', async () => {
  const { householdId } = await of('all@example.com');
  await always(householdId);
  const { receiptId } = await pay(householdId);
  expect(await messages(receiptId)).toMatchObject([{ state: 'waiting', asked: false }]);
  const card = await takePayment(t.context, {
    householdId,
    tenders: [{ tender: 'card', amount: '9.00', reading: await terminal.card('2003') }],
    key: key(),
  });
  const no = await takePayment(t.context, {
    householdId,
    tenders: [{ tender: 'card', amount: '9.00', reading: await terminal.card('6104') }],
    key: key(),
  });
  const late = await takePayment(t.context, {
    householdId,
    tenders: [{ tender: 'card', amount: '9.00', reading: await terminal.card('8100') }],
    key: key(),
  });
  expect(late.cards).toMatchObject([{ state: 'unclear' }]);
  await sendReceipts(t.context);
  expect(await messages(receiptId)).toMatchObject([{ state: 'sent' }]);
  expect(await messages(card.receiptId)).toMatchObject([{ state: 'sent' }]);
  expect(await messages(no.receiptId)).toMatchObject([{ state: 'void', why: 'nothing of it was taken' }]);
  expect(await messages(late.receiptId)).toMatchObject([{ state: 'waiting' }]);
  await expect(emailReceipt(t.context, { receiptId: no.receiptId, key: key() })).rejects.toThrow(
    /Nothing of it was taken/,
  );
  // Reversed before it went: it does not go.
  const gone = await pay(householdId, { sure: true });
  await reverseReceipt(t.context, { receiptId: gone.receiptId, why: 'not meant' });
  await sendReceipts(t.context);
  expect(await messages(gone.receiptId)).toMatchObject([{ state: 'void' }]);
});

test('what is a patient’s own goes to the address apart alone, also where that was set between the asking and the going', async () => {
  const { householdId } = await of('house@example.com');
  const { patientId } = await anotherMember(t, householdId);
  await charge(t, t.context, patientId, '20.00');
  const apart = (email: string) =>
    setConfidential(t.context, {
      patientId,
      name: 'Apart',
      delivery: 'email',
      email,
      line1: '9 Elsewhere Road',
      city: 'Osprey Landing',
      state: 'WA',
      zip: '98199',
      why: 'asked for it',
    });
  await apart('own@example.com');
  const { receiptId } = await pay(householdId, { patientId });
  expect(await emailReceipt(t.context, { receiptId, key: key() })).toBe('own@example.com');
  await t.db
    .updateTable('confidential_address')
    .set({ email: 'new@example.com' })
    .where('patient_id', '=', patientId)
    .execute();
  await sendReceipts(t.context);
  expect(await messages(receiptId)).toMatchObject([{ email: 'new@example.com' }]);
  await t.db
    .updateTable('confidential_address')
    .set({ email: '', delivery: 'mail' })
    .where('patient_id', '=', patientId)
    .execute();
  await expect(emailReceipt(t.context, { receiptId, key: key() })).rejects.toThrow(/kept apart/);
  // Over, it is the household's as the account says it.
  await t.db
    .updateTable('confidential_address')
    .set({ ended_on: t.context.today, ended_by: 'Tester' })
    .where('patient_id', '=', patientId)
    .execute();
  expect(await emailReceipt(t.context, { receiptId, key: key() })).toBe('house@example.com');
});

test('no address, none that comes back, no gateway: said at once; an answer that it came back marks the address and is followed up once', async () => {
  const none = await of('');
  const { receiptId: silent } = await pay(none.householdId);
  await expect(emailReceipt(t.context, { receiptId: silent, key: key() })).rejects.toThrow(
    /no e-mail address/,
  );
  await expect(always(none.householdId)).rejects.toMatchObject({ field: 'receiptsByEmail' });

  const reached = await of('there@example.com');
  const { receiptId: unsent } = await pay(reached.householdId);
  await t.pool.query(
    `update connection set kind = 'print-shop' where kind = 'message-gateway' and folder = $1`,
    [gateway],
  );
  await expect(emailReceipt(t.context, { receiptId: unsent, key: key() })).rejects.toThrow(
    /no message gateway/,
  );
  await t.pool.query(`update connection set kind = 'message-gateway' where folder = $1`, [gateway]);

  const { householdId } = await of('bounce@example.com');
  await always(householdId);
  const { receiptId } = await pay(householdId);
  await sendReceipts(t.context);
  await gatewayRound(join(folder, gateway));
  await round();
  const [message] = await messages(receiptId);
  expect(message).toMatchObject({ state: 'failed', outcome: 'bounced', why: 'no such mailbox' });
  const followUps = () =>
    t.db
      .selectFrom('follow_up')
      .select('words')
      .where('household_id', '=', householdId)
      .where('kind', '=', 'returned-mail')
      .execute();
  expect(await followUps()).toHaveLength(1);
  await expect(emailReceipt(t.context, { receiptId, key: key() })).rejects.toThrow(/came back/);
  // Nor does the next one go by itself.
  const next = await pay(householdId);
  expect(await messages(next.receiptId)).toEqual([]);
  // The same answer again, and one for a message that nobody sent.
  const inbox = join(folder, gateway, 'inbox');
  writeFileSync(
    join(inbox, 'again.csv'),
    writeAnswers(
      [
        { what: 'receipt', id: message!.id, result: 'bounced', words: 'no such mailbox' },
        { what: 'receipt', id: 99_999_999, result: 'accepted', words: '' },
        { what: 'receipt', id: 99_999_999, result: 'undeliverable', words: '' },
      ],
      key(),
    ),
  );
  const { read } = await round();
  expect(read.flatMap(({ outcomes }) => outcomes)).toMatchObject([
    { result: 'posted', why: 'said before' },
    { result: 'refused', why: expect.stringContaining('no receipt of this number') },
    { result: 'refused', why: expect.stringContaining('not for them to say') },
  ]);
  expect(await followUps()).toHaveLength(1);
  expect(outbox()).toEqual([]);
  expect(await brokenInvariants(t)).toEqual([]);
});
