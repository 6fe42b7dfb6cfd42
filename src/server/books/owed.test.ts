/** What is owed, net, since when, by whom: every station gives the one answer. */
import { sql } from 'kysely';
import { type CalendarDate, addDays } from '../../core/calendar';
import { cents } from '../../core/money';
import { PLAIN_OPTIONS } from '../../core/statements/document';
import { TODAY, fileDatabase } from '../../testing/database';
import {
  brokenInvariants,
  charge,
  household,
  overdueOf,
  placementOf,
  planOf,
  says,
  sentClaim,
  postedRemittance,
} from '../../testing/desk';
import { chargeAccount, enterCharge } from '../accounts/charges';
import { changeCoverage } from '../accounts/coverage';
import { readStory } from '../accounts/ledger';
import { readAccount } from '../account-page/read';
import { addMember } from '../accounts/register';
import { writeOffBadDebt } from '../overdue/agency-money';
import { weighLetters } from '../overdue/letter-drafts';
import { weighOverdue } from '../overdue/list';
import { proposePlacements } from '../overdue/proposals';
import { spendCredit } from '../payments/credit';
import { refundCredit } from '../payments/refund';
import { reverseReceipt } from '../payments/receipts';
import { takeReceipt } from '../payments/take';
import { quotePlan } from '../plans/agree';
import { readContents } from '../statements/content';
import { takeUpAgain } from '../remittances/held';
import { postRemittance } from '../remittances/post';
import { reverseRemittance } from '../remittances/reverse';
import { setConfidential } from '../accounts/confidential';
import { postLate, readLate } from '../statements/late';
import { readPolicies } from '../setup/statement-policies';
import { prepareStatement } from '../statements/prepare';
import { householdAging } from './balances';
import { type OwedAccount, readOwed } from './owed';

const t = fileDatabase();
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

let serial = 0;
const key = (): string => `owed-case-${(serial += 1)}`;
const on = (today: CalendarDate) => ({ ...t.context, today });
const pay = async (householdId: number, amount: string, more: Record<string, unknown> = {}, today = TODAY) =>
  (await takeReceipt(on(today), { householdId, tenders: [{ tender: 'cash', amount }], key: key(), ...more }))
    .receiptId;
const statementOf = async (householdId: number, patientId: number | null = null, today = TODAY) => {
  const [content] = await readContents(on(today), await readPolicies(t.db), [
    { householdId, patientId, options: PLAIN_OPTIONS },
  ]);
  return content!;
};
/** Credit that was there before the charges: it is not applied by itself. */
async function beside(credit: string) {
  const made = await household(t, false);
  const long = addDays(TODAY, -90);
  await pay(made.householdId, credit, {}, addDays(long, -1));
  const chargeId = await charge(t, on(long), made.patientId, '200.00', '99213', long);
  await prepareStatement(on(long), { householdId: made.householdId, key: key() }).catch(() => undefined);
  return { ...made, chargeId, long };
}

describe('credit that is not applied stands against what is owed', () => {
  beforeAll(() =>
    t.db
      .updateTable('statement_policy')
      .set({ late_kind: 'flat', late_flat: cents(500) })
      .execute(),
  );

  test('200.00 owed and stated beside 150.00: every station asks for 50.00 and for no more', async () => {
    const { householdId, chargeId } = await beside('150.00');
    const [late] = await readLate(t.context, [householdId]);
    expect(late).toMatchObject({ pastDue: 5000 });
    const [row] = await weighOverdue(t.context, [householdId]);
    expect(row!.outlook.pastDue).toBe(5000);
    expect(await quotePlan(t.context, quoteTerms(householdId))).toMatchObject({ amount: 5000 });
    expect(await statementOf(householdId)).toMatchObject({
      owed: 20_000,
      credit: 15_000,
      amount: 5000,
      pastDue: 5000,
    });
    const { open } = await readAccount(t.context, householdId);
    expect(open).toMatchObject([{ id: chargeId, owed: 20_000, left: 5000 }]);
    expect(await writeOffBadDebt(t.context, { householdId, why: 'moved away', key: key() })).toBe(5000);
    await expect(writeOffBadDebt(t.context, { householdId, why: 'again', key: key() })).rejects.toThrow(
      /nothing that credit does not pay/,
    );
  });

  test('beside all of it nothing is late, nobody is written to, nothing is handed over or given up', async () => {
    const { householdId } = await beside('200.00');
    expect(await readLate(t.context, [householdId])).toEqual([]);
    expect(await weighOverdue(t.context, [householdId])).toEqual([]);
    const { id: connectionId } = await t.db
      .selectFrom('connection')
      .select('id')
      .where('kind', '=', 'agency')
      .executeTakeFirstOrThrow();
    await expect(
      proposePlacements(t.context, { householdIds: [householdId], connectionId, why: 'x' }),
    ).rejects.toThrow(/nothing of it is past due/);
    await expect(quotePlan(t.context, quoteTerms(householdId))).rejects.toThrow(/Nothing is open/);
    await expect(writeOffBadDebt(t.context, { householdId, why: 'x', key: key() })).rejects.toThrow(
      /nothing that credit does not pay/,
    );
    expect(await statementOf(householdId)).toMatchObject({ amount: 0, pastDue: 0 });
  });

  test('who paid after a letter was drafted is asked for nothing: the letter is weighed anew', async () => {
    const { householdId } = await overdueOf(t, { ago: 120 });
    const before = await t.db
      .transaction()
      .execute((tx) => weighLetters({ ...t.context, db: tx } as never, [householdId]));
    expect(before.taken).toHaveLength(1);
    await pay(householdId, '240.00', { parts: {} });
    const after = await t.db
      .transaction()
      .execute((tx) => weighLetters({ ...t.context, db: tx } as never, [householdId]));
    expect(after.taken).toEqual([]);
  });
});

