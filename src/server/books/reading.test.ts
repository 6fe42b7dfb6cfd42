/** What is read of the books: the entries of a charge word for word, figures by household, by age and by month, benefits used. */
import { addDays, calendarDate, yearStart } from '../../core/calendar';
import { EVER, type Rule } from '../../core/estimates/rules';
import { cents } from '../../core/money';
import { TODAY, fileDatabase } from '../../testing/database';
import { charge, decided, household, intake, placementOf, remitText, sentClaim } from '../../testing/desk';
import { inTransaction } from '../use-case';
import { postAgencyPayment } from '../overdue/agency-money';
import { undoWriteOff } from '../follow-ups/undo';
import { writeOffSmall } from '../overdue/small';
import { reverseReceipt } from '../payments/receipts';
import { takeReceipt } from '../payments/take';
import { matchHeld } from '../remittances/held';
import { postRemittance } from '../remittances/post';
import { reverseRemittance } from '../remittances/reverse';
import {
  agingOfAll,
  heldReceipts,
  householdAging,
  householdFigures,
  moneyByMonth,
  openFigures,
  trialBalance,
} from './balances';
import { benefitsOf, coverageDay } from './benefits';
import { checkBooks } from './check';
import { readEntries } from './entries';
import { lockHouseholds, reverseEntries, writeEntries } from './journal';

const t = fileDatabase();

let serial = 0;
const key = (): string => `reading-test-${(serial += 1)}`;
const pay = (
  householdId: number,
  amount: string,
  means: { tender?: 'check'; reference?: string } = {},
  today = TODAY,
) =>
  takeReceipt(
    { ...t.context, today },
    { householdId, tenders: [{ tender: 'cash', amount, ...means }], key: key() },
  );
/** A visit of 145.00 that a payer decided. */
async function visit(paid: number, reasons: string[]) {
  const s = await sentClaim(t);
  const line = { control: s.controls[0]!, charge: 14_500, paid, reasons };
  const { outcomes } = await intake(t.context, remitText([decided(s.claim.control_number, [line])]));
  const remittanceId = outcomes[0]!.remittanceId!;
  await postRemittance(t.context, remittanceId);
  return { ...s, chargeId: s.charges[0]!, remittanceId };
}
const entries = async (chargeId: number) => (await readEntries(t.db, [chargeId])).get(chargeId) ?? [];

