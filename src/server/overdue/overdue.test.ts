/** What is overdue: the list by its record, letters from draft to sent, contacts with their limits, promises, small balances. */
import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { sql } from 'kysely';
import pino from 'pino';
import { type CalendarDate, addDays } from '../../core/calendar';
import { TODAY, type TestDatabase, testDatabase } from '../../testing/database';
import { charge, decided, household, intake, overdueOf, remitText, sentClaim } from '../../testing/desk';
import { type Context, Doubtful, NotAllowed, Refused } from '../access';
import { checkBooks } from '../books/check';
import { foldersOf } from '../folders';
import { runWork } from '../jobs/run';
import { startSendingBatch } from '../jobs/work';
import { findList } from '../lists/read';
import { reverseReceipt } from '../payments/receipts';
import { takeReceipt } from '../payments/take';
import { acceptPlan, proposePlan } from '../plans/agree';
import { postRemittance } from '../remittances/post';
import { confirmPrinted, voidPieces } from '../batches/again';
import { addHousehold, editPieces, putBackPieces, refreshPieces, takeOutPieces } from '../batches/drafts';
import { setConfidential } from '../accounts/confidential';
import { liftStop, setStop } from '../accounts/stops';
import { setDelivery } from '../statements/household';
import { prepareStatement } from '../statements/prepare';
import { readPiece } from '../statements/read';
import {
  assignOverdue,
  callsNow,
  endPromise,
  logContact,
  readContacts,
  voidContact,
  watchPromises,
  workers,
} from './contacts';
import { readOverdue, readPaidHistory } from './facts';
import { askHardship, decideHardship, readHardships } from './hardship';
import { draftLetters } from './due-letters';
import { previewLetter, readLetters, saveLetter } from './letters';
import { type OverdueRow, weighOverdue } from './list';
import { undoWriteOff } from '../follow-ups/undo';
import { writeOffSmall } from './small';

let t: TestDatabase;
let folder: string;
let serial = 0;
const key = (): string => `overdue-${(serial += 1)}-test`;
const quiet = pino({ level: 'silent' });
const on = (day: CalendarDate): Context => ({ ...t.context, today: day });

beforeAll(async () => {
  t = await testDatabase();
  folder = process.env.WERGELD_EXCHANGE!;
  for (const name of ['shoreline', 'pelican']) await foldersOf(name);
});
afterAll(async () => {
  for (const { id, faults } of await checkBooks(t.db)) expect({ id, faults }).toEqual({ id, faults: [] });
  await t.close();
});

const outlook = async (householdId: number, day = TODAY): Promise<OverdueRow['outlook'] | undefined> =>
  (await weighOverdue(on(day), [householdId])).find(({ patientId }) => patientId === null)?.outlook;
const pay = (householdId: number, amount: string, day = TODAY) =>
  takeReceipt(on(day), { householdId, tenders: [{ tender: 'cash', amount }], key: key() });
/** Sends a batch as a job process would. */
async function send(batchId: number, day = TODAY): Promise<void> {
  await runWork(t.db, await startSendingBatch(on(day), { batchId }), quiet);
}
/** A letter that goes out on a day. */
async function letterOn(householdId: number, day: CalendarDate): Promise<number> {
  const { batchId } = await draftLetters(on(day), { householdIds: [householdId], key: key() });
  await send(batchId!, day);
  await confirmPrinted(on(day), { batchId: batchId! });
  return batchId!;
}
const pieceOf = (batchId: number) =>
  t.db
    .selectFrom('mail_piece')
    .selectAll()
    .where('batch_id', '=', batchId)
    .orderBy('number')
    .executeTakeFirstOrThrow();