const quoteTerms = (householdId: number) => ({
  householdId,
  installments: 3,
  rate: '0',
  first: addDays(TODAY, 30),
});

describe('since when', () => {
  test('a copay that was paid in time does not age what an insurer leaves to the patient 120 days later', async () => {
    const first = TODAY;
    const s = await sentClaim(t);
    const decided = [says(s, 6800, ['CO-45:47.00', 'PR-3:30.00'])];
    await postedRemittance(t, decided, { date: first }, on(first));
    await prepareStatement(on(first), { householdId: s.householdId, key: key() });
    await pay(s.householdId, '30.00', {}, addDays(first, 5));
    const later = addDays(first, 120);
    await postedRemittance(
      t,
      [says(s, -6800, ['CO-45:-47.00', 'PR-3:-30.00'], '22'), says(s, 0, ['CO-45:47.00', 'PR-1:98.00'])],
      { date: later },
      on(later),
    );
    // 68.00 more are the patient's, of that day.
    expect(await readOwed(on(later), [s.householdId])).toMatchObject([
      { owed: 6800, pastDue: 0, since: null },
    ]);
    expect(await weighOverdue(on(later), [s.householdId])).toEqual([]);
    expect(await householdAging(t.db, s.householdId, later)).toEqual([6800, 0, 0, 0, 0]);
    await prepareStatement(on(later), { householdId: s.householdId, key: key() });
    const due = addDays(later, 40);
    const [row] = await weighOverdue(on(due), [s.householdId]);
    expect(row!.outlook).toMatchObject({ pastDue: 6800 });
    expect(row!.outlook.daysPastDue).toBeLessThan(30);
  });

  test('a decision that a person reverses and posts anew keeps its day everywhere', async () => {
    const first = TODAY;
    const now = on(addDays(TODAY, 60));
    const s = await sentClaim(t);
    const id = await postedRemittance(
      t,
      [says(s, 6800, ['CO-45:47.00', 'PR-3:30.00'])],
      { date: first },
      on(first),
    );
    await prepareStatement(on(first), { householdId: s.householdId, key: key() });
    const overdue = async () => (await weighOverdue(now, [s.householdId]))[0]?.outlook;
    const before = await overdue();
    expect(before).toMatchObject({ pastDue: 3000 });
    await reverseRemittance(now, { remittanceId: id, why: 'looked at it again' });
    expect(await overdue()).toBeUndefined();
    expect(await readOwed(now, [s.householdId])).toEqual([]);
    await takeUpAgain(now, { remittanceId: id });
    await postRemittance(now, id);
    expect(await overdue()).toEqual(before);
    expect(await householdAging(t.db, s.householdId, now.today)).toEqual([0, 3000, 0, 0, 0]);
  });

  test('what a statement said to be gone meanwhile begins anew when it comes back', async () => {
    const first = TODAY;
    const back = addDays(TODAY, 40);
    const now = on(addDays(TODAY, 60));
    const s = await sentClaim(t);
    await charge(t, on(first), s.patientId, '10.00', '99213', first);
    const id = await postedRemittance(
      t,
      [says(s, 6800, ['CO-45:47.00', 'PR-3:30.00'])],
      { date: first },
      on(first),
    );
    await prepareStatement(on(first), { householdId: s.householdId, key: key() });
    await reverseRemittance(on(back), { remittanceId: id, why: 'looked at it again' });
    await chargeAccount(on(back), {
      householdId: s.householdId,
      kind: 'late',
      amount: '5.00',
      date: back,
      key: key(),
    });
    await prepareStatement(on(addDays(back, 1)), { householdId: s.householdId, key: key() });
    await takeUpAgain(now, { remittanceId: id });
    await postRemittance(now, id);
    const { charges } = (await readOwed(now, [s.householdId]))[0]!;
    expect(charges.find(({ chargeId }) => chargeId === s.charges[0])).toMatchObject({
      owed: 3000,
      remaining: [{ since: now.today, amount: 3000 }],
      pastDue: [],
    });
  });

  test('a service of 100 days ago whose coverage ends today is the patient’s of today; a late charge is of no year long ago', async () => {
    const made = await household(t);
    const day = addDays(TODAY, -100);
    const chargeId = await enterCharge(on(day), {
      patientId: made.patientId,
      providerId: t.providers.family,
      serviceDate: day,
      code: '99213',
      fee: '80.00',
      sure: true,
      key: key(),
    });
    const coverage = await t.db
      .selectFrom('covered')
      .select(['id', 'member_id', 'group_number'])
      .where('case_id', '=', made.caseId)
      .executeTakeFirstOrThrow();
    await changeCoverage(t.context, {
      coverageId: coverage.id,
      memberId: coverage.member_id,
      groupNumber: coverage.group_number,
      validTo: addDays(day, -1),
    });
    expect((await readOwed(t.context, [made.householdId]))[0]!.charges).toMatchObject([
      { chargeId, remaining: [{ since: TODAY, amount: 8000 }] },
    ]);
    expect((await statementOf(made.householdId)).aging).toEqual([8000, 0, 0, 0, 0]);
    await expect(
      chargeAccount(t.context, {
        householdId: made.householdId,
        kind: 'late',
        amount: '5.00',
        date: '1990-01-01',
        key: key(),
      }),
    ).rejects.toThrow(/lies before/);
  });
});