describe('the entries of a charge', () => {
  test('a decision: what was paid, taken off, passed on, by reason and in the patient’s words', async () => {
    const { chargeId, remittanceId, claim } = await visit(5300, ['CO-45:47.00', 'PR-1:30.00', 'PR-3:15.00']);
    const [first, decision, ...none] = await entries(chargeId);
    expect(none).toEqual([]);
    expect(first).toMatchObject({
      kind: 'charge',
      by: '',
      reasons: [],
      undone: false,
      receiptId: null,
    });
    expect(decision).toEqual({
      entryId: expect.any(Number) as number,
      exception: null,
      expected: 0,
      kind: 'payer-decision',
      date: TODAY,
      postingDate: TODAY,
      coverageId: claim.coverage_id,
      payer: 'Cedar Sound Health',
      memo: expect.any(String) as string,
      undone: false,
      paidByPayer: 5300,
      paidByPatient: 0,
      paidByAgency: 0,
      reduced: [{ words: 'the discount that our contract with your insurer gives you', amount: 4700 }],
      passedOn: [
        { words: 'goes to your yearly deductible', amount: 3000 },
        { words: 'your copay for the visit', amount: 1500 },
      ],
      refused: [],
      reasons: [
        { code: 'CO-45', words: 'Over the contracted fee', amount: 4700 },
        { code: 'PR-1', words: 'Deductible', amount: 3000 },
        { code: 'PR-3', words: 'Copay', amount: 1500 },
      ],
      remittanceId,
      receiptId: null,
      by: '',
    });
  });

  test('what a payer refuses stays and is told as refused, what it reduces besides is not', async () => {
    const { chargeId } = await visit(4000, ['CO-45:45.00', 'CO-16:60.00']);
    const decision = (await entries(chargeId))[1]!;
    expect(decision.reduced.map(({ amount }) => amount)).toEqual([4500]);
    expect(decision.refused).toEqual([{ words: 'your insurer asked us for more information', amount: 6000 }]);
    expect(decision.passedOn).toEqual([]);
    expect(decision.paidByPayer).toBe(4000);
    expect(decision.reasons.map(({ code, amount }) => [code, amount])).toEqual([
      ['CO-45', 4500],
      ['CO-16', 6000],
    ]);
    // Of a claim that is denied as a whole all of it stays.
    const denied = (await entries((await visit(0, ['CO-45:45.00', 'CO-16:100.00'])).chargeId))[1]!;
    expect([denied.reduced, denied.refused.map(({ amount }) => amount)]).toEqual([[], [4500, 10_000]]);
  });

  test('a code that nobody knows is called by its number', async () => {
    const { chargeId } = await visit(9500, ['OA-9999:50.00']);
    const decision = (await entries(chargeId))[1]!;
    expect(decision.reasons).toEqual([
      { code: 'OA-9999', words: 'not in the reason code table', amount: 5000 },
    ]);
    expect([...decision.reduced, ...decision.refused]).toEqual([{ words: 'reason OA-9999', amount: 5000 }]);
  });

  test('what was taken back is undone, and says by whom; what the patient paid is the patient’s', async () => {
    const { chargeId, householdId, remittanceId } = await visit(10_000, ['PR-1:45.00']);
    const { receiptId } = await pay(householdId, '45.00');
    const paid = (await entries(chargeId))[2]!;
    expect(paid).toMatchObject({
      paidByPatient: 4500,
      paidByPayer: 0,
      receiptId,
      remittanceId: null,
      payer: '',
      passedOn: [],
      reasons: [],
    });
    await reverseReceipt(t.context, { receiptId, why: 'bounced' });
    await reverseRemittance(t.context, { remittanceId, why: 'the wrong claim' });
    const all = await entries(chargeId);
    expect(all.map(({ kind, undone, by }) => [kind, undone, by])).toEqual([
      ['charge', false, ''],
      ['payer-decision', true, ''],
      ['allocation', true, ''],
      ['reversal', false, 'manager'],
      ['reversal', false, 'manager'],
    ]);
    expect(all[4]).toMatchObject({
      paidByPayer: -10_000,
      memo: expect.stringContaining('the wrong claim') as string,
    });
  });

  test('money of an agency is the agency’s, and what comes out of the payer’s credit is the payer’s', async () => {
    const p = await placementOf(t);
    await postAgencyPayment(t.context, {
      placementId: p.placementId,
      reference: 'A1',
      paidOn: TODAY,
      gross: '40.00',
      key: key(),
    });
    const booked = (await entries(p.chargeId)).at(-1)!;
    expect(booked).toMatchObject({
      kind: 'agency-payment',
      paidByAgency: 4000,
      paidByPayer: 0,
      paidByPatient: 0,
    });
    expect(booked.passedOn).toEqual([]);

    // Paid under a number that nobody knows, and matched by hand.
    const s = await sentClaim(t);
    const line = { control: 'L0', charge: 14_500, paid: 6000, reasons: ['CO-45:85.00'] };
    const { outcomes } = await intake(t.context, remitText([decided('NOBODY', [line])]));
    const remittanceId = outcomes[0]!.remittanceId!;
    await postRemittance(t.context, remittanceId);
    const { id } = await t.db
      .selectFrom('remittance_claim')
      .select('id')
      .where('remittance_id', '=', remittanceId)
      .executeTakeFirstOrThrow();
    await matchHeld(t.context, { remittanceClaimId: id, controlNumber: s.claim.control_number });
    expect((await entries(s.charges[0]!)).at(-1)).toMatchObject({
      kind: 'payer-decision',
      paidByPayer: 6000,
    });
  });

  test('a write-off is a reduction by its own words, with who did it; none of no charge', async () => {
    const made = await household(t, false);
    const long = { ...t.context, today: addDays(TODAY, -90) };
    const chargeId = await charge(t, long, made.patientId, '4.00', '99213', addDays(TODAY, -90));
    await writeOffSmall(t.context, { householdIds: [made.householdId], key: key() });
    const off = (await entries(chargeId))[1]!;
    expect(off).toMatchObject({
      kind: 'write-off',
      by: 'manager',
      reduced: [{ words: 'Small balance, below 10.00', amount: 400 }],
      date: TODAY,
    });
    await undoWriteOff(t.context, { entryId: off.entryId, why: 'she pays' });
    expect((await entries(chargeId)).map(({ undone }) => undone)).toEqual([false, true, false]);
    expect(await readEntries(t.db, [])).toEqual(new Map());
    const two = await readEntries(t.db, [chargeId, (await visit(14_500, [])).chargeId]);
    expect([...two.values()].map((list) => list.length)).toEqual([3, 2]);
  });
});

