/** Plans from the quote to the last installment, and everything that is taken back on the way. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { type CalendarDate, addDays, addMonths } from '../../core/calendar';
import { cents } from '../../core/money';
import { type TestDatabase, TODAY, testDatabase } from '../../testing/database';
import { charge, decided, household, intake, planOf, remitText, sentClaim } from '../../testing/desk';
import type { Context } from '../access';
import { voidCharge } from '../accounts/charges';
import { readStory } from '../accounts/ledger';
import { readAccount } from '../account-page/read';
import { addMember } from '../accounts/register';
import { checkBooks } from '../books/check';
import { foldersOf } from '../folders';
import { openCharges } from '../books/open-lines';
import { reverseReceipt } from '../payments/receipts';
import { takeReceipt } from '../payments/take';
import { postRemittance } from '../remittances/post';
import { reverseRemittance } from '../remittances/reverse';
import { weighHouseholds } from '../statements/choosing';
import { draftStatements } from '../batches/drafts';
import { setConfidential } from '../accounts/confidential';
import { setStop } from '../accounts/stops';
import { makePiece } from '../batches/making';
import { statementPdf } from '../print/statement';
import { prepareStatement } from '../statements/prepare';
import { readStatement } from '../statements/read';
import { inTransaction } from '../use-case';
import { acceptPlan, cancelPlan, proposePlan, quotePlan } from './agree';
import { collectInstallments } from '../payments/collect';
import { planPaper } from './paper';
import { plansOf, readPlan } from './read';
import { remindersDue, sendReminders, watchPlans } from './watch';
import { runs } from '../../testing/runs';

let t: TestDatabase;
const folder = mkdtempSync(join(tmpdir(), 'wergeld-plans-'));
beforeAll(async () => {
  t = await testDatabase();
  await foldersOf('pelican');
});
afterAll(async () => {
  rmSync(folder, { recursive: true, force: true });
  await t.close();
});

let serial = 0;
const key = (): string => `plan-test-${(serial += 1)}`;
const on = (day: CalendarDate): Context => ({ ...t.context, today: day });
const month = (count: number): CalendarDate => addMonths(TODAY, count);
const FIRST = month(1);
/** A household that owes, by charges of these fees. */
async function owes(...fees: string[]) {
  const made = await household(t, false, { sure: true });
  const charges: number[] = [];
  for (const [index, fee] of fees.entries())
    charges.push(await charge(t, t.context, made.patientId, fee, '99213', addDays(TODAY, index - 20)));
  return { ...made, charges };
}
const terms = (householdId: number, more: Record<string, unknown> = {}) => ({
  householdId,
  installments: 6,
  rate: '5',
  first: FIRST,
  ...more,
});
/** An accepted plan. */
async function plan(fees: string[], more: Record<string, unknown> = {}) {
  const made = await owes(...fees);
  const planId = await proposePlan(t.context, { ...terms(made.householdId, more), key: key() });
  await acceptPlan(t.context, { planId, signedBy: 'Nr Tester' });
  return { ...made, planId };
}
const pay = (householdId: number, planId: number, amount: string, day = TODAY) =>
  takeReceipt(on(day), {
    householdId,
    tenders: [{ tender: 'cash', amount }],

    plans: { [planId]: amount },
    key: key(),
  });
const figures = async (householdId: number) => {
  const { figures: f } = await readAccount(t.context, householdId);
  return [f.withPatient, f.onPlan, f.credit];
};
const pdfText = ({ bytes }: { bytes: Buffer }): string => {
  const file = join(folder, `text-${(serial += 1)}.pdf`);
  writeFileSync(file, bytes);
  return execFileSync('pdftotext', ['-layout', file, '-'], { encoding: 'utf8' }).replace(/\s+/g, ' ');
};
const clean = async () =>
  (await checkBooks(t.db)).flatMap(({ id, faults }) => faults.map((fault) => `${id}: ${fault}`));

