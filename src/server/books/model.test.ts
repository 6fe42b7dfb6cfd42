/** What is kept by charge, by coverage and by date: the database's own trigger keeps it, whoever writes. */
import { sql } from 'kysely';
import { type CalendarDate, calendarDate } from '../../core/calendar';
import { cents } from '../../core/money';
import { TODAY, fileDatabase } from '../../testing/database';
import {
  brokenInvariants,
  charge,
  decided,
  household,
  intake,
  remitText,
  sentClaim,
} from '../../testing/desk';
import { chargeAccount, enterCharge, voidCharge } from '../accounts/charges';
import { readStory } from '../accounts/ledger';
import { readAccount } from '../account-page/read';
import { readClaim } from '../claims/read';
import { moveClaims } from '../claims/life';
import { prepareStatement } from '../statements/prepare';
import { readStatement } from '../statements/read';
import { reverseReceipt } from '../payments/receipts';
import { takeReceipt } from '../payments/take';
import { postRemittance } from '../remittances/post';
import { reverseRemittance } from '../remittances/reverse';
import { addCoverage } from '../accounts/coverage';
import { estimateOpen } from '../estimates/read';
import { reportOf } from '../reports';
import { householdAging } from './balances';
import { decidedOf } from './decided';
import { writeEntries } from './journal';

const t = fileDatabase();
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

/** A second coverage, at Northlight Mutual, on the standing case of a patient. */
async function secondCoverage(caseId: number): Promise<number> {
  const { patient_id } = await t.db
    .selectFrom('care_case')
    .select('patient_id')
    .where('id', '=', caseId)
    .executeTakeFirstOrThrow();
  const { coverageId } = await addCoverage(t.context, {
    patientId: patient_id,
    insurancePlanId: t.insurancePlans['NL-A10'],
    memberId: 'NL12345678',
    position: 2,
    key: `model-second-${caseId}`,
  });
  return coverageId;
}
const post = async (text: string, today: CalendarDate = TODAY): Promise<number> => {
  const { outcomes } = await intake(t.context, text);
  await postRemittance({ ...t.context, today }, outcomes[0]!.remittanceId!);
  return outcomes[0]!.remittanceId!;
};
const payers = (chargeId: number) =>
  t.db
    .selectFrom('payer_balance as b')
    .innerJoin('payer as y', 'y.id', 'b.payer_id')
    .select(['y.name', 'b.with_payer', 'b.paid', 'b.reduced'])
    .where('b.charge_id', '=', chargeId)
    .orderBy('b.coverage_id')
    .execute();

describe('what a payer owes, by coverage', () => {
  test('passes from the first to the second, each known by itself; the first claim is closed, the charge stands once', async () => {
    const s = await sentClaim(t);
    await secondCoverage(s.caseId);
    const [chargeId] = s.charges;
    await post(
      remitText([
        decided(s.claim.control_number, [
          { control: s.controls[0]!, charge: 14500, paid: 6800, reasons: ['CO-45:47.00', 'PR-3:30.00'] },
        ]),
      ]),
    );
    expect(await payers(chargeId!)).toEqual([
      { name: 'Cedar Sound Health', with_payer: 0, paid: 6800, reduced: 4700 },
      { name: 'Northlight Mutual', with_payer: 3000, paid: 0, reduced: 0 },
    ]);
    expect((await readClaim(t.context, s.claim.id)).status).toBe('closed');
    const page = await readAccount(t.context, s.householdId);
    expect(page.charges).toHaveLength(1);
    expect(
      page.charges[0]!.payers.map(({ payer, withPayer, claimId }) => [payer, withPayer, claimId]),
    ).toEqual([
      ['Cedar Sound Health', 0, s.claim.id],
      ['Northlight Mutual', 3000, null],
    ]);
    // What passed on waits for its claim to the next payer, and is followed up until it is billed.
    expect(page.unbilled).toBe(1);
    expect(page.followUps.map((item) => item.kind)).toContain('next-payer');
    const story = await readStory(t.context, s.householdId);
    expect(story.charges[0]!.sentences.at(-1)!.words).toBe('30.00 is still waiting for Northlight Mutual.');
  });

  test('a claim shows what its own payer did, whoever paid beside it', async () => {
    const s = await sentClaim(t);
    const second = await secondCoverage(s.caseId);
    await post(
      remitText([
        decided(s.claim.control_number, [
          { control: s.controls[0]!, charge: 14500, paid: 6800, reasons: ['CO-45:47.00', 'PR-3:30.00'] },
        ]),
      ]),
    );
    const northlight = await t.db
      .selectFrom('covered as c')
      .select('c.payer_id')
      .where('c.id', '=', second)
      .executeTakeFirstOrThrow();
    // The second payer pays 20.00 of its 30.00, by whatever way.
    const about = {
      householdId: s.householdId,
      caseId: s.caseId,
      chargeId: s.charges[0]!,
      coverageId: second,
      payerId: northlight.payer_id,
      claimId: s.claim.id,
      remittanceId: (await t.db.selectFrom('remittance').select('id').executeTakeFirstOrThrow()).id,
    };
    await t.db.transaction().execute((tx) =>
      writeEntries(tx, t.context, [
        {
          kind: 'write-off',
          businessDate: TODAY,
          memo: 'test',
          postings: [
            { ...about, account: 'reduction/payer', amount: cents(2000) },
            { ...about, account: 'receivable/payer', amount: cents(-2000) },
          ],
        },
      ]),
    );
    const [line] = (await readClaim(t.context, s.claim.id)).lines;
    expect(line).toMatchObject({
      paidHere: 6800,
      reducedHere: 4700,
      waitingHere: 0,
      reduced: 6700,
      withPayer: 1000,
    });
  });
});