describe('what is kept apart', () => {
  test('a confidential patient’s credit stays off the household’s paper and pays nothing else', async () => {
    const made = await household(t, false);
    const { householdId } = made;
    const nina = await addMember(t.context, {
      householdId,
      last: 'Apart',
      first: 'Nina',
      birthDate: '2000-01-01',
      sex: 'F',
      key: key(),
    });
    await setConfidential(t.context, {
      patientId: nina.patientId,
      name: 'Nina Apart',
      line1: '9 Quiet Lane',
      city: 'Osprey Landing',
      state: 'WA',
      zip: '98191',
      why: 'asked for it',
    });
    await charge(t, t.context, made.patientId, '80.00');
    await pay(householdId, '50.00', { patientId: nina.patientId });
    expect(await statementOf(householdId)).toMatchObject({ owed: 8000, credit: 0, amount: 8000 });
    expect(await statementOf(householdId, nina.patientId)).toMatchObject({
      owed: 0,
      credit: 5000,
      amount: -5000,
    });
    await charge(t, t.context, nina.patientId, '60.00');
    expect(await statementOf(householdId, nina.patientId)).toMatchObject({
      owed: 6000,
      credit: 5000,
      amount: 1000,
    });
    await expect(spendCredit(t.context, { householdId, key: key() })).rejects.toThrow(/no credit/);
    expect(await spendCredit(t.context, { householdId, patientId: nina.patientId, key: key() })).toBe(5000);
    expect(await statementOf(householdId)).toMatchObject({ owed: 8000, credit: 0 });
    await expect(pay(householdId, '5.00', { patientId: made.patientId })).rejects.toThrow(
      /no confidential address/,
    );
    const story = await readStory(t.context, householdId);
    expect(story.closing).toMatch(/90\.00 is yours to pay now/);
  });
});

describe('credit goes where it is said', () => {
  test('to chosen charges, to a plan, to what is at an agency with the fee as agreed', async () => {
    const { householdId, patientId, planId } = await planOf(t);
    await pay(householdId, '100.00');
    const a = await charge(t, t.context, patientId, '30.00');
    const b = await charge(t, t.context, patientId, '40.00');
    expect(
      await spendCredit(t.context, {
        householdId,
        parts: { [b]: '25.00' },
        plans: { [planId]: '20.00' },
        key: key(),
      }),
    ).toBe(4500);
    const { open, plans, figures } = await readAccount(t.context, householdId);
    expect(open.map(({ id, owed }) => [id, owed])).toEqual([
      [a, 3000],
      [b, 1500],
    ]);
    expect(plans[0]).toMatchObject({ left: 28_000 });
    expect(figures.credit).toBe(5500);
    await expect(
      spendCredit(t.context, { householdId, plans: { [planId]: '55.01' }, key: key() }),
    ).rejects.toThrow(/55\.00 is held/);
    await expect(
      spendCredit(t.context, { householdId, parts: { [a]: '-1.00' }, key: key() }),
    ).rejects.toThrow(/below zero/);

    const placed = await placementOf(t);
    await pay(placed.householdId, '100.00', { parts: {} });
    expect(
      await spendCredit(t.context, { householdId: placed.householdId, agency: '40.00', key: key() }),
    ).toBe(4000);
    // A quarter is its fee.
    expect(
      await t.db
        .selectFrom('agency_payment')
        .select(['gross', 'fee', 'direct'])
        .where('placement_id', '=', placed.placementId)
        .execute(),
    ).toEqual([{ gross: 4000, fee: 1000, direct: true }]);
  });
});

