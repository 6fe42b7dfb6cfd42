/** Money of patients: what a receipt pays, what is refused and changes nothing, credit, and taking back. */
import fc from 'fast-check';
import { sql } from 'kysely';
import { addDays } from '../../core/calendar';
import { cents } from '../../core/money';
import type { Tender } from '../../core/payments/tenders';
import { type TestDatabase, TODAY, testDatabase } from '../../testing/database';
import {
  charge,
  decided,
  household,
  placementOf,
  planOf,
  postedRemittance,
  sentClaim,
} from '../../testing/desk';
import { checkBooks } from '../books/check';
import { saveSetup } from '../setup/save';
import { setDelivery } from '../statements/household';
import { spendCredit } from './credit';
import { refundCredit } from './refund';
import { envelopeOf, readEnvelopeCharges } from '../books/open-lines';
import { reverseRemittance } from '../remittances/reverse';
import { reverseAllocation, reverseReceipt } from './receipts';
import { takeReceipt } from './take';
import { runs } from '../../testing/runs';

let t: TestDatabase;
beforeAll(async () => {
  t = await testDatabase();
});
const proven = async (): Promise<void> => {
  for (const { id, faults } of await checkBooks(t.db)) expect({ id, faults }).toEqual({ id, faults: [] });
};
afterAll(async () => {
  await proven();
  await t.close();
});

let serial = 0;
const key = (): string => `payments-test-${(serial += 1)}`;
const owes = async (fee = '120.00', ago = 40) => {
  const made = await household(t, false, { sure: true });
  return {
    ...made,
    chargeId: await charge(t, t.context, made.patientId, fee, '99213', addDays(TODAY, -ago)),
  };
};
const take = (
  householdId: number,
  amount: string,
  {
    tender = 'cash',
    reference = '',
    ...more
  }: Record<string, unknown> & { tender?: string; reference?: string } = {},
) =>
  takeReceipt(t.context, {
    householdId,
    tenders: [{ tender: tender as Tender, amount, reference }],
    key: key(),
    ...more,
  });
const owed = async (chargeId: number): Promise<number> =>
  (
    await t.db
      .selectFrom('charge_balance')
      .select('with_patient')
      .where('charge_id', '=', chargeId)
      .executeTakeFirstOrThrow()
  ).with_patient;
const credit = async (householdId: number): Promise<number> =>
  (
    await t.db
      .selectFrom('household_balance')
      .select('credit')
      .where('household_id', '=', householdId)
      .executeTakeFirst()
  )?.credit ?? 0;
const audits = (kind: string, id: number) =>
  t.db
    .selectFrom('audit')
    .select(['action', 'detail'])
    .where('subject_kind', '=', kind)
    .where('subject_id', '=', String(id))
    .orderBy('id')
    .execute();
const mailWith = async (householdId: number, mailedWith: string): Promise<void> =>
  void (await setDelivery(t.context, { householdId, delivery: 'mail', mailedWith }));

describe('what is refused', () => {
  test.each([
    ['plans below zero', { plans: { 1: '-0.01' } }, /below zero/],
    ['plans of more than is paid', { plans: { 1: '100.01' } }, /100.01 goes to plans, more than is paid/],
    ['an agency below zero', { agency: '-0.01' }, /-?−?0.01 goes to what is with the agency/],
    [
      'an agency of more than is paid',
      { agency: '100.01' },
      /100.01 goes to what is with the agency, more than/,
    ],
    [
      'plans and an agency of more together',
      { plans: { 1: '60' }, agency: '40.01' },
      /40.01 goes to what is with/,
    ],
    ['an agency that has nothing', { agency: '1' }, /Nothing of this account is with an agency/],
    ['a plan that is another’s', { plans: { 999999: '1' } }, /not of this account/],
    ['a charge that is not open', { parts: { 999999: '1' } }, /no longer open/],
  ])('%s: nothing changes', async (_, more, words) => {
    const { householdId, chargeId } = await owes();
    await expect(take(householdId, '100', more)).rejects.toThrow(words);
    expect(await owed(chargeId)).toBe(12_000);
    expect(
      await t.db.selectFrom('receipt').select('id').where('household_id', '=', householdId).execute(),
    ).toEqual([]);
  });

  test('an account and a receipt that do not exist', async () => {
    await expect(take(999_999, '1')).rejects.toThrow(/no such account/);
    await expect(reverseReceipt(t.context, { receiptId: 999_999, why: 'x' })).rejects.toThrow(
      /no such receipt/,
    );
  });

  test('nothing that is zero is asked of a plan, and a plan takes what is paid to the cent', async () => {
    const { householdId } = await owes('50.00');
    await take(householdId, '50', { plans: { 999999: '0.00' } });
    const { householdId: planned, planId } = await planOf(t);
    await take(planned, '30', { plans: { [planId]: '30.00' } });
    expect(
      await t.db
        .selectFrom('posting')
        .select('amount')
        .where('account', '=', 'receivable/plan')
        .where('household_id', '=', planned)
        .execute(),
    ).toContainEqual({ amount: -3000 });
  });
});