describe('who is past due', () => {
  test('from the day after due date and grace of the first statement that shows it', async () => {
    // Fourteen days to pay and ten of grace: a statement of day 0 is past due on day 25.
    const { householdId } = await overdueOf(t, { ago: 24 });
    expect(await outlook(householdId)).toBeUndefined();
    expect(await outlook(householdId, addDays(TODAY, 1))).toMatchObject({ daysPastDue: 1, pastDue: 24_000 });
    const [row] = await readOverdue(on(addDays(TODAY, 1)), [householdId]);
    expect(row).toMatchObject({ patientId: null, facts: { letters: [], promise: null } });
  });

  test('a payment lowers it, all of it takes it off, a reversal brings it back with its age', async () => {
    const { householdId } = await overdueOf(t);
    await pay(householdId, '40.00');
    expect(await outlook(householdId)).toMatchObject({
      pastDue: 20_000,
      spared: [{ id: 'recent-payment' }],
    });
    const { receiptId } = await pay(householdId, '200.00');
    expect(await outlook(householdId)).toBeUndefined();
    await reverseReceipt(t.context, { receiptId, why: 'returned check' });
    expect(await outlook(householdId)).toMatchObject({ pastDue: 20_000, daysPastDue: 36 });
  });

  test('what goes to a confidential address stands apart, and its letter too', async () => {
    const { householdId, patientId } = await overdueOf(t);
    await setConfidential(t.context, {
      patientId,
      name: 'Ida Tester',
      line1: '9 Quiet Lane',
      city: 'Osprey Landing',
      state: 'WA',
      zip: '98199',
    });
    const rows = await weighOverdue(t.context, [householdId]);
    expect(rows.map((row) => row.patientId)).toEqual([patientId]);
    const { batchId } = await draftLetters(t.context, { householdIds: [householdId], key: key() });
    expect(await pieceOf(batchId!)).toMatchObject({ patient_id: patientId });
    await takeOutPieces(t.context, { pieceIds: [(await pieceOf(batchId!)).id], why: 'test' });
  });

  test('the list shows the same, by its views, and sums it', async () => {
    const { householdId } = await overdueOf(t, { fee: '777.77' });
    const found = await findList(t.context, 'overdue', { view: 'letters', search: 'Tester', pageSize: 500 });
    const row = found.rows.find(({ id }) => id === householdId)!;
    expect(row).toMatchObject({
      pastDue: 77_777,
      days: 36,
      action: 'letter',
      why: 'First reminder',
      minutes: 2,
    });
    expect(row.a1).toBe(77_777);
    expect(found.sums.pastDue).toBe(found.rows.reduce((all, one) => all + one.pastDue, 0));
    await setStop(t.context, { householdId, reasonId: await reason('attorney') });
    const spared = await findList(t.context, 'overdue', { view: 'spared', pageSize: 500 });
    expect(spared.rows.find(({ id }) => id === householdId)?.why).toBe('stopped: attorney');
    const work = await findList(t.context, 'overdue', { view: 'work', pageSize: 500 });
    expect(work.rows.map(({ id }) => id)).not.toContain(householdId);
  });

  test('claims out and plans in good order spare', async () => {
    const { householdId } = await overdueOf(t);
    expect(await outlook(householdId)).toMatchObject({ spared: [] });
    const { claim } = await sentClaim(t);
    // A claim of the same household: what matters is that it is out.
    const move = (id: number) =>
      sql`update claim set household_id = ${id} where id = ${claim.id}`.execute(t.owner);
    await move(householdId);
    expect(await outlook(householdId)).toMatchObject({
      spared: [{ id: 'claims', words: '1 claim is out' }],
    });
    await move(claim.household_id);
    const planId = await proposePlan(t.context, {
      householdId,
      amount: '150.00',
      installments: 3,
      first: addDays(TODAY, 30),
      key: key(),
    });
    await acceptPlan(t.context, { planId, signedBy: 'Nr Tester' });
    expect(await outlook(householdId)).toMatchObject({ pastDue: 9000, spared: [{ id: 'plan' }] });
  });
});

const reason = async (name: string): Promise<number> =>
  (await t.db.selectFrom('stop_reason').select('id').where('name', '=', name).executeTakeFirstOrThrow()).id;