describe('credit goes back', () => {
  test('to its tender or by check, at most what is held; the receipt is reversed only after it', async () => {
    const { householdId } = await household(t, false);
    const receiptId = await pay(householdId, '50.00');
    const give = (amount: string, more: Record<string, unknown> = {}) =>
      refundCredit(t.context, { receiptId, amount, tender: 'cash', why: 'paid twice', key: key(), ...more });
    await expect(give('50.01')).rejects.toThrow(/50\.00 of it is held/);
    await expect(give('10.00', { tender: 'transfer' })).rejects.toThrow(/came by cash/);
    await expect(give('10.00', { tender: 'check' })).rejects.toThrow();
    const { refundId } = await give('30.00', { tender: 'check', reference: '77' });
    const { figures, receipts } = await readAccount(t.context, householdId);
    expect(figures.credit).toBe(2000);
    expect(receipts).toMatchObject([
      { id: receiptId, amount: 5000, left: 2000, refund: false },
      { id: refundId, amount: -3000, left: 0, refund: true },
    ]);
    await expect(reverseReceipt(t.context, { receiptId, why: 'bounced' })).rejects.toThrow(
      /30\.00 of it was given back/,
    );
    // The refund check never arrived: it is held again.
    await reverseReceipt(t.context, { receiptId: refundId, why: 'lost in the mail' });
    expect((await readAccount(t.context, householdId)).figures.credit).toBe(5000);
    await give('50.00');
    expect((await readAccount(t.context, householdId)).figures.credit).toBe(0);
    await expect(give('1.00')).rejects.toThrow(/Nothing of this receipt is held/);
    expect(await statementOf(householdId)).toMatchObject({ amount: 0 });
  });

  test('given back, it is not past due at once: the statement had not asked for it', async () => {
    const { householdId } = await beside('150.00');
    const { id: receiptId } = (await readAccount(t.context, householdId)).receipts[0]!;
    await refundCredit(t.context, {
      receiptId,
      amount: '150.00',
      tender: 'cash',
      why: 'asked for it',
      key: key(),
    });
    expect(await readOwed(t.context, [householdId])).toMatchObject([
      { owed: 20_000, left: 20_000, pastDue: 5000 },
    ]);
    await postLate(t.context, { householdIds: [householdId], key: key() });
  });
});

test('the credit of every account and part is what lists have of the view', async () => {
  const { householdId, patientId } = await household(t, true);
  await setConfidential(t.context, {
    patientId,
    name: 'A. Part',
    line1: '2 Row',
    city: 'Osprey Landing',
    state: 'WA',
    zip: '98199',
  });
  for (const [own, amount] of [
    [patientId, '30.00'],
    [undefined, '12.00'],
  ] as const)
    await takeReceipt(t.context, {
      householdId,
      patientId: own,
      tenders: [{ tender: 'cash', amount }],
      key: key(),
    });
  const { rows } = await sql<{ householdId: number; part: number; credit: number }>`
    select household_id as "householdId", part, credit from owed_part where credit <> 0 order by 1, 2`.execute(
    t.db,
  );
  expect(rows.filter((row) => row.householdId === householdId)).toEqual([
    { householdId, part: 0, credit: 1200 },
    { householdId, part: patientId, credit: 3000 },
  ]);
  const byReader = (accounts: readonly OwedAccount[]) =>
    accounts
      .map(({ householdId: id, patientId: part, credit }) => ({ householdId: id, part: part ?? 0, credit }))
      .filter(({ credit }) => credit !== 0)
      .sort((a, b) => a.householdId - b.householdId || a.part - b.part);
  expect(byReader(await readOwed(t.context))).toEqual(rows);
  expect(byReader(await readOwed(t.context, [householdId]))).toEqual(
    rows.filter((row) => row.householdId === householdId),
  );
});
