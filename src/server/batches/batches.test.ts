/** Batches of statements from choosing to sent: nothing lost, nothing twice, and every household knows why it got none. */
import { execFileSync } from 'node:child_process';
import { readFileSync, readdirSync, utimesSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { unzipSync } from 'fflate';
import { sql } from 'kysely';
import pino from 'pino';
import { addDays } from '../../core/calendar';
import { writeAnswers } from '../../core/mail/answers';
import { pieceName } from '../../core/mail/pieces';
import type { SelectionRow } from '../../core/statements/selection';
import { gatewayRound, printShopRound } from '../../standins/mail';
import { TODAY, fileDatabase } from '../../testing/database';
import { charge, household } from '../../testing/desk';
import type { Context } from '../access';
import { voidCharge } from '../accounts/charges';
import { readStory } from '../accounts/ledger';
import { readAccount } from '../account-page/read';
import { changePatient } from '../accounts/register';
import { checkBooks } from '../books/check';
import { foldersOf } from '../folders';
import { exchangeRound } from '../exchange/round';
import { finishWork, runWork } from '../jobs/run';
import { startSendingBatch, stopWork, resumeWork } from '../jobs/work';
import { readWork } from '../jobs/read';
import { readList } from '../lists/read';
import { reverseReceipt } from '../payments/receipts';
import { takeReceipt } from '../payments/take';
import { saveSetup } from '../setup/save';
import { inTransaction } from '../use-case';
import { confirmPrinted, printAnew, sendAgain, voidPieces } from './again';
import { batchPaper, readBatch } from './read';
import { previewRun, weighHouseholds } from '../statements/choosing';
import { previewWords } from '../statements/content';
import {
  addHousehold,
  draftStatements,
  startDrafting,
  editPieces,
  putBackPieces,
  refreshPieces,
  takeOutPieces,
} from './drafts';
import { liftStop, setStop } from '../accounts/stops';
import { addNote } from '../notes/notes';
import { readMail, setDelivery } from '../statements/household';
import { postLate, readLate } from '../statements/late';
import { makePiece } from './making';
import { prepareStatement } from '../statements/prepare';
import { readPiece, readStatement } from '../statements/read';
import { saveSet } from '../statements/sets';

const t = fileDatabase();
let folder = '';
const log = pino({ level: 'silent' });
beforeAll(async () => {
  // The demo's print shop and message gateway are set up.
  folder = process.env.WERGELD_EXCHANGE!;
  for (const name of ['shoreline', 'pelican']) await foldersOf(name);
});

let serial = 0;
const key = (): string => `mail-test-${(serial += 1)}`;
/** A household that owes, by itself in the runs of its test. */
async function owes(fee = '120.00', day = addDays(TODAY, -40), more: Record<string, unknown> = {}) {
  const made = await household(t, false, more);
  const chargeId = await charge(t, { ...t.context, today: day }, made.patientId, fee, '99213', day);
  return { ...made, chargeId };
}
const draft = async (ids: readonly number[], context: Context = t.context): Promise<number> => {
  // A category of their own, so that no other test's households come along.
  const category = key();
  await t.db.insertInto('account_category').values({ name: category }).execute();
  await t.db
    .updateTable('household')
    .set({ category })
    .where('id', 'in', [...ids])
    .execute();
  const rows: SelectionRow[] = [{ side: 'take', what: 'category', choices: [category] }];
  return (await draftStatements(context, { rows, title: '', key: key() })).batchId;
};
const send = async (batchId: number, context: Context = t.context): Promise<number> => {
  const id = await startSendingBatch(context, { batchId });
  await finishWork(t.db, id, log);
  return id;
};
const pieces = (batchId: number) =>
  t.db
    .selectFrom('mail_piece')
    .select(['id', 'number', 'status', 'why', 'outcome', 'household_id', 'delivery', 'amount'])
    .where('batch_id', '=', batchId)
    .orderBy('number')
    .execute();
const statementsOf = (householdId: number) =>
  t.db.selectFrom('statement').selectAll().where('household_id', '=', householdId).orderBy('id').execute();
const inFolder = (name: string): string[] => {
  try {
    return readdirSync(join(folder, name)).sort();
  } catch {
    return [];
  }
};
/** What lies in an inbox is made to look settled, and read. */
async function round(): Promise<Awaited<ReturnType<typeof exchangeRound>>> {
  const past = new Date(Date.now() - 60_000);
  for (const inbox of ['shoreline/inbox', 'pelican/inbox'])
    for (const name of inFolder(inbox)) utimesSync(join(folder, inbox, name), past, past);
  return exchangeRound(t.context);
}
const textOf = (pdf: Buffer): string => {
  const file = join(folder, 'read.pdf');
  writeFileSync(file, pdf);
  return execFileSync('pdftotext', ['-layout', file, '-'], { encoding: 'utf8' }).replace(/\s+/g, ' ');
};

describe('choosing', () => {
  test('every household with a charge or a credit is in or out, and the sums are those of the books', async () => {
    const [a, b] = [await owes(), await owes('60.00')];
    const paid = await owes('10.00');
    await takeReceipt(t.context, {
      householdId: paid.householdId,
      tenders: [{ tender: 'cash', amount: '10.00' }],

      key: key(),
    });
    const credit = await household(t, false);
    await takeReceipt(t.context, {
      householdId: credit.householdId,
      tenders: [{ tender: 'cash', amount: '5.00' }],

      key: key(),
    });
    const nothing = await household(t, false);
    const { weighed } = await weighHouseholds(t.context, { rows: [] });
    const of = (id: number) => weighed.find(({ facts }) => facts.householdId === id);
    expect(of(a.householdId)).toMatchObject({ in: true, due: 12_000 });
    expect(of(b.householdId)).toMatchObject({ in: true, due: 6000 });
    expect(of(paid.householdId)).toMatchObject({ in: false, due: 0 });
    expect(of(credit.householdId)).toMatchObject({ in: false, due: -500, reasons: [{ id: 'credit' }] });
    expect(of(nothing.householdId)).toBeUndefined();
    expect(new Set(weighed.map(({ facts }) => facts.householdId)).size).toBe(weighed.length);
    const { rows } = await t.pool.query(
      `select sum(with_patient - credit) as due
      from household_balance b
      where credit <> 0 or exists (select 1 from charge where household_id = b.household_id)`,
    );
    expect(weighed.reduce((all, { due }) => all + due, 0)).toBe(Number(rows[0].due));
    const preview = await previewRun(t.context, { rows: [] });
    expect(preview.in.count + preview.out.count).toBe(weighed.length);
  });

  test('what is known of a household: each fact from where it stands', async () => {
    const { householdId, patientId } = await owes('120.00', addDays(TODAY, -90));
    await charge(t, t.context, patientId, '30.00', '99212', addDays(TODAY, -2));
    const weigh = async (rows: SelectionRow[]) =>
      (await weighHouseholds(t.context, { rows }, [householdId])).weighed[0]!;
    const ids = ({ reasons }: { reasons: { id: string }[] }) => reasons.map(({ id }) => id).join(' ');
    expect(ids(await weigh([{ side: 'take', what: 'oldest-over', number: 89 }]))).toBe('oldest-over');
    expect(ids(await weigh([{ side: 'take', what: 'oldest-over', number: 90 }]))).toBe('no-row-takes-it');
    expect(ids(await weigh([{ side: 'take', what: 'new-charge' }]))).toBe('new-charge');
    await prepareStatement(t.context, { householdId, key: key() });
    expect(ids(await weigh([{ side: 'take', what: 'new-charge' }]))).toBe('no-row-takes-it');
    expect(ids(await weigh([{ side: 'leave', what: 'handed-over', number: 3 }]))).toBe('handed-over');
    const provider = String(t.providers.family);
    expect(ids(await weigh([{ side: 'take', what: 'provider', choices: [provider] }]))).toBe('provider');
    const { location_id: site } = await t.db
      .selectFrom('charge')
      .select('location_id')
      .where('household_id', '=', householdId)
      .executeTakeFirstOrThrow();
    expect(ids(await weigh([{ side: 'take', what: 'site', choices: [String(site)] }]))).toBe('site');
  });

  test('each site goes by its own standard set and policy; by hand a household is of another site', async () => {
    const { householdId } = await owes('8.00');
    const { rows } = await t.pool.query(`select id from location order by id`);
    const [first, second] = rows.map((row: { id: string }) => Number(row.id));
    await t.pool.query('update statement_policy set least = 500 where location_id = $1', [second]);
    await setDelivery(t.context, { householdId, delivery: 'mail', siteId: second! });
    const weigh = async () => (await weighHouseholds(t.context, {}, [householdId])).weighed[0]!;
    expect(await weigh()).toMatchObject({ in: true, reasons: [{ id: 'cycle' }] });
    await t.pool.query('update statement_policy set least = 1000 where location_id = $1', [second]);
    expect((await weigh()).reasons.map(({ id }) => id)).toEqual(['below-least']);
    await t.pool.query('update statement_policy set least = 500 where location_id = $1', [second]);
    const rowsOf = [{ side: 'leave' as const, what: 'site' as const, choices: [String(second)] }];
    const setId = await saveSet(t.context, { name: 'Second', siteId: second!, standard: true, rows: rowsOf });
    expect((await weigh()).reasons.map(({ id }) => id)).toEqual(['site']);
    await setDelivery(t.context, { householdId, delivery: 'mail', siteId: first! });
    expect((await weigh()).in).toBe(true);
    // Another standard set of the site takes the place of the first.
    await saveSet(t.context, { name: 'Second again', siteId: second!, standard: true, rows: [] });
    const { standard } = await t.db
      .selectFrom('statement_set')
      .select('standard')
      .where('id', '=', setId)
      .executeTakeFirstOrThrow();
    expect(standard).toBe(false);
    await expect(saveSet(t.context, { name: 'second', rows: [] })).rejects.toThrow(/a set “second” already/);
    await expect(saveSet(t.as('biller'), { name: 'Mine', rows: [] })).rejects.toThrow(/may not change setup/);
    await expect(weighHouseholds(t.context, { setName: 'Third' })).rejects.toThrow(/There is no set “Third”/);
  });
});

describe('a batch', () => {
  test('is drafted once: pressed twice, by two at once, and in a second batch', async () => {
    const { householdId } = await owes();
    const category = key();
    await t.db.insertInto('account_category').values({ name: category }).execute();
    await t.db.updateTable('household').set({ category }).where('id', '=', householdId).execute();
    const rows: SelectionRow[] = [{ side: 'take', what: 'category', choices: [category] }];
    const ask = { rows, title: '', key: key() };
    const [one, two] = await Promise.all([draftStatements(t.context, ask), draftStatements(t.context, ask)]);
    expect(one).toEqual(two);
    await expect(draftStatements(t.context, { ...ask, key: key() })).rejects.toThrow(
      /Nobody gets a statement/,
    );
    const other = await owes();
    await t.db.updateTable('household').set({ category }).where('id', '=', other.householdId).execute();
    const both = await Promise.allSettled([
      draftStatements(t.context, { ...ask, key: key() }),
      draftStatements(t.context, { ...ask, key: key() }),
    ]);
    expect(both.filter(({ status }) => status === 'fulfilled')).toHaveLength(1);
    const { count } = await t.db
      .selectFrom('mail_piece')
      .select(({ fn }) => fn.countAll<number>().as('count'))
      .where('household_id', '=', other.householdId)
      .executeTakeFirstOrThrow();
    expect(count).toBe(1);
  });

  test('is looked through: edited, taken out with a reason, put back, a household added; peeks are marked', async () => {
    const [a, b, c] = [await owes(), await owes(), await owes('33.00')];
    const batchId = await draft([a.householdId, b.householdId]);
    const [first, second] = await pieces(batchId);
    await editPieces(t.context, {
      pieceIds: [first!.id, second!.id],
      note: 'Thank you, Łukasz.',
      dueDate: addDays(TODAY, 60),
      delivery: 'print-shop',
    });
    const paper = textOf((await readPiece(t.context, first!.id)).bytes);
    expect(paper).toContain('Thank you, Łukasz.');
    expect(paper).toContain('Draft · not sent');
    expect(paper).toContain('15 May 2026');
    await expect(
      editPieces(t.context, { pieceIds: [first!.id], dueDate: addDays(TODAY, -1) }),
    ).rejects.toThrow(/is past/);
    await expect(
      editPieces(t.context, { pieceIds: [first!.id], note: 'You owe {balence}.' }),
    ).rejects.toMatchObject({ field: 'note', message: expect.stringContaining('no variable {balence}') });
    await editPieces(t.context, { pieceIds: [first!.id], note: 'Please pay {amount due} by {due date}.' });
    const { note, content } = await t.db
      .selectFrom('mail_piece')
      .select(['note', 'content'])
      .where('id', '=', first!.id)
      .executeTakeFirstOrThrow();
    expect(note).toBe('Please pay {amount due} by {due date}.');
    expect(JSON.stringify(content)).toMatch(/Please pay \d+\.\d\d by \d+ \w+ 2026/);
    await editPieces(t.context, { pieceIds: [first!.id], dueDate: '', note: '' });
    expect(textOf((await readPiece(t.context, first!.id)).bytes)).toContain('30 Mar 2026');
    await expect(takeOutPieces(t.context, { pieceIds: [first!.id], why: ' ' })).rejects.toThrow(/Say why/);
    await takeOutPieces(t.context, { pieceIds: [first!.id], why: 'in person tomorrow' });
    // Free for another batch, and then not to be put back.
    const other = await draft([a.householdId]);
    await expect(putBackPieces(t.context, { pieceIds: [first!.id] })).rejects.toThrow(/another piece/);
    await takeOutPieces(t.context, {
      pieceIds: (await pieces(other)).map(({ id }) => id),
      why: 'the other one',
    });
    await putBackPieces(t.context, { pieceIds: [first!.id] });
    expect((await pieces(batchId))[0]).toMatchObject({ status: 'draft', why: '' });
    await addHousehold(t.context, { batchId, householdId: c.householdId });
    expect((await pieces(batchId)).map(({ number }) => number)).toEqual([1, 2, 3]);
    await expect(addHousehold(t.context, { batchId, householdId: c.householdId })).rejects.toThrow(
      /prepared and not out yet/,
    );
    const list = await readList(t.context, 'pieces', { of: String(batchId) } as never);
    expect(list.rows.map((row) => row.state)).toEqual(['draft', 'draft', 'draft']);
  });

  test('taken out when its paper was made and put back, it is a draft that says so', async () => {
    const { householdId } = await owes();
    const batchId = await draft([householdId]);
    await send(batchId);
    const [piece] = await pieces(batchId);
    await takeOutPieces(t.context, { pieceIds: [piece!.id], why: 'wait' });
    await putBackPieces(t.context, { pieceIds: [piece!.id] });
    expect(textOf((await readPiece(t.context, piece!.id)).bytes)).toContain('Draft · not sent');
    await send(batchId);
    expect((await pieces(batchId))[0]!.status).toBe('made');
  });

  test('one is handed over in between: the draft stays', async () => {
    const { householdId } = await owes();
    const batchId = await draft([householdId]);
    await prepareStatement(t.context, { householdId, key: key() });
    await send(batchId);
    await confirmPrinted(t.context, { batchId });
    expect(await statementsOf(householdId)).toHaveLength(2);
  });

  test('printed here: made, printed as one paper with its list, confirmed from one number to another', async () => {
    const all = [await owes('11.00'), await owes('12.00'), await owes('13.00')];
    const batchId = await draft(all.map(({ householdId }) => householdId));
    await send(batchId);
    expect((await pieces(batchId)).map(({ status }) => status)).toEqual(['made', 'made', 'made']);
    expect(await statementsOf(all[0]!.householdId)).toEqual([]);
    await expect(batchPaper(t.as('front-desk'), { batchId })).rejects.toThrow(/may not prepare statements/);
    const paper = textOf((await batchPaper(t.context, { batchId })).bytes);
    expect(paper).toContain('3 statements in mailing order');
    expect(paper).toMatch(/Together 36\.00/);
    expect(paper.match(/page 1 of 1/g)).toHaveLength(4);
    expect(await confirmPrinted(t.context, { batchId, from: 2, to: 3 })).toBe(2);
    expect((await pieces(batchId)).map(({ status }) => status)).toEqual(['made', 'sent', 'sent']);
    // What is out is not printed unasked, and once more when it is asked for.
    const rest = textOf((await batchPaper(t.context, { batchId, what: 'waiting' })).bytes);
    expect(rest).toContain('1 statement in mailing order');
    expect(textOf((await batchPaper(t.context, { batchId, from: 2 })).bytes)).toContain('2 statements');
    expect(await readBatch(t.context, batchId)).toMatchObject({
      toPrint: { count: 1, first: 1, last: 1 },
      counts: { made: 1, sent: 2 },
      due: 3600,
    });
    const [statement] = await statementsOf(all[1]!.householdId);
    expect(statement).toMatchObject({ amount: 1200, date: TODAY, due_date: addDays(TODAY, 14) });
    // What was sent is the very paper that was made, and the ledger's link opens it.
    const kept = await readStatement(t.context, statement!.id);
    const piece = (await pieces(batchId))[1]!;
    expect(kept.bytes.equals((await readPiece(t.context, piece.id)).bytes)).toBe(true);
    expect(textOf(kept.bytes)).not.toContain('not sent');
    await confirmPrinted(t.context, { batchId });
    await expect(confirmPrinted(t.context, { batchId })).rejects.toThrow(/Nothing of these waits/);
  });

  test('a payment between draft and sending: it stays a draft, is refreshed, and goes out with what is owed then', async () => {
    const [a, b] = [await owes('50.00'), await owes('70.00')];
    const batchId = await draft([a.householdId, b.householdId]);
    await takeReceipt(t.context, {
      householdId: b.householdId,
      tenders: [{ tender: 'cash', amount: '20.00' }],
      key: key(),
    });
    expect((await readBatch(t.context, batchId)).changed).toHaveLength(1);
    const work = await send(batchId);
    const page = await readWork(t.context, work);
    expect(page.items[0]!.result).toMatch(/changed since it was drafted: 70\.00 then, 50\.00 now/);
    const [, second] = await pieces(batchId);
    expect(second).toMatchObject({ status: 'draft', amount: 7000 });
    await refreshPieces(t.context, { pieceIds: [second!.id] });
    await send(batchId);
    expect((await pieces(batchId))[1]).toMatchObject({ status: 'made', amount: 5000 });
    // A paper that is not out is a draft again when it is made anew; what is out is not.
    expect(await refreshPieces(t.context, { pieceIds: [second!.id] })).toBe(1);
    expect((await pieces(batchId))[1]).toMatchObject({ status: 'draft', amount: 5000 });
    await send(batchId);
    await confirmPrinted(t.context, { batchId });
    await expect(refreshPieces(t.context, { pieceIds: [second!.id] })).rejects.toThrow(/no draft any more/);
  });

  test('a stop, a hold, or paid in full in between: taken out with the reason', async () => {
    const [a, b, c] = [await owes(), await owes(), await owes('20.00')];
    const batchId = await draft([a.householdId, b.householdId, c.householdId]);
    const { choices } = await readMail(t.context, a.householdId);
    const attorney = choices.reasons.find(({ label }) => label === 'attorney')!;
    const stopId = await setStop(t.context, { householdId: a.householdId, reasonId: attorney.value });
    await setDelivery(t.context, {
      householdId: b.householdId,
      delivery: 'mail',
      holdUntil: TODAY,
      holdWhy: 'asked for it',
    });
    await takeReceipt(t.context, {
      householdId: c.householdId,
      tenders: [{ tender: 'cash', amount: '20.00' }],
      key: key(),
    });
    await send(batchId);
    expect((await pieces(batchId)).map(({ status, why }) => [status, why])).toEqual([
      ['taken-out', 'Not sent: stopped: attorney'],
      ['taken-out', 'Not sent: held until 16 Mar 2026: asked for it'],
      ['taken-out', 'Not sent: nothing is owed'],
    ]);
    await liftStop(t.context, { stopId, why: 'the attorney is gone' });
    await expect(liftStop(t.context, { stopId, why: 'again' })).rejects.toThrow(/lifted already/);
    await putBackPieces(t.context, { pieceIds: [(await pieces(batchId))[0]!.id] });
    await send(batchId);
    expect((await pieces(batchId))[0]!.status).toBe('made');
  });

  test('by e-mail and by print shop, answered by the outside; the same answers twice change nothing', async () => {
    const mailed = await owes('40.00', addDays(TODAY, -40), { email: 'nr@example.com' });
    const bounced = await owes('41.00', addDays(TODAY, -40), { email: 'bounce@example.com' });
    const shop = await owes('42.00', addDays(TODAY, -40), { first: 'Łukasz' });
    const vacant = await owes('43.00', addDays(TODAY, -40), { line1: '4 Vacant Street' });
    for (const { householdId } of [mailed, bounced])
      await setDelivery(t.context, { householdId, delivery: 'email' });
    for (const { householdId } of [shop, vacant])
      await setDelivery(t.context, { householdId, delivery: 'print-shop' });
    const batchId = await draft([mailed, bounced, shop, vacant].map(({ householdId }) => householdId));
    await send(batchId);
    const byHousehold = async (id: number) =>
      (await pieces(batchId)).findLast((piece) => piece.household_id === id && piece.status !== 'void')!;
    const counting = async (id: number) => {
      const { rows } = await sql<{ number: number }>`
        select p.number
        from statement s
          join mail_piece p on p.id = s.piece_id
        where s.household_id = ${id} and not exists (select 1 from statement_void v where v.statement_id = s.id)
        order by 1`.execute(t.db);
      return rows.map(({ number }) => number);
    };
    expect((await pieces(batchId)).every(({ status }) => status === 'sent')).toBe(true);
    const letters = inFolder('pelican/outbox');
    expect(letters).toHaveLength(2);
    const own = pieceName((await byHousehold(mailed.householdId)).id);
    const letter = readFileSync(join(folder, 'pelican/outbox', `${own}.eml`), 'latin1');
    expect(letter).toContain(`Message-ID: <${own}@example.com>`);
    expect(letter).toMatch(/Content-Type: application\/pdf/);
    expect(letter).not.toMatch(/99213|Office/);
    const [parcel] = inFolder('shoreline/outbox');
    const files = unzipSync(readFileSync(join(folder, 'shoreline/outbox', parcel!)));
    const index = new TextDecoder().decode(files['index.csv']);
    expect(Object.keys(files)).toHaveLength(3);
    expect(index).toContain(`Łukasz Tester`);
    const paper = Buffer.from(files[`${pieceName((await byHousehold(shop.householdId)).id)}.pdf`]!);
    expect(paper.equals((await readPiece(t.context, (await byHousehold(shop.householdId)).id)).bytes)).toBe(
      true,
    );

    await gatewayRound(join(folder, 'pelican'));
    await printShopRound(join(folder, 'shoreline'));
    await round();
    expect(await byHousehold(mailed.householdId)).toMatchObject({ status: 'sent', outcome: 'accepted' });
    expect(await byHousehold(bounced.householdId)).toMatchObject({ status: 'failed', outcome: 'bounced' });
    expect(await byHousehold(vacant.householdId)).toMatchObject({
      status: 'failed',
      outcome: 'undeliverable',
    });
    expect((await readMail(t.context, bounced.householdId)).emailReturned).toBe(TODAY);
    expect((await readMail(t.context, vacant.householdId)).addressReturned).toBe(TODAY);
    const followUps = () =>
      t.db
        .selectFrom('follow_up')
        .select(['household_id', 'words'])
        .where('kind', '=', 'returned-mail')
        .execute();
    expect(await followUps()).toHaveLength(2);
    // The next run leaves it out until the address is good again.
    const reasons = (await weighHouseholds(t.context, { rows: [] }, [bounced.householdId])).weighed[0]!
      .reasons;
    expect(reasons.map(({ id }) => id)).toEqual(['no-email', 'open-piece']);

    // Handed over again: the same pieces under their ids, so that nobody receives two; not what came back.
    expect(await sendAgain(t.context, { batchId })).toBe(2);
    await gatewayRound(join(folder, 'pelican'));
    await printShopRound(join(folder, 'shoreline'));
    await round();
    for (const name of ['pelican', 'shoreline']) {
      const lines = readFileSync(join(folder, name, 'delivered.jsonl'), 'utf8')
        .trim()
        .split('\n');
      // What came back was never delivered.
      expect(lines).toHaveLength(1);
    }
    expect(await statementsOf(mailed.householdId)).toHaveLength(1);
    expect(await followUps()).toHaveLength(2);

    // Another e-mail address, and what was marked is good again.
    const there = { ...(await readAccount(t.context, bounced.householdId)).household, sex: 'F' as const };
    await changePatient(t.context, {
      ...there,
      patientId: bounced.patientId,
      birthDate: '1980-01-01',
      email: 'found@example.com',
    });
    expect((await readMail(t.context, bounced.householdId)).emailReturned).toBeNull();
    // What came back goes out anew: another piece, and the old one does not count.
    await send(batchId);
    await gatewayRound(join(folder, 'pelican'));
    await round();
    expect(await byHousehold(bounced.householdId)).toMatchObject({ status: 'sent', outcome: 'accepted' });
    expect((await pieces(batchId)).filter(({ status }) => status === 'void')).toMatchObject([
      { household_id: bounced.householdId, why: expect.stringMatching(/goes out anew as number/) },
      { household_id: vacant.householdId },
    ]);
    expect(await statementsOf(bounced.householdId)).toHaveLength(2);
    expect(await counting(bounced.householdId)).toEqual([(await byHousehold(bounced.householdId)).number]);

    // What came back is printed here after all, or does not count.
    await printShopRound(join(folder, 'shoreline'));
    await round();
    await expect(confirmPrinted(t.context, { batchId })).rejects.toThrow(/waits to be printed/);
    await expect(batchPaper(t.context, { batchId, what: 'waiting' })).rejects.toThrow(/nothing to print/);
    expect(await printAnew(t.context, { batchId })).toEqual({ made: 1, left: [] });
    await expect(printAnew(t.context, { batchId })).rejects.toThrow(/Nothing of these came back/);
    const back = textOf((await batchPaper(t.context, { batchId, what: 'waiting' })).bytes);
    expect(back).toContain('1 statement in mailing order');
    await confirmPrinted(t.context, { batchId });
    expect(await byHousehold(vacant.householdId)).toMatchObject({ status: 'sent', delivery: 'mail' });
    expect(await counting(vacant.householdId)).toHaveLength(1);
  });

  test('sent anew it has a new date to pay by, and what changed meanwhile is looked at first', async () => {
    const [same, paid, stopped] = [
      await owes('51.00', addDays(TODAY, -40), { line1: '5 Vacant Street' }),
      await owes('52.00', addDays(TODAY, -40), { line1: '6 Vacant Street' }),
      await owes('53.00', addDays(TODAY, -40), { line1: '7 Vacant Street' }),
    ];
    const all = [same, paid, stopped];
    for (const { householdId } of all) await setDelivery(t.context, { householdId, delivery: 'print-shop' });
    const batchId = await draft(all.map(({ householdId }) => householdId));
    await send(batchId);
    await printShopRound(join(folder, 'shoreline'));
    await round();
    expect((await pieces(batchId)).map(({ status }) => status)).toEqual(['failed', 'failed', 'failed']);
    const later = { ...t.context, today: addDays(TODAY, 7) };
    await takeReceipt(later, {
      householdId: paid.householdId,
      tenders: [{ tender: 'cash', amount: '20.00' }],

      key: `anew-key-${batchId}`,
    });
    const { id: reasonId } = await t.db
      .selectFrom('stop_reason')
      .select('id')
      .where('name', '=', 'attorney')
      .executeTakeFirstOrThrow();
    await setStop(later, { householdId: stopped.householdId, reasonId });
    const { made, left } = await printAnew(later, { batchId });
    expect(made).toBe(1);
    expect(left).toEqual([
      expect.stringMatching(/52\.00 then, 32\.00 now/),
      expect.stringMatching(/Not sent again: stopped: attorney/),
    ]);
    const now = await t.db
      .selectFrom('mail_piece')
      .select(['household_id', 'status', 'date', 'due_date'])
      .where('batch_id', '=', batchId)
      .orderBy('number')
      .execute();
    expect(now.slice(3)).toEqual([
      {
        household_id: same.householdId,
        status: 'made',
        date: addDays(TODAY, 7),
        due_date: addDays(TODAY, 21),
      },
      expect.objectContaining({ household_id: paid.householdId, status: 'draft' }),
    ]);
    expect(now[2]).toMatchObject({ household_id: stopped.householdId, status: 'failed' });
  });

  test('a paper that waits to be printed is weighed when it leaves: paid, in part or whole, stopped, or as it was', async () => {
    const [same, paid, stopped, part] = [
      await owes('61.00'),
      await owes('62.00'),
      await owes('63.00'),
      await owes('64.00'),
    ];
    const batchId = await draft([same, paid, stopped, part].map(({ householdId }) => householdId));
    await send(batchId);
    expect((await pieces(batchId)).map(({ status }) => status)).toEqual(Array(4).fill('made'));
    expect((await readBatch(t.context, batchId)).notAsMade).toEqual([]);
    for (const [{ householdId }, amount] of [
      [paid, '62.00'],
      [part, '24.00'],
    ] as const)
      await takeReceipt(t.context, {
        householdId,
        tenders: [{ tender: 'cash', amount }],

        key: `made-key-${batchId}-${amount}`,
      });
    const { id: reasonId } = await t.db
      .selectFrom('stop_reason')
      .select('id')
      .where('name', '=', 'bankrupt')
      .executeTakeFirstOrThrow();
    await setStop(t.context, { householdId: stopped.householdId, reasonId });
    expect((await readBatch(t.context, batchId)).notAsMade.map(({ words }) => words)).toEqual([
      expect.stringMatching(/^No\. 2, A-\d+: nothing is owed/),
      expect.stringMatching(/^No\. 3, A-\d+: stopped: bankrupt/),
      expect.stringMatching(/^No\. 4, A-\d+: 64\.00 then, 40\.00 now$/),
    ]);
    // What is opened to print leaves them out; who says that all went is asked first.
    const paper = textOf((await batchPaper(t.context, { batchId, what: 'waiting' })).bytes);
    expect(paper).toContain('1 statement in mailing order');
    await expect(confirmPrinted(t.context, { batchId })).rejects.toMatchObject({
      doubts: [expect.stringMatching(/^3 pieces are not as made: No\. 2/)],
    });
    expect((await pieces(batchId)).map(({ status }) => status)).toEqual(Array(4).fill('made'));
    await confirmPrinted(t.context, { batchId, from: 1, to: 1 });
    await confirmPrinted(t.context, { batchId, sure: true });
    expect((await pieces(batchId)).map(({ status }) => status)).toEqual(Array(4).fill('sent'));
  });

  test('made and sent once more before it left: what changed is a draft again, what is stopped is taken out', async () => {
    const [paid, stopped] = [await owes('71.00'), await owes('72.00')];
    const batchId = await draft([paid, stopped].map(({ householdId }) => householdId));
    await send(batchId);
    await takeReceipt(t.context, {
      householdId: paid.householdId,
      tenders: [{ tender: 'cash', amount: '11.00' }],

      key: `again-key-${batchId}`,
    });
    await setDelivery(t.context, {
      householdId: stopped.householdId,
      delivery: 'none',
      deliveryWhy: 'asked',
    });
    for (const { id } of await pieces(batchId)) await inTransaction(t.context, (act) => makePiece(act, id));
    expect(await pieces(batchId)).toMatchObject([
      { status: 'draft', why: 'changed since it was drafted: 71.00 then, 60.00 now' },
      { status: 'taken-out' },
    ]);
  });

  test('answers for a stranger’s piece, from the wrong side, or cut off change nothing', async () => {
    const { householdId } = await owes();
    const batchId = await draft([householdId]);
    await send(batchId);
    await confirmPrinted(t.context, { batchId });
    const [piece] = await pieces(batchId);
    const put = (text: string): void => writeFileSync(join(folder, 'shoreline/inbox', `${key()}.csv`), text);
    put(
      writeAnswers([
        { what: 'piece', id: piece!.id, result: 'undeliverable', words: 'x' },
        { what: 'piece', id: 99_999_999, result: 'accepted', words: '' },
      ]),
    );
    put(
      writeAnswers([{ what: 'piece', id: piece!.id, result: 'accepted', words: '' }]).replace(/end,.*\n/, ''),
    );
    const { read } = await round();
    expect(read.map(({ status }) => status).sort()).toEqual(['read', 'set aside']);
    const outcomes = read.flatMap((file) => file.outcomes);
    expect(outcomes.map(({ result }) => result)).toEqual(['refused', 'refused', 'refused']);
    expect((await pieces(batchId))[0]).toMatchObject({ status: 'sent', outcome: '' });
  });

  test('voided: it does not count, the household is free, and everybody sees it', async () => {
    const { householdId, chargeId } = await owes();
    const batchId = await draft([householdId]);
    await send(batchId);
    await confirmPrinted(t.context, { batchId });
    const [piece] = await pieces(batchId);
    const recent: SelectionRow[] = [{ side: 'take', what: 'last-older', number: 5 }];
    const isIn = async () =>
      (await weighHouseholds(t.context, { rows: recent }, [householdId])).weighed[0]!.in;
    expect(await isIn()).toBe(false);
    await expect(voidPieces(t.context, { pieceIds: [piece!.id], why: '' })).rejects.toThrow(/Say why/);
    await voidPieces(t.context, { pieceIds: [piece!.id], why: 'the printer had no ink' });
    expect(await isIn()).toBe(true);
    expect(await statementsOf(householdId)).toHaveLength(1);
    const sent = await readList(t.context, 'statements', { view: 'void' });
    expect(sent.rows[0]).toMatchObject({ householdId, outcome: 'not sent: the printer had no ink' });
    await expect(voidPieces(t.context, { pieceIds: [piece!.id], why: 'again' })).rejects.toThrow(
      /is no paper/,
    );
    // Past due counts what was sent and not voided.
    const later = { ...t.context, today: addDays(TODAY, 60) };
    const again = await draft([householdId], later);
    const { content } = await t.db
      .selectFrom('mail_piece')
      .select('content')
      .where('batch_id', '=', again)
      .executeTakeFirstOrThrow();
    expect(content).toMatchObject({ value: { pastDue: 0, shows: [{ chargeId }] } });
  });

  test('past due on the next statement, and a returned check gives the age back', async () => {
    const { householdId } = await owes('90.00');
    const first = await draft([householdId]);
    await send(first);
    await confirmPrinted(t.context, { batchId: first });
    const later = { ...t.context, today: addDays(TODAY, 25) };
    const past = async (): Promise<unknown> => {
      const batchId = await draft([householdId], later);
      const [piece] = await pieces(batchId);
      const { content } = await t.db
        .selectFrom('mail_piece')
        .select('content')
        .where('id', '=', piece!.id)
        .executeTakeFirstOrThrow();
      await takeOutPieces(t.context, { pieceIds: [piece!.id], why: 'only looked' });
      return (content as { value: { pastDue: number } }).value.pastDue;
    };
    expect(await past()).toBe(9000);
    const { receiptId } = await takeReceipt(t.context, {
      householdId,
      tenders: [{ tender: 'check', amount: '40.00', reference: '77' }],

      key: key(),
    });
    expect(await past()).toBe(5000);
    await reverseReceipt(t.context, { receiptId, why: 'returned by the bank' });
    expect(await past()).toBe(9000);
  });

  test('a note for the patient prints so many times, on statements that count', async () => {
    const { householdId } = await owes();
    await addNote(t.context, {
      householdId,
      audience: 'patient',
      words: 'Only once.',
      times: 1,
      key: key(),
    });
    const endless = { householdId, audience: 'patient', words: 'x', key: key() } as const;
    await expect(addNote(t.context, endless)).rejects.toThrow(/how many times/);
    const printed = async (): Promise<boolean> => {
      const id = await prepareStatement(t.context, { householdId, key: key() });
      return textOf((await readStatement(t.context, id)).bytes).includes('Only once.');
    };
    expect(await printed()).toBe(true);
    await charge(
      t,
      t.context,
      (
        await t.db
          .selectFrom('patient')
          .select('id')
          .where('household_id', '=', householdId)
          .executeTakeFirstOrThrow()
      ).id,
      '5.00',
    );
    expect(await printed()).toBe(false);
  });

  test('two people send one batch at once; stopped and gone on with: each piece is out once', async () => {
    const all = [];
    for (let index = 0; index < 12; index += 1) {
      const one = await owes('15.00', addDays(TODAY, -40), { email: `nr${index}@example.com` });
      await setDelivery(t.context, { householdId: one.householdId, delivery: 'email' });
      all.push(one.householdId);
    }
    const batchId = await draft(all);
    const one = await startSendingBatch(t.context, { batchId });
    const two = await startSendingBatch(t.as('biller'), { batchId });
    expect(two).not.toBe(one);
    await stopWork(t.context, { workId: one });
    await runWork(t.db, one, log);
    expect((await pieces(batchId)).every(({ status }) => status === 'draft')).toBe(true);
    await resumeWork(t.context, { workId: one });
    await Promise.all([finishWork(t.db, one, log), finishWork(t.db, two, log)]);
    expect((await pieces(batchId)).every(({ status }) => status === 'sent')).toBe(true);
    for (const id of all) expect(await statementsOf(id)).toHaveLength(1);
    await gatewayRound(join(folder, 'pelican'));
    const delivered = readFileSync(join(folder, 'pelican', 'delivered.jsonl'), 'utf8')
      .trim()
      .split('\n');
    const names = new Set((await pieces(batchId)).map(({ id }) => id));
    expect(delivered.filter((line) => names.has((JSON.parse(line) as { id: number }).id))).toHaveLength(12);
  });

  test('no print shop in Setup, an address without a street: failed with why, and sent when it is mended', async () => {
    const { householdId } = await owes();
    await t.pool.query(`update household set line1 = '' where id = $1`, [householdId]);
    const batchId = await draft([householdId]);
    await send(batchId);
    expect((await pieces(batchId))[0]).toMatchObject({ status: 'failed', why: 'The address is incomplete' });
    await t.pool.query(`update household set line1 = '9 New Street' where id = $1`, [householdId]);
    await send(batchId);
    expect((await pieces(batchId))[0]).toMatchObject({ status: 'made', why: '' });
    await expect(startSendingBatch(t.context, { batchId })).rejects.toThrow(/Nothing of this batch/);
    await expect(startSendingBatch(t.context, { batchId: 999_999 })).rejects.toThrow(/Nothing of this batch/);
  });

  test('a stop holds back also what was made and what came back', async () => {
    const one = await owes('120.00', addDays(TODAY, -40), { email: 'bounce2@example.com' });
    await setDelivery(t.context, { householdId: one.householdId, delivery: 'email' });
    const batchId = await draft([one.householdId]);
    await send(batchId);
    await gatewayRound(join(folder, 'pelican'));
    await round();
    const [attorney] = (await readMail(t.context, one.householdId)).choices.reasons;
    await setStop(t.context, { householdId: one.householdId, reasonId: attorney!.value });
    const page = await readWork(t.context, await send(batchId));
    expect(page.items[0]!.result).toMatch(/^Not sent again: stopped/);
    expect((await pieces(batchId))[0]).toMatchObject({ status: 'failed', outcome: 'bounced' });
    expect(inFolder('pelican/outbox')).toEqual([]);
  });
});

describe('messages and late charges', () => {
  const policy = (values: Record<string, unknown>) =>
    t.db.updateTable('statement_policy').set(values).where('location_id', 'is', null).execute();

  test('the first messages whose conditions hold stand on the statement; a wrong variable is refused at its place', async () => {
    await policy({ messages: 1 });
    await t.db.updateTable('statement_message').set({ active: false }).execute();
    const add = (values: Record<string, string>) =>
      saveSetup(t.context, {
        table: 'statement-messages',
        values: {
          name: 'Test',
          due: 'any',
          insured: 'any',
          on_plan: 'any',
          active: true as never,
          ...values,
        },
      });
    await expect(add({ position: '1', words: 'Pay {amuont due} now' })).rejects.toThrow(
      'There is no variable {amuont due}, at letter 5',
    );
    await add({ position: '2', words: 'Old: {oldest days} days.', age_from: '60' });
    await add({ position: '3', words: 'Thank you, {guarantor}.' });
    const [old, fresh] = [await owes('70.00', addDays(TODAY, -61)), await owes('70.00', addDays(TODAY, -5))];
    const printed = async (householdId: number): Promise<string> =>
      textOf(
        (await readStatement(t.context, await prepareStatement(t.context, { householdId, key: key() })))
          .bytes,
      );
    expect(await printed(old.householdId)).toContain('Old: 61 days.');
    expect(await printed(old.householdId)).not.toContain('Thank you,');
    expect(await printed(fresh.householdId)).toMatch(/Thank you, Nr\d+ Tester\./);
    expect(await previewWords(t.context, { householdId: old.householdId, words: '{amount due}' })).toBe(
      '70.00',
    );
    await expect(previewWords(t.context, { householdId: old.householdId, words: '{x}' })).rejects.toThrow(
      /no variable \{x\}/,
    );
  });

  test('late charges: on what is past due alone, once a period, never on late charges, spared with the reason', async () => {
    await policy({ late_kind: 'yearly', late_rate: 1200, late_least: 0, late_most: null, grace_days: 10 });
    const one = await owes('200.00');
    const [stopped, off] = [await owes('200.00'), await owes('200.00')];
    const ids = [one, stopped, off].map(({ householdId }) => householdId);
    const batchId = await draft(ids);
    await send(batchId);
    await confirmPrinted(t.context, { batchId });
    // Due on the 30th of March, past due from the 10th of April.
    const on = (days: number): Context => ({ ...t.context, today: addDays(TODAY, days) });
    expect(await readLate(on(24), ids)).toEqual([]);
    expect((await readLate(on(25), ids))[0]).toMatchObject({ pastDue: 20_000, since: addDays(TODAY, 25) });
    const dispute = (await readMail(t.context, stopped.householdId)).choices.reasons.find(
      ({ label }) => label === 'dispute',
    )!;
    await setStop(t.context, { householdId: stopped.householdId, reasonId: dispute.value });
    await setDelivery(t.context, { householdId: off.householdId, delivery: 'mail', lateCharges: false });
    // Thirty days with the first: 200.00 at 12 % is 1.97.
    const rows = await readLate(on(54), ids);
    expect(rows.map(({ amount, spared }) => [amount, spared])).toEqual([
      [197, ''],
      [0, 'stopped: dispute'],
      [0, 'switched off for the account'],
    ]);
    const post = { householdIds: ids, key: key() };
    const [first, second] = await Promise.all([postLate(on(54), post), postLate(on(54), post)]);
    expect(first).toEqual({ count: 1, amount: 197 });
    expect(second).toEqual(first);
    await expect(postLate(on(54), { ...post, key: key() })).rejects.toThrow(/None of these/);
    await expect(postLate(t.as('front-desk'), { ...post, key: key() })).rejects.toThrow(
      /may not enter charges/,
    );
    expect((await readLate(on(60), ids))[0]).toMatchObject({
      amount: 0,
      spared: expect.stringMatching(/the last one/),
    });
    // A month later again for 30 days, and not on the late charge itself.
    expect((await readLate(on(84), ids))[0]).toMatchObject({ amount: 197 });
    const [late] = await t.db
      .selectFrom('charge')
      .select(['id', 'description'])
      .where('household_id', '=', one.householdId)
      .where('kind', '=', 'late')
      .execute();
    expect(late!.description).toBe('Late charge on 200.00 past due since 10 Apr 2026, 12 % a year by days');
    const { charges } = await readStory(on(54), one.householdId);
    expect(charges.at(-1)!.sentences[0]!.words).toContain('1.97 came on the account: Late charge on 200.00');
    await voidCharge(on(55), { chargeId: late!.id, why: 'as a courtesy' });
    // Given back by us, it is not proposed again at once, but a period later.
    expect((await readLate(on(55), ids))[0]).toMatchObject({
      amount: 0,
      spared: expect.stringMatching(/the last one/),
    });
    expect((await readLate(on(82), ids))[0]!.amount).toBe(0);
    expect((await readLate(on(90), ids))[0]!.amount).toBeGreaterThan(0);
  });
});

describe('the database refuses', () => {
  test('a piece that was sent is never changed, deleted, or sent from nowhere', async () => {
    const { householdId } = await owes();
    const batchId = await draft([householdId]);
    await send(batchId);
    await confirmPrinted(t.context, { batchId });
    const [piece] = await pieces(batchId);
    for (const change of [
      `update mail_piece set amount = 1 where id = ${piece!.id}`,
      `update mail_piece set content = '{}' where id = ${piece!.id}`,
      `update mail_piece set status = 'draft' where id = ${piece!.id}`,
      `delete from mail_piece where id = ${piece!.id}`,
      `update statement set amount = 1 where piece_id = ${piece!.id}`,
      `delete from statement_charge`,
      `update document set pages = 9`,
      `
        insert into mail_piece (household_id, delivery, status, amount, date, due_date, options, content)
        values (${householdId}, 'mail', 'sent', 1, '2026-03-16', '2026-03-16', '{}', '{}')`,
    ])
      await expect(t.pool.query(change)).rejects.toThrow(
        /never changed|never deleted|does not become|violates check/,
      );
  });

  test('two open pieces of one household', async () => {
    const { householdId } = await owes();
    await draft([householdId]);
    const insert = `
      insert into mail_piece (household_id, delivery, amount, date, due_date, options, content)
      values (${householdId}, 'mail', 1, '2026-03-16', '2026-03-16', '{}', '{}')`;
    await expect(t.pool.query(insert)).rejects.toThrow(/one_open_piece/);
  });

  test('and the books are proven after all of it', async () => {
    for (const { faults } of await checkBooks(t.db)) expect(faults).toEqual([]);
  });
});

test('drafts are prepared some at a time: a payment waits for nobody whose draft is prepared, and who paid before gets none', async () => {
  const people = [];
  for (let n = 0; n < 50; n += 1) people.push(await owes());
  const category = key();
  await t.db.insertInto('account_category').values({ name: category }).execute();
  const ids = people.map(({ householdId }) => householdId);
  await t.db.updateTable('household').set({ category }).where('id', 'in', ids).execute();
  const rows: SelectionRow[] = [{ side: 'take', what: 'category', choices: [category] }];
  const { batchId, workId, pieces } = await startDrafting(t.context, { rows, title: '', key: key() });
  expect(pieces).toBe(50);
  // While they wait to be prepared nobody else prepares them.
  await expect(startDrafting(t.context, { rows, title: '', key: key() })).rejects.toThrow(/Somebody else/);
  const drafted = async (): Promise<number[]> =>
    (
      await t.db
        .selectFrom('mail_piece')
        .select('household_id')
        .where('batch_id', '=', batchId)
        .orderBy('number')
        .execute()
    ).map(({ household_id }) => household_id);
  const lots = (
    await t.db
      .selectFrom('work_item')
      .select('subject')
      .where('work_id', '=', workId)
      .orderBy('number')
      .execute()
  ).map(({ subject }) => subject.replace('statement:', '').split(',').map(Number));
  expect(lots.map((lot) => lot.length)).toEqual([40, 10]);
  const [held, paid] = lots[1]!;
  // Paid before its turn: it gets none.
  await takeReceipt(t.context, {
    householdId: paid!,
    tenders: [{ tender: 'cash', amount: '120.00' }],
    key: key(),
  });
  // Somebody works on an account of the second lot, which waits for it.
  const gate = await t.pool.connect();
  await gate.query('begin');
  await gate.query(`select 1 from household where id = ${held} for update`);
  const working = finishWork(t.db, workId, log);
  try {
    while ((await drafted()).length < 40) await new Promise((resolve) => setTimeout(resolve, 20));
    // Whose draft is prepared pays at once, though others are still being prepared.
    await takeReceipt(t.context, {
      householdId: lots[0]![0]!,
      tenders: [{ tender: 'cash', amount: '120.00' }],
      key: key(),
    });
    expect(await drafted()).toEqual(lots[0]);
  } finally {
    await gate.query('rollback');
    gate.release();
  }
  await working;
  expect(await drafted()).toEqual(lots.flat().filter((id) => id !== paid));
  const { status, fault } = await t.db
    .selectFrom('work')
    .select(['status', 'fault'])
    .where('id', '=', workId)
    .executeTakeFirstOrThrow();
  expect([status, fault]).toEqual(['finished', '']);
});