describe('letters', () => {
  test('are prepared, sent, kept byte for byte; the stage follows, and none is skipped', async () => {
    const { householdId } = await overdueOf(t);
    const { batchId, pieces, left } = await draftLetters(t.context, {
      householdIds: [householdId],
      key: key(),
    });
    expect({ pieces, left }).toEqual({ pieces: 1, left: [] });
    expect(await outlook(householdId)).toMatchObject({ action: 'wait', why: /prepared/ as never });
    const draft = await pieceOf(batchId!);
    expect(draft).toMatchObject({ kind: 'letter', status: 'draft', amount: 24_000, due_date: TODAY });
    const paper = await readPiece(t.context, draft.id);
    expect(paper.name).toMatch(/^letter-A-\d+-2026-03-16\.pdf$/);
    await send(batchId!);
    const made = await pieceOf(batchId!);
    expect(made).toMatchObject({ status: 'made', pages: 1 });
    expect(await outlook(householdId)).toMatchObject({ stage: null });
    await confirmPrinted(t.context, { batchId: batchId! });
    const sent = await readPiece(t.context, draft.id);
    await confirmPrinted(t.context, { batchId: batchId! }).catch(() => undefined);
    expect((await readPiece(t.context, draft.id)).bytes.equals(sent.bytes)).toBe(true);
    expect(await outlook(householdId)).toMatchObject({
      stage: { position: 1 },
      next: { position: 2 },
      action: 'wait',
      on: addDays(TODAY, 14),
    });
    const letter = await t.db
      .selectFrom('letter')
      .selectAll()
      .where('household_id', '=', householdId)
      .executeTakeFirstOrThrow();
    expect(letter).toMatchObject({ position: 1, amount: 24_000, date: TODAY });
    await letterOn(householdId, addDays(TODAY, 14));
    expect(await outlook(householdId, addDays(TODAY, 30))).toMatchObject({
      stage: { position: 2 },
      next: { position: 3 },
    });
    await letterOn(householdId, addDays(TODAY, 30));
    expect(await outlook(householdId, addDays(TODAY, 60))).toMatchObject({ next: null, action: 'agency' });
  });

  test('pressed twice under one key one batch, under two keys the second takes nobody', async () => {
    const { householdId } = await overdueOf(t);
    const same = key();
    const [a, b] = await Promise.all([
      draftLetters(t.context, { householdIds: [householdId], key: same }),
      draftLetters(t.context, { householdIds: [householdId], key: same }),
    ]);
    expect(a).toEqual(b);
    const other = draftLetters(t.context, { householdIds: [householdId], key: key() });
    await expect(other).rejects.toThrow(/prepared/);
  });

  test('two at once under two keys prepare one letter', async () => {
    const { householdId } = await overdueOf(t);
    const both = await Promise.allSettled([
      draftLetters(t.context, { householdIds: [householdId], key: key() }),
      draftLetters(t.context, { householdIds: [householdId], key: key() }),
    ]);
    expect(both.filter(({ status }) => status === 'fulfilled')).toHaveLength(1);
    const pieces = await t.db
      .selectFrom('mail_piece')
      .select('id')
      .where('household_id', '=', householdId)
      .where('kind', '=', 'letter')
      .execute();
    expect(pieces).toHaveLength(1);
  });

  test('paid, stopped or promised after the draft: it does not go out, and says why', async () => {
    const cases: [string, (id: number) => Promise<unknown>, RegExp][] = [
      ['paid', (id) => pay(id, '240.00'), /nothing is past due/],
      [
        'stopped',
        async (id) => setStop(t.context, { householdId: id, reasonId: await reason('deceased') }),
        /stopped: deceased/,
      ],
      ['promised', (id) => promise(id, '50.00', addDays(TODAY, 5)), /promised 50.00/],
      [
        'no mail',
        (id) => setDelivery(t.context, { householdId: id, delivery: 'none', deliveryWhy: 'asked so' }),
        /gets no mail: asked so/,
      ],
    ];
    for (const [, change, why] of cases) {
      const { householdId } = await overdueOf(t);
      const { batchId } = await draftLetters(t.context, { householdIds: [householdId], key: key() });
      await change(householdId);
      await send(batchId!);
      expect(await pieceOf(batchId!)).toMatchObject({
        status: 'taken-out',
        why: expect.stringMatching(why) as string,
      });
    }
    expect(
      await t.db.selectFrom('letter').select('piece_id').where('date', '>', addDays(TODAY, 100)).execute(),
    ).toEqual([]);
  });

  test('a part paid after the draft: it stays a draft, is made anew, and then goes', async () => {
    await t.db.updateTable('overdue_policy').set({ recent_days: 0 }).execute();
    const { householdId } = await overdueOf(t);
    const { batchId } = await draftLetters(t.context, { householdIds: [householdId], key: key() });
    await pay(householdId, '40.00');
    await send(batchId!);
    const changed = await pieceOf(batchId!);
    expect(changed).toMatchObject({
      status: 'draft',
      why: 'changed since it was drafted: 240.00 then, 200.00 now',
    });
    await refreshPieces(t.context, { pieceIds: [changed.id] });
    expect(await pieceOf(batchId!)).toMatchObject({ amount: 20_000, why: '' });
    await send(batchId!);
    expect(await pieceOf(batchId!)).toMatchObject({ status: 'made' });
    await t.db.updateTable('overdue_policy').set({ recent_days: 28 }).execute();
  });

  test('taken out and put back; its words are not changed in the batch, nobody is added', async () => {
    const { householdId } = await overdueOf(t);
    const { batchId } = await draftLetters(t.context, { householdIds: [householdId], key: key() });
    const { id } = await pieceOf(batchId!);
    await expect(editPieces(t.context, { pieceIds: [id], note: 'x' })).rejects.toThrow(/template/);
    await editPieces(t.context, { pieceIds: [id], delivery: 'print-shop' });
    await expect(addHousehold(t.context, { batchId: batchId!, householdId })).rejects.toThrow(
      /list of what is overdue/,
    );
    await takeOutPieces(t.context, { pieceIds: [id], why: 'not now' });
    expect(await outlook(householdId)).toMatchObject({ action: 'letter' });
    await putBackPieces(t.context, { pieceIds: [id] });
    await takeOutPieces(t.context, { pieceIds: [id], why: 'not now' });
    await pay(householdId, '240.00');
    await expect(putBackPieces(t.context, { pieceIds: [id] })).rejects.toThrow(/nothing is past due/);
  });

  test('one that never reached anybody does not count: the stage is the one before', async () => {
    const { householdId } = await overdueOf(t);
    const batchId = await letterOn(householdId, TODAY);
    expect(await outlook(householdId)).toMatchObject({ stage: { position: 1 } });
    await voidPieces(t.context, { pieceIds: [(await pieceOf(batchId)).id], why: 'the printer ate it' });
    expect(await outlook(householdId)).toMatchObject({ stage: null, action: 'letter' });
  });

  test('by print shop and e-mail, with nothing of anybody’s health in the e-mail', async () => {
    const mailed = await overdueOf(t, { more: { email: 'letter@example.com' } });
    await setDelivery(t.context, { householdId: mailed.householdId, delivery: 'email' });
    const printed = await overdueOf(t);
    await setDelivery(t.context, { householdId: printed.householdId, delivery: 'print-shop' });
    const { batchId } = await draftLetters(t.context, {
      householdIds: [mailed.householdId, printed.householdId],
      key: key(),
    });
    await send(batchId!);
    const pieces = await t.db
      .selectFrom('mail_piece')
      .select(['id', 'status', 'delivery'])
      .where('batch_id', '=', batchId!)
      .execute();
    expect(pieces.map(({ status }) => status)).toEqual(['sent', 'sent']);
    const letter = pieces.find(({ delivery }) => delivery === 'email')!;
    const text = readFileSync(
      join(folder, 'pelican/outbox', `P${String(letter.id).padStart(8, '0')}.eml`),
      'utf8',
    );
    expect(text).toContain('A letter from');
    expect(text).not.toMatch(/99213|Office visit/);
    expect(readdirSync(join(folder, 'shoreline/outbox')).some((name) => name.endsWith('.zip'))).toBe(true);
  });

  test('whom they cannot reach is left out with the reason', async () => {
    const { householdId } = await overdueOf(t);
    await t.owner
      .updateTable('household')
      .set({ address_returned: TODAY })
      .where('id', '=', householdId)
      .execute();
    const asked = draftLetters(t.context, { householdIds: [householdId], key: key() });
    await expect(asked).rejects.toThrow(/mail came back/);
  });
});

