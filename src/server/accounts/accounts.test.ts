import { calendarDate } from '../../core/calendar';
import { TODAY, fileDatabase } from '../../testing/database';
import { charge, decided, household, intake, remitText, sentClaim } from '../../testing/desk';
import { spendCredit } from '../payments/credit';
import { reverseReceipt } from '../payments/receipts';
import { takeReceipt } from '../payments/take';
import { postRemittance } from '../remittances/post';
import { estimateOpen } from '../estimates/read';
import { findList } from '../lists/read';
import { readChargeEntries, readPaidBy, readStory } from './ledger';
import { readAccount } from '../account-page/read';
import { addMember } from './register';

const t = fileDatabase();

const post = async (text: string): Promise<void> => {
  const { outcomes } = await intake(t.context, text);
  await postRemittance(t.context, outcomes[0]!.remittanceId!);
};

describe('the account page', () => {
  test('the head figures add up to the balance, and the columns to the figures', async () => {
    const s = await sentClaim(t, ['145.00', '42.00']);
    await post(
      remitText([
        decided(s.claim.control_number, [
          { control: s.controls[0]!, charge: 14500, paid: 6800, reasons: ['CO-45:47.00', 'PR-3:30.00'] },
          { control: s.controls[1]!, charge: 4200, paid: 0, reasons: ['CO-97:42.00'] },
        ]),
      ]),
    );
    await takeReceipt(t.context, {
      householdId: s.householdId,
      tenders: [{ tender: 'check', amount: '50.00', reference: '9' }],

      key: 'figures-test',
    });
    const { figures: f, charges, receipts, aging } = await readAccount(t.context, s.householdId);
    expect(f).toEqual({
      withPayer: 4200,
      withPatient: 0,
      onPlan: 0,
      atAgency: 0,
      credit: 2000,
      reserved: 0,
      held: 0,
      balance: 2200,
    });
    expect(charges.reduce((all, item) => all + item.withPayer, 0)).toBe(f.withPayer);
    expect(
      charges.reduce((all, item) => all + item.fee - item.payerPaid - item.patientPaid - item.reduced, 0),
    ).toBe(f.withPayer + f.withPatient);
    expect(receipts).toMatchObject([{ amount: 5000, left: 2000, reversed: null }]);
    expect(aging.reduce((all, item) => all + item, 0)).toBe(f.withPatient);
  });

  test('what lies under a charge and a receipt is read by itself, and on its own account alone', async () => {
    const [s, other] = [await household(t, false), await household(t)];
    const chargeId = await charge(t, t.context, s.patientId, '30.00');
    const taken = {
      householdId: s.householdId,
      tenders: [{ tender: 'check' as const, amount: '50.00', reference: '9' }],
    };
    const { receiptId } = await takeReceipt(t.context, { ...taken, key: 'under-test-1' });
    const paid = await readPaidBy(t.context, s.householdId, receiptId);
    expect(paid.map(({ what, amount, undone }) => [what.slice(0, 5), amount, undone])).toEqual([
      ['99213', 3000, false],
    ]);
    const kinds = (await readChargeEntries(t.context, s.householdId, chargeId)).map(({ kind }) => kind);
    expect(kinds).toContain('allocation');
    await expect(readChargeEntries(t.context, other.householdId, chargeId)).rejects.toMatchObject({
      code: 'unknown',
    });
    expect(await readPaidBy(t.context, other.householdId, receiptId)).toEqual([]);
    await reverseReceipt(t.context, { receiptId, why: 'bounced' });
    expect(await readPaidBy(t.context, s.householdId, receiptId)).toMatchObject([{ undone: true }]);
  });

  test('a refused line tells its reason in the ledger and in the story', async () => {
    const s = await sentClaim(t);
    await post(
      remitText([
        decided(s.claim.control_number, [
          { control: s.controls[0]!, charge: 14500, paid: 0, reasons: ['CO-27:145.00'] },
        ]),
      ]),
    );
    const { charges } = await readAccount(t.context, s.householdId);
    const under = await readChargeEntries(t.context, s.householdId, charges[0]!.id);
    expect(under.at(-1)).toMatchObject({
      kind: 'payer-decision',
      reasons: [{ code: 'CO-27', amount: 14500 }],
      refused: [{ amount: 14500 }],
    });
    const story = await readStory(t.context, s.householdId);
    expect(story.charges[0]!.sentences.map((item) => item.words).join(' ')).toContain(
      '145.00 was refused: your insurer says your coverage had ended.',
    );
    expect(story.closing).toBe('Nothing is yours to pay now; 145.00 is still with insurers.');
  });

  test('credit goes to the oldest open charge when it is asked to, not before', async () => {
    const self = await household(t, false);
    await takeReceipt(t.context, {
      householdId: self.householdId,
      tenders: [{ tender: 'cash', amount: '70.00' }],

      key: 'credit-first',
    });
    await charge(t, t.context, self.patientId, '40.00', '99213', calendarDate('2026-03-02'));
    await charge(t, t.context, self.patientId, '60.00', '99213', calendarDate('2026-03-01'));
    expect((await readAccount(t.context, self.householdId)).figures).toMatchObject({
      withPatient: 10000,
      credit: 7000,
    });
    const use = { householdId: self.householdId, key: 'credit-press-1' };
    expect(await spendCredit(t.context, use)).toBe(7000);
    expect(await spendCredit(t.context, use)).toBe(7000);
    const { charges } = await readAccount(t.context, self.householdId);
    expect(charges.map((item) => [item.date, item.withPatient])).toEqual([
      ['2026-03-01', 0],
      ['2026-03-02', 3000],
    ]);
    await expect(spendCredit(t.context, { ...use, key: 'credit-press-2' })).rejects.toThrow(/no credit/);
  });

  test('a payment by hand goes where it was put, and nowhere else', async () => {
    const self = await household(t, false);
    const first = await charge(t, t.context, self.patientId, '40.00');
    const second = await charge(t, t.context, self.patientId, '60.00');
    const input = {
      householdId: self.householdId,
      tenders: [{ tender: 'cash' as const, amount: '50.00' }],

      parts: { [second]: '45.00' },
      key: 'by-hand-test',
    };
    await takeReceipt(t.context, input);
    const owed = async () =>
      Object.fromEntries(
        (await readAccount(t.context, self.householdId)).charges.map((item) => [item.id, item.withPatient]),
      );
    expect(await owed()).toEqual({ [first]: 4000, [second]: 1500 });
    await expect(
      takeReceipt(t.context, { ...input, key: 'by-hand-more', parts: { [second]: '15.01' } }),
    ).rejects.toThrow(/more than its charge owes/);
    await expect(
      takeReceipt(t.context, { ...input, key: 'by-hand-else', parts: { 999999: '1.00' } }),
    ).rejects.toThrow(/no longer open/);
    expect(await owed()).toEqual({ [first]: 4000, [second]: 1500 });
  });

  test('a household pays together: members share the account, each with a case of their own', async () => {
    const made = await household(t, false, { last: 'Together' });
    const other = await addMember(t.context, {
      householdId: made.householdId,
      key: 'member-second',
      last: 'Together',
      first: 'Second',
      birthDate: '2015-05-05',
      sex: 'M',
      insurancePlanId: t.insurancePlans['CS-350'],
      memberId: 'CSH1231231',
      groupNumber: 'CS-350',
    });
    await charge(t, t.context, made.patientId, '40.00');
    await charge(t, t.context, other.patientId, '145.00');
    const page = await readAccount(t.context, made.householdId);
    expect(page.members.map((member) => [member.first, member.cases[0].coverages[0]?.payer ?? ''])).toEqual([
      [expect.stringMatching(/^Nr/), ''],
      ['Second', 'Cedar Sound Health'],
    ]);
    expect(page.figures).toMatchObject({ withPatient: 4000, withPayer: 14500, balance: 18500 });
    expect((await findList(t.context, 'accounts', { search: 'together' })).rows).toMatchObject([
      { balance: 18500 },
    ]);
  });
});

