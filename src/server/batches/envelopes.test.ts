/** Several households in one envelope, and one patient whose services go to an address of their own. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pino from 'pino';
import { addDays } from '../../core/calendar';
import { writeAnswers } from '../../core/mail/answers';
import { pieceName } from '../../core/mail/pieces';
import { dueTogether, statementDocument } from '../../core/statements/document';
import { type TestDatabase, TODAY, testDatabase } from '../../testing/database';
import { charge, household } from '../../testing/desk';
import { readStory } from '../accounts/ledger';
import { readAccount } from '../account-page/read';
import { mergeHouseholds } from '../accounts/merge';
import { addMember } from '../accounts/register';
import { checkBooks } from '../books/check';
import { foldersOf } from '../folders';
import { takeFile } from '../exchange/intake';
import { finishWork } from '../jobs/run';
import { startSendingBatch } from '../jobs/work';
import { readList } from '../lists/read';
import { spendCredit } from '../payments/credit';
import { reverseReceipt } from '../payments/receipts';
import { takeReceipt } from '../payments/take';
import { confirmPrinted, sendAgain } from './again';
import { batchPaper, readBatch } from './read';
import { weighHouseholds } from '../statements/choosing';
import { addHousehold, draftStatements, putBackPieces, refreshPieces, takeOutPieces } from './drafts';
import { endConfidential, setConfidential } from '../accounts/confidential';
import { setStop } from '../accounts/stops';
import { readMail, setDelivery } from '../statements/household';
import { prepareStatement } from '../statements/prepare';
import { readPiece, readStatement } from '../statements/read';

let t: TestDatabase;
const folder = mkdtempSync(join(tmpdir(), 'wergeld-envelopes-'));
const log = pino({ level: 'silent' });
beforeAll(async () => {
  t = await testDatabase();
  for (const name of ['shoreline', 'pelican']) await foldersOf(name);
});
afterAll(async () => {
  rmSync(folder, { recursive: true, force: true });
  await t.close();
});

let serial = 0;
const key = (): string => `envelope-test-${(serial += 1)}`;
const numberOf = async (householdId: number): Promise<string> =>
  (
    await t.db
      .selectFrom('household')
      .select('number')
      .where('id', '=', householdId)
      .executeTakeFirstOrThrow()
  ).number;
async function owes(fee = '120.00', more: Record<string, unknown> = {}) {
  const made = await household(t, false, { ...more, sure: true });
  const chargeId = await charge(t, t.context, made.patientId, fee, '99213', addDays(TODAY, -40));
  return { ...made, chargeId, number: await numberOf(made.householdId) };
}
const mailWith = async (householdId: number, mailedWith: string, more: Record<string, unknown> = {}) =>
  setDelivery(t.context, { householdId, delivery: 'mail', mailedWith, ...more });
/** A category of their own, so that no other test's households come along. */
async function alike(ids: readonly number[]): Promise<string> {
  const category = key();
  await t.db.insertInto('account_category').values({ name: category }).execute();
  await t.db
    .updateTable('household')
    .set({ category })
    .where('id', 'in', [...ids])
    .execute();
  return category;
}
const batchOf = async (category: string): Promise<number> =>
  (
    await draftStatements(t.context, {
      rows: [{ side: 'take', what: 'category', choices: [category] }],
      title: '',
      key: key(),
    })
  ).batchId;
const together = async (ids: readonly number[]): Promise<number> => batchOf(await alike(ids));
const send = async (batchId: number): Promise<void> => {
  await finishWork(t.db, await startSendingBatch(t.context, { batchId }), log);
};
const pieces = (batchId: number) =>
  t.db.selectFrom('mail_piece').selectAll().where('batch_id', '=', batchId).orderBy('number').execute();
const statementsOf = (householdId: number) =>
  t.db.selectFrom('statement').selectAll().where('household_id', '=', householdId).orderBy('id').execute();