describe('what is with an agency', () => {
  test('is paid beside what is not, to the cent, and never more than is there', async () => {
    const p = await placementOf(t);
    const chargeId = await charge(t, t.context, p.patientId, '20.00');
    await expect(take(p.householdId, '300', { agency: '240.01' })).rejects.toThrow(
      /240.00 is with the agency, less than is paid on it/,
    );
    await take(p.householdId, '260', { agency: '240.00' });
    expect(await owed(chargeId)).toBe(0);
    expect(await credit(p.householdId)).toBe(0);
    const { status } = await t.db
      .selectFrom('placement')
      .select('status')
      .where('id', '=', p.placementId)
      .executeTakeFirstOrThrow();
    expect(status).toBe('paid');
  });

  test('is left alone by money that is not for it', async () => {
    const p = await placementOf(t);
    await take(p.householdId, '50');
    expect(await credit(p.householdId)).toBe(5000);
    expect(
      await t.db
        .selectFrom('agency_payment')
        .select('id')
        .where('placement_id', '=', p.placementId)
        .execute(),
    ).toEqual([]);
  });
});

describe('the same check again', () => {
  test('is asked about, cash and a check without a number are not', async () => {
    const { householdId } = await owes('500.00');
    const check = { tender: 'check', reference: '1044' };
    const { receiptId } = await take(householdId, '20', check);
    await expect(take(householdId, '20', check)).rejects.toThrow(
      /check 1044 over 20.00 was taken on 16 Mar 2026 already/i,
    );
    // Another amount or number, or cash, is another payment.
    await take(householdId, '21', check);
    await take(householdId, '20', { ...check, reference: '1045' });
    await take(householdId, '20', { reference: '1044' });
    await take(householdId, '20', { reference: '1044' });
    await take(householdId, '22', { tender: 'transfer' });
    await take(householdId, '22', { tender: 'transfer' });
    // Somebody else's check may have the same number.
    await take((await owes()).householdId, '20', check);
    await take(householdId, '20', { ...check, sure: true });
    // Once it is taken back, nothing stands in the way.
    for (const { id } of await t.db
      .selectFrom('receipt as r')
      .innerJoin('tender as t', 't.receipt_id', 'r.id')
      .select('r.id')
      .where('r.household_id', '=', householdId)
      .where('t.reference', '=', '1044')
      .where('t.kind', '=', 'check')
      .execute())
      await reverseReceipt(t.context, { receiptId: id, why: 'bounced' });
    expect((await take(householdId, '20', check)).receiptId).toBeGreaterThan(receiptId);
  });

  test('a balance that changed since the form was opened is said; one that did not is not', async () => {
    const { householdId } = await owes('90.00');
    await expect(take(householdId, '10', { owed: 8999 })).rejects.toThrow(/90.00 is owed now, not 89.99/);
    await take(householdId, '10', { owed: 9000 });
    await take(householdId, '10');
  });
});