describe('the words of letters', () => {
  test('have versions: what was sent keeps its own, the same words make none', async () => {
    const [first] = await readLetters(t.context);
    const { id, name, active, subject, blocks, version, number } = first!;
    await saveLetter(t.context, { templateId: id, name, active, subject, blocks, version });
    expect((await readLetters(t.context))[0]).toMatchObject({ number });
    const changed = [...blocks.slice(0, -1), { kind: 'paragraph' as const, text: 'P.S. {practice}' }];
    await saveLetter(t.context, { templateId: id, name, active, subject, blocks: changed });
    const now = (await readLetters(t.context))[0]!;
    expect(now).toMatchObject({ number: number + 1, blocks: changed, stages: ['First reminder'] });
    const used = await t.db
      .selectFrom('letter')
      .select('version_id')
      .where('position', '=', 1)
      .executeTakeFirstOrThrow();
    expect(used.version_id).not.toBe(now.versionId);
    await expect(
      t.owner.updateTable('letter_version').set({ subject: 'x' }).where('id', '=', used.version_id).execute(),
    ).rejects.toThrow();
    await saveLetter(t.context, { templateId: id, name, active, subject, blocks });
  });

  test('a variable that nobody knows, a name twice, a stage’s letter taken out of use, an older version', async () => {
    const [first, second] = (await readLetters(t.context)) as [
      Awaited<ReturnType<typeof readLetters>>[0],
      Awaited<ReturnType<typeof readLetters>>[0],
    ];
    const good = { name: `Own ${key()}`, subject: 'Hello', blocks: [{ kind: 'paragraph', text: 'Hello' }] };
    await expect(
      saveLetter(t.context, { ...good, subject: 'Hello {nobody}' } as never),
    ).rejects.toMatchObject({ field: 'subject' });
    await expect(
      saveLetter(t.context, { ...good, blocks: [{ kind: 'paragraph', text: '{' }] } as never),
    ).rejects.toMatchObject({ field: 'blocks' });
    await expect(
      saveLetter(t.context, { ...good, name: first.name.toUpperCase() } as never),
    ).rejects.toMatchObject({ field: 'name' });
    await expect(
      saveLetter(t.context, { ...second, templateId: second.id, active: false, version: second.version }),
    ).rejects.toThrow(/Second reminder/);
    await saveLetter(t.context, {
      ...second,
      templateId: second.id,
      name: `Another ${key()}`,
      version: second.version,
    });
    await expect(
      saveLetter(t.context, { ...second, templateId: second.id, version: second.version }),
    ).rejects.toThrow(/Somebody else/);
    await saveLetter(t.context, { ...second, templateId: second.id, version: undefined });
    await expect(saveLetter(t.as('collector'), good as never)).rejects.toThrow(NotAllowed);
  });

  test('the preview fills a real account, also one that owes nothing', async () => {
    const { householdId } = await overdueOf(t);
    const words = {
      subject: 'About {account}',
      blocks: [
        { kind: 'paragraph' as const, text: '{past due} since {oldest since}' },
        { kind: 'charges' as const, text: '' },
      ],
    };
    const shown = await previewLetter(t.context, { householdId, ...words });
    expect(shown.blocks[0]!.text).toMatch(/^240.00 since/);
    expect(shown.charges).toMatchObject([{ amount: 24_000 }]);
    const quietOne = await household(t, false);
    expect((await previewLetter(t.context, { householdId: quietOne.householdId, ...words })).charges).toEqual(
      [],
    );
    await expect(previewLetter(t.context, { householdId: 99_999_999, ...words })).rejects.toThrow(Refused);
  });
});

