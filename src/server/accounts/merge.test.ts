/** Accounts and people that are one: all goes on under the other's name, and what was written is reversed as it was written. */
import { sql } from 'kysely';
import { addDays } from '../../core/calendar';
import { GOES_OVER } from '../../db/migrations/foundation/merge';
import { TODAY, fileDatabase } from '../../testing/database';
import {
  brokenInvariants,
  charge,
  decided,
  doWork,
  draftOf,
  household,
  lateOf,
  madeOf,
  placementOf,
  planOf,
  postedRemittance,
} from '../../testing/desk';
import { readAccount } from '../account-page/read';
import { buildClaims } from '../claims/build';
import { readClaim } from '../claims/read';
import { sendClaims } from '../claims/send';
import { findList } from '../lists/read';
import { addNote } from '../notes/notes';
import { logContact } from '../overdue/contacts';
import { reverseReceipt } from '../payments/receipts';
import { takeReceipt } from '../payments/take';
import { reverseRemittance } from '../remittances/reverse';
import { searchEverything } from '../search/find';
import { setConfidential } from './confidential';
import { addCoverage } from './coverage';
import { mergeHouseholds, mergePeople } from './merge';
import { addMember, changePatient } from './register';
import { setStop } from './stops';

const t = fileDatabase();
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

let serial = 0;
const key = (): string => `merge-test-${(serial += 1)}`;
const figures = async (householdId: number) => {
  const { withPayer, withPatient, onPlan, atAgency, credit } = (await readAccount(t.context, householdId))
    .figures;
  return [withPayer, withPatient, onPlan, atAgency, credit];
};
const merge = (from: { householdId: number }, into: { householdId: number }, more: object = {}) =>
  mergeHouseholds(t.context, {
    householdId: from.householdId,
    intoHouseholdId: into.householdId,
    why: 'entered twice',
    ...more,
  });
const mergePerson = (patientId: number, intoPatientId: number, more: object = {}) =>
  mergePeople(t.context, { patientId, intoPatientId, why: 'entered twice', ...more });
const pay = (householdId: number, amount: string, more: object = {}) =>
  takeReceipt(t.context, { householdId, tenders: [{ tender: 'cash', amount }], key: key(), ...more });
/** What of a household stands in any table that says whose its rows are. */
async function left(householdId: number): Promise<string[]> {
  const found = [];
  for (const table of GOES_OVER.household) {
    const { rows } = await sql<{ n: number }>`
      select count(*) as n from ${sql.table(table)} where household_id = ${householdId}`.execute(t.db);
    if (rows[0]!.n > 0) found.push(table);
  }
  return found;
}
/** A visit that a payer has decided: 68.00 paid, 47.00 taken off, 30.00 left to the patient. */
async function decidedVisit(patientId: number, householdId: number, reasons = ['CO-45:47.00', 'PR-3:30.00']) {
  const chargeId = await charge(t, t.context, patientId, '145.00');
  const [claimId] = await buildClaims(t.context, { householdId });
  await sendClaims(t.context, { claimIds: [claimId!] });
  const { content } = await readClaim(t.context, claimId!);
  const line = { control: content.lines[0]!.control, charge: 14_500, paid: 6800, reasons };
  const remittanceId = await postedRemittance(t, [decided(content.controlNumber, [line])]);
  return { chargeId, claimId: claimId!, remittanceId };
}
const member = (householdId: number, more: object = {}) =>
  addMember(t.context, {
    householdId,
    last: 'Tester',
    first: `Twin${(serial += 1)}`,
    birthDate: '1980-01-01',
    sex: 'F',
    key: key(),
    sure: true,
    ...more,
  });

