/** Each invariant of the books is broken once, past the rules that keep it, and is named. */
import { sql } from 'kysely';
import { addDays } from '../../core/calendar';
import { TODAY, fileDatabase } from '../../testing/database';
import {
  brokenInvariants,
  charge,
  decided,
  household,
  intake,
  placementOf,
  planOf,
  remitText,
  sentClaim,
} from '../../testing/desk';
import { chargeAccount } from '../accounts/charges';
import { postAgencyPayment } from '../overdue/agency-money';
import { giveBack } from '../payments/refund';
import { closeDrawer, openDrawer } from '../payments/drawers';
import { takeReceipt } from '../payments/take';
import { takePayment } from '../payments/terminal';
import { fileTerminal } from '../../testing/terminal';
import { postRemittance } from '../remittances/post';
import { reverseRemittance } from '../remittances/reverse';
import { keepMonths, moneyByMonth } from './balances';
import { checkBooks } from './check';

const t = fileDatabase();
const terminal = fileTerminal(t);
beforeAll(async () => {
  await someBooks();
});

/** A decided visit, one that was paid and taken back, a late charge. */
async function someBooks(): Promise<void> {
  for (const take of [false, true]) {
    const s = await sentClaim(t);
    const { outcomes } = await intake(
      t.context,
      remitText([
        decided(s.claim.control_number, [
          { control: s.controls[0]!, charge: 14500, paid: 6800, reasons: ['CO-45:47.00', 'PR-3:30.00'] },
        ]),
      ]),
    );
    const remittanceId = outcomes[0]!.remittanceId!;
    await postRemittance(t.context, remittanceId);
    await takeReceipt(t.context, {
      householdId: s.householdId,
      tenders: [{ tender: 'cash', amount: '30.00' }],

      key: `books-${take}-${remittanceId}`,
    });
    // The patient paid what is not theirs any more: below zero, with its follow-up.
    if (take) await reverseRemittance(t.context, { remittanceId, why: 'test' });
  }
  await planOf(t);
  const placed = await placementOf(t);
  await postAgencyPayment(t.context, {
    placementId: placed.placementId,
    reference: 'A1',
    paidOn: TODAY,
    gross: '40.00',
    key: 'books-agency-1',
  });
  // A card that was charged and given back in part; a drawer that was counted short.
  const site = await t.db.selectFrom('location').select('id').orderBy('id').executeTakeFirstOrThrow();
  const drawerId = await openDrawer(t.context, {
    locationId: site.id,
    opening: '10.00',
    key: 'books-drawer-1',
  });
  const paying = await household(t, false);
  const { receiptId } = await takePayment(t.context, {
    householdId: paying.householdId,
    locationId: site.id,
    tenders: [
      { tender: 'card', amount: '40.00', reading: await terminal.card('2003') },
      { tender: 'cash', amount: '6.00' },
    ],
    key: 'books-card-1',
  });
  await giveBack(t.context, {
    receiptId,
    amount: '15.00',
    tender: 'card',
    reference: '',
    why: 'x',
    key: 'books-back-1',
  });
  await closeDrawer(t.context, { drawerId, counted: '15.00', checks: 0, why: 'lost', key: 'books-drawer-2' });
  const months = await moneyByMonth(t.db, TODAY);
  await keepMonths(t.db, TODAY);
  expect(await moneyByMonth(t.db, TODAY)).toEqual(months);
  // Posted on a day that is kept already.
  const self = await household(t, false);
  await charge(t, t.context, self.patientId, '80.00');
  await chargeAccount(t.context, {
    householdId: self.householdId,
    kind: 'late',
    amount: '1.97',
    date: '2026-03-16',
    key: 'late-charge-1',
  });
}

/** One posting, of whatever entry is the newest of its kind. */
const posting = (kind: string, account: string, amount: number, more = 'null, null, null') =>
  `
    insert into posting (entry_id, account, amount, household_id, charge_id, receipt_id)
    select max(id), '${account}', ${amount}, ${more}
    from entry
    where kind = '${kind}'`;
const ANY_HOUSEHOLD = '(select min(id) from household)';
const ANY_CHARGE = '(select min(id) from charge)';

