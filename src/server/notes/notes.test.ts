/** What people note, wherever: one table, for us or for the patient, never changed, ended once. */
import { addDays } from '../../core/calendar';
import { TODAY, fileDatabase } from '../../testing/database';
import { brokenInvariants, charge, household } from '../../testing/desk';
import { readAccount } from '../account-page/read';
import { readStops, setStop } from '../accounts/stops';
import { findList } from '../lists/read';
import { logContact } from '../overdue/contacts';
import { takeReceipt } from '../payments/take';
import { addNote, endNote, notesToPrint, readNotes } from './notes';

const t = fileDatabase();
afterEach(async () => {
  expect(await brokenInvariants(t)).toEqual([]);
});

let serial = 0;
const key = (): string => `notes-test-${(serial += 1)}`;
const made = async () => (await household(t, false)).householdId;
const add = (householdId: number, more: Record<string, unknown>) =>
  addNote(t.context, { householdId, words: 'x', key: key(), ...more });

test('a note at the head of the account stands there until its day or its end, and then on the record', async () => {
  const householdId = await made();
  const noteId = await add(householdId, { words: 'calls after 4 pm', pinned: true });
  await add(householdId, { words: 'until Friday', pinned: true, until: addDays(TODAY, 4) });
  await add(householdId, { words: 'among the others' });
  const head = async (context = t.context) =>
    (await readAccount(context, householdId)).pinned.map(({ words }) => words);
  expect(await head()).toEqual(['calls after 4 pm', 'until Friday']);
  expect(await head(t.as('manager', addDays(TODAY, 5)))).toEqual(['calls after 4 pm']);
  const listed = await findList(t.context, 'accounts', { view: 'all', pageSize: 500 });
  expect(listed.rows.find(({ id }) => id === householdId)!.notice).toBe('calls after 4 pm · until Friday');
  await endNote(t.context, { noteId });
  expect(await head()).toEqual(['until Friday']);
  const all = await readNotes(t.context, { householdId });
  expect(all.map(({ words, stands }) => [words, stands])).toEqual([
    ['among the others', true],
    ['until Friday', true],
    ['calls after 4 pm', false],
  ]);
  expect(all[2]!.ended).toEqual({ day: TODAY, by: 'manager' });
  await expect(endNote(t.context, { noteId })).rejects.toThrow(/ended already/);
});

test('what is for us never prints, and what is for the patient prints until it is ended', async () => {
  const householdId = await made();
  await add(householdId, { words: 'for us', pinned: true });
  const noteId = await add(householdId, { words: 'for you', audience: 'patient', until: addDays(TODAY, 1) });
  const printed = async (context = t.context) =>
    (await notesToPrint(context, [householdId])).get(householdId);
  expect(await printed()).toEqual(['for you']);
  expect(await printed(t.as('manager', addDays(TODAY, 2)))).toBeUndefined();
  await endNote(t.context, { noteId });
  expect(await printed()).toBeUndefined();
});

test.each([
  [{ audience: 'patient' }, 'until'],
  [{ times: 2 }, 'times'],
  [{ audience: 'patient', times: 1, pinned: true }, 'pinned'],
  [{ until: addDays(TODAY, -1) }, 'until'],
  [{ words: ' ' }, 'words'],
  [{ words: 'x'.repeat(501) }, 'words'],
  [{ audience: 'everybody' }, 'audience'],
])('refused by its field, and nothing is noted: %j', async (more, field) => {
  const householdId = await made();
  const refused = await add(householdId, more).then(
    () => null,
    (error: { fields: Record<string, string> }) => error.fields,
  );
  expect(Object.keys(refused ?? {})).toContain(field);
  expect(await readNotes(t.context, { householdId })).toEqual([]);
});

test('the same key notes once, and there is no note on an account that is not there', async () => {
  const householdId = await made();
  const once = { householdId, words: 'twice', key: key() };
  expect(await addNote(t.context, once)).toBe(await addNote(t.context, once));
  expect(await readNotes(t.context, { householdId })).toHaveLength(1);
  await expect(add(99_999_999, {})).rejects.toThrow(/no such account/);
});

test('what was said at a stop, a contact and a payment stands beside it, and ends with none of them', async () => {
  const { householdId, patientId } = await household(t, false);
  await charge(t, t.context, patientId, '40.00');
  await logContact(t.context, { householdId, kind: 'call', outcome: 'spoke', said: 'will pay', key: key() });
  await setStop(t.context, { householdId, reasonId: 1, note: 'asked by letter' });
  const money = {
    householdId,
    tenders: [{ tender: 'cash' as const, amount: '40.00' }],
    note: 'in coins',
    key: key(),
  };
  await takeReceipt(t.context, money);
  const all = await readNotes(t.context, { householdId });
  expect(all.map(({ about, words }) => [about, words])).toEqual([
    ['receipt', 'in coins'],
    ['stop', 'asked by letter'],
    ['contact', 'will pay'],
  ]);
  expect((await readStops(t.context, householdId))[0]!.note).toBe('asked by letter');
  expect((await readAccount(t.context, householdId)).receipts).toMatchObject([{ note: 'in coins' }]);
  for (const { id } of all)
    await expect(endNote(t.context, { noteId: id })).rejects.toThrow(/stays with what it is about/);
});

test('a note is never changed and never taken away, whoever writes; an end is said once', async () => {
  const noteId = await add(await made(), { pinned: true });
  const { owner, pool } = t;
  const change = (set: Record<string, unknown>) =>
    owner.updateTable('note').set(set).where('id', '=', noteId).execute();
  await expect(change({ words: 'y' })).rejects.toThrow(/never changed/);
  await expect(change({ words: 'y', ended_on: TODAY, ended_by: 'me' })).rejects.toThrow(/never changed/);
  await expect(owner.deleteFrom('note').where('id', '=', noteId).execute()).rejects.toThrow(/never changed/);
  await expect(pool.query('truncate note cascade')).rejects.toThrow(/never changed/);
  await change({ ended_on: TODAY, ended_by: 'me' });
  await expect(change({ ended_on: addDays(TODAY, 1) })).rejects.toThrow(/never changed/);
});

test('a dispute without what was said is refused by the database itself', async () => {
  const householdId = await made();
  await expect(
    t.owner
      .insertInto('contact')
      .values({
        household_id: householdId,
        kind: 'call',
        direction: 'in',
        outcome: 'dispute',
        at: t.context.now,
        business_date: TODAY,
        user_id: 'manager',
        user_name: 'manager',
      })
      .execute(),
  ).rejects.toThrow(/noted with what was said/);
});

test.each([
  ['', 'until'],
  ['0', 'times'],
  ['100', 'times'],
  ['2.5', 'times'],
  ['often', 'times'],
])('so many times: “%s” is refused at %s', async (times, field) => {
  const householdId = await made();
  const refused = await add(householdId, { audience: 'patient', times }).then(
    () => ({}),
    (error: { fields: Record<string, string> }) => error.fields,
  );
  expect(Object.keys(refused)).toContain(field);
});