test('an account goes on as another one with all that is its, and what was written of it is reversed', async () => {
  const [from, into] = [await household(t), await household(t)];
  const visit = await decidedVisit(from.patientId, from.householdId);
  await charge(t, t.context, into.patientId, '50.00');
  const { receiptId } = await pay(from.householdId, '40.00', { sure: true });
  await addNote(t.context, { householdId: from.householdId, words: 'moved house', key: key() });
  expect(await figures(from.householdId)).toEqual([0, 0, 0, 0, 1000]);
  await merge(from, into);
  expect(await left(from.householdId)).toEqual([]);
  expect(await figures(into.householdId)).toEqual([5000, 0, 0, 0, 1000]);
  // The postings say what they said; what follows is the other's.
  const { rows } = await sql<{ id: number }>`
    select distinct household_id as id from posting where charge_id = ${visit.chargeId}`.execute(t.db);
  expect(rows).toEqual([{ id: from.householdId }]);
  expect(await brokenInvariants(t)).toEqual([]);
  await reverseReceipt(t.context, { receiptId: receiptId!, why: 'bounced' });
  expect(await figures(into.householdId)).toEqual([5000, 3000, 0, 0, 0]);
  await reverseRemittance(t.context, { remittanceId: visit.remittanceId, why: 'wrong file' });
  expect((await figures(into.householdId))[0]).toBe(19_500);
  await pay(into.householdId, '10.00', { sure: true });
  // The trail has what was done before, too.
  const seen = await findList(t.as('manager'), 'seen', { of: String(into.householdId), pageSize: 100 });
  const actions = seen.rows.map((row) => row.action);
  expect(actions.filter((action) => action === 'registered')).toHaveLength(2);
  expect(actions).toEqual(expect.arrayContaining(['merged', 'merged here']));
});

test('its number finds the other account, whose page it opens; nothing is done on it any more', async () => {
  const [from, into] = [await household(t), await household(t)];
  await merge(from, into);
  const hits = await searchEverything(t.context, from.number);
  expect(hits.map(({ href }) => href)).toContain(`/accounts/${into.householdId}`);
  const { rows } = await findList(t.context, 'accounts', { search: from.number, pageSize: 100 });
  expect(rows.map(({ number }) => number)).toEqual([into.number]);
  const facts = { merged_into: into.householdId };
  await expect(readAccount(t.context, from.householdId)).rejects.toMatchObject({ code: 'state', facts });
  await expect(pay(from.householdId, '10.00')).rejects.toMatchObject({ code: 'state', facts });
  await expect(merge(from, into)).rejects.toMatchObject({ code: 'state' });
});

test('whoever writes for it while it is merged writes for the other', async () => {
  const [from, into] = [await household(t), await household(t)];
  const merging = t.owner.transaction().execute(async (tx) => {
    await sql`select from household where id in (${from.householdId}, ${into.householdId}) order by id for update`.execute(
      tx,
    );
    const late = [
      pay(from.householdId, '25.00', { sure: true }),
      addNote(t.context, { householdId: from.householdId, words: 'called', key: key() }),
      charge(t, t.context, from.patientId, '70.00'),
    ];
    await new Promise((done) => setTimeout(done, 300));
    await sql`update household set merged_into = ${into.householdId} where id = ${from.householdId}`.execute(
      tx,
    );
    return late;
  });
  await Promise.all(await merging);
  expect(await left(from.householdId)).toEqual([]);
  const [withPayer, , , , credit] = await figures(into.householdId);
  expect([withPayer, credit]).toEqual([7000, 2500]);
});