describe('the date from which the patient was responsible', () => {
  const since = async (chargeId: number) =>
    (
      await t.db
        .selectFrom('charge_balance')
        .select('patient_since')
        .where('charge_id', '=', chargeId)
        .executeTakeFirstOrThrow()
    ).patient_since;

  test('is the day on which it became theirs; a payment and its reversal leave it', async () => {
    const { patientId, householdId } = await household(t, false);
    const day = calendarDate('2025-11-03');
    const chargeId = await charge(t, { ...t.context, today: day }, patientId, '80.00', '99213', day);
    expect(await since(chargeId)).toBe(day);
    // A service of that day that is entered only now is of today.
    const entered = await charge(t, t.context, (await household(t, false)).patientId, '80.00', '99213', day);
    expect(await since(entered)).toBe(TODAY);
    const { receiptId } = await takeReceipt(t.context, {
      householdId,
      tenders: [{ tender: 'check', amount: '80.00', reference: '5' }],

      key: 'since-receipt',
    });
    expect(await householdAging(t.db, householdId, TODAY)).toEqual([0, 0, 0, 0, 0]);
    await reverseReceipt(t.context, { receiptId, why: 'returned by the bank' });
    expect(await since(chargeId)).toBe(day);
    // 133 days, not new.
    expect(await householdAging(t.db, householdId, TODAY)).toEqual([0, 0, 0, 0, 8000]);
  });

  test('a decision that is taken back gives the earlier date back, and none where there was none', async () => {
    const s = await sentClaim(t);
    const [chargeId] = s.charges;
    const decision = (pr: string, co: string) =>
      remitText(
        [
          decided(s.claim.control_number, [
            { control: s.controls[0]!, charge: 14500, paid: 6800, reasons: [`CO-45:${co}`, `PR-3:${pr}`] },
          ]),
        ],
        { date: TODAY },
      );
    expect(await since(chargeId!)).toBeNull();
    const first = await post(decision('30.00', '47.00'), calendarDate('2026-04-10'));
    expect(await since(chargeId!)).toBe('2026-04-10');
    await reverseRemittance(t.context, { remittanceId: first, why: 'test' });
    expect(await since(chargeId!)).toBeNull();
    // Said anew, what was the patient's before keeps its day.
    await post(decision('30.00', '47.00'), calendarDate('2026-05-20'));
    expect(await since(chargeId!)).toBe('2026-04-10');
  });
});