describe('estimates from the tables', () => {
  test('what was decided this year counts against the deductible of the next estimate', async () => {
    const made = await household(t, true, {
      insurancePlanId: t.insurancePlans['CS-200'],
      groupNumber: 'CS-200',
      memberId: 'CSH4564561',
    });
    const estimate = async (fee: number) =>
      (
        await estimateOpen(t.context, made.caseId, [
          { code: '99213', units: 1, fee: fee as never, date: TODAY },
        ])
      ).at(-1)!;
    // Harbor PPO: 98.00 allowed of 145.00, all of it to the deductible of 500.00.
    expect((await estimate(14500)).payers[0]).toMatchObject({
      allowed: 9800,
      writeOff: 4700,
      deductible: 9800,
      pays: 0,
    });
    await charge(t, t.context, made.patientId, '145.00');
    const open = await estimateOpen(t.context, made.caseId, []);
    expect(open).toHaveLength(1);
    expect(open[0]!.patient).toBe(9800);
  });

  test('an unknown code is refused by its field', async () => {
    const made = await household(t);
    await expect(
      estimateOpen(t.context, made.caseId, [{ code: 'NOPE', units: 1, fee: 100 as never, date: TODAY }]),
    ).rejects.toMatchObject({ field: 'code' });
  });
});

describe('a long account', () => {
  test('shows its newest charges, and the older ones when asked for', async () => {
    const made = await household(t, false);
    await t.pool.query(
      `
        with c as (
          insert into charge (
            household_id, patient_id, case_id, provider_id, location_id, code, description, form, units, fee,
            service_date
          )
         select $1, $2, $3, (select min(id) from provider), (select min(id) from location), '99213', 'Visit',
           'professional', 1, 1000, date '2016-01-01' + g
         from generate_series(1, 450) g
         returning id)
       select count(*) from c`,
      [made.householdId, made.patientId, made.caseId],
    );
    await t.pool.query(
      `
        with c as (
          select id, household_id, row_number() over (order by id) as n from charge where household_id = $1
        ),
            e as (
              insert into entry (kind, posting_date, business_date, user_id, memo, key)
              select 'charge', '2026-03-16', '2026-03-16', 'x', '', 'long:' || id
              from c
              returning id, key
            )
       insert into posting (entry_id, account, amount, household_id, charge_id, patient_id, provider_id)
       select e.id, a.account, a.amount, $1, c.id, $2, (select min(id) from provider)
       from e
         join c
           on e.key = 'long:' || c.id,
           (values ('receivable/patient', 1000), ('income/fees', -1000)) a (account, amount)`,
      [made.householdId, made.patientId],
    );
    const page = await readAccount(t.context, made.householdId);
    expect([page.charges.length, page.earlier]).toEqual([400, 50]);
    expect(page.charges.at(-1)!.date).toBe('2017-03-26');
    expect(page.figures.withPatient).toBe(450_000);
    expect((await readAccount(t.context, made.householdId, true)).charges).toHaveLength(450);
  });
});