test('plans, agencies, promises and stops stand once; what is not out yet is decided before', async () => {
  const into = await household(t, false);
  const plan = await planOf(t);
  await merge(plan, into);
  expect((await figures(into.householdId))[2]).toBe(30_000);
  const [placed, placedToo] = [await placementOf(t), await placementOf(t)];
  await merge(placed, into);
  expect((await figures(into.householdId))[3]).toBe(24_000);
  await expect(merge(placedToo, into)).rejects.toThrow(/Both accounts are with an agency/);
  const draft = await draftOf(t);
  await expect(merge(draft, into)).rejects.toThrow(/statement of .* is not out yet/);
  const [a, b] = [await household(t, false), await household(t, false)];
  const reason = await t.db.selectFrom('stop_reason').select('id').orderBy('id').executeTakeFirstOrThrow();
  for (const { householdId, patientId } of [a, b]) {
    await charge(t, t.context, patientId, '60.00');
    await setStop(t.context, { householdId, reasonId: reason.id });
    await logContact(t.context, {
      householdId,
      kind: 'call',
      direction: 'in',
      outcome: 'promise',
      amount: '20.00',
      by: addDays(TODAY, 7),
      key: key(),
    });
  }
  await merge(a, b);
  const { rows } = await sql<{ stops: number; promises: number }>`
    select
      (select count(*) from account_stop where household_id = ${b.householdId} and lifted_on is null) as stops,
      (select count(*) from promise where household_id = ${b.householdId} and ended_on is null) as promises`.execute(
    t.db,
  );
  expect(rows).toEqual([{ stops: 1, promises: 1 }]);
});

test('what statements said stays said: of two in one envelope, too', async () => {
  const late = await lateOf(t);
  const [stated, into] = [await madeOf(t), await household(t, false)];
  await sql`update mail_piece set status = 'sent', sent_at = desk_now() where id = ${stated.pieceId}`.execute(
    t.db,
  );
  const before = await t.db
    .selectFrom('statement')
    .selectAll()
    .where('household_id', '=', late.householdId)
    .execute();
  expect(before).not.toEqual([]);
  await merge(late, into);
  await merge(stated, into);
  const after = await t.db
    .selectFrom('statement')
    .selectAll()
    .where('household_id', '=', into.householdId)
    .execute();
  expect(after.map(({ amount, date }) => [amount, date])).toEqual(
    expect.arrayContaining(before.map(({ amount, date }) => [amount, date])),
  );
  // And only whose it is may change, to whom it goes on as.
  for (const change of [
    sql`update statement set amount = 1 where household_id = ${into.householdId}`,
    sql`update statement set household_id = ${(await household(t)).householdId} where household_id = ${into.householdId}`,
    sql`update mail_piece set joined = array[1] where id = ${stated.pieceId}`,
  ])
    await expect(change.execute(t.owner)).rejects.toThrow(/never changed/);
});

test('a person goes on as another one: cases, policies, and what was used of them counts together', async () => {
  const { householdId, patientId: into } = await household(t, true, { memberId: 'TWICE01', groupNumber: '' });
  const twin = await member(householdId, {
    insurancePlanId: t.insurancePlans['CS-350'],
    memberId: 'TWICE01',
    groupNumber: 'CS-350',
  });
  const first = await decidedVisit(into, householdId, ['CO-45:47.00', 'PR-1:30.00']);
  const second = await decidedVisit(twin.patientId, householdId, ['CO-45:47.00', 'PR-1:30.00']);
  const waiting = await charge(t, t.context, twin.patientId, '90.00');
  await mergePerson(twin.patientId, into);
  await doWork(t);
  const { rows: used } = await sql<{ kind: string; quantity: number }>`
    select b.kind, sum(b.quantity) as quantity from benefit_counter b where b.patient_id = ${into} and b.quantity <> 0
    group by b.kind, b.policy_id order by 1`.execute(t.db);
  expect(used).toEqual([
    { kind: 'deductible', quantity: 6000 },
    { kind: 'maximum', quantity: 13_600 },
    { kind: 'out-of-pocket', quantity: 6000 },
  ]);
  const { rows: policies } = await sql<{ group: string; self: boolean }>`
    select q.group_number as group, r.relationship = 'self' as self
    from policy_person r
      join policy q on q.id = r.policy_id
    where r.patient_id = ${into}`.execute(t.db);
  expect(policies).toEqual([{ group: 'CS-350', self: true }]);
  // There is one person on the account, and what waited is billed for her.
  const account = await readAccount(t.context, householdId);
  expect(account.members.map(({ id }) => id)).toEqual([into]);
  const [claimId] = await buildClaims(t.context, { householdId });
  const { content } = await readClaim(t.context, claimId!);
  expect(content.lines.map(({ charge: fee }) => fee)).toEqual([9000]);
  expect(content.subscriber.memberId).toBe('TWICE01');
  expect(waiting).toBeGreaterThan(first.chargeId);
  expect(await brokenInvariants(t)).toEqual([]);
  // What was decided of either is taken back, and the counters with it.
  await reverseRemittance(t.context, { remittanceId: second.remittanceId, why: 'x' });
  await reverseRemittance(t.context, { remittanceId: first.remittanceId, why: 'x' });
  const { rows: none } =
    await sql`select from benefit_counter where patient_id = ${into} and quantity <> 0`.execute(t.db);
  expect(none).toEqual([]);
});