test('what is expected to come off stands apart: no decision, no report and no payer’s balance sees it', async () => {
  const counted = (when: 'answer' | 'service') =>
    t.db.updateTable('practice').set({ write_offs_count: when }).execute();
  const before = await reportOf('reductions')!.read(t.context, {});
  await counted('service');
  const s = await sentClaim(t);
  await counted('answer');
  const balance = await t.db
    .selectFrom('charge_balance as b')
    .innerJoin('payer_balance as w', 'w.charge_id', 'b.charge_id')
    .select(['b.reduced', 'b.expected', 'b.with_payer', 'w.reduced as payers'])
    .where('b.charge_id', '=', s.charges[0]!)
    .executeTakeFirstOrThrow();
  expect(balance).toEqual({ reduced: 0, expected: 4700, with_payer: 9800, payers: 0 });
  expect(await t.db.transaction().execute((tx) => decidedOf(tx, s.claim))).toEqual(
    new Map([[s.charges[0]!, { paid: 0, reduced: 0, passedOn: 0 }]]),
  );
  expect((await reportOf('reductions')!.read(t.context, {})).totals).toEqual(before.totals);
});

test('undecided is what no decision stands on: not what a payer passed on whole, and again what it took back', async () => {
  const s = await sentClaim(t);
  await secondCoverage(s.caseId);
  const undecided = async () => (await estimateOpen(t.context, s.caseId, [])).map(({ id }) => id);
  expect(await undecided()).toEqual(s.charges);
  // Nothing paid, everything passed on: all of it waits with the next payer, and the first has decided.
  const remit = await post(
    remitText([
      decided(s.claim.control_number, [
        { control: s.controls[0]!, charge: 14500, paid: 0, reasons: ['PR-1:145.00'] },
      ]),
    ]),
  );
  const [balance] = await t.db
    .selectFrom('charge_balance')
    .select(['fee', 'with_payer'])
    .where('charge_id', '=', s.charges[0]!)
    .execute();
  expect(balance).toEqual({ fee: 14500, with_payer: 14500 });
  expect(await undecided()).toEqual([]);
  await reverseRemittance(t.context, { remittanceId: remit, why: 'test' });
  expect(await undecided()).toEqual(s.charges);
});

describe('what is charged besides fees', () => {
  test('interest, a late charge and a balance brought in stand on the account, never as fees; voided they are gone', async () => {
    const { householdId, patientId } = await household(t, false);
    await charge(t, t.context, patientId, '80.00');
    const put = (kind: 'interest' | 'late' | 'opening', amount: string) =>
      chargeAccount(t.context, { householdId, kind, amount, date: TODAY, key: `besides-${kind}` });
    const late = await put('late', '1.97');
    await put('interest', '0.83');
    await put('opening', '120.00');
    const { charges, figures } = await readAccount(t.context, householdId);
    expect(
      charges.map(({ kind, fee, added, opened, withPatient }) => [kind, fee, added, opened, withPatient]),
    ).toEqual([
      ['service', 8000, 0, 0, 8000],
      ['late', 0, 197, 0, 197],
      ['interest', 0, 83, 0, 83],
      ['opening', 0, 0, 12_000, 12_000],
    ]);
    expect(figures.withPatient).toBe(20_280);
    const income = await sql<{ account: string; amount: number }>`
      select account, -sum(amount) as amount
      from posting
      where household_id = ${householdId} and amount < 0
      group by 1
      order by 1`.execute(t.db);
    expect(income.rows).toEqual([
      { account: 'income/fees', amount: 8000 },
      { account: 'income/interest', amount: 83 },
      { account: 'income/late-charge', amount: 197 },
      { account: 'opening/balance', amount: 12_000 },
    ]);
    const story = (await readStory(t.context, householdId, late)).charges[0]!;
    expect(story.sentences[0]!.words).toBe('On 16 Mar 2026, 1.97 came on the account: Late charge.');
    await takeReceipt(t.context, {
      householdId,
      tenders: [{ tender: 'cash', amount: '202.80' }],
      key: 'besides-pay',
    });
    expect((await readAccount(t.context, householdId)).figures.balance).toBe(0);
    await expect(voidCharge(t.context, { chargeId: late, why: 'goodwill' })).rejects.toThrow(
      /Money has moved/,
    );
    const other = await chargeAccount(t.context, {
      householdId,
      kind: 'late',
      amount: '5.00',
      date: TODAY,
      key: 'besides-other',
    });
    await voidCharge(t.context, { chargeId: other, why: 'goodwill' });
    expect((await readAccount(t.context, householdId)).figures.balance).toBe(0);
  });

  test.each([
    ['0', /more than zero/],
    ['-1', /more than zero/],
    ['x', /not an amount/],
  ])('an amount of %s is refused', async (amount, words) => {
    const { householdId } = await household(t, false);
    await expect(
      chargeAccount(t.context, { householdId, kind: 'late', amount, date: TODAY, key: `bad-${amount}-late` }),
    ).rejects.toThrow(words);
  });

  test('tax is the patient’s and payable, while the fee waits with the payer', async () => {
    const made = await household(t);
    const chargeId = await enterCharge(t.context, {
      patientId: made.patientId,
      providerId: t.providers.family,
      serviceDate: TODAY,
      code: '99213',
      fee: '100.00',
      tax: '8.80',
      diagnoses: ['I10'],
      key: 'tax-charge',
    });
    const balance = await t.db
      .selectFrom('charge_balance')
      .select(['fee', 'tax', 'with_payer', 'with_patient'])
      .where('charge_id', '=', chargeId)
      .executeTakeFirstOrThrow();
    expect(balance).toEqual({ fee: 10_000, tax: 880, with_payer: 10_000, with_patient: 880 });
    const id = await prepareStatement(t.context, { householdId: made.householdId, key: 'tax-statement' });
    expect((await readStatement(t.context, id)).content.sections[0]!.lines[0]!.sentences[0]!.words).toContain(
      'The fee is 108.80, 8.80 of it tax.',
    );
  });
});