const BREAKS: Record<string, string[]> = {
  'closed-periods': [`update practice set closed_through = '2026-01-31'`],
  'passed-to-patients': [
    `
      with e as (
        insert into entry (kind, posting_date, business_date, user_id, memo)
        values ('to-patient', '2026-03-16', '2026-03-16', 'x', 'x')
        returning id
      ),
      w as (
        insert into entry (kind, posting_date, business_date, user_id, memo)
        values ('payer-decision', '2026-03-16', '2026-03-16', 'x', 'x')
        returning id
      )
     insert into posting (
       entry_id, account, amount, household_id, charge_id, coverage_id, payer_id, claim_id, remittance_id,
       reason_group, reason_code
     )
     select x.entry_id, x.account, x.amount, p.household_id, p.charge_id, p.coverage_id, p.payer_id, p.claim_id,
       p.remittance_id, x.g, x.c
     from (select * from posting where claim_id is not null and coverage_id is not null order by id limit 1) p,
       lateral (
         select least(e.id, w.id) as entry_id, 'receivable/payer' as account, -500 as amount, 'CO' as g, '50' as c
         from e, w
         union all
         select greatest(e.id, w.id), 'receivable/patient', 500, null, null
         from e, w
       ) x`,
    `update entry set kind = 'payer-decision' where id = (select max(id) - 1 from entry)`,
    `update entry set kind = 'to-patient' where id = (select max(id) from entry)`,
  ],
  'passed-to-patients: what may never be collected': [
    `
      update posting set remark_code = 'N781'
      where account = 'receivable/patient' and coverage_id is not null and amount > 0`,
  ],
  'trial-balance': [posting('receipt', 'cash/cash', 5)],
  'entries-balance': [posting('receipt', 'cash/cash', 5), posting('charge', 'cash/cash', -5)],
  'entries-carry': [posting('receipt', 'cash/cash', 5), posting('receipt', 'credit/payer', -5)],
  'charges-add-up': [
    posting('charge', 'receivable/patient', 5, `${ANY_HOUSEHOLD}, ${ANY_CHARGE}, null`),
    posting('charge', 'cash/cash', -5),
  ],
  'asked-of-payer': [`update charge set tax_billed = true, tax = tax + 1 where id = ${ANY_CHARGE}`],
  'charge-fee': [`update charge set fee = fee + 1 where id = ${ANY_CHARGE}`],
  'charge-balances': [
    `update charge_balance set payer_paid = payer_paid + 1, with_payer = with_payer - 1 where charge_id = ${ANY_CHARGE}`,
  ],
  'postings-belong: a household’s credit without its receipt': [
    posting('receipt', 'cash/cash', 5, `${ANY_HOUSEHOLD}, null, null`),
    posting('receipt', 'credit/patient', -5, `${ANY_HOUSEHOLD}, null, null`),
  ],
  'postings-belong: a charge’s posting on another household': [
    posting('charge', 'receivable/patient', 5, `(select max(id) from household), ${ANY_CHARGE}, null`),
    posting('charge', 'income/fees', -5, `(select max(id) from household), ${ANY_CHARGE}, null`),
  ],
  'postings-belong: a payer’s cash without its remittance': [
    posting('payer-decision', 'cash/check', 5, `${ANY_HOUSEHOLD}, ${ANY_CHARGE}, null`),
    posting('payer-decision', 'receivable/payer', -5, `${ANY_HOUSEHOLD}, ${ANY_CHARGE}, null`),
  ],
  'postings-belong: one household’s credit pays another’s charge': [
    posting(
      'allocation',
      'credit/patient',
      5,
      `${ANY_HOUSEHOLD}, ${ANY_CHARGE}, (select max(id) from receipt)`,
    ),
    posting(
      'allocation',
      'receivable/patient',
      -5,
      `${ANY_HOUSEHOLD}, ${ANY_CHARGE}, (select max(id) from receipt)`,
    ),
  ],
  'postings-belong: a payer that is not the coverage’s': [
    `
      update posting set payer_id = (select max(id) from payer where id <> posting.payer_id)
      where id = (select max(id) from posting where coverage_id is not null)`,
  ],
  'postings-belong: a case that is not the coverage’s': [
    `
      update posting set case_id = (select max(id) from care_case where id <> posting.case_id)
      where id = (select max(id) from posting where coverage_id is not null)`,
  ],
  'policies: one that does not insure who is covered': [
    `update policy_person set patient_id = (select max(id) from patient where id <> policy_person.patient_id)
      where id = (select max(id) from policy_person)`,
  ],
  'policies: held by somebody else': [
    `insert into party (patient_id) select max(id) from patient where id not in (select patient_id from party where patient_id is not null)`,
    `update policy set holder_id = (select max(id) from party where id <> policy.holder_id)`,
  ],
  'policies: whom a payer knows by no number': [
    `delete from policy_number where policy_person_id = (select max(id) from policy_person)`,
  ],
  'receipt-balances': ['update receipt_balance set held = held + 1'],
  'month-totals': ['update month_total set amount = amount + 1'],
  'month-totals: missed': ['delete from month_total'],
  'plans: an ended one holds something': [
    `update payment_plan set status = 'cancelled', ended_on = current_date, ended_why = 'x' where status = 'accepted'`,
  ],
  'plans: one that runs holds nothing': [`delete from posting where plan_id is not null`],
  'plans: what is on none': [`update posting set plan_id = null where account = 'receivable/plan'`],
  'plans: of another account': [
    `update payment_plan set household_id = (select max(id) from household where id <> payment_plan.household_id)`,
  ],
  'placements: an ended one holds something': [
    `
      update placement set status = 'recalled', ended_on = current_date, ended_why = 'x'
      where status in ('placed', 'accepted')`,
  ],
  'placements: what an agency has holds nothing': [
    `delete from posting where placement_id is not null and account = 'receivable/agency'`,
  ],
  'placements: what is on none': [
    `update posting set placement_id = null where account = 'receivable/agency'`,
  ],
  'placements: of another account': [
    `update placement set household_id = (select max(id) from household where id <> placement.household_id)`,
  ],
  'placements: a payment at another amount': [`update agency_payment set gross = gross + 1`],
  'placements: a payment that is not in the books': [
    `
      insert into agency_payment (placement_id, reference, paid_on, gross, fee, direct, entry_id)
      select placement_id, 'x', paid_on, gross, fee, false, (select max(id) from entry where kind = 'placed')
      from agency_payment
      limit 1`,
  ],
  'placements: money of the agency on no charge': [
    `delete from posting where account = 'credit/agency' and charge_id is not null`,
  ],
  'placements: an entry that is no payment of theirs': [`delete from agency_payment`],
  'control-totals: receivables without a charge that cancel': [
    posting('charge', 'receivable/patient', 5, `${ANY_HOUSEHOLD}, null, null`),
    posting('charge', 'receivable/patient', -5, `(select max(id) from household), null, null`),
  ],
  'payer-balances': ['update payer_balance set paid = paid + 1'],
  'payer-balances: another payer': ['update payer_balance set payer_id = (select max(id) from payer)'],
  'benefits-used': ['update benefit_use set quantity = quantity + 1'],
  'benefits-used: of a person in a year': ['update benefit_counter set quantity = quantity + 1'],
  'debt-layers: the oldest open one': ['update charge_balance set patient_since = patient_since - 1'],
  'debt-layers: another day': ['update debt_layer set since = since - 1 where open = 0'],
  'debt-layers: one that no entry made': [
    `
      insert into debt_layer (charge_id, entry_id, since, raised, at)
      select min(charge_id), max(entry_id), '2020-01-01', -5, now()
      from debt_layer`,
  ],
  'debt-layers: more open than is owed': [
    'update debt_layer set open = open - 1, with_patient = 0 where with_patient > 0',
  ],
  'household-balances': ['update household_balance set with_patient = with_patient + 77'],
  'payer-credit': [posting('charge', 'credit/payer', 5), posting('charge', 'cash/cash', -5)],
  'payer-credit: stored': [
    `
      with a as (
        insert into provider_adjustment (remittance_id, payer_id, version, number, code, amount)
        select min(id), min(payer_id), 9, 9, 'CS', 5
        from remittance
        returning id
      ) insert into provider_adjustment_balance
      select id, 5
      from a`,
  ],
  'payer-credit: of a claim that is not held': [
    `
      insert into posting (entry_id, account, amount, remittance_claim_id)
      select max(e.id), 'credit/payer', 5, min(c.id)
      from entry e, remittance_claim c
      where e.kind = 'payer-decision' and c.status = 'posted'`,
    posting('charge', 'cash/cash', -5),
  ],
  'control-totals': [posting('charge', 'receivable/patient', 5), posting('charge', 'cash/cash', -5)],
  'held-parts': [`update follow_up set closed_at = now(), outcome = 'x' where kind = 'suspended'`],
  'held-parts: answered and forgotten': ['update part_hold set answered = true where ended_on is null'],
  'held-parts: another amount': ['update part_hold set amount = amount + 1 where ended_on is null'],
  'never-above-charged': [
    `update follow_up set closed_at = now(), outcome = 'x'`,
    `
      update charge_balance set patient_paid = patient_paid + 999999, with_patient = with_patient - 999999
      where charge_id = ${ANY_CHARGE}`,
  ],
  'expected-is-undecided: of a charge that counts none': [
    `
      update charge_balance set expected = expected + 4700, with_payer = with_payer - 4700
      where charge_id = ${ANY_CHARGE}`,
  ],
  'expected-is-undecided: elsewhere': [
    `update charge_balance set expected = expected - 1, with_payer = with_payer + 1 where charge_id = ${ANY_CHARGE}`,
  ],
  'below-zero': [`update follow_up set closed_at = now(), outcome = 'x'`],
  'with-payer-looked-after': [
    `update claim_line set current = false`,
    `update follow_up set closed_at = now(), outcome = 'x'`,
    `update charge set coverage_id = null where id in (select charge_id from payer_balance where with_payer <> 0)`,
  ],
  merged: [
    `
      update household set merged_into = (select min(id) from household)
      where id = (select max(household_id) from charge)`,
  ],
  'merged: a person': [
    `
      update patient set merged_into = (select min(id) from patient)
      where id = (select max(patient_id) from charge)`,
  ],
  'credit-below-zero': ['update household_balance set credit = -1'],
  receipts: ['update receipt set amount = amount + 1'],
  attempts: [
    `update attempt set state = 'declined', reason = 'x' where what = 'sale' and state = 'approved'`,
  ],
  'attempts: approved and not in the books': [`update tender set state = 'declined' where token <> ''`],
  'attempts: waits for nobody': [`update tender set state = 'pending' where token <> ''`],
  'attempts: taken back and still there': [
    `insert into attempt (tender_id, what, key, merchant, user_id, state, answered_at)
     select tender_id, 'void', 'void:1:00000000', merchant, user_id, 'approved', now() from attempt
     where what = 'sale' and state = 'approved' limit 1`,
  ],
  refunds: [
    // More goes back than came.
    `update tender set amount = amount * 3 where refund_of is not null`,
  ],
  drawers: [
    "update drawer set expected = expected + 1, difference = difference - 1, why = coalesce(nullif(why, ''), 'x')",
  ],
  'drawers: closed and not empty': [
    'update tender t set place_id = d.place_id from drawer d where d.id = t.drawer_id',
  ],
  tenders: ['update tender set amount = amount + 1'],
  'tenders: in the books although it came back': [
    `update tender set state = 'returned' where state = 'taken'`,
  ],
  'tenders: in another place than it is': [
    `update tender set place_id = (select max(id) from place where id <> tender.place_id)`,
  ],
  'tenders: cash that is nowhere': ['update posting set place_id = null where place_id is not null'],
  remittances: [`update remittance set amount = amount + 1 where status = 'posted'`],
  reversals: [
    `
      update posting set coverage_id = null
      where entry_id in (select id from entry where reverses is not null) and account = 'receivable/payer'`,
  ],
};