const promise = (householdId: number, amount: string, by: CalendarDate, day = TODAY) =>
  logContact(on(day), { householdId, kind: 'call', outcome: 'promise', amount, by, sure: true, key: key() });

describe('contacts', () => {
  test('the seventh call in seven days is warned of before it is noted, and noted all the same', async () => {
    const { householdId } = await overdueOf(t);
    const call = (sure = false) =>
      logContact(t.context, { householdId, kind: 'call', outcome: 'no-answer', sure, key: key() });
    for (let n = 0; n < 7; n += 1) await call(true);
    expect(
      (await callsNow(t.context, householdId)).some((words) => words.startsWith('7 calls in 7 days')),
    ).toBe(true);
    await expect(call()).rejects.toThrow(Doubtful);
    await call(true);
    const contacts = await readContacts(t.context, householdId);
    expect(contacts).toHaveLength(8);
    // One that was noted by mistake does not count.
    for (const { id } of contacts.slice(0, 3))
      await voidContact(t.context, { contactId: id, why: 'not made' });
    expect((await callsNow(t.context, householdId)).some((words) => words.includes('calls in 7 days'))).toBe(
      false,
    );
    await expect(voidContact(t.context, { contactId: contacts[0]!.id, why: 'again' })).rejects.toThrow(
      /already/,
    );
    await expect(voidContact(t.as('collector'), { contactId: contacts[5]!.id, why: 'x' })).rejects.toThrow(
      /Who noted it/,
    );
  });

  test('what was noted is never changed, whoever writes', async () => {
    const { householdId } = await overdueOf(t);
    const id = await logContact(t.context, {
      householdId,
      kind: 'visit',
      outcome: 'spoke',
      said: 'x',
      key: key(),
    });
    await expect(
      t.owner.updateTable('note').set({ words: 'y' }).where('contact_id', '=', id).execute(),
    ).rejects.toThrow(/never changed/);
    await expect(t.owner.deleteFrom('note').where('contact_id', '=', id).execute()).rejects.toThrow(/never/);
    await expect(t.owner.deleteFrom('contact').where('id', '=', id).execute()).rejects.toThrow();
  });

  test.each([
    [{ outcome: 'promise', by: TODAY }, 'amount'],
    [{ outcome: 'promise', amount: '0', by: TODAY }, 'amount'],
    [{ outcome: 'promise', amount: '-5', by: TODAY }, 'amount'],
    [{ outcome: 'promise', amount: '5.00' }, 'by'],
    [{ outcome: 'promise', amount: '5.00', by: '2026-03-15' }, 'by'],
    [{ outcome: 'dispute' }, 'said'],
    [{ outcome: 'no-answer', againOn: '2026-03-15' }, 'againOn'],
  ])('%j is refused at %s', async (more, field) => {
    const { householdId } = await overdueOf(t);
    const asked = logContact(t.context, {
      householdId,
      kind: 'call',
      sure: true,
      key: key(),
      ...more,
    } as never);
    await expect(asked).rejects.toMatchObject({ fields: { [field]: expect.any(String) as string } });
  });

  test('the front desk may not; nobody’s account is refused', async () => {
    const { householdId } = await overdueOf(t);
    const good = { householdId, kind: 'call' as const, outcome: 'spoke' as const, sure: true, key: key() };
    await expect(logContact(t.as('front-desk'), good)).rejects.toThrow(NotAllowed);
    await expect(logContact(t.context, { ...good, householdId: 99_999_999 })).rejects.toThrow(
      /no such account/,
    );
  });

  test('a call is to be made again on a day: it comes before the letter that is not due', async () => {
    const { householdId } = await overdueOf(t);
    await letterOn(householdId, TODAY);
    await logContact(t.context, {
      householdId,
      kind: 'call',
      outcome: 'no-answer',
      againOn: addDays(TODAY, 3),
      sure: true,
      key: key(),
    });
    expect(await outlook(householdId)).toMatchObject({ action: 'wait', on: addDays(TODAY, 3) });
    expect(await outlook(householdId, addDays(TODAY, 3))).toMatchObject({ action: 'call' });
  });
});