describe('figures', () => {
  test('of a household, and of one that has nothing', async () => {
    const { householdId } = await household(t, false);
    const nothing = {
      withPayer: 0,
      withPatient: 0,
      onPlan: 0,
      atAgency: 0,
      credit: 0,
      reserved: 0,
      held: 0,
      balance: 0,
    };
    expect(await householdFigures(t.db, householdId)).toEqual(nothing);
    expect(await heldReceipts(t.db, householdId)).toEqual([]);
    const { receiptId } = await pay(householdId, '12.00', { tender: 'check', reference: '77' });
    expect(await householdFigures(t.db, householdId)).toEqual({ ...nothing, credit: 1200, balance: -1200 });
    expect(await heldReceipts(t.db, householdId)).toEqual([{ id: receiptId, how: 'Check 77', left: 1200 }]);
  });

  test('by age: patients since they are responsible, payers since the service', async () => {
    const before = await agingOfAll(t.db, TODAY);
    const made = await household(t, false);
    const day = addDays(TODAY, -100);
    const long = { ...t.context, today: day };
    await charge(t, long, made.patientId, '60.00', '99213', day);
    await charge(t, t.context, made.patientId, '5.00', '99213', TODAY);
    const insured = await household(t);
    await charge(t, t.context, insured.patientId, '70.00', '99213', addDays(TODAY, -40));
    const after = await agingOfAll(t.db, TODAY);
    expect(after.patients.map((amount, at) => amount - before.patients[at]!)).toEqual([500, 0, 0, 6000, 0]);
    expect(after.payers.map((amount, at) => amount - before.payers[at]!)).toEqual([0, 7000, 0, 0, 0]);
    const aging = await householdAging(t.db, made.householdId, TODAY);
    expect(aging).toEqual([500, 0, 0, 6000, 0]);
  });

  test('received in seven days is what was booked in them, and what is open is what households say', async () => {
    const before = await openFigures(t.db, TODAY);
    const made = await household(t, false);
    await charge(t, t.context, made.patientId, '100.00');
    await pay(made.householdId, '10.00', {}, addDays(TODAY, -7));
    await pay(made.householdId, '20.00', {}, addDays(TODAY, -6));
    await pay(made.householdId, '90.00');
    const after = await openFigures(t.db, TODAY);
    expect(after.receivedThisWeek - before.receivedThisWeek).toBe(11_000);
    expect(after.withPatients - before.withPatients).toBe(0);
    expect(after.credit - before.credit).toBe(2000);
    expect(after.withPayers).toBe(before.withPayers);
  });

  test('by month, from the month of a year before on', async () => {
    const made = await household(t, false);
    const months = ['2025-02-28', '2025-03-01', '2026-01-31'];
    const of = async () => new Map((await moneyByMonth(t.db, TODAY)).map((row) => [row.month, row]));
    const before = await of();
    for (const day of months.map((text) => calendarDate(text)))
      await charge(t, { ...t.context, today: day }, made.patientId, '30.00', '99213', day);
    await pay(made.householdId, '25.00', {}, calendarDate('2026-01-31'));
    const after = await of();
    expect(after.has('2025-02')).toBe(false);
    expect(after.get('2025-03')?.charged).toBe((before.get('2025-03')?.charged ?? 0) + 3000);
    expect(after.get('2026-01')).toMatchObject({
      charged: (before.get('2026-01')?.charged ?? 0) + 3000,
      patients: (before.get('2026-01')?.patients ?? 0) + 2500,
    });
  });

  test('the trial balance is all that was posted, each account once, and comes to nothing', async () => {
    const rows = await trialBalance(t.context);
    expect(rows.reduce((all, { balance }) => all + balance, 0)).toBe(0);
    expect(rows.every(({ debits, credits, balance }) => debits - credits === balance)).toBe(true);
    expect(new Set(rows.map(({ account }) => account)).size).toBe(rows.length);
    await expect(trialBalance(t.as('front-desk'))).rejects.toThrow(/may not/);
  });
});