const textOf = (pdf: Buffer): string => {
  const file = join(folder, 'read.pdf');
  writeFileSync(file, pdf);
  return execFileSync('pdftotext', ['-layout', file, '-'], { encoding: 'utf8' }).replace(/\s+/g, ' ');
};
const dueOf = async (householdId: number) =>
  (await weighHouseholds(t.context, { rows: [] }, [householdId])).weighed.map(({ due, facts }) => [
    facts.patientId,
    due,
  ]);

/** Three households in the envelope of the first. */
async function family() {
  const head = await owes('120.00', { last: 'Quill', first: 'Ada', email: 'ada@example.com' });
  const [son, aunt] = [
    await owes('60.00', { last: 'Quill', first: 'Ben' }),
    await owes('45.50', { last: 'Rook', first: 'Cleo' }),
  ];
  for (const { householdId } of [son, aunt]) await mailWith(householdId, head.number);
  return { head, son, aunt, ids: [head, son, aunt].map(({ householdId }) => householdId) };
}

describe('one envelope', () => {
  test('one paper to one address, a section and a subtotal for each, and a statement on each account', async () => {
    const { head, son, aunt, ids } = await family();
    const batchId = await together(ids);
    const [piece, ...others] = await pieces(batchId);
    expect(others).toEqual([]);
    expect(piece).toMatchObject({
      household_id: head.householdId,
      joined: [son.householdId, aunt.householdId],
    });
    expect(piece!.amount).toBe(22_550);
    await send(batchId);
    await confirmPrinted(t.context, { batchId });
    const text = textOf((await readPiece(t.context, piece!.id)).bytes);
    for (const words of [
      'Ada Quill',
      `${head.number} and 2 more`,
      'The accounts in this statement',
      `${son.number} · Ben Quill: how 60.00 came about`,
      `${aunt.number} · Cleo Rook: how 45.50 came about`,
      'Amount due, US dollars 225.50',
      'One payment can',
    ])
      expect(text).toContain(words);
    for (const [account, amount] of [
      [head, 12_000],
      [son, 6_000],
      [aunt, 4_550],
    ] as const) {
      const [statement, ...more] = await statementsOf(account.householdId);
      expect(more).toEqual([]);
      expect(statement).toMatchObject({ amount, piece_id: piece!.id, patient_id: null });
      expect((await readStatement(t.context, statement!.id)).bytes.length).toBeGreaterThan(1000);
      const shown = await t.db
        .selectFrom('statement_charge')
        .select(['charge_id', 'owed'])
        .where('statement_id', '=', statement!.id)
        .execute();
      expect(shown).toEqual([{ charge_id: account.chargeId, owed: amount }]);
    }
    expect(textOf((await batchPaper(t.context, { batchId, list: 'only' })).bytes)).toContain(
      'Ada Quill and 2 more accounts',
    );
  });

  test('each is chosen by its own; who gets none is missing from it, and the first of the others stands for it', async () => {
    const { head, son, aunt, ids } = await family();
    await takeReceipt(t.context, {
      householdId: head.householdId,
      tenders: [{ tender: 'cash', amount: '120.00' }],

      key: key(),
    });
    const batchId = await together(ids);
    const [piece] = await pieces(batchId);
    expect(piece).toMatchObject({
      household_id: son.householdId,
      joined: [aunt.householdId],
      amount: 10_550,
    });
    const content = statementDocument.read(piece!.content);
    expect([content.to.name, dueTogether(content)]).toEqual(['Ada Quill', 10_550]);
  });

  test('the address that counts is the one of the envelope', async () => {
    const { head, son } = await family();
    await t.db
      .updateTable('household')
      .set({ delivery: 'none', delivery_why: 'fetches it' })
      .where('id', '=', head.householdId)
      .execute();
    const [weighed] = (await weighHouseholds(t.context, { rows: [] }, [son.householdId])).weighed;
    expect(weighed!.reasons.map(({ words }) => words)).toEqual(['gets none: fetches it']);
  });

  test('it lies in no second piece: neither prepared again, nor added, nor put back beside another', async () => {
    const { head, son, ids } = await family();
    const first = await together(ids);
    await expect(together(ids)).rejects.toThrow(/Nobody|Somebody else/);
    await expect(addHousehold(t.context, { batchId: first, householdId: son.householdId })).rejects.toThrow(
      /prepared and not out/,
    );
    const [piece] = await pieces(first);
    await takeOutPieces(t.context, { pieceIds: [piece!.id], why: 'Later' });
    const alone = await together([son.householdId]);
    await expect(putBackPieces(t.context, { pieceIds: [piece!.id] })).rejects.toThrow(/another piece/);
    // The database says so whoever writes: it is the joined one, or the one that it is joined to.
    const copy = (of: number, joined: number[]) =>
      t.db
        .insertInto('mail_piece')
        .values({
          household_id: of,
          joined,
          delivery: 'mail',
          amount: piece!.amount,
          date: TODAY,
          due_date: TODAY,
          options: JSON.stringify(piece!.options),
          content: JSON.stringify(piece!.content),
        })
        .execute();
    await expect(copy(head.householdId, [son.householdId])).rejects.toThrow(/one piece that is not out/);
    const stranger = await owes();
    await expect(copy(stranger.householdId, [stranger.householdId])).rejects.toThrow(/several households/);
    expect((await pieces(alone)).map(({ status }) => status)).toEqual(['draft']);
  });

  test('prepared by two at once, each household lies in one piece', async () => {
    const { ids } = await family();
    const category = await alike(ids);
    const both = await Promise.allSettled([batchOf(category), batchOf(category)]);
    expect(both.filter(({ status }) => status === 'fulfilled')).toHaveLength(1);
    const open = await t.db
      .selectFrom('mail_piece')
      .select(['household_id', 'joined'])
      .where('household_id', 'in', ids)
      .execute();
    expect(open.flatMap(({ household_id, joined }) => [household_id, ...joined]).sort()).toEqual(
      [...ids].sort(),
    );
  });

  test('a stop on one of them between draft and sending takes that one out, and the rest waits for a look', async () => {
    const { son, ids } = await family();
    const batchId = await together(ids);
    const { id: reasonId } = await t.db
      .selectFrom('stop_reason')
      .select('id')
      .where('statements', '=', true)
      .limit(1)
      .executeTakeFirstOrThrow();
    await setStop(t.context, { householdId: son.householdId, reasonId, note: '' });
    await send(batchId);
    const [piece] = await pieces(batchId);
    expect(piece).toMatchObject({ status: 'draft', joined: [ids[2]] });
    expect(piece!.why).toContain(`taken out of the envelope: ${son.number}`);
    await refreshPieces(t.context, { pieceIds: [piece!.id] });
    await send(batchId);
    await confirmPrinted(t.context, { batchId });
    expect(await statementsOf(son.householdId)).toEqual([]);
    expect(await statementsOf(ids[2]!)).toHaveLength(1);
  });

  test('a cent that moves on one of them after the draft is said, and nothing goes out unseen', async () => {
    const { aunt, ids } = await family();
    const batchId = await together(ids);
    await takeReceipt(t.context, {
      householdId: aunt.householdId,
      tenders: [{ tender: 'cash', amount: '5.50' }],

      key: key(),
    });
    expect((await readBatch(t.context, batchId)).changed).toHaveLength(1);
    await send(batchId);
    const [piece] = await pieces(batchId);
    expect([piece!.status, piece!.why]).toEqual([
      'draft',
      'changed since it was drafted: 225.50 then, 220.00 now',
    ]);
  });

  test('nobody is mailed with itself, with a stranger, or in a chain', async () => {
    const { head, son, aunt } = await family();
    const other = await owes();
    await expect(mailWith(head.householdId, head.number)).rejects.toThrow(/account itself/);
    await expect(mailWith(other.householdId, 'A-1')).rejects.toThrow(/no account A-1/);
    await expect(mailWith(other.householdId, son.number)).rejects.toThrow(/another account’s envelope/);
    await expect(mailWith(head.householdId, other.number)).rejects.toThrow(/goes in this account’s envelope/);
    await expect(
      t.db
        .updateTable('household')
        .set({ mailed_with: aunt.householdId })
        .where('id', '=', other.householdId)
        .execute(),
    ).rejects.toThrow(/under one address/);
    expect((await readMail(t.context, head.householdId)).withIt).toEqual([son.number, aunt.number]);
    await mailWith(son.householdId, '');
    expect((await readMail(t.context, son.householdId)).mailedWith).toBe('');
  });
});