describe('promises', () => {
  test('are kept by what is paid by the day, also in parts, and not by what was paid before', async () => {
    const { householdId } = await overdueOf(t);
    await pay(householdId, '30.00');
    await promise(householdId, '60.00', addDays(TODAY, 7));
    expect(await outlook(householdId)).toMatchObject({
      spared: [{ id: 'promise' }, { id: 'recent-payment' }],
    });
    const state = async (day: CalendarDate) => (await readContacts(on(day), householdId))[0]!.promise!.state;
    expect(await state(TODAY)).toBe('open');
    await pay(householdId, '20.00', addDays(TODAY, 2));
    expect(await state(addDays(TODAY, 2))).toBe('open');
    const last = await pay(householdId, '40.00', addDays(TODAY, 7));
    expect(await state(addDays(TODAY, 8))).toBe('kept');
    // Taken back, it was not kept after all.
    await reverseReceipt(on(addDays(TODAY, 9)), { receiptId: last.receiptId, why: 'returned' });
    expect(await state(addDays(TODAY, 9))).toBe('broken');
  });

  test('a day late is broken; it is followed up once, and called about', async () => {
    const { householdId } = await overdueOf(t);
    await promise(householdId, '60.00', addDays(TODAY, 7));
    await pay(householdId, '60.00', addDays(TODAY, 8));
    const late = on(addDays(TODAY, 9));
    const mine = () =>
      t.db
        .selectFrom('follow_up')
        .select(['words', 'amount'])
        .where('household_id', '=', householdId)
        .where('kind', '=', 'broken-promise')
        .execute();
    await watchPromises(late);
    await watchPromises(late);
    expect(await mine()).toEqual([{ words: 'Promised 60.00 by 23 Mar 2026, paid 0.00', amount: 6000 }]);
    const { rows } = await findList(late, 'promises', { view: 'broken', pageSize: 500 });
    expect(rows.some((row) => row.householdId === householdId)).toBe(true);
  });

  test('another takes its place; taken back it spares nobody', async () => {
    const { householdId } = await overdueOf(t);
    await promise(householdId, '60.00', addDays(TODAY, 7));
    await promise(householdId, '80.00', addDays(TODAY, 9));
    const [now, before] = await readContacts(t.context, householdId);
    expect(before!.promise).toMatchObject({ state: 'ended', why: 'another took its place' });
    await endPromise(t.context, { promiseId: now!.promise!.id, why: 'changed her mind' });
    expect(await outlook(householdId)).toMatchObject({ action: 'letter', spared: [] });
    await expect(endPromise(t.context, { promiseId: now!.promise!.id, why: 'x' })).rejects.toThrow(
      /does not stand/,
    );
  });

  test('the contact that it was in is a mistake: the promise ends with it', async () => {
    const { householdId } = await overdueOf(t);
    const contactId = await promise(householdId, '60.00', addDays(TODAY, 7));
    await voidContact(t.context, { contactId, why: 'somebody else' });
    expect(await outlook(householdId)).toMatchObject({ action: 'letter' });
  });
});