describe('agreeing', () => {
  test('what it means is worked out from what is open; 560.00 less 60.00 at 5 % is 84.55, the last 84.56', async () => {
    const { householdId, charges } = await owes('300.00', '260.00');
    const quoted = await quotePlan(t.context, terms(householdId, { down: '60.00' }));
    expect(quoted).toMatchObject({
      amount: 56_000,
      down: 6_000,
      financed: 50_000,
      level: 8455,
      financeCharge: 731,
      total: 50_731,
      disclosure: true,
      beyond: [],
    });
    expect(await quotePlan(t.context, terms(householdId, { chargeIds: [charges[1]] }))).toMatchObject({
      amount: 26_000,
    });
    expect(await quotePlan(t.context, terms(householdId, { amount: '100.00', rate: '0' }))).toMatchObject({
      financed: 10_000,
      apr: 0,
    });
    const refused = async (more: Record<string, unknown>, words: RegExp) =>
      expect(quotePlan(t.context, terms(householdId, more))).rejects.toThrow(words);
    await refused({ amount: '560.01' }, /560.00 is open/);
    await refused({ down: '560.00' }, /pays all of it/);
    await refused({ installments: null, installment: null }, /one of both/);
    await refused({ installment: '10.00' }, /one of both/);
    await refused({ chargeIds: [99_999_999] }, /not open any more/);
    await refused({ rate: '5.123' }, /two decimals/);
    await refused({ first: addDays(TODAY, -1) }, /before the agreement/);
    await expect(quotePlan(t.context, terms((await household(t, false)).householdId))).rejects.toThrow(
      /Nothing is open/,
    );
  });

  test('beyond the limits only a manager agrees; everybody sees that it is', async () => {
    const { householdId } = await owes('560.00');
    const long = terms(householdId, { installments: 25 });
    expect((await quotePlan(t.as('front-desk'), long)).beyond).toEqual([
      '25 installments are more than 24',
      'An installment of 23.63 is less than 25.00',
    ]);
    await expect(proposePlan(t.as('front-desk'), { ...long, key: key() })).rejects.toThrow(
      '25 installments are more than 24: a manager may agree it',
    );
    await expect(
      proposePlan(t.as('collector'), { ...terms(householdId, { rate: '18.01' }), key: key() }),
    ).rejects.toThrow(/18.01 % is more than 18 %/);
    expect(await proposePlan(t.as('manager'), { ...long, key: key() })).toBeGreaterThan(0);
  });

  test('a proposal moves nothing; accepted, its charges are on the plan, less what is paid down of the oldest', async () => {
    const { householdId, charges } = await owes('300.00', '260.00');
    const input = { ...terms(householdId, { down: '60.00' }), key: key() };
    const planId = await proposePlan(t.context, input);
    expect(await proposePlan(t.context, input)).toBe(planId);
    expect(await figures(householdId)).toEqual([56_000, 0, 0]);
    await acceptPlan(t.context, { planId, signedBy: 'Ada Quill' });
    expect(await figures(householdId)).toEqual([6_000, 50_000, 0]);
    await expect(acceptPlan(t.context, { planId, signedBy: 'Ada Quill' })).rejects.toThrow(
      /accepted already/,
    );
    const { charges: told } = await readStory(t.context, householdId, charges[0]);
    expect(told[0]!.sentences.map(({ words }) => words).join(' ')).toMatch(
      /went on payment plan P-\d+.*240.00 is on a payment plan, 60.00 is yours to pay/,
    );
    // What comes later never slips into it.
    await charge(t, t.context, (await readAccount(t.context, householdId)).members[0]!.id, '45.00');
    expect(await figures(householdId)).toEqual([10_500, 50_000, 0]);
    await expect(voidCharge(t.context, { chargeId: charges[1]!, why: 'x' })).rejects.toThrow(
      /Money has moved/,
    );
    expect(await clean()).toEqual([]);
  });

  test('a payment between the proposal and the signature: it is proposed anew', async () => {
    const { householdId } = await owes('300.00');
    const planId = await proposePlan(t.context, { ...terms(householdId), key: key() });
    await takeReceipt(t.context, { householdId, tenders: [{ tender: 'cash', amount: '10.00' }], key: key() });
    await expect(acceptPlan(t.context, { planId, signedBy: 'x' })).rejects.toThrow(
      /has changed since it was proposed/,
    );
    await cancelPlan(t.context, { planId, why: 'not wanted' });
    await expect(acceptPlan(t.context, { planId, signedBy: 'x' })).rejects.toThrow(/cancelled already/);
    const late = await proposePlan(t.context, { ...terms(householdId), key: key() });
    await expect(acceptPlan(on(addDays(FIRST, 1)), { planId: late, signedBy: 'x' })).rejects.toThrow(
      /propose it anew/,
    );
  });

  test('two plans for the same charge at once: one is accepted', async () => {
    const { householdId } = await owes('300.00');
    const [a, b] = [
      await proposePlan(t.context, { ...terms(householdId), key: key() }),
      await proposePlan(t.context, { ...terms(householdId), key: key() }),
    ];
    const both = await Promise.allSettled([
      acceptPlan(t.context, { planId: a, signedBy: 'x' }),
      acceptPlan(t.context, { planId: b, signedBy: 'x' }),
    ]);
    expect(both.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
    expect(await figures(householdId)).toEqual([0, 30_000, 0]);
    expect(await clean()).toEqual([]);
  });

  test('the database keeps accepted terms as they are, whoever writes', async () => {
    const { planId, charges } = await plan(['300.00']);
    const refused = async (run: Promise<unknown>) =>
      expect(run).rejects.toThrow(/never changed|never deleted|permission denied/);
    await refused(
      t.db
        .updateTable('payment_plan')
        .set({ rate: 0 as never })
        .where('id', '=', planId)
        .execute(),
    );
    await refused(
      t.db
        .updateTable('payment_plan')
        .set({ level: cents(1) })
        .where('id', '=', planId)
        .execute(),
    );
    await refused(
      t.db.updateTable('plan_installment').set({ date: FIRST }).where('plan_id', '=', planId).execute(),
    );
    await refused(t.db.deleteFrom('plan_charge').where('plan_id', '=', planId).execute());
    await refused(t.db.deleteFrom('payment_plan').where('id', '=', planId).execute());
    await expect(
      t.db.updateTable('payment_plan').set({ status: 'proposed' }).where('id', '=', planId).execute(),
    ).rejects.toThrow(/does not become proposed|check/);
    // Nothing stands on a plan without saying on which.
    await expect(
      t.db.transaction().execute(async (tx) => {
        const { id } = await tx
          .insertInto('entry')
          .values({ kind: 'write-off', posting_date: TODAY, business_date: TODAY, user_id: 'x', memo: 'x' })
          .returning('id')
          .executeTakeFirstOrThrow();
        const { household_id } = await tx
          .selectFrom('charge')
          .select('household_id')
          .where('id', '=', charges[0]!)
          .executeTakeFirstOrThrow();
        await tx
          .insertInto('posting')
          .values(
            (['receivable/plan', 'receivable/patient'] as const).map((account, index) => ({
              entry_id: id,
              account,
              amount: cents(index === 0 ? 5 : -5),
              household_id,
              charge_id: charges[0]!,
            })),
          )
          .execute();
      }),
    ).rejects.toThrow(/does not say whose/);
  });

  test('the agreement tells what the law asks, apart, before the place to sign; the signed one is kept', async () => {
    const { householdId } = await owes('300.00', '260.00');
    const planId = await proposePlan(t.context, { ...terms(householdId, { down: '60.00' }), key: key() });
    const textOf = async () => {
      const file = join(folder, 'plan.pdf');
      writeFileSync(file, (await planPaper(t.context, planId)).bytes);
      execFileSync('qpdf', ['--check', file]);
      return execFileSync('pdftotext', ['-layout', file, '-'], { encoding: 'utf8' }).replace(/\s+/g, ' ');
    };
    const proposal = await textOf();
    for (const words of [
      'Proposal · not accepted',
      'Finance charge The cost',
      'Amount financed',
      '500.00',
      'Total of payments',
      '507.31',
      '567.31',
      'Annual percentage rate',
      '5 of 84.55, every month from 16 Apr 2026; the last of 84.56 on 16 Sep 2026',
      'Prepayment',
      'Late payment',
    ])
      expect(proposal).toContain(words.replace('The cost', 'What the credit'));
    expect(proposal.indexOf('disclosure before you sign')).toBeLessThan(proposal.indexOf('What we agree'));
    // One black point, as a signature that was drawn.
    const point =
      'data:image/png;base64,iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNkYPhfDwAChwGA60e6kgAAAABJRU5ErkJggg==';
    await acceptPlan(t.context, { planId, signedBy: 'Łucja Nguyễn', signature: point });
    const first = (await planPaper(t.context, planId)).bytes;
    expect(await textOf()).toContain('Signed by Łucja Nguyễn on 16 Mar 2026');
    expect((await planPaper(on(month(3)), planId)).bytes.equals(first)).toBe(true);
    // Four installments without interest ask for none.
    const small = await owes('100.00');
    const plain = await proposePlan(t.context, {
      ...terms(small.householdId, { installments: 4, rate: '0' }),
      key: key(),
    });
    const file = join(folder, 'plain.pdf');
    writeFileSync(file, (await planPaper(t.context, plain)).bytes);
    expect(execFileSync('pdftotext', [file, '-'], { encoding: 'utf8' })).not.toContain('disclosure before');
  });
});

describe('paying', () => {
  test('100.00 one month in leave 402.08: interest first, then the oldest charge', async () => {
    const { householdId, planId } = await plan(['300.00', '260.00'], { down: '60.00' });
    await pay(householdId, planId, '100.00', FIRST);
    expect(await readPlan(on(FIRST), planId)).toMatchObject({
      left: 40_208,
      paid: 10_000,
      // The down payment is not made, and was due on the day of the agreement.
      downLeft: 6000,
      state: 'behind',
    });
    expect(await figures(householdId)).toEqual([6_000, 40_208, 0]);
    const { charges } = await readAccount(t.context, householdId);
    const interest = charges.find(({ kind }) => kind === 'interest')!;
    expect(interest).toMatchObject({ added: 208, patientPaid: 208, onPlan: 0 });
    expect(await clean()).toEqual([]);
  });

  test('paid as agreed it ends with the last cent, and the interest is what was told', async () => {
    const { householdId, planId } = await plan(['560.00'], { down: '60.00' });
    for (const [index, { amount }] of (await readPlan(t.context, planId)).installments.entries())
      await pay(householdId, planId, (amount / 100).toFixed(2), month(index + 1));
    const ended = await readPlan(on(month(6)), planId);
    expect(ended).toMatchObject({ state: 'finished', paid: 50_731, left: 0, due: 0 });
    const { rows } = await t.pool.query(
      `select -sum(amount) as n from posting where plan_id = ${planId} and account = 'income/interest'`,
    );
    expect(Number(rows[0].n)).toBe(731);
    await expect(pay(householdId, planId, '1.00', month(6))).rejects.toThrow(/is finished/);
    expect(await clean()).toEqual([]);
  });

  test('paid in full early, no interest that is not earned; by days to the day', async () => {
    const by = await plan(['500.00'], { rate: '12' });
    await pay(by.householdId, by.planId, '500.00', addDays(TODAY, 10));
    expect(await readPlan(t.context, by.planId)).toMatchObject({ state: 'finished', paid: 50_000 });
    const days = await plan(['500.00'], { rate: '12', interestBy: 'days' });
    // 500.00 × 12 % × 10 / 365 is 1.64.
    await expect(pay(days.householdId, days.planId, '501.65', addDays(TODAY, 10))).rejects.toThrow(
      /501.64 left/,
    );
    await pay(days.householdId, days.planId, '501.64', addDays(TODAY, 10));
    expect(await readPlan(t.context, days.planId)).toMatchObject({ state: 'finished' });
    expect(await clean()).toEqual([]);
  });

  test('one payment pays the plan and other debts at once; what is shared is shown before', async () => {
    const { householdId, patientId, planId } = await plan(['300.00'], { rate: '0' });
    const later = await charge(t, t.context, patientId, '45.00');
    await takeReceipt(t.context, {
      householdId,
      tenders: [{ tender: 'cash', amount: '100.00' }],

      plans: { [planId]: '50.00' },
      owed: 4_500,
      key: key(),
    });
    expect(await figures(householdId)).toEqual([0, 25_000, 500]);
    expect(later).toBeGreaterThan(0);
    const refused = async (input: Record<string, unknown>, words: RegExp) =>
      expect(
        takeReceipt(t.context, {
          householdId,
          tenders: [{ tender: 'cash', amount: '10.00' }],

          key: key(),
          ...input,
        } as never),
      ).rejects.toThrow(words);
    await refused({ plans: { [planId]: '10.01' } }, /more than is paid/);
    await refused({ plans: { [planId]: '-1.00' } }, /below zero/);
    await refused({ plans: { 99999999: '1.00' } }, /not of this account/);
    await refused(
      { plans: { [(await plan(['50.00'], { installments: 2 })).planId]: '1.00' } },
      /not of this account/,
    );
    await refused(
      { tenders: [{ tender: 'cash', amount: '300.00' }], plans: { [planId]: '300.00' } },
      /250.00 left/,
    );
    expect(await clean()).toEqual([]);
  });

  test('a receipt reversed restores the schedule; one that had finished the plan opens it again', async () => {
    const { householdId, planId } = await plan(['300.00'], { rate: '0', installments: 3 });
    await pay(householdId, planId, '100.00');
    const { receiptId } = await pay(householdId, planId, '200.00');
    expect(await readPlan(t.context, planId)).toMatchObject({ state: 'finished' });
    await reverseReceipt(t.context, { receiptId, why: 'It bounced' });
    const open = await readPlan(t.context, planId);
    expect(open).toMatchObject({ state: 'ahead', paid: 10_000, left: 20_000 });
    expect(open.installments.map(({ state }) => state)).toEqual(['paid', 'to come', 'to come']);
    expect(await clean()).toEqual([]);
  });

  test('pressed twice it is paid once; two at once never pay more than is left', async () => {
    const { householdId, planId } = await plan(['100.00'], { rate: '0', installments: 4 });
    const input = {
      householdId,
      tenders: [{ tender: 'cash' as const, amount: '25.00' }],

      plans: { [planId]: '25.00' },
      key: key(),
    };
    await Promise.all([takeReceipt(t.context, input), takeReceipt(t.context, input)]);
    expect(await readPlan(t.context, planId)).toMatchObject({ left: 7_500 });
    const both = await Promise.allSettled([
      pay(householdId, planId, '75.00'),
      pay(householdId, planId, '75.00'),
    ]);
    expect(both.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
    expect(await figures(householdId)).toEqual([0, 0, 0]);
    expect(await clean()).toEqual([]);
  });

  test('a list of installments is worked line by line, each with what came of it', async () => {
    const [a, b] = [
      await plan(['100.00'], { rate: '0', installments: 4 }),
      await plan(['100.00'], { rate: '0', installments: 4 }),
    ];
    const line = (planId: number, amount: string, more: Record<string, unknown> = {}) => ({
      planId,
      amount,
      tender: 'check' as const,
      reference: '77',
      ...more,
    });
    const input = {
      lines: [
        line(a.planId, '25.00'),
        line(b.planId, '900.00'),
        line(99_999_999, '1.00'),
        line(b.planId, '25.00', { reference: '' }),
      ],
      key: key(),
    };
    const collected = await collectInstallments(t.context, input);
    expect(collected.map(({ receiptId }) => receiptId !== null)).toEqual([true, false, false, false]);
    expect(collected.map(({ words }) => words).join('; ')).toMatch(
      /taken; Plan .* has 100.00 left.*; There is no such plan; .*missing/,
    );
    expect(await collectInstallments(t.context, input)).toEqual(collected);
    expect(await readPlan(t.context, a.planId)).toMatchObject({ paid: 2_500 });
    expect(await clean()).toEqual([]);
  });
});

test('a bank transfer pays an installment on an account of its own, with or without a reference; the same once more is asked about', async () => {
  const { planId, householdId } = await planOf(t);
  const line = { planId, amount: '20.00', tender: 'transfer' as const };
  const [taken] = await collectInstallments(t.context, {
    lines: [{ ...line, reference: 'WIRE 7' }],
    key: key(),
  });
  const booked = await t.db
    .selectFrom('posting as p')
    .innerJoin('entry as e', 'e.id', 'p.entry_id')
    .select(['p.account', 'p.amount', 'e.memo'])
    .where('p.receipt_id', '=', taken!.receiptId)
    .where('p.account', '=', 'cash/transfer')
    .execute();
  expect(booked).toEqual([{ account: 'cash/transfer', amount: 2000, memo: 'Bank transfer WIRE 7' }]);
  const pay = (reference: string) =>
    takeReceipt(t.context, {
      householdId,
      tenders: [{ tender: 'transfer', amount: '20.00', reference }],
      key: key(),
    });
  await expect(pay('WIRE 7')).rejects.toThrow(/Bank transfer WIRE 7 over 20.00 was taken/);
  await pay('');
  expect(await clean()).toEqual([]);
});

describe('what lies behind a plan', () => {
  /** An insured visit of 145.00 of which 45.00 passed to the patient, on a plan. */
  async function behind() {
    const made = await sentClaim(t);
    const decision = (paid: number, share: string, status = '1', sign = 1) =>
      decided(
        made.claim.control_number,
        [
          {
            control: made.controls[0]!,
            charge: sign * 14_500,
            paid,
            reasons: [`CO-45:${sign < 0 ? '-' : ''}20.00`, `PR-1:${share}`],
          },
        ],
        status,
      );
    const post = async (text: string): Promise<number> => {
      const { outcomes } = await intake(t.context, text);
      const remittanceId = outcomes[0]!.remittanceId!;
      await postRemittance(t.context, remittanceId);
      return remittanceId;
    };
    const remittanceId = await post(remitText([decision(8000, '45.00')]));
    const planId = await proposePlan(t.context, {
      ...terms(made.householdId, { rate: '0', installments: 3 }),
      key: key(),
    });
    await acceptPlan(t.context, { planId, signedBy: 'x' });
    return { ...made, remittanceId, planId, decision, post };
  }

  test('the payer corrects itself: the plan has so much less, and money beyond that is credit', async () => {
    const { householdId, planId, decision, post } = await behind();
    await pay(householdId, planId, '15.00');
    await post(
      remitText([decision(-8000, '-45.00', '22', -1), decision(10_000, '25.00')], { payment: cents(2000) }),
    );
    // 25.00 are the patient's now, 20.00 less: they come off the plan, of which 15.00 were paid and 10.00 are left.
    const [withPatient, onPlan, credit] = await figures(householdId);
    expect(withPatient! + onPlan! - credit!).toBe(1_000);
    expect(onPlan).toBe(1_000);
    expect((await readPlan(t.context, planId)).status).toBe('accepted');
    expect(await clean()).toEqual([]);
  });

  test('the remittance reversed by us, and its plan’s payment after it: nothing is lost, nothing is twice', async () => {
    const { householdId, planId, remittanceId } = await behind();
    const { receiptId } = await pay(householdId, planId, '15.00');
    await reverseRemittance(t.context, { remittanceId, why: 'Wrong one' });
    const [withPatient, onPlan] = await figures(householdId);
    // 15.00 that were paid wait for the new word.
    expect([withPatient, onPlan]).toEqual([0, 0]);
    expect((await readAccount(t.context, householdId)).figures.held).toBe(1_500);
    await reverseReceipt(t.context, { receiptId, why: 'With it' });
    expect(await figures(householdId)).toEqual([0, 0, 0]);
    expect(await clean()).toEqual([]);
  });
});

describe('changing and ending', () => {
  test('a change is a new agreement that takes over what is open; the old one stays as it was', async () => {
    const { householdId, patientId, planId } = await plan(['300.00', '260.00'], { down: '60.00' });
    await pay(householdId, planId, '84.55', FIRST);
    await charge(t, t.context, patientId, '40.00');
    const next = await proposePlan(on(month(1)), {
      ...terms(householdId, {
        replaces: planId,
        chargeIds: [],
        amount: '417.53',
        installments: 10,
        first: month(2),
        rate: '0',
      }),
      key: key(),
    });
    await acceptPlan(on(month(1)), { planId: next, signedBy: 'x' });
    expect(await readPlan(t.context, planId)).toMatchObject({ state: 'changed', left: 0, paid: 8455 });
    expect(await readPlan(t.context, next)).toMatchObject({
      left: 41_753,
      replaces: (await readPlan(t.context, planId)).number,
    });
    // The charges that it did not take stay the patient's.
    expect(await figures(householdId)).toEqual([10_000, 41_753, 0]);
    await expect(cancelPlan(t.context, { planId, why: 'x' })).rejects.toThrow(/changed already/);
    expect(await clean()).toEqual([]);
  });

  test('a charge of which a part came back to the patient is taken over with that part too', async () => {
    const { householdId, planId } = await plan(['200.00'], { rate: '0', installments: 5 });
    const { receiptId } = await pay(householdId, planId, '50.00');
    const change = async (replaces: number): Promise<number> => {
      const next = await proposePlan(t.context, {
        ...terms(householdId, { replaces, installments: 4, rate: '0' }),
        key: key(),
      });
      await acceptPlan(t.context, { planId: next, signedBy: 'x' });
      return next;
    };
    const second = await change(planId);
    // The payment of the plan before is taken back: its part of the charge is the patient's, the rest is on the new plan.
    await reverseReceipt(t.context, { receiptId, why: 'It bounced' });
    expect(await figures(householdId)).toEqual([5_000, 15_000, 0]);
    await change(second);
    expect(await figures(householdId)).toEqual([0, 20_000, 0]);
    expect(await clean()).toEqual([]);
  });

  test('cancelled, what is open is the patient’s again, as old as it was', async () => {
    const { householdId, planId, charges } = await plan(['300.00'], { rate: '0' });
    const since = (await readAccount(t.context, householdId)).aging;
    await pay(householdId, planId, '50.00');
    expect(await cancelPlan(t.context, { planId, why: 'moved away' })).toBe(25_000);
    expect(await figures(householdId)).toEqual([25_000, 0, 0]);
    const { aging } = await readAccount(t.context, householdId);
    expect(since.every((one) => one === 0)).toBe(true);
    expect(aging[0]).toBe(25_000);
    const row = await t.db
      .selectFrom('charge_balance')
      .select('patient_since')
      .where('charge_id', '=', charges[0]!)
      .executeTakeFirstOrThrow();
    expect(row.patient_since).toBe(TODAY);
    expect(await clean()).toEqual([]);
  });

  test('missed twice it is broken: followed up, the debt is back, and smaller installments are agreed anew', async () => {
    const { householdId, planId } = await plan(['300.00'], { rate: '0' });
    expect(await watchPlans(on(FIRST))).toMatchObject({ broken: 0 });
    expect(await readPlan(on(addDays(FIRST, 1)), planId)).toMatchObject({
      state: 'behind',
      due: 5_000,
      missed: 1,
    });
    const day = addDays(month(2), 1);
    expect((await watchPlans(on(day))).broken).toBeGreaterThanOrEqual(1);
    expect(await readPlan(on(day), planId)).toMatchObject({
      state: 'broken',
      endedWhy: '2 installments are missed',
    });
    expect(await figures(householdId)).toEqual([30_000, 0, 0]);
    const { followUps } = await readAccount(t.context, householdId);
    expect(followUps.map(({ kind }) => kind)).toEqual(['broken-plan']);
    await watchPlans(on(day));
    const smaller = await proposePlan(on(day), {
      ...terms(householdId, { installments: 12, rate: '0', first: addDays(day, 14), every: 'two-weeks' }),
      key: key(),
    });
    await acceptPlan(on(day), { planId: smaller, signedBy: 'x' });
    expect(await figures(householdId)).toEqual([0, 30_000, 0]);
    expect(await clean()).toEqual([]);
  });

  test('a payment of a broken plan that is taken back comes back to the patient, not to the plan', async () => {
    const { householdId, planId } = await plan(['300.00'], { rate: '0' });
    const { receiptId } = await pay(householdId, planId, '50.00');
    await watchPlans(on(addDays(month(3), 1)));
    expect((await readPlan(t.context, planId)).state).toBe('broken');
    await reverseReceipt(t.context, { receiptId, why: 'It bounced' });
    expect(await figures(householdId)).toEqual([30_000, 0, 0]);
    expect(await clean()).toEqual([]);
  });

  test('what is missed bears the policy’s late charge where that was agreed, once for each installment', async () => {
    await t.db
      .updateTable('statement_policy')
      .set({ late_kind: 'flat', late_flat: cents(700), grace_days: 10 })
      .execute();
    const [bears, never] = [await plan(['300.00'], { lateCharges: true }), await plan(['300.00'])];
    // What stops late charges of accounts, or switches them off, does so for plans.
    const [stopped, off] = [
      await plan(['300.00'], { lateCharges: true }),
      await plan(['300.00'], { lateCharges: true }),
    ];
    const reason = await t.db
      .selectFrom('stop_reason')
      .select('id')
      .where('late_charges', '=', true)
      .orderBy('id')
      .executeTakeFirstOrThrow();
    await t.db
      .insertInto('account_stop')
      .values({ household_id: stopped.householdId, reason_id: reason.id, since: TODAY, user_name: 'x' })
      .execute();
    await t.db
      .updateTable('household')
      .set({ late_charges: false })
      .where('id', '=', off.householdId)
      .execute();
    const after = addDays(FIRST, 11);
    await watchPlans(on(addDays(FIRST, 10)));
    expect((await figures(bears.householdId))[0]).toBe(0);
    await watchPlans(on(after));
    await watchPlans(on(after));
    expect((await figures(bears.householdId))[0]).toBe(700);
    for (const none of [never, stopped, off]) expect((await figures(none.householdId))[0]).toBe(0);
    expect(await clean()).toEqual([]);
    await t.db.updateTable('statement_policy').set({ late_kind: 'none' }).execute();
  });
});

describe('installments are on the bill', () => {
  const weighed = async (day: CalendarDate, householdId: number) =>
    (await weighHouseholds(on(day), { rows: [] }, [householdId])).weighed[0]!;
  const statement = async (day: CalendarDate, householdId: number) => {
    const id = await prepareStatement(on(day), { householdId, key: key() });
    return (await readStatement(on(day), id)).content;
  };

  test('a household whose whole debt is on a plan gets a statement when an installment comes due until its date', async () => {
    const { householdId, planId } = await plan(['560.00'], {});
    const { number } = (await plansOf(t.context, householdId))[0]!;
    const due = 9470;
    expect(await weighed(TODAY, householdId)).toMatchObject({ in: false, due: 0 });
    expect((await weighed(TODAY, householdId)).reasons.map(({ id }) => id)).toEqual(['on-plan']);
    await expect(prepareStatement(t.context, { householdId, key: key() })).rejects.toThrow(
      'There is nothing to send now: 560.00 is on a payment plan and comes due later',
    );
    // Fourteen days to pay: it asks for what comes due until then.
    const before = addDays(FIRST, -15);
    expect(await weighed(before, householdId)).toMatchObject({ in: false });
    const day = addDays(FIRST, -14);
    expect(await weighed(day, householdId)).toMatchObject({ in: true, due });
    const content = await statement(day, householdId);
    expect(content).toMatchObject({
      amount: due,
      owed: 0,
      onPlan: 56_000,
      installments: [{ plan: number, number: 1, date: FIRST, amount: due }],
    });
    expect(content.closing).toContain('94.70 of your payment plan comes due besides');
    expect(pdfText(await statementPdf(content))).toContain(`Installment 1 of payment plan ${number}`);
    // What is asked is taken, whole.
    await pay(householdId, planId, '94.70', FIRST);
    expect(await weighed(FIRST, householdId)).toMatchObject({ in: false });
    expect(await clean()).toEqual([]);
  });

  test('beside what is owed: both are due, each with its line; paid in part, the rest; missed, both', async () => {
    const { householdId, patientId, planId } = await plan(['560.00'], {});
    await charge(t, t.context, patientId, '40.00', '99213', TODAY);
    expect(await weighed(FIRST, householdId)).toMatchObject({ due: 4000 + 9470 });
    await pay(householdId, planId, '50.00', FIRST);
    expect(await weighed(FIRST, householdId)).toMatchObject({ due: 4000 + 4470 });
    const second = addMonths(TODAY, 2);
    await pay(householdId, planId, '44.70', FIRST);
    expect(await weighed(second, householdId)).toMatchObject({ due: 4000 + 9470 });
  });

  test('a draft says again what it asks: an installment that was paid meanwhile stops it', async () => {
    const { householdId, planId } = await plan(['560.00'], {});
    const { batchId } = await draftStatements(on(FIRST), { rows: [], title: 'Plans', key: key() });
    const piece = await t.db
      .selectFrom('mail_piece')
      .selectAll()
      .where('batch_id', '=', batchId)
      .where('household_id', '=', householdId)
      .executeTakeFirstOrThrow();
    expect(piece).toMatchObject({ amount: 9470, installments: 9470 });
    await pay(householdId, planId, '94.70', FIRST);
    const made = await inTransaction(on(FIRST), (act) => makePiece(act, piece.id));
    expect(made.as).not.toBe('made');
  });
});

describe('a down payment that was agreed', () => {
  test('and is not made is due on the day, late from the next on, and seen; made, it is nothing', async () => {
    const { householdId, planId } = await plan(['300.00', '260.00'], { down: '60.00' });
    expect(await readPlan(t.context, planId)).toMatchObject({ downLeft: 6000, daysBehind: 0, missed: 0 });
    const next = addDays(TODAY, 1);
    expect(await readPlan(on(next), planId)).toMatchObject({
      downLeft: 6000,
      state: 'behind',
      since: TODAY,
      missed: 1,
      due: 0,
    });
    // It stands with the patient, and is asked on the bill as that.
    expect((await figures(householdId))[0]).toBe(6000);
    await takeReceipt(on(next), { householdId, tenders: [{ tender: 'cash', amount: '60.00' }], key: key() });
    expect(await readPlan(on(next), planId)).toMatchObject({ downLeft: 0, missed: 0 });
    expect((await readPlan(on(next), planId)).state).not.toBe('behind');
  });

  test('money that came before it was entered pays on its day, but never before the plan was agreed', async () => {
    const { householdId, planId } = await plan(['300.00', '260.00']);
    const late = addDays(FIRST, 3);
    const paidOn = async (receivedOn: string) => {
      const { receiptId } = await takeReceipt(on(late), {
        householdId,
        tenders: [{ tender: 'cash', amount: '10.00' }],

        plans: { [planId]: '10.00' },
        receivedOn,
        sure: true,
        key: key(),
      });
      const { day } = await t.db
        .selectFrom('posting as p')
        .innerJoin('entry as e', 'e.id', 'p.entry_id')
        .select('e.business_date as day')
        .where('p.receipt_id', '=', receiptId)
        .where('e.kind', '=', 'plan-payment')
        .executeTakeFirstOrThrow();
      return day;
    };
    expect(await paidOn(addDays(FIRST, -1))).toBe(addDays(FIRST, -1));
    expect(await paidOn(addDays(TODAY, -20))).toBe(TODAY);
    expect(await paidOn(late)).toBe(late);
  });

  test('a part is not made; what comes on that charge later is no part of it', async () => {
    const { householdId, planId } = await plan(['300.00', '260.00'], { down: '60.00' });
    const next = addDays(TODAY, 1);
    await takeReceipt(on(next), { householdId, tenders: [{ tender: 'cash', amount: '25.00' }], key: key() });
    expect(await readPlan(on(next), planId)).toMatchObject({ downLeft: 3500 });
  });

  test('by the rule for missed payments a plan whose down payment never comes is broken', async () => {
    const { planId } = await plan(['300.00', '260.00'], { down: '60.00' });
    const day = addDays(TODAY, 46);
    await watchPlans(on(day));
    expect(await readPlan(on(day), planId)).toMatchObject({ status: 'broken' });
  });
});

describe('what may not be agreed', () => {
  test.each([
    [{ rate: '101' }, 'rate', /at most 100 %/],
    [{ rate: '-1' }, 'rate', /percentage/],
    [{ first: '2199-01-01' }, 'first', /more than a year/],
    [{ first: '2026-02-30' }, 'first', /not a date/],
    [{ first: '1805-01-01' }, 'first', /before the agreement/],
    [{ installments: 0 }, 'installments', /at least 1/],
    [{ installments: 601 }, 'installments', /at most 600/],
    [{ amount: '99999999.00' }, 'amount', /is open, less than that/],
    [{ amount: '-5.00' }, 'amount', /./],
    [{ down: '600.00' }, 'down', /./],
  ])('absurd terms are refused at their field: %j', async (more, field, words) => {
    const { householdId } = await owes('560.00');
    for (const ask of [
      () => quotePlan(t.context, terms(householdId, more)),
      () => proposePlan(t.context, { ...terms(householdId, more), key: key() } as never),
    ])
      await expect(ask()).rejects.toMatchObject({ field, message: expect.stringMatching(words) });
  });

  test('an account that is not asked for money gets no plan unasked, and one without late charges none of them', async () => {
    const { householdId } = await owes('560.00');
    const { id: bankrupt } = await t.db
      .selectFrom('stop_reason')
      .select('id')
      .where('name', '=', 'bankrupt')
      .executeTakeFirstOrThrow();
    await setStop(t.context, { householdId, reasonId: bankrupt });
    expect((await quotePlan(t.context, terms(householdId))).against).toEqual([
      expect.stringContaining('bankrupt'),
    ]);
    const asked = { ...terms(householdId), key: key() };
    await expect(proposePlan(t.context, asked)).rejects.toMatchObject({
      doubts: [expect.stringContaining('bankrupt')],
    });
    await expect(proposePlan(t.context, { ...asked, lateCharges: true, sure: true })).rejects.toMatchObject({
      field: 'lateCharges',
    });
    const decided = await proposePlan(t.context, { ...asked, sure: true });
    // It was decided when it was proposed; what is set since is asked about.
    await acceptPlan(t.context, { planId: decided, signedBy: 'She' });
    const other = await owes('560.00');
    const planId = await proposePlan(t.context, { ...terms(other.householdId), key: key() });
    await setStop(t.context, { householdId: other.householdId, reasonId: bankrupt });
    await expect(acceptPlan(t.context, { planId, signedBy: 'She' })).rejects.toMatchObject({
      doubts: [expect.stringContaining('bankrupt')],
    });
    await acceptPlan(t.context, { planId, signedBy: 'She', sure: true });
  });

  test('a patient’s charges with an address apart go on the household’s plan where that is asked for, and its paper does not name them', async () => {
    const { householdId, patientId } = await owes('100.00');
    const { patientId: other } = await addMember(t.context, {
      householdId,
      first: 'Apart',
      last: 'Confidential',
      birthDate: '2009-01-01',
      sex: 'F',
      key: key(),
      sure: true,
    } as never);
    await setConfidential(t.context, {
      patientId: other,
      name: 'A. Confidential',
      line1: '2 Row',
      city: 'Osprey Landing',
      state: 'WA',
      zip: '98199',
    });
    const theirs = await charge(t, t.context, other, '70.00', '99214', TODAY);
    expect((await quotePlan(t.context, terms(householdId))).amount).toBe(10_000);
    const open = await openCharges(t.context, [householdId]);
    const planId = await proposePlan(t.context, {
      ...terms(householdId, { chargeIds: open.map(({ id }) => id) }),
      key: key(),
    });
    expect(open.map(({ id }) => id)).toContain(theirs);
    const { bytes } = await planPaper(t.context, planId);
    const paper = pdfText({ bytes });
    expect(paper).toContain('A service');
    expect(paper).not.toContain('Apart');
    expect(patientId).not.toBe(other);
  });
});

describe('reminders', () => {
  test('before and after an installment, each once, and to nobody who asked for none', async () => {
    const { householdId, planId } = await plan(['300.00'], { rate: '0' });
    await t.db
      .updateTable('household')
      .set({ email: 'plan@example.com' })
      .where('id', '=', householdId)
      .execute();
    const mine = async (day: CalendarDate) =>
      (await remindersDue(on(day)))
        .filter((one) => one.planId === planId)
        .map(({ kind, number, amount }) => [kind, number, amount]);
    expect(await mine(addDays(FIRST, -6))).toEqual([]);
    expect(await mine(addDays(FIRST, -5))).toEqual([['before', 1, 5_000]]);
    const outbox = join(process.env.WERGELD_EXCHANGE!, 'pelican/outbox');
    const letters = () => readdirSync(outbox).filter((name) => name.startsWith('R'));
    const before = letters().length;
    await sendReminders(on(addDays(FIRST, -5)));
    expect(letters()).toHaveLength(before + 1);
    await sendReminders(on(addDays(FIRST, -4)));
    expect(letters()).toHaveLength(before + 1);
    // One that was begun and never written goes out by whoever comes next, under the same name.
    await t.db.updateTable('plan_reminder').set({ written_at: null }).where('plan_id', '=', planId).execute();
    const names = letters();
    await sendReminders(on(addDays(FIRST, -4)));
    expect(letters()).toEqual(names);
    expect(await mine(addDays(FIRST, 3))).toEqual([['after', 1, 5_000]]);
    const { id } = await t.db
      .selectFrom('stop_reason')
      .select('id')
      .where('name', '=', 'asked not to be contacted')
      .executeTakeFirstOrThrow();
    await t.db
      .insertInto('account_stop')
      .values({ household_id: householdId, reason_id: id, since: TODAY, user_name: 'x' })
      .execute();
    expect(await mine(addDays(FIRST, 3))).toEqual([]);
  });
});

describe('histories', () => {
  test('property: any sequence of payments, reversals, watches, changes and cancellations keeps the books', async () => {
    const step = fc.record({
      what: fc.constantFrom('pay', 'pay', 'pay', 'reverse', 'watch', 'change', 'cancel'),
      days: fc.integer({ min: 0, max: 40 }),
      amount: fc.integer({ min: 1, max: 20_000 }),
    });
    await fc.assert(
      fc.asyncProperty(
        fc.array(step, { minLength: 3, maxLength: 8 }),
        fc.constantFrom('0', '6', '17.5'),
        fc.constantFrom('period', 'days'),
        async (steps, rate, interestBy) => {
          const made = await plan(['200.00', '130.00'], { rate, interestBy, installments: 5 });
          const receipts: number[] = [];
          let [day, current] = [TODAY, made.planId];
          const refused = (error: Error) => {
            if (error.name !== 'Refused' && error.name !== 'Doubtful') throw error;
            return null;
          };
          for (const { what, days, amount } of steps) {
            day = addDays(day, days);
            if (what === 'pay') {
              const left = (await readPlan(on(day), current)).left;
              const part = Math.min(amount, left);
              if (part <= 0) continue;
              const taken = await pay(made.householdId, current, (part / 100).toFixed(2), day).catch(refused);
              if (taken) receipts.push(taken.receiptId);
            } else if (what === 'reverse') {
              const receiptId = receipts.pop();
              if (receiptId) await reverseReceipt(on(day), { receiptId, why: 'x' }).catch(refused);
            } else if (what === 'watch') await watchPlans(on(day));
            else if (what === 'cancel')
              await cancelPlan(on(day), { planId: current, why: 'x' }).catch(refused);
            else {
              const input = {
                ...terms(made.householdId, {
                  replaces: current,
                  first: addDays(day, 30),
                  rate,
                  installments: 4,
                }),
                key: key(),
              };
              const next = await proposePlan(on(day), input).catch(refused);
              if (next) {
                await acceptPlan(on(day), { planId: next, signedBy: 'x' });
                current = next;
              }
            }
          }
          const paid = (await readAccount(t.context, made.householdId)).charges;
          const total = paid.reduce((all, one) => all + one.withPatient + one.onPlan + one.patientPaid, 0);
          const charged = paid.reduce((all, one) => all + one.fee + one.added, 0);
          expect(total).toBe(charged);
          for (const one of await plansOf(on(day), made.householdId))
            if (one.status !== 'accepted') expect(one.left).toBe(0);
        },
      ),
      { numRuns: runs(10) },
    );
    expect(await clean()).toEqual([]);
  });

  test('property: an insurer that corrects itself behind a plan, whatever was paid on it and taken back', async () => {
    const step = fc.record({
      what: fc.constantFrom('pay', 'pay', 'reverse', 'correct', 'reverse remittance', 'watch'),
      days: fc.integer({ min: 0, max: 20 }),
      amount: fc.integer({ min: 1, max: 4_000 }),
      share: fc.integer({ min: 0, max: 6_000 }),
    });
    await fc.assert(
      fc.asyncProperty(fc.array(step, { minLength: 3, maxLength: 7 }), async (steps) => {
        const made = await sentClaim(t);
        const [chargeId] = made.charges as [number];
        const decision = (share: number, sign: 1 | -1) =>
          decided(
            made.claim.control_number,
            [
              {
                control: made.controls[0]!,
                charge: sign * 14_500,
                paid: sign * (12_500 - share),
                reasons: [
                  `CO-45:${((sign * 2_000) / 100).toFixed(2)}`,
                  ...(share > 0 ? [`PR-1:${((sign * share) / 100).toFixed(2)}`] : []),
                ],
              },
            ],
            sign < 0 ? '22' : '1',
          );
        const post = async (context: Context, text: string): Promise<number> => {
          const { outcomes } = await intake(context, text);
          const remittanceId = outcomes[0]!.remittanceId!;
          await postRemittance(context, remittanceId);
          return remittanceId;
        };
        let remittanceId = await post(t.context, remitText([decision(4_500, 1)]));
        const planId = await proposePlan(t.context, {
          ...terms(made.householdId, { rate: '6', installments: 3 }),
          key: key(),
        });
        await acceptPlan(t.context, { planId, signedBy: 'x' });
        const receipts: number[] = [];
        const quiet = (error: Error): null => {
          if (error.name !== 'Refused' && error.name !== 'Doubtful') throw error;
          return null;
        };
        let [day, share] = [TODAY, 4_500];
        for (const { what, days, amount, share: next } of steps) {
          day = addDays(day, days);
          if (what === 'pay') {
            const part = Math.min(amount, (await readPlan(on(day), planId)).left);
            const taken =
              part > 0
                ? await pay(made.householdId, planId, (part / 100).toFixed(2), day).catch(quiet)
                : null;
            if (taken) receipts.push(taken.receiptId);
          } else if (what === 'reverse') {
            const receiptId = receipts.pop();
            if (receiptId) await reverseReceipt(on(day), { receiptId, why: 'x' }).catch(quiet);
          } else if (what === 'watch') await watchPlans(on(day));
          else if (what === 'correct') {
            // The old decision is taken back and the new one said, with another claim's money beside it.
            const other = await sentClaim(t);
            const paid = decided(other.claim.control_number, [
              { control: other.controls[0]!, charge: 14_500, paid: 14_500, reasons: [] },
            ]);
            const said = [decision(share, -1), decision(next, 1), paid];
            const posted = await post(on(day), remitText(said)).catch(quiet);
            if (posted) [remittanceId, share] = [posted, next];
          } else await reverseRemittance(on(day), { remittanceId, why: 'x' }).catch(quiet);
        }
        const { rows } = await t.pool.query(
          `
            select with_payer + with_patient + on_plan + patient_paid + payer_paid + reduced as n
            from charge_balance
            where charge_id = ${chargeId}`,
        );
        expect(Number(rows[0].n)).toBe(14_500);
        const plan = await readPlan(on(day), planId);
        if (plan.status !== 'accepted') expect(plan.left).toBe(0);
        expect(
          (await checkBooks(t.db)).flatMap(({ id, faults }) => faults.map((f) => `${id}: ${f}`)),
        ).toEqual([]);
      }),
      { numRuns: runs(10) },
    );
  });
});
