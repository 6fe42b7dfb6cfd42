/** A household that is closed to all but named users: it counts everywhere and is told nowhere. */
import { text } from 'node:stream/consumers';
import { sql } from 'kysely';
import { fileDatabase } from '../testing/database';
import { someOfEverything } from '../testing/everything';
import { readAccount } from './account-page/read';
import { type Context, systemContext } from './access';
import { readClaim } from './claims/read';
import { addDays } from '../core/calendar';
import { CLOSED_ACCOUNT } from '../core/reports/lists';
import { TODAY } from '../testing/database';
import { doWork } from '../testing/desk';
import { readChargeEntries, readPaidBy, readStory } from './accounts/ledger';
import { readCaseTotals, readMembers } from './accounts/members';
import { likeHouseholds } from './accounts/register';
import { readStops, setStop } from './accounts/stops';
import { confirmPrinted } from './batches/again';
import { batchPaper, readBatch } from './batches/read';
import { readEnvelopeCharges } from './books/open-lines';
import { NAMING, allowOpen, isClosed, opened } from './closed';
import { collectToday } from './accounts/collect';
import { readEstimatePaper, readTreatment } from './accounts/treatment';
import { readLetter } from './accounts/exhausted';
import { previewVisit, readLastVisit, readVisit } from './accounts/visits';
import { visitPaper } from './account-page/visit-paper';
import { estimateOpen } from './estimates/read';
import { readWork } from './jobs/read';
import { startSendingBatch } from './jobs/work';
import { LISTS, LIST_NAMES, type ListName } from './lists';
import type { List } from './lists/list';
import { findList } from './lists/read';
import { listSheet } from './lists/sheet';
import { addNote, endNote, readNotes } from './notes/notes';
import { readHardships } from './overdue/hardship';
import { postAgencyPayment } from './overdue/agency-money';
import { readContacts } from './overdue/contacts';
import { readOverdueAccount } from './overdue/account';
import { quotePlan } from './plans/agree';
import { readPlan, runningPlans } from './plans/read';
import { readRemittance } from './remittances/read';
import { reportOf } from './reports';
import { searchEverything } from './search/find';
import { titleOf } from './search/titles';
import { previewRun } from './statements/choosing';
import { previewWords } from './statements/content';
import { readMail } from './statements/household';
import { previewLate } from './statements/late';
import { readStatement } from './statements/read';

const t = fileDatabase();
let named: Context;
let other: Context;
/** Closed to all but the manager: every household there is. */
beforeAll(async () => {
  const { placed, late } = await someOfEverything(t, 1);
  await postAgencyPayment(t.context, {
    placementId: placed.placementId,
    reference: 'R-1',
    paidOn: TODAY,
    gross: '1.00',
    key: 'closed-payment',
  });
  await setStop(t.context, { householdId: late.householdId, reasonId: 1 });
  await addNote(t.context, { householdId: late.householdId, words: 'Heard', key: 'closed-note' });
  named = t.context;
  other = t.as('biller');
  const { id } = named.user;
  await t.owner
    .insertInto('user')
    .values({ id, email: `${id}@example.com`, name: 'Named', role: 'manager' })
    .onConflict((at) => at.doNothing())
    .execute();
  await sql`insert into household_open_to (household_id, user_id) select id, ${named.user.id} from household`.execute(
    t.db,
  );
});

const listOf = (name: ListName): List => LISTS[name] as List;
const mayRead = (name: ListName): boolean =>
  ['audit', 'seen', 'users', 'added-codes'].every((managers) => managers !== name);
const widest = (name: ListName): string =>
  (listOf(name).views.find(({ key }) => key === 'all') ?? listOf(name).views[0]!).key;
/** Lists that tell of households, by what their rows say of one. */
const telling = LIST_NAMES.filter(
  (name) =>
    mayRead(name) &&
    ![
      'remittances',
      'keyed',
      'contract-letters',
      'payer-credit',
      'work',
      'batches',
      'letter-batches',
    ].includes(name),
).map((name) => [name] as const);
const rowsOf = async (name: ListName, context: Context, search = '') => {
  const found = await findList(context, name, { view: widest(name), search, pageSize: 1000 });
  return { ...found, rows: found.rows as unknown as Record<string, unknown>[] };
};