/** The invariant of a break; where one proves several things, each is broken. */
const idOf = (name: string): string => name.split(':')[0]!;

test('the books hold, and each invariant is broken here', async () => {
  const checks = await checkBooks(t.db);
  expect(checks.filter((check) => check.faults.length > 0)).toEqual([]);
  expect([...new Set(Object.keys(BREAKS).map(idOf))].sort()).toEqual(checks.map((check) => check.id).sort());
});

class Undo extends Error {}

test.each(Object.keys(BREAKS))('%s is named when it is broken', async (name) => {
  let named: string[] = [];
  await t.owner
    .transaction()
    .execute(async (tx) => {
      // Past every rule of the database, as a hand at its console would go.
      for (const table of [
        'attempt',
        'drawer',
        'entry',
        'posting',
        'charge_balance',
        'debt_layer',
        'payer_balance',
        'benefit_use',
        'benefit_counter',
        'household_balance',
        'receipt_balance',
        'provider_adjustment_balance',
        'payment_plan',
        'placement',
        'household',
        'patient',
        'charge',
        'receipt',
        'tender',
        'remittance',
        'remittance_claim',
        'practice',
      ])
        await sql.raw(`alter table ${table} disable trigger all`).execute(tx);
      for (const statement of BREAKS[name]!) await sql.raw(statement).execute(tx);
      const broken = (await checkBooks(tx)).filter((check) => check.faults.length > 0);
      // Each fault says where it is.
      expect(broken.flatMap(({ faults }) => faults).filter((fault) => !/\w/.test(fault ?? ''))).toEqual([]);
      named = broken.map((check) => check.id);
      throw new Undo();
    })
    .catch((error: unknown) => {
      if (!(error instanceof Undo)) throw error;
    });
  expect(named).toContain(idOf(name));
  expect((await checkBooks(t.db)).flatMap((check) => check.faults)).toEqual([]);
});

test('months are kept while others post: nothing is missed and nothing kept twice', async () => {
  const { householdId } = await household(t, false);
  const pay = (n: number) =>
    takeReceipt(t.context, {
      householdId,
      tenders: [{ tender: 'cash', amount: '1.00' }],

      key: `while-kept-${n}`,
      sure: true,
    });
  for (const day of [1, 2, 3])
    await Promise.all([
      ...Array.from({ length: 6 }, (_, n) => pay(day * 10 + n)),
      keepMonths(t.db, addDays(TODAY, day)),
      keepMonths(t.db, addDays(TODAY, day)),
    ]);
  expect(await brokenInvariants(t)).toEqual([]);
});