test('benefits used are those that payers have decided in the year of the day, by policy and person', async () => {
  const { claim } = await visit(10_000, ['PR-1:45.00']);
  const other = await visit(14_500, []);
  const coverageId = claim.coverage_id;
  const ask = (day: string, id = coverageId) => ({ coverageId: id, day: calendarDate(day) });
  const asks = [
    ask('2026-03-16'),
    ask('2026-12-31'),
    ask('2025-12-31'),
    ask('2027-03-16'),
    ask('2026-03-16', other.claim.coverage_id),
  ];
  const benefits = await benefitsOf(t.db, asks);
  const yearly = { holder: 'person', period: { every: 'year' } } as const;
  const deductible: Rule = { kind: 'deductible', id: 'd', amount: cents(1), ...yearly };
  const maximum: Rule = { kind: 'limit', id: 'm', measure: 'money', most: 1, ...yearly };
  const used = ({ day, coverageId: id }: (typeof asks)[number], rules: readonly Rule[]) =>
    rules.map((rule) => benefits.get(coverageDay({ coverageId: id, day }))!.used(rule, yearStart(day), ''));
  expect(asks.map((one) => used(one, [maximum, deductible]))).toEqual([
    [10_000, 4500],
    [10_000, 4500],
    [0, 0],
    [0, 0],
    [14_500, 0],
  ]);
  expect(await benefitsOf(t.db, [])).toEqual(new Map());
});