describe.each(telling)('%s', (name) => {
  test('counts and sums what is closed, and says its amounts alone', async () => {
    const [seen, kept] = [await rowsOf(name, other), await rowsOf(name, named)];
    expect(kept.rows.length).toBeGreaterThan(0);
    expect(kept.rows.some(({ closed }) => closed)).toBe(false);
    expect([seen.count, seen.sums]).toEqual([kept.count, kept.sums]);
    const { columns } = listOf(name);
    const first = columns.find(({ kind }) => kind === 'words')!.key;
    const amounts = columns.filter(({ kind }) => kind === 'money' || kind === 'number').map(({ key }) => key);
    // Follow-ups may be of no household: these are told.
    for (const row of seen.rows.filter(({ householdId }) => householdId !== null)) {
      expect(Object.keys(row).sort()).toEqual(['closed', 'id', first, ...amounts].sort());
      expect(row[first]).toBe(CLOSED_ACCOUNT);
      const whole = kept.rows.find(({ id }) => id === row.id)!;
      for (const amount of amounts) expect(row[amount]).toBe(whole[amount]);
    }
  });

  test('in a file it says no more, and no search finds it', async () => {
    const { rows } = await rowsOf(name, named);
    const said = rows.flatMap((row) =>
      ['patient', 'guarantor', 'account', 'number']
        .map((key) => row[key])
        .filter((value) => typeof value === 'string'),
    ) as string[];
    expect(said.length).toBeGreaterThan(0);
    const file = await text((await listSheet(other, listOf(name), { view: widest(name) }, 'csv')).body);
    for (const word of said.filter((item) => item.length > 3)) expect(file).not.toContain(word);
    if (listOf(name).searched) {
      expect((await rowsOf(name, named, said[0])).count).toBeGreaterThan(0);
      expect(
        (await rowsOf(name, other, said[0])).rows.filter(({ householdId }) => householdId !== null),
      ).toEqual([]);
    }
  });
});

test('search, titles and whoever reads of a household ask the same condition', async () => {
  const [household] = (await rowsOf('accounts', named)).rows;
  const number = String(household!.number);
  expect(await searchEverything(named, number)).not.toEqual([]);
  expect(await searchEverything(other, number)).toEqual([]);
  const claim = (await rowsOf('claims', named)).rows[0]!;
  expect(await searchEverything(named, String(claim.controlNumber))).not.toEqual([]);
  expect(await searchEverything(other, String(claim.controlNumber))).toEqual([]);
  expect(await titleOf(named, 'account', String(household!.id))).not.toBeNull();
  expect(await titleOf(other, 'account', String(household!.id))).toBeNull();
  expect(await titleOf(other, 'claim', String(claim.id))).toBeNull();
  const id = household!.id as number;
  const plan = (await rowsOf('plans', named)).rows[0]!.id as number;
  const statement = (await rowsOf('statements', named)).rows[0]!.id as number;
  const readers: [string, (context: Context) => Promise<unknown>][] = [
    ['account', (context) => readAccount(context, id)],
    ['overdue', (context) => readOverdueAccount(context, id)],
    ['contacts', (context) => readContacts(context, id)],
    ['claim', (context) => readClaim(context, claim.id as number)],
    ['plan', (context) => readPlan(context, plan)],
    ['statement', (context) => readStatement(context, statement)],
  ];
  for (const [what, read] of readers) {
    await expect([what, await read(named).then(Boolean)]).toEqual([what, true]);
    await expect(read(other)).rejects.toThrow('closed to all but');
    expect(await read(await systemContext(t.db)).then(Boolean)).toBe(true);
  }
  const remittance = (await rowsOf('remittances', named)).rows[0]!.id as number;
  const [told, withheld] = [await readRemittance(named, remittance), await readRemittance(other, remittance)];
  const own = told.rows.filter(({ householdId }) => householdId !== null);
  expect(own.length).toBeGreaterThan(0);
  expect(withheld.rows.map(({ charge, paid, status }) => [charge, paid, status])).toEqual(
    told.rows.map(({ charge, paid, status }) => [charge, paid, status]),
  );
  for (const { content, controlNumber, claimId } of own) {
    const said = JSON.stringify(withheld.rows);
    for (const word of [content.patient.last, controlNumber, content.patient.memberId].filter(Boolean))
      expect(said).not.toContain(word);
    expect(claimId).not.toBeNull();
  }
  expect(withheld.rows.filter(({ content }) => content.patient.last === CLOSED_ACCOUNT)).toHaveLength(
    own.length,
  );
  const running = await runningPlans(other);
  expect(running.length).toBeGreaterThan(0);
  expect(
    running.every(
      ({ account, number, guarantor, closed }) =>
        account + number === '' && guarantor === CLOSED_ACCOUNT && closed,
    ),
  ).toBe(true);
});