describe('one receipt for all', () => {
  const pay = (householdId: number, amount: string, more: Record<string, unknown> = {}) =>
    takeReceipt(t.context, {
      householdId,
      tenders: [{ tender: 'check', amount, reference: key() }],
      key: key(),
      ...more,
    });
  const owed = async (ids: readonly number[]) =>
    (await Promise.all(ids.map((id) => readAccount(t.context, id)))).map(({ figures }) => [
      figures.withPatient,
      figures.credit,
    ]);
  const clean = async () => (await checkBooks(t.db)).flatMap(({ faults }) => faults);

  test('pays every account of the envelope, oldest first, and its reversal takes all of it back', async () => {
    const { head, ids, son } = await family();
    await expect(pay(head.householdId, '200.00', { together: true, owed: 12_000 })).rejects.toThrow(
      /225.50 is owed now/,
    );
    const { receiptId } = await pay(head.householdId, '230.00', { together: true, owed: 22_550 });
    expect(await owed(ids)).toEqual([
      [0, 450],
      [0, 0],
      [0, 0],
    ]);
    expect(await clean()).toEqual([]);
    const [there] = (await readAccount(t.context, son.householdId)).receipts;
    expect(there).toMatchObject({ id: receiptId, from: head.number, left: 0 });
    await reverseReceipt(t.context, { receiptId, why: 'The check bounced' });
    expect(await owed(ids)).toEqual([
      [12_000, 0],
      [6_000, 0],
      [4_550, 0],
    ]);
    expect(await clean()).toEqual([]);
  });

  test('two of it that are merged: what was sent and paid of both stays, and is taken back', async () => {
    const { head, son, aunt, ids } = await family();
    const batchId = await together(ids);
    await expect(
      mergeHouseholds(t.context, {
        householdId: son.householdId,
        intoHouseholdId: head.householdId,
        why: 'x',
      }),
    ).rejects.toThrow(/not out yet/);
    await send(batchId);
    await confirmPrinted(t.context, { batchId });
    const { receiptId } = await pay(head.householdId, '230.00', { together: true });
    const later = await pay(aunt.householdId, '10.00');
    for (const householdId of [son.householdId, head.householdId])
      await mergeHouseholds(t.context, {
        householdId,
        intoHouseholdId: aunt.householdId,
        why: 'x',
        sure: true,
      });
    expect(await owed([aunt.householdId])).toEqual([[0, 1450]]);
    const said = await statementsOf(aunt.householdId);
    expect(said.map(({ amount }) => amount).sort((a, b) => a - b)).toEqual([4_550, 6_000, 12_000]);
    // It was in the envelope of the one that is gone: it has one of its own, to its own address.
    expect(await readMail(t.context, aunt.householdId)).toMatchObject({ withIt: [], mailedWith: '' });
    expect(await clean()).toEqual([]);
    // Credit of a receipt that was of three accounts is used and taken back as that of one.
    await charge(t, t.context, aunt.patientId, '12.00');
    await spendCredit(t.context, { householdId: aunt.householdId, key: key() });
    await reverseReceipt(t.context, { receiptId, why: 'The check bounced' });
    await reverseReceipt(t.context, { receiptId: later.receiptId, why: 'This one too' });
    expect(await owed([aunt.householdId])).toEqual([[23_750, 0]]);
    expect(await clean()).toEqual([]);
  });

  test('without that it pays its own account alone; by hand it pays any of the envelope and no stranger', async () => {
    const { head, aunt, ids } = await family();
    const stranger = await owes();
    await pay(head.householdId, '130.00');
    expect(await owed(ids)).toEqual([
      [0, 1000],
      [6_000, 0],
      [4_550, 0],
    ]);
    await pay(head.householdId, '40.00', { together: true, parts: { [aunt.chargeId]: '40.00' } });
    expect(await owed([aunt.householdId])).toEqual([[550, 0]]);
    await expect(
      pay(head.householdId, '40.00', { together: true, parts: { [stranger.chargeId]: '40.00' } }),
    ).rejects.toThrow();
    expect(await clean()).toEqual([]);
  });

  test('pressed twice it is taken once; of two at once neither account is paid twice', async () => {
    const { head, son, ids } = await family();
    const once = {
      householdId: head.householdId,
      tenders: [{ tender: 'cash' as const, amount: '100.00' }],

      together: true,
      key: key(),
    };
    const answers = await Promise.all([takeReceipt(t.context, once), takeReceipt(t.context, once)]);
    expect(answers[0]).toEqual(answers[1]);
    await Promise.all([
      pay(head.householdId, '100.00', { together: true }),
      pay(son.householdId, '100.00', { together: true }),
    ]);
    const [total, credit] = (await owed(ids)).reduce(([a, b], [c, d]) => [a! + c!, b! + d!], [0, 0]);
    expect([total, credit]).toEqual([0, 7450]);
    expect(await clean()).toEqual([]);
  });

  test('what is left is the payer’s credit, and pays none of the others by itself', async () => {
    const { head, son, ids } = await family();
    await pay(head.householdId, '230.00', { together: true });
    await charge(t, t.context, son.patientId, '15.00');
    await expect(spendCredit(t.context, { householdId: son.householdId, key: key() })).rejects.toThrow(
      /no credit/,
    );
    expect(await owed(ids)).toEqual([
      [0, 450],
      [1500, 0],
      [0, 0],
    ]);
    expect(await clean()).toEqual([]);
  });

  test('the database refuses a receipt’s money on an account that it is not for', async () => {
    const { head } = await family();
    const stranger = await owes();
    const { receiptId } = await pay(head.householdId, '10.00');
    await expect(
      t.db.transaction().execute(async (tx) => {
        const entry = await tx
          .insertInto('entry')
          .values({ kind: 'transfer', posting_date: TODAY, business_date: TODAY, user_id: 'x', memo: 'x' })
          .returning('id')
          .executeTakeFirstOrThrow();
        await tx
          .insertInto('posting')
          .values(
            [head, stranger].map(({ householdId }, index) => ({
              entry_id: entry.id,
              account: 'credit/patient' as const,
              amount: (index === 0 ? 100 : -100) as never,
              household_id: householdId,
              receipt_id: receiptId,
            })),
          )
          .execute();
      }),
    ).rejects.toThrow(/do not belong together/);
  });
});