describe('disputes', () => {
  test('stop letters until they are resolved', async () => {
    const { householdId } = await overdueOf(t);
    await logContact(t.context, {
      householdId,
      kind: 'call',
      direction: 'in',
      outcome: 'dispute',
      said: 'was not there',
      key: key(),
    });
    expect(await outlook(householdId)).toMatchObject({ spared: [{ words: 'stopped: dispute' }] });
    const { id } = await t.db
      .selectFrom('account_stop')
      .select('id')
      .where('household_id', '=', householdId)
      .executeTakeFirstOrThrow();
    await liftStop(t.context, { stopId: id, why: 'the record shows it' });
    expect(await outlook(householdId)).toMatchObject({ action: 'letter' });
  });

  test('a policy without a reason for it says so', async () => {
    const { householdId } = await overdueOf(t);
    const { dispute_reason: before } = await t.db
      .selectFrom('overdue_policy')
      .select('dispute_reason')
      .executeTakeFirstOrThrow();
    await t.db.updateTable('overdue_policy').set({ dispute_reason: null }).execute();
    const asked = logContact(t.context, {
      householdId,
      kind: 'letter',
      direction: 'in',
      outcome: 'dispute',
      said: 'x',
      key: key(),
    });
    await expect(asked).rejects.toThrow(/names no stop/);
    await t.db.updateTable('overdue_policy').set({ dispute_reason: before }).execute();
  });
});

test('accounts are given to somebody who may work them, many at once, and taken away again', async () => {
  const a = await overdueOf(t);
  const b = await overdueOf(t);
  await t.owner
    .insertInto('user')
    .values([
      { id: 'cole', name: 'Cole', email: 'cole@example.com', role: 'collector' },
      { id: 'fay', name: 'Fay', email: 'fay@example.com', role: 'front-desk' },
    ])
    .execute();
  expect((await workers(t.context)).map(({ id }) => id)).toEqual(['cole']);
  const householdIds = [a.householdId, b.householdId];
  expect(await assignOverdue(t.context, { householdIds, userId: 'cole' })).toBe(2);
  const cole = { ...t.context, user: { id: 'cole', name: 'Cole', role: 'collector' as const } };
  const mine = await findList(cole, 'overdue', { view: 'mine', pageSize: 500 });
  expect(mine.rows.map(({ id }) => id).sort()).toEqual([...householdIds].sort());
  await expect(assignOverdue(t.context, { householdIds, userId: 'fay' })).rejects.toThrow(/does not work/);
  await expect(assignOverdue(t.context, { householdIds: [99_999_999], userId: null })).rejects.toThrow(
    /no such account/,
  );
  await assignOverdue(t.context, { householdIds, userId: null });
  expect((await findList(cole, 'overdue', { view: 'mine' })).count).toBe(0);
});