test('drawers, estimates and previews ask it, and so does every use case, of whatever of a household is named', async () => {
  const { rows: ofEach } = await sql<Record<string, number | null>>`
    select (select min(id) from household) as "householdId", (select min(id) from patient) as "patientId",
      (select min(id) from care_case) as "caseId", (select min(id) from coverage) as "coverageId",
      (select min(id) from care_authorization) as "authorizationId",
      (select min(id) from treatment_option) as "optionId",
      (select min(id) from treatment_estimate) as "estimateId",
      (select min(id) from charge) as "chargeId", (select min(id) from claim) as "claimId",
      (select min(id) from remittance_claim where claim_id is not null) as "remittanceClaimId",
      (select min(id) from keyed_claim) as "keyedClaimId",
      (select min(id) from follow_up where household_id is not null) as "followUpId",
      (select min(id) from receipt where household_id is not null) as "receiptId",
      (select min(id) from tender) as "tenderId", (select min(id) from attempt) as "attemptId",
      (select min(id) from refund_request) as "refundRequestId",
      (select min(id) from credit_letter) as "creditLetterId",
      (select min(id) from expected_visit where household_id is not null) as "expectedVisitId",
      (select min(entry_id) from posting where household_id is not null) as "entryId",
      (select min(id) from payment_plan) as "planId", (select min(id) from placement) as "placementId",
      (select min(id) from agency_payment) as "paymentId", (select min(id) from mail_piece) as "pieceIds",
      (select min(id) from note where household_id is not null) as "noteId",
      (select min(id) from account_stop) as "stopId", (select min(id) from contact) as "contactId",
      (select min(id) from promise) as "promiseId", (select min(id) from hardship) as "hardshipId"`.execute(
    t.db,
  );
  const ids = ofEach[0]!;
  for (const field of Object.keys(NAMING)) {
    const id =
      ids[field.replace(/^(into|from|to)(?=[A-Z])./, (at) => at.slice(-1).toLowerCase()).replace(/s$/, '')] ??
      ids[field];
    expect([field, typeof id]).toEqual([field, 'number']);
    for (const value of [id, String(id), [id]] as const) {
      await expect(allowOpen(other, { words: 'x', [field]: value })).rejects.toThrow('closed to all but');
      await allowOpen(named, { [field]: value });
    }
  }
  await expect(allowOpen(other, { lines: [{ planId: ids['planId'] }] })).rejects.toThrow('closed');
  await allowOpen(other, { householdId: null, chargeIds: [], constructor: 1, batchId: 1 });
  const { estimateId, householdId, patientId, coverageId, caseId, receiptId, chargeId, noteId } =
    ids as Record<string, number>;
  const readers: [string, (context: Context) => Promise<unknown>][] = [
    ['notes', (context) => readNotes(context, { householdId: householdId! })],
    ['stops', (context) => readStops(context, householdId!)],
    ['mail', (context) => readMail(context, householdId!)],
    ['members', (context) => readMembers(context, householdId!)],
    ['totals of a case', (context) => readCaseTotals(context, caseId!)],
    ['hardships', (context) => readHardships(context, householdId!)],
    ['story', (context) => readStory(context, householdId!)],
    ['entries', (context) => readChargeEntries(context, householdId!, chargeId!)],
    ['paid by', (context) => readPaidBy(context, householdId!, receiptId!)],
    ['open charges', (context) => readEnvelopeCharges(context, householdId!)],
    ['estimate', (context) => estimateOpen(context, caseId!, [])],
    [
      'a visit that is typed',
      (context) =>
        previewVisit(context, {
          patientId: patientId!,
          providerId: t.providers.family!,
          serviceDate: TODAY,
          lines: [{ code: '99213' }],
        }),
    ],
    ['a visit', (context) => readVisit(context, chargeId!)],
    ['a visit on paper', (context) => visitPaper(context, chargeId!)],
    ['what is planned', (context) => readTreatment(context, caseId!)],
    ['an estimate on paper', (context) => readEstimatePaper(context, estimateId!)],
    ['what to collect', (context) => collectToday(context, householdId!)],
    ['the last visit', (context) => readLastVisit(context, caseId!)],
    ['a letter', (context) => readLetter(context, coverageId!)],
    ['words', (context) => previewWords(context, { householdId: householdId!, words: 'Hello' })],
    ['quote', (context) => quotePlan(context, { householdId: householdId!, first: TODAY, installments: 6 })],
    [
      'a note',
      (context) => addNote(context, { householdId: householdId!, words: 'Heard', key: 'note-closed' }),
    ],
    ['its end', (context) => endNote(context, { noteId: noteId! })],
  ];
  for (const [what, read] of readers)
    await expect(read(other).catch((error: unknown) => [what, String(error)])).resolves.toEqual([
      what,
      expect.stringContaining('closed to all but'),
    ]);
});