describe('one envelope', () => {
  test('the others’ charges are shown, oldest first, and noted as read; together it pays them, alone it does not', async () => {
    const [head, son, stranger] = [await owes('50.00', 10), await owes('30.00', 60), await owes('70.00', 50)];
    const { number } = await t.db
      .selectFrom('household')
      .select('number')
      .where('id', '=', head.householdId)
      .executeTakeFirstOrThrow();
    await mailWith(son.householdId, number);
    const younger = await charge(t, t.context, son.patientId, '11.00', '99213', addDays(TODAY, -5));
    expect(await envelopeOf(t.db, head.householdId)).toEqual([head.householdId, son.householdId]);
    expect(await envelopeOf(t.db, son.householdId)).toEqual([head.householdId, son.householdId]);
    const shown = await readEnvelopeCharges(t.context, head.householdId);
    expect(shown).toMatchObject([
      { id: son.chargeId, owed: 3000, date: addDays(TODAY, -60), description: 'Office visit, 20 minutes' },
      { id: younger, owed: 1100, date: addDays(TODAY, -5) },
    ]);
    expect(shown[0]?.account).toMatch(/^A-\d+$/);
    expect(shown[0]?.patient).not.toBe('');
    expect(await audits('household', son.householdId)).toContainEqual(
      expect.objectContaining({ action: 'read' }),
    );
    expect(await readEnvelopeCharges(t.context, stranger.householdId)).toEqual([]);

    await take(head.householdId, '20');
    expect(await owed(son.chargeId)).toBe(3000);
    const { receiptId } = await take(head.householdId, '65', { together: true });
    expect([await owed(son.chargeId), await owed(head.chargeId), await owed(younger)]).toEqual([0, 0, 600]);
    expect(
      await t.db
        .selectFrom('receipt_household')
        .select('household_id')
        .where('receipt_id', '=', receiptId)
        .execute(),
    ).toEqual([{ household_id: son.householdId }]);
    await reverseReceipt(t.context, { receiptId, why: 'bounced' });
    expect([await owed(son.chargeId), await owed(head.chargeId), await owed(younger)]).toEqual([
      3000, 3000, 1100,
    ]);
    await proven();
  });
});