test('what a counter does not keep is counted from each charge, and says the same where both do', async () => {
  const { remittanceId, claim } = await visit(9500, ['PR-1:30.00', 'PR-2:15.00', 'PR-96:5.00']);
  const { policy_id: policyId } = await t.db
    .selectFrom('coverage')
    .select('policy_id')
    .where('id', '=', claim.coverage_id)
    .executeTakeFirstOrThrow();
  await t.db
    .insertInto('benefit_rule')
    .values({ kind: 'limit', measure: 'visits', quantity: 20, policy_id: policyId })
    .execute();
  const ask = { coverageId: claim.coverage_id, day: TODAY };
  const of = async () => (await benefitsOf(t.db, [ask])).get(coverageDay(ask))!;
  const yearly = { period: { every: 'year' } } as const;
  const asked = (one: Awaited<ReturnType<typeof of>>) => {
    const used = (rule: Rule, from = yearStart(TODAY)): number => one.used(rule, from, '');
    return {
      visits: used({ kind: 'limit', id: 'v', measure: 'visits', most: 1, holder: 'person', ...yearly }),
      units: used({ kind: 'limit', id: 'u', measure: 'units', most: 1, holder: 'person', ...yearly }),
      // A deductible by its counter, and the household's by each charge.
      own: used({ kind: 'deductible', id: 'd', amount: cents(1), holder: 'person', ...yearly }),
      all: used({ kind: 'deductible', id: 'd', amount: cents(1), holder: 'household', ...yearly }),
      outOfPocket: used({ kind: 'out-of-pocket', id: 'o', amount: cents(1), holder: 'person', ...yearly }),
      paid: used({ kind: 'limit', id: 'm', measure: 'money', most: 1, holder: 'person', ...yearly }),
      life: used(
        { kind: 'limit', id: 'l', measure: 'money', most: 1, holder: 'person', period: { every: 'life' } },
        EVER,
      ),
    };
  };
  const one = await of();
  expect(one.rules.find(({ kind }) => kind === 'limit')).toMatchObject({ measure: 'visits', most: 20 });
  expect(asked(one)).toEqual({
    visits: 1,
    units: 1,
    own: 3000,
    all: 3000,
    outOfPocket: 4500,
    paid: 9500,
    life: 9500,
  });
  // Taken back it is used no more.
  await reverseRemittance(t.context, { remittanceId, why: 'x' });
  expect(asked(await of())).toEqual({
    visits: 0,
    units: 0,
    own: 0,
    all: 0,
    outOfPocket: 0,
    paid: 0,
    life: 0,
  });
});

describe('the writer', () => {
  test('asks why something is reversed, and reverses nothing twice or of nothing', async () => {
    const { householdId, chargeId } = await visit(14_500, []);
    const { entryId } = (await entries(chargeId))[1]!;
    await inTransaction(t.context, async (act) => {
      await lockHouseholds(act.db, []);
      await lockHouseholds(act.db, [householdId, householdId]);
      for (const why of ['', '  '])
        await expect(reverseEntries(act.db, act, [entryId], why)).rejects.toThrow('Say why it is reversed');
      expect(await reverseEntries(act.db, act, [], 'x')).toEqual([]);
      expect(await writeEntries(act.db, act, [])).toEqual([]);
    });
    expect((await entries(chargeId)).map(({ undone }) => undone)).toEqual([false, false]);
  });

  test('leaves out what has no amounts, and says which', async () => {
    const { chargeId, householdId, patientId } = await visit(14_500, []);
    const about = {
      chargeId,
      householdId,
      patientId,
      providerId: t.providers.family!,
      locationId: null,
      caseId: null,
    };
    const draft = (amount: number) => ({
      kind: 'account-charge' as const,
      businessDate: TODAY,
      memo: 'tried',
      postings: [
        { account: 'receivable/patient' as const, amount: cents(amount), ...about },
        { account: 'income/fees' as const, amount: cents(-amount), ...about },
      ],
    });
    const written = await inTransaction(t.context, (act) =>
      writeEntries(act.db, act, [draft(0), draft(100), draft(0), draft(200)] as never),
    );
    expect(written.map((id) => id === null)).toEqual([true, false, true, false]);
    const amounts = (await entries(chargeId))
      .filter(({ memo }) => memo === 'tried')
      .map(({ entryId }) => entryId);
    expect(amounts).toEqual([written[1], written[3]]);
    await inTransaction(t.context, async (act) => {
      expect(await writeEntries(act.db, act, [draft(0)] as never)).toEqual([null]);
      await reverseEntries(act.db, act, amounts, 'tried enough');
    });
  });
});

test('every check is run once, inside a transaction and beside each other, and names what is wrong', async () => {
  const outside = await checkBooks(t.db);
  const inside = await t.db.transaction().execute((tx) => checkBooks(tx));
  expect(inside).toEqual(outside);
  expect(outside.every(({ id, words }) => id !== '' && words !== '')).toBe(true);
  expect(outside.flatMap(({ faults }) => faults)).toEqual([]);
  expect(new Set(outside.map(({ id }) => id)).size).toBe(outside.length);
});