test('a run, late charges and a likeness say that something closed is there, and no more', async () => {
  const { rows: people } = await sql<{ number: string; last: string; first: string; birthDate: string }>`
    select h.number, p.last, p.first, p.birth_date as "birthDate"
    from household h
      join patient p on p.household_id = h.id
    order by h.id`.execute(t.db);
  const silent = (told: unknown): void => {
    const said = JSON.stringify(told);
    for (const { number } of people) expect(said).not.toContain(number);
    expect(said).toContain(CLOSED_ACCOUNT);
  };
  const [seen, kept] = [await previewRun(named, {}), await previewRun(other, {})];
  silent(kept);
  expect([kept.in.count, kept.in.due, kept.out.count]).toEqual([seen.in.count, seen.in.due, seen.out.count]);
  expect(kept.out.rows.map(({ due }) => due)).toEqual(seen.out.rows.map(({ due }) => due));
  const late = { ...other, today: addDays(TODAY, 400) };
  silent(await previewLate(late));
  expect((await previewLate({ ...named, today: late.today })).some(({ closed }) => closed)).toBe(false);
  const { number: _, ...person } = people[0]!;
  const [like] = await likeHouseholds(other, person);
  expect(like).toMatchObject({ same: 'person', closed: true, number: '', name: CLOSED_ACCOUNT, phone: '' });
  expect((await likeHouseholds(named, person))[0]).toMatchObject({
    closed: false,
    number: people[0]!.number,
  });
});

test('papers of a batch are printed, and said to be, by whoever is named for them', async () => {
  const [piece] = (
    await sql<{ id: number; batchId: number }>`
      select id, batch_id as "batchId" from mail_piece where batch_id is not null and status = 'draft' limit 1`.execute(
      t.db,
    )
  ).rows;
  await sql`update household set delivery = 'mail'`.execute(t.db);
  const { batchId } = piece!;
  await startSendingBatch(named, { batchId });
  await doWork(t);
  const [mine, theirs] = [await readBatch(named, batchId), await readBatch(other, batchId)];
  expect(mine.toPrint!.count).toBeGreaterThan(0);
  expect([theirs.toPrint, theirs.counts, theirs.due]).toEqual([null, mine.counts, mine.due]);
  await expect(batchPaper(other, { batchId })).rejects.toThrow('nothing to print');
  await expect(confirmPrinted(other, { batchId })).rejects.toThrow('Nothing of these');
  expect((await batchPaper(named, { batchId })).bytes.length).toBeGreaterThan(1000);
  expect((await batchPaper(other, { batchId, list: 'only' })).bytes.length).toBeGreaterThan(1000);
  const [work] = (await rowsOf('work', named)).rows;
  expect((await readWork(named, work!.id as number)).items.map(({ words }) => words)).not.toContain(
    CLOSED_ACCOUNT,
  );
  expect((await readWork(other, work!.id as number)).items.map(({ words }) => words)).toContain(
    CLOSED_ACCOUNT,
  );
  expect(await confirmPrinted(named, { batchId, sure: true })).toBe(mine.toPrint!.count);
});

test('a report says amounts of what is closed, under its own words, and leads nowhere', async () => {
  const asked = { from: '2000-01-01', to: '2199-12-31' };
  for (const name of ['patient-aging', 'received']) {
    const read = async (context: Context) => reportOf(name)!.read(context, asked);
    const [seen, kept] = [await read(named), await read(other)];
    expect(seen.rows).toBeGreaterThan(1);
    expect([kept.rows, kept.totals]).toEqual([seen.rows, seen.totals]);
    const closed = kept.groups[0]!.rows.filter(({ leads }) => leads === null);
    const own = seen.groups[0]!.rows.filter(({ leads }) => String(leads).startsWith('/accounts/'));
    expect(own.length).toBeGreaterThan(0);
    expect(closed).toHaveLength(own.length);
    for (const row of closed)
      expect(Object.values(row).filter((value) => typeof value === 'string')).toEqual([CLOSED_ACCOUNT]);
  }
});

test('what was refused is not on the trail as read; what was read is, with its household', async () => {
  const [household] = (await rowsOf('accounts', named)).rows;
  const seen = async () =>
    (
      await sql<{ user: string }>`
        select user_id as user from audit where action = 'tried' and household_id = ${household!.id as number}`.execute(
        t.db,
      )
    ).rows;
  await expect(opened(other, { kind: 'household', id: household!.id as number }, 'tried')).rejects.toThrow(
    'closed',
  );
  expect(await seen()).toEqual([]);
  await opened(named, { kind: 'household', id: household!.id as number }, 'tried');
  expect(await seen()).toEqual([{ user: named.user.id }]);
});

test('a household is open again when nobody is named; what is of none never was closed', async () => {
  const { rows } = await sql<{ none: boolean }>`select ${isClosed(other, sql`null::bigint`)} as none`.execute(
    t.db,
  );
  expect(rows).toEqual([{ none: false }]);
  await sql`delete from household_open_to`.execute(t.db);
  expect((await rowsOf('accounts', other)).rows.some(({ closed }) => closed)).toBe(false);
});