describe('a confidential address', () => {
  const to = { name: 'Bea Quill', line1: '9 Quiet Lane', city: 'Osprey Landing', state: 'WA', zip: '98199' };
  /** A household with a daughter, each with a charge. */
  async function daughter(more: Record<string, unknown> = {}) {
    const home = await owes('120.00', { last: 'Quill', first: 'Ada' });
    const { patientId: bea } = await addMember(t.context, {
      householdId: home.householdId,
      last: 'Quill',
      first: 'Bea',
      birthDate: '2008-05-05',
      sex: 'F',
      key: key(),
      sure: true,
      ...more,
    });
    const secret = await charge(t, t.context, bea, '77.00', '99214', addDays(TODAY, -20));
    return { ...home, bea, secret };
  }

  test('what concerns the patient goes there, and stands on nothing that goes to the household', async () => {
    const { householdId, bea, chargeId, secret } = await daughter();
    await setConfidential(t.context, { patientId: bea, ...to });
    expect(await dueOf(householdId)).toEqual([
      [null, 12_000],
      [bea, 7_700],
    ]);
    const batchId = await together([householdId]);
    await send(batchId);
    await confirmPrinted(t.context, { batchId });
    const [home, apart] = await pieces(batchId);
    const [homeText, apartText] = await Promise.all(
      [home!, apart!].map(async ({ id }) => textOf((await readPiece(t.context, id)).bytes)),
    );
    expect(homeText).toContain('1 Test Row');
    for (const words of ['Bea', '77.00', '197.00', 'Quiet Lane']) expect(homeText).not.toContain(words);
    expect(apartText).toContain('9 Quiet Lane');
    expect(apartText).toContain('Amount due, US dollars 77.00');
    for (const words of ['Ada', '120.00', '1 Test Row']) expect(apartText).not.toContain(words);
    const statements = await statementsOf(householdId);
    expect(statements.map(({ patient_id, amount }) => [patient_id, amount])).toEqual([
      [null, 12_000],
      [bea, 7_700],
    ]);
    const shown = await t.db
      .selectFrom('statement_charge')
      .select('charge_id')
      .where(
        'statement_id',
        'in',
        statements.map(({ id }) => id),
      )
      .orderBy('charge_id')
      .execute();
    expect(shown.map(({ charge_id }) => charge_id)).toEqual([chargeId, secret]);
  });

  test('the one handed over at once keeps it too', async () => {
    const { householdId, bea } = await daughter();
    await setConfidential(t.context, { patientId: bea, ...to });
    const home = await prepareStatement(t.context, { householdId, key: key() });
    const apart = await prepareStatement(t.context, { householdId, patientId: bea, key: key() });
    expect((await readStatement(t.context, home)).content.amount).toBe(12_000);
    expect((await readStatement(t.context, apart)).content.amount).toBe(7_700);
    // The same of the same day are one, each by itself.
    expect(await prepareStatement(t.context, { householdId, patientId: bea, key: key() })).toBe(apart);
  });

  test('set while a paper lies ready: the paper is made anew without the patient, and never goes out as it was', async () => {
    const { householdId, bea } = await daughter();
    const batchId = await together([householdId]);
    await send(batchId);
    await setConfidential(t.context, { patientId: bea, ...to });
    const [piece] = await pieces(batchId);
    expect(piece).toMatchObject({ status: 'draft', document: null, why: 'a confidential address was set' });
    await expect(confirmPrinted(t.context, { batchId })).rejects.toThrow(/Nothing of these waits/);
    await send(batchId);
    expect((await pieces(batchId))[0]!.why).toBe('changed since it was drafted: 197.00 then, 120.00 now');
    await refreshPieces(t.context, { pieceIds: [piece!.id] });
    await send(batchId);
    expect(textOf((await readPiece(t.context, piece!.id)).bytes)).not.toContain('Bea');
  });

  test('set after a paper came back: the old one does not count and is not sent again', async () => {
    const { householdId, bea } = await daughter();
    await t.db
      .updateTable('household')
      .set({ delivery: 'print-shop' })
      .where('id', '=', householdId)
      .execute();
    const batchId = await together([householdId]);
    await send(batchId);
    const [piece] = await pieces(batchId);
    const path = join(folder, 'answers.csv');
    writeFileSync(
      path,
      writeAnswers([{ what: 'piece', id: piece!.id, result: 'undeliverable', words: 'gone' }]),
    );
    const { id: shop } = await t.db
      .selectFrom('connection')
      .select('id')
      .where('kind', '=', 'print-shop')
      .executeTakeFirstOrThrow();
    await takeFile(t.context, path, 'answers.csv', shop);
    expect((await pieces(batchId))[0]!.status).toBe('failed');
    await setConfidential(t.context, { patientId: bea, ...to });
    expect((await pieces(batchId))[0]!.status).toBe('void');
    await expect(sendAgain(t.context, { batchId })).rejects.toThrow(/Nothing of these/);
  });

  test('by e-mail to the patient’s own; what bounces marks that address and not the household’s', async () => {
    const { householdId, bea } = await daughter();
    await setConfidential(t.context, {
      patientId: bea,
      name: 'Bea Quill',
      delivery: 'email',
      email: 'bea@example.com',
    });
    const batchId = await together([householdId]);
    await send(batchId);
    const [, apart] = await pieces(batchId);
    expect(apart).toMatchObject({ status: 'sent', delivery: 'email', patient_id: bea });
    const outbox = join(process.env.WERGELD_EXCHANGE!, 'pelican/outbox');
    const name = readdirSync(outbox).find((file) => file.startsWith(pieceName(apart!.id)))!;
    const message = readFileSync(join(outbox, name), 'utf8');
    expect(message).toMatch(/^To: Bea Quill <bea@example.com>/m);
    const path = join(folder, 'bounce.csv');
    writeFileSync(
      path,
      writeAnswers([{ what: 'piece', id: apart!.id, result: 'bounced', words: 'no such box' }]),
    );
    const { id: gateway } = await t.db
      .selectFrom('connection')
      .select('id')
      .where('kind', '=', 'message-gateway')
      .executeTakeFirstOrThrow();
    await takeFile(t.context, path, 'bounce.csv', gateway);
    const mail = await readMail(t.context, householdId);
    expect([mail.emailReturned, mail.confidential[0]!.emailReturned]).toEqual([null, TODAY]);
  });

  test('ended, everything goes to the household again; what is missing or stale is said', async () => {
    const { householdId, bea } = await daughter();
    await expect(setConfidential(t.context, { patientId: bea, ...to, city: '' })).rejects.toThrow(
      /City is missing/,
    );
    await expect(setConfidential(t.context, { patientId: bea, ...to, delivery: 'email' })).rejects.toThrow(
      /missing/,
    );
    await setConfidential(t.context, { patientId: bea, ...to });
    await setConfidential(t.context, { patientId: bea, ...to, line1: '10 Quiet Lane', version: 1 });
    await expect(
      setConfidential(t.context, { patientId: bea, ...to, line1: '11 Quiet Lane', version: 1 }),
    ).rejects.toThrow(/meanwhile|changed/i);
    expect((await readAccount(t.context, householdId)).confidential).toEqual([
      { patientId: bea, patient: 'Bea' },
    ]);
    await endConfidential(t.context, { patientId: bea });
    await expect(endConfidential(t.context, { patientId: bea })).rejects.toThrow(/no confidential/);
    expect(await dueOf(householdId)).toEqual([[null, 19_700]]);
    await expect(prepareStatement(t.context, { householdId, patientId: bea, key: key() })).rejects.toThrow(
      /no confidential address/,
    );
  });

  test('a household whose only one it is has nothing left of its own, and both are said', async () => {
    const { householdId, patientId } = await owes('50.00');
    await setConfidential(t.context, { patientId, ...to });
    const { weighed } = await weighHouseholds(t.context, { rows: [] }, [householdId]);
    expect(weighed.map(({ in: taken, facts }) => [facts.patientId, taken])).toEqual([
      [null, false],
      [patientId, true],
    ]);
    const batchId = await together([householdId]);
    const [row] = (await readList(t.context, 'pieces', { of: String(batchId) } as never)).rows;
    expect(JSON.stringify(row)).toContain('(confidential)');
    // The story on the phone is the whole account's: the person who asks is looked at first.
    expect((await readStory(t.context, householdId)).closing).toContain('50.00');
  });
});