describe('the database refuses', () => {
  test('a move of a claim that its life does not have, and a claim that does not begin as a draft', async () => {
    const s = await sentClaim(t);
    await expect(
      t.pool.query(`update claim set status = 'ready' where id = $1`, [s.claim.id]),
    ).rejects.toThrow(/does not go from sent to ready/);
    await expect(
      t.pool.query(
        `
          insert into claim (
            control_number, household_id, patient_id, case_id, coverage_id, position, payer_id, location_id, provider_id,
            form, total, service_date, status
          )
         select 'X1', household_id, patient_id, case_id, coverage_id, position, payer_id, location_id, provider_id, form,
           total, service_date, 'sent'
         from claim
         where id = $1`,
        [s.claim.id],
      ),
    ).rejects.toThrow(/begins as a draft/);
    await expect(
      t.db
        .transaction()
        .execute((tx) =>
          moveClaims(
            tx,
            t.context,
            [{ id: s.claim.id, status: 'sent' }],
            'ready',
            { kind: 'user', name: 'x' },
            '',
          ),
        ),
    ).rejects.toThrow(/cannot become ready/);
  });

  test('an entry that does not carry what its kind needs, and one of an unknown kind', async () => {
    const entry = (kind: string) =>
      t.pool.query(
        `
          with e as (
            insert into entry (kind, posting_date, business_date, user_id, memo)
            values ($1, '2026-03-16', '2026-03-16', 'x', '')
            returning id
          )
         insert into posting (entry_id, account, amount)
         select id, account, amount
         from e, (values ('cash/cash', 5), ('credit/payer', -5)) v (account, amount)`,
        [kind],
      );
    await expect(entry('receipt')).rejects.toThrow(/A receipt carries its household_id/);
    await expect(entry('gift')).rejects.toThrow(/foreign key/);
  });

  test('a book account that changes what it means, a charge on account with a provider, a second standing case', async () => {
    await expect(
      t.pool.query(`update book_account set class = 'income' where code = 'credit/payer'`),
    ).rejects.toThrow(/never changed/);
    const { householdId, patientId } = await household(t, false);
    await expect(
      t.pool.query(
        `
          insert into charge (household_id, kind, provider_id, description, fee, service_date)
          values ($1, 'late', $2, 'x', 100, '2026-03-16')`,
        [householdId, t.providers.family],
      ),
    ).rejects.toThrow(/check constraint/);
    await expect(
      t.pool.query(`insert into care_case (patient_id, name) values ($1, 'Another')`, [patientId]),
    ).rejects.toThrow(/one_standing_case/);
  });

  test('a reason code that reduces on an account that is no reduction', async () => {
    await expect(
      t.pool.query(`update reason_code set reduction_account = 'income/fees' where code = '45'`),
    ).rejects.toThrow(/foreign key/);
  });
});