describe('credit and taking back', () => {
  test('two people use one receipt at once: no more of it is used than it has', async () => {
    for (let round = 0; round < 3; round += 1) {
      const { householdId, patientId } = await household(t, false, { sure: true });
      const { receiptId } = await take(householdId, '50.00', { sure: true });
      const [one, two] = [
        await charge(t, t.context, patientId, '30.00'),
        await charge(t, t.context, patientId, '40.00', '99214'),
      ];
      const tried = await Promise.allSettled([
        spendCredit(t.context, { householdId, parts: { [one]: '30.00' }, key: key() }),
        spendCredit(t.context, { householdId, parts: { [two]: '40.00' }, key: key() }),
      ]);
      expect(tried.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
      const left = (await owed(one)) + (await owed(two));
      expect(left - (await credit(householdId))).toBe(2000);
      expect(await credit(householdId)).toBeGreaterThanOrEqual(0);
      await reverseReceipt(t.context, { receiptId: receiptId!, why: 'bounced' });
      expect((await owed(one)) + (await owed(two))).toBe(7000);
    }
  });

  test('credit pays what came later, the oldest first; without any it says so', async () => {
    const { householdId, patientId, chargeId } = await owes('40.00');
    await take(householdId, '100');
    expect(await owed(chargeId)).toBe(0);
    await expect(spendCredit(t.context, { householdId, key: key() })).rejects.toThrow(
      /no credit, or nothing open/,
    );
    const later = await charge(t, t.context, patientId, '25.00', '99213', addDays(TODAY, -3));
    const latest = await charge(t, t.context, patientId, '50.00', '99213', addDays(TODAY, -2));
    expect(await spendCredit(t.context, { householdId, key: key() })).toBe(6000);
    expect([await owed(later), await owed(latest), await credit(householdId)]).toEqual([0, 1500, 0]);
    expect(await audits('household', householdId)).toContainEqual(
      expect.objectContaining({
        action: 'used credit',
        detail: expect.objectContaining({ amount: 6000 }) as object,
      }),
    );
    await expect(spendCredit(t.context, { householdId, key: key() })).rejects.toThrow(/no credit/);
  });

  test('a receipt is taken back once, with why, and the trail says what it was', async () => {
    const { householdId, chargeId } = await owes('40.00');
    const { receiptId } = await take(householdId, '15');
    expect(await audits('receipt', receiptId)).toMatchObject([
      { action: 'took payment', detail: { amount: 1500 } },
    ]);
    await reverseReceipt(t.context, { receiptId, why: 'bounced' });
    expect(await owed(chargeId)).toBe(4000);
    expect(await audits('receipt', receiptId)).toMatchObject([
      {},
      { action: 'reversed', detail: { why: 'bounced', amount: '15.00' } },
    ]);
    await expect(reverseReceipt(t.context, { receiptId, why: 'again' })).rejects.toThrow(/reversed before/);
  });
});

test('property: whatever is charged, paid, spent and taken back, each charge owes what the simple sum says', async () => {
  const step = fc.oneof(
    fc.record({ what: fc.constant('charge' as const), amount: fc.integer({ min: 1, max: 20_000 }) }),
    fc.record({ what: fc.constant('pay' as const), amount: fc.integer({ min: 1, max: 25_000 }) }),
    fc.record({ what: fc.constant('spend' as const), amount: fc.constant(0) }),
    fc.record({ what: fc.constant('reverse' as const), amount: fc.nat(10) }),
  );
  const dollars = (amount: number): string => (amount / 100).toFixed(2);
  await fc.assert(
    fc.asyncProperty(fc.array(step, { minLength: 3, maxLength: 12 }), async (steps) => {
      const { householdId, patientId, chargeId } = await owes('10.00');
      let charged = 1000;
      const receipts: { id: number; amount: number }[] = [];
      const charges = [chargeId];
      for (const { what, amount } of steps) {
        if (what === 'charge') {
          charges.push(await charge(t, t.context, patientId, dollars(amount), '99213', addDays(TODAY, -9)));
          charged += amount;
        } else if (what === 'pay')
          receipts.push({ id: (await take(householdId, dollars(amount))).receiptId, amount });
        else if (what === 'spend')
          await spendCredit(t.context, { householdId, key: key() }).catch((error: Error) =>
            expect(error.message).toMatch(/no credit, or nothing open/),
          );
        else if (receipts.length > 0) {
          const [gone] = receipts.splice(amount % receipts.length, 1);
          await reverseReceipt(t.context, { receiptId: gone!.id, why: 'bounced' });
        }
        const paid = receipts.reduce((all, one) => all + one.amount, 0);
        const open = await Promise.all(charges.map(owed));
        const held = await credit(householdId);
        expect(Math.min(...open)).toBeGreaterThanOrEqual(0);
        expect(held).toBeGreaterThanOrEqual(0);
        // What is owed less what is held is what was charged less what was paid.
        expect(open.reduce((a, b) => a + b, 0) - held).toBe(charged - paid);
        expect(cents(held)).toBeLessThanOrEqual(paid);
      }
    }),
    { numRuns: runs(12) },
  );
  await proven();
});

describe('the day on which money came', () => {
  const entriesOf = async (receiptId: number) =>
    (
      await t.db
        .selectFrom('posting as p')
        .innerJoin('entry as e', 'e.id', 'p.entry_id')
        .select(['e.kind', 'e.business_date as day', 'e.posting_date as written'])
        .distinct()
        .where('p.receipt_id', '=', receiptId)
        .orderBy('e.kind')
        .execute()
    ).map(({ kind, day, written }) => [kind, day, written]);

  test('is today, or an earlier one that is said: what it pays is paid on it, but not before the service', async () => {
    const came = addDays(TODAY, -10);
    const made = await owes('50.00', 20);
    await charge(t, t.context, made.patientId, '70.00', '99213', addDays(TODAY, -3));
    const { receiptId } = await take(made.householdId, '120.00', { receivedOn: came });
    expect(await entriesOf(receiptId)).toEqual([
      ['allocation', came, TODAY],
      ['allocation', addDays(TODAY, -3), TODAY],
      ['receipt', came, TODAY],
    ]);
    const today = await take(made.householdId, '5.00');
    expect(await entriesOf(today.receiptId)).toEqual([['receipt', TODAY, TODAY]]);
  });

  test('is not to come, not in a closed period, and looked at again where it is long ago', async () => {
    const { householdId } = await owes();
    const at = (receivedOn: string, more: object = {}) => take(householdId, '1.00', { receivedOn, ...more });
    await expect(at(addDays(TODAY, 1))).rejects.toMatchObject({ field: 'receivedOn', code: 'date' });
    for (const none of ['2026-02-30', 'soon'])
      await expect(at(none)).rejects.toMatchObject({ code: 'invalid' });
    await expect(at(addDays(TODAY, -32))).rejects.toMatchObject({
      doubts: ['It came on 12 Feb 2026, 32 days ago'],
    });
    expect(await at(addDays(TODAY, -31))).toHaveProperty('receiptId');
    // All doubts come at once, so that none is passed over with another.
    const check = { tender: 'check', reference: '909', receivedOn: addDays(TODAY, -40) };
    await take(householdId, '3.00', { ...check, sure: true });
    await expect(take(householdId, '3.00', { ...check, owed: 1 })).rejects.toMatchObject({
      doubts: [
        expect.stringContaining('40 days ago'),
        expect.stringContaining('balance has changed'),
        expect.stringContaining('was taken on'),
      ],
    });
    expect(await at(addDays(TODAY, -32), { sure: true })).toHaveProperty('receiptId');
    for (const past of ['1805-01-01', addDays(TODAY, -367)])
      await expect(at(past, { sure: true })).rejects.toThrow('more than a year ago');
    expect(await at(addDays(TODAY, -366), { sure: true })).toHaveProperty('receiptId');
    await sql`select close_period('2026-01-31', 'test')`.execute(t.owner);
    await expect(at('2026-01-31', { sure: true })).rejects.toThrow(/period through 31 Jan 2026 is closed/);
    expect(await at('2026-02-01', { sure: true })).toHaveProperty('receiptId');
  });
});

describe('tenders', () => {
  const tendersOf = (receiptId: number) =>
    t.db
      .selectFrom('tender as t')
      .innerJoin('place as p', 'p.id', 't.place_id')
      .select(['t.kind', 't.amount', 't.reference', 't.state', 'p.kind as place', 't.refund_of'])
      .where('t.receipt_id', '=', receiptId)
      .execute();
  const cashAt = async (receiptId: number) =>
    (
      await sql<{ place: string; amount: number }>`
        select p.kind as place, sum(x.amount) as amount
        from posting x
          join place p on p.id = x.place_id
        where x.receipt_id = ${receiptId} and x.account like 'cash/%'
        group by p.kind`.execute(t.db)
    ).rows;

  test('a check lies where it is not yet deposited, a transfer is in the bank; reversed, neither is anywhere', async () => {
    const { householdId } = await owes();
    const check = await take(householdId, '20.00', { tender: 'check', reference: '77' });
    const transfer = await take(householdId, '30.00', { tender: 'transfer' });
    expect(await tendersOf(check.receiptId)).toEqual([
      { kind: 'check', amount: 2000, reference: '77', state: 'taken', place: 'undeposited', refund_of: null },
    ]);
    expect(await cashAt(check.receiptId)).toEqual([{ place: 'undeposited', amount: 2000 }]);
    expect(await cashAt(transfer.receiptId)).toEqual([{ place: 'bank', amount: 3000 }]);
    await reverseReceipt(t.context, { receiptId: check.receiptId, why: 'bounced' });
    expect((await tendersOf(check.receiptId))[0]!.state).toBe('void');
    expect(await cashAt(check.receiptId)).toEqual([{ place: 'undeposited', amount: 0 }]);
    await proven();
  });

  test('what is given back is a tender that says of which; one of an agency has none', async () => {
    const { householdId } = await owes('10.00');
    const { receiptId } = await take(householdId, '25.00');
    const [of] = await t.db.selectFrom('tender').select('id').where('receipt_id', '=', receiptId).execute();
    const { refundId } = await refundCredit(t.context, {
      receiptId,
      amount: '15.00',
      tender: 'cash',
      reference: '',
      why: 'too much',
      key: key(),
    });
    expect(await tendersOf(refundId!)).toMatchObject([{ amount: -1500, state: 'taken', refund_of: of!.id }]);
    await reverseReceipt(t.context, { receiptId: refundId, why: 'not taken' });
    expect(await tendersOf(refundId!)).toMatchObject([{ state: 'void' }]);
    await proven();
  });

  test('a place of the site comes first, a closed one is none, and without any nothing is taken', async () => {
    const { householdId } = await owes();
    const set = (closed_on: string) =>
      sql`update place set closed_on = ${closed_on}::date where kind = 'bank'`.execute(t.db);
    await set(TODAY);
    const transfer = () => take(householdId, '1.00', { tender: 'transfer' });
    await expect(transfer()).rejects.toMatchObject({ code: 'missing', field: 'tender' });
    await set(addDays(TODAY, 1));
    expect(await transfer()).toHaveProperty('receiptId');
    const [site] = await t.db.selectFrom('location').select('id').orderBy('id').execute();
    const own = await saveSetup(t.context, {
      table: 'places',
      values: { name: 'Drawer bag', kind: 'undeposited', location_id: String(site!.id) },
    });
    const put = async (id: number) =>
      t.db.selectFrom('tender').select('place_id').where('receipt_id', '=', id).executeTakeFirstOrThrow();
    const elsewhere = await take(householdId, '1.00');
    await t.db
      .updateTable('household')
      .set({ location_id: site!.id })
      .where('id', '=', householdId)
      .execute();
    const here = await take(householdId, '1.00');
    expect([
      (await put(here.receiptId)).place_id === Number(own),
      (await put(elsewhere.receiptId)).place_id === Number(own),
    ]).toEqual([true, false]);
    await sql`update place set closed_on = null`.execute(t.db);
  });

  test('the moves of a tender are those of the program, its facts stay, and its cash is its own', async () => {
    const { householdId } = await owes();
    const { receiptId } = await take(householdId, '9.00');
    const other = await take(householdId, '9.00');
    const write = (set: object, id = receiptId) =>
      t.db.updateTable('tender').set(set).where('receipt_id', '=', id).execute();
    await expect(write({ state: 'pending' })).rejects.toThrow(/does not go from taken to pending/);
    await expect(write({ amount: 900_00 })).rejects.toThrow(/change/);
    await expect(write({ last_four: '12345' })).rejects.toThrow(/check/);
    const raw = (tender: number | null) =>
      sql`
        with e as (
          insert into entry (kind, posting_date, business_date, user_id, memo)
          values ('receipt', ${TODAY}, ${TODAY}, 'x', 'x')
          returning id
        )
        insert into posting (entry_id, account, amount, household_id, receipt_id, tender_id, place_id)
        select e.id, a.account, a.amount, ${householdId}, ${receiptId}, a.tender, 1
        from e, (values ('cash/cash', 5, ${tender}::bigint), ('credit/patient', -5, null)) a (account, amount, tender)`.execute(
        t.owner,
      );
    const [theirs] = await t.db
      .selectFrom('tender')
      .select('id')
      .where('receipt_id', '=', other.receiptId)
      .execute();
    await expect(raw(null)).rejects.toThrow(/does not say whose it is/);
    await expect(raw(theirs!.id)).rejects.toThrow(/do not belong together/);
  });
});

describe('what a receipt pays of one charge', () => {
  const paying = async (chargeId: number) =>
    (
      await sql<{ id: number }>`
        select distinct e.id
        from entry e
          join posting p on p.entry_id = e.id
        where e.kind = 'allocation' and p.charge_id = ${chargeId} and e.reverses is null
        order by e.id`.execute(t.db)
    ).rows.map(({ id }) => id);
  const off = (entryId: number) => reverseAllocation(t.context, { entryId, why: 'the other visit' });

  test('is taken off it alone: it is owed again since its day, and the money is credit', async () => {
    const made = await owes('50.00', 40);
    const other = await charge(t, t.context, made.patientId, '70.00', '99213', addDays(TODAY, -10));
    const since = async () =>
      (await t.db
        .selectFrom('charge_balance')
        .select('patient_since')
        .where('charge_id', '=', made.chargeId)
        .executeTakeFirst())!.patient_since;
    const before = await since();
    await take(made.householdId, '120.00');
    const [entryId] = await paying(made.chargeId);
    await off(entryId!);
    expect([await owed(made.chargeId), await owed(other), await credit(made.householdId)]).toEqual([
      5000, 0, 5000,
    ]);
    expect(await since()).toEqual(before);
    await expect(off(entryId!)).rejects.toMatchObject({ code: 'already' });
    // The credit pays it again.
    await spendCredit(t.context, { householdId: made.householdId, key: key() });
    expect([await owed(made.chargeId), await credit(made.householdId)]).toEqual([0, 0]);
    await proven();
  });

  test('is no charge, no receipt, and nothing that became credit already', async () => {
    const { householdId, chargeId } = await owes('50.00');
    await take(householdId, '50.00');
    const { rows } = await sql<{ id: number }>`
      select e.id from entry e join posting p on p.entry_id = e.id
      where p.charge_id = ${chargeId} and e.kind = 'charge' limit 1`.execute(t.db);
    await expect(off(rows[0]!.id)).rejects.toMatchObject({ code: 'unknown' });
    await expect(off(99_999_999)).rejects.toMatchObject({ code: 'unknown' });
    const s = await sentClaim(t);
    const remittanceId = await postedRemittance(t, [
      decided(s.claim.control_number, [
        { control: s.controls[0]!, charge: 14_500, paid: 6800, reasons: ['CO-45:47.00', 'PR-3:30.00'] },
      ]),
    ]);
    await take(s.householdId, '30.00');
    const [entryId] = await paying(s.charges[0]!);
    await reverseRemittance(t.context, { remittanceId, why: 'a mistake' });
    await postedRemittance(t, [
      decided(s.claim.control_number, [
        { control: s.controls[0]!, charge: 14_500, paid: 9800, reasons: ['CO-45:47.00'] },
      ]),
    ]);
    expect(await credit(s.householdId)).toBe(3000);
    await expect(off(entryId!)).rejects.toMatchObject({ code: 'blocked', facts: { stands: 0 } });
    await proven();
  });
});