test('a child that is insured twice by one policy is insured once, with what both had used', async () => {
  const parent = await household(t, true, { memberId: 'PARENT1' });
  const children = [];
  for (const memberId of ['CHILD1', 'CHILD1']) {
    const child = await member(parent.householdId);
    await addCoverage(t.context, {
      patientId: child.patientId,
      insurancePlanId: t.insurancePlans['CS-350'],
      memberId,
      groupNumber: 'CS-350',
      relationship: 'child',
      subscriberId: parent.patientId,
      key: key(),
    });
    await decidedVisit(child.patientId, parent.householdId, ['CO-45:47.00', 'PR-1:30.00']);
    children.push(child.patientId);
  }
  await mergePerson(children[1]!, children[0]!);
  const { rows } = await sql<{ patient: number; kind: string; quantity: number }>`
    select patient_id as patient, kind, quantity from benefit_counter
    where patient_id = any(${children}::bigint[]) order by kind`.execute(t.db);
  expect(rows).toEqual([
    { patient: children[0], kind: 'deductible', quantity: 6000 },
    { patient: children[0], kind: 'maximum', quantity: 13_600 },
    { patient: children[0], kind: 'out-of-pocket', quantity: 6000 },
  ]);
});

test('who held a policy and was insured by it under another name holds and has it', async () => {
  const holder = await household(t, true, { memberId: 'HOLD1' });
  const spouse = await member(holder.householdId);
  await addCoverage(t.context, {
    patientId: spouse.patientId,
    insurancePlanId: t.insurancePlans['CS-350'],
    memberId: 'HOLD2',
    groupNumber: 'CS-350',
    relationship: 'spouse',
    subscriberId: holder.patientId,
    key: key(),
  });
  await expect(mergePerson(holder.patientId, spouse.patientId)).rejects.toThrow(/HOLD1 and HOLD2/);
  await mergePerson(holder.patientId, spouse.patientId, { sure: true });
  const { rows } = await sql<{ holder: number; relationship: string }>`
    select h.patient_id as holder, r.relationship
    from policy_person r
      join policy q on q.id = r.policy_id
      join party h on h.id = q.holder_id
    where r.patient_id in (${holder.patientId}, ${spouse.patientId})`.execute(t.db);
  expect(rows).toEqual([{ holder: spouse.patientId, relationship: 'self' }]);
  // The account is the one of who is left.
  const { last, first } = (await readAccount(t.context, holder.householdId)).household;
  const { first: name } = await t.db
    .selectFrom('patient')
    .select('first')
    .where('id', '=', spouse.patientId)
    .executeTakeFirstOrThrow();
  expect([last, first]).toEqual(['Tester', name]);
});