describe('small balances', () => {
  const small = async (fee = '8.00', ago = 100) => {
    const long = on(addDays(TODAY, -ago));
    const made = await household(t, false);
    await charge(t, long, made.patientId, fee, '99213', addDays(TODAY, -ago));
    return made;
  };
  const listed = async (householdId: number) =>
    (await findList(t.context, 'small-balances', { pageSize: 500 })).rows.some(
      ({ id }) => id === householdId,
    );

  test('many at once, each by an entry of its own that is taken back by itself', async () => {
    const [a, b] = [await small(), await small('9.99')];
    expect(await listed(a.householdId)).toBe(true);
    const ids = [a.householdId, b.householdId];
    expect(await writeOffSmall(t.context, { householdIds: ids, key: key() })).toEqual({
      count: 2,
      amount: 1799,
    });
    const entries = await t.db
      .selectFrom('posting as p')
      .innerJoin('entry as e', 'e.id', 'p.entry_id')
      .select(['e.id', 'p.household_id', 'p.amount'])
      .where('p.account', '=', 'reduction/small-balance')
      .where('p.household_id', 'in', ids)
      .orderBy('p.household_id')
      .execute();
    expect(entries.map(({ amount }) => amount)).toEqual([800, 999]);
    expect(new Set(entries.map(({ id }) => id)).size).toBe(2);
    await undoWriteOff(t.context, { entryId: entries[0]!.id, why: 'she paid' });
    expect(await listed(a.householdId)).toBe(true);
    expect(await listed(b.householdId)).toBe(false);
    await expect(undoWriteOff(t.context, { entryId: entries[0]!.id, why: 'again' })).rejects.toThrow(
      /before/,
    );
    await expect(undoWriteOff(t.context, { entryId: 1, why: 'x' })).rejects.toThrow(/no write-off/);
  });

  test('what is not small, not old, or has something else open is left alone', async () => {
    const large = await small('10.00');
    const young = await small('5.00', 59);
    const withClaim = await sentClaim(t, ['5.00']);
    const { outcomes } = await intake(
      t.context,
      remitText([
        decided(withClaim.claim.control_number, [
          { control: withClaim.controls[0]!, charge: 500, paid: 0, reasons: ['CO-97:5.00'] },
        ]),
      ]),
    );
    await postRemittance(t.context, outcomes[0]!.remittanceId!);
    for (const { householdId } of [large, young, withClaim]) expect(await listed(householdId)).toBe(false);
    await expect(writeOffSmall(t.context, { householdIds: [large.householdId], key: key() })).rejects.toThrow(
      /None of these/,
    );
    expect(await listed((await small('5.00', 60)).householdId)).toBe(true);
  });

  test('twice at once is once; not for a collector', async () => {
    const { householdId } = await small();
    await expect(
      writeOffSmall(t.as('collector'), { householdIds: [householdId], key: key() }),
    ).rejects.toThrow(NotAllowed);
    const both = await Promise.allSettled([
      writeOffSmall(t.context, { householdIds: [householdId], key: key() }),
      writeOffSmall(t.context, { householdIds: [householdId], key: key() }),
    ]);
    expect(both.filter(({ status }) => status === 'fulfilled')).toHaveLength(1);
  });
});

describe('hardship', () => {
  test('is worked out by the practice’s tables, decided by a manager, and comes off what is owed then', async () => {
    const { householdId } = await overdueOf(t);
    const ask = (income: string) =>
      askHardship(t.context, { householdId, size: 2, income, evidence: 'pay slips of February', key: key() });
    const id = await ask('30000.00');
    expect((await readHardships(t.context, householdId))[0]).toMatchObject({
      share: 142,
      reduction: 7500,
      amount: 18_000,
      status: 'asked',
    });
    await expect(ask('1.00')).rejects.toThrow(/not decided/);
    await expect(decideHardship(t.as('collector'), { hardshipId: id, approve: true })).rejects.toThrow(
      NotAllowed,
    );
    expect(await decideHardship(t.context, { hardshipId: id, approve: true })).toBe(18_000);
    await expect(decideHardship(t.context, { hardshipId: id, approve: false, why: 'x' })).rejects.toThrow(
      /was approved/,
    );
    expect(await outlook(householdId)).toMatchObject({ pastDue: 6000 });
    const refused = await ask('99999.00');
    await expect(decideHardship(t.context, { hardshipId: refused, approve: true })).rejects.toThrow(
      /Nothing would come off/,
    );
    await expect(decideHardship(t.context, { hardshipId: refused, approve: false })).rejects.toMatchObject({
      field: 'why',
    });
    await decideHardship(t.context, { hardshipId: refused, approve: false, why: 'above every band' });
  });
});

test('the history of what was paid by age counts what reached it and what came within 90 days', async () => {
  const before = await readPaidHistory(t.db, TODAY);
  const made = await household(t, false);
  const start = addDays(TODAY, -300);
  await charge(t, on(start), made.patientId, '100.00', '99213', start);
  await pay(made.householdId, '30.00', addDays(start, 10));
  await pay(made.householdId, '50.00', addDays(start, 95));
  const now = await readPaidHistory(t.db, TODAY);
  const more = now.map((one, at) => [one.reached - before[at]!.reached, one.paid - before[at]!.paid]);
  // Under 30 days: 100 reached it, 30 came by day 90. From 30 days: 70 reached it, 50 came by day 120. From 180: 20, nothing.
  expect(more).toEqual([
    [10_000, 3000],
    [7000, 5000],
    [7000, 5000],
    [7000, 5000],
    [2000, 0],
    [2000, 0],
  ]);
});

test('nothing that is past due: nobody gets a letter', async () => {
  const { householdId } = await household(t, false);
  const asked = draftLetters(t.context, { householdIds: [householdId], key: key() });
  await expect(asked).rejects.toThrow('Nobody gets a letter now');
  await expect(prepareStatement(t.context, { householdId, key: key() })).rejects.toThrow(/Nothing is owed/);
  expect(
    await t.db.selectFrom('letter').select('date').where('household_id', '=', householdId).execute(),
  ).toEqual([]);
});