test('what is doubtful is asked, and what cannot be is said', async () => {
  const [a, b] = [await household(t), await household(t)];
  const other = await household(t, false, { last: 'Stranger', line1: '9 Else Way', zip: '98101', phone: '' });
  await expect(merge(other, a)).rejects.toThrow(/Name, address and telephone differ/);
  await expect(merge(a, a)).rejects.toMatchObject({ code: 'invalid' });
  await expect(merge(a, { householdId: 99_999_999 })).rejects.toMatchObject({ field: 'intoHouseholdId' });
  await expect(merge(a, b, { why: ' ' })).rejects.toThrow(/Say how/);
  await expect(
    mergeHouseholds(t.as('front-desk'), {
      householdId: a.householdId,
      intoHouseholdId: b.householdId,
      why: 'x',
    }),
  ).rejects.toThrow(/may not/);
  const { id: userId } = t.context.user;
  await t.owner
    .insertInto('user')
    .values({ id: userId, email: 'named@example.com', name: 'Named', role: 'manager' })
    .onConflict((at) => at.doNothing())
    .execute();
  await sql`insert into household_open_to (household_id, user_id) values (${a.householdId}, ${userId})`.execute(
    t.db,
  );
  await expect(merge(a, b)).rejects.toThrow(/closed to people/);
  await sql`delete from household_open_to`.execute(t.db);
  await expect(mergePerson(a.patientId, b.patientId)).rejects.toThrow(/merge the accounts first/);
  await merge(a, b);
  await merge(other, b, { sure: true });
  const young = await member(b.householdId, { birthDate: '2015-05-05', sex: 'M' });
  await expect(mergePerson(young.patientId, b.patientId)).rejects.toThrow(/Birth dates differ.*Sexes differ/);
  await setConfidential(t.context, {
    patientId: young.patientId,
    name: 'Young',
    delivery: 'mail',
    line1: '1 Apart St',
    city: 'Osprey Landing',
    state: 'WA',
    zip: '98199',
    why: 'asked',
  });
  await expect(mergePerson(young.patientId, b.patientId, { sure: true })).rejects.toThrow(
    /confidential address/,
  );
  await expect(mergePerson(a.patientId, a.patientId)).rejects.toMatchObject({ code: 'invalid' });
  // In the database, whoever writes: only of the same household, and for good.
  await expect(
    sql`update patient set merged_into = ${(await household(t)).patientId} where id = ${young.patientId}`.execute(
      t.owner,
    ),
  ).rejects.toThrow(/one of the household/);
  await mergePerson(a.patientId, b.patientId, { sure: true });
  await expect(
    sql`update patient set merged_into = null where id = ${a.patientId}`.execute(t.owner),
  ).rejects.toThrow(/stays merged/);
  await expect(
    sql`update household set merged_into = null where id = ${a.householdId}`.execute(t.owner),
  ).rejects.toThrow(/stays merged/);
  await expect(
    changePatient(t.context, {
      patientId: a.patientId,
      last: 'Tester',
      first: 'X',
      birthDate: '1980-01-01',
      sex: 'F',
      line1: '1 Test Row',
      city: 'Osprey Landing',
      state: 'WA',
      zip: '98199',
      phone: '',
    }),
  ).rejects.toThrow(/not registered/);
});

test('every table that names a household or a person says what becomes of it when they are merged', async () => {
  const { rows } = await sql<{ table: string; column: string }>`
    select r.conrelid::regclass::text as table, a.attname as column
    from pg_constraint r
      join pg_attribute a on a.attrelid = r.conrelid and a.attnum = r.conkey[1]
    where r.contype = 'f' and r.confrelid in ('household'::regclass, 'patient'::regclass)
    order by 1, 2`.execute(t.owner);
  const goes = new Set([
    ...GOES_OVER.household.map((table) => `${table}.household_id`),
    ...GOES_OVER.patient.map((table) => `${table}.patient_id`),
  ]);
  expect(rows.map(({ table, column }) => `${table}.${column}`).filter((one) => !goes.has(one))).toEqual([
    // Counted together.
    'benefit_counter.patient_id',
    'household.guarantor_id',
    'household.mailed_with',
    'household.merged_into',
    'household_balance.household_id',
    // Alike in both.
    'household_open_to.household_id',
    'patient.merged_into',
    // As it was written.
    'posting.household_id',
    'posting.patient_id',
  ]);
});
