/**
 * Provider adjustments (PLB of ASC X12N 005010X221A1) in the payer's credit, and the ways out: applied to a claim, our
 * refund, given up, gone back; each whole, in part, undone and reversed. Which way is right is common practice, no source.
 */
import fc from 'fast-check';
import { sql } from 'kysely';
import { addDays } from '../../core/calendar';
import { cents } from '../../core/money';
import type { RemitClaim } from '../../core/x12/remittance835';
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
import { readChargeEntries } from '../accounts/ledger';
import { readAccount } from '../account-page/read';
import { payerCredit } from '../books/balances';
import { buildClaims } from '../claims/build';
import { readClaim } from '../claims/read';
import { findList } from '../lists/read';
import { creditCounters, settleCredit, undoCredit } from './credit';
import { decideHeld } from './held';
import { postRemittance } from './post';
import { readRemittance } from './read';
import { reverseRemittance } from './reverse';
import { runs } from '../../testing/runs';

const t = fileDatabase();
let serial = 0;
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

interface Plb {
  code: string;
  reference?: string;
  amount: number;
}
/** Posts a remittance with provider adjustments; the payment is what balances. */
async function post(adjustments: Plb[], claims: RemitClaim[] = []): Promise<number> {
  const payment =
    claims.reduce((all, claim) => all + claim.paid, 0) -
    adjustments.reduce((all, { amount }) => all + amount, 0);
  const { outcomes } = await intake(
    t.context,
    remitText(claims, {
      payment: cents(payment),
      providerAdjustments: adjustments.map(({ reference = '', ...item }) => ({
        ...item,
        reference,
        amount: cents(item.amount),
      })),
    }),
  );
  const id = outcomes[0]!.remittanceId!;
  await postRemittance(t.context, id);
  return id;
}
const other = async () => {
  const s = await sentClaim(t, ['500.00']);
  return decided(s.claim.control_number, [
    { control: s.controls[0]!, charge: 50000, paid: 50000, reasons: [] },
  ]);
};
/** The payer has taken so much from a payment that pays another claim. */
const taken = async (amount: number, reference = ''): Promise<number> =>
  post([{ code: 'WO', reference, amount }], [await other()]);
const PLAIN = ['CO-45:47.00', 'PR-3:30.00'];
const paidClaim = async () => {
  const s = await sentClaim(t);
  await post(
    [],
    [
      decided(s.claim.control_number, [
        { control: s.controls[0]!, charge: 14500, paid: 6800, reasons: PLAIN },
      ]),
    ],
  );
  return s;
};
const itemOf = async (remittanceId: number, number = 0) =>
  (await readRemittance(t.context, remittanceId)).providerAdjustments[number]!.credit!;
type Ask = Partial<Parameters<typeof settleCredit>[1]> & { as: 'apply' | 'refund' | 'give-up' | 'return' };
async function settle(remittanceId: number, ask: Ask) {
  const { id, open } = await itemOf(remittanceId);
  return settleCredit(t.context, {
    adjustmentId: id,
    open,
    why: 'By letter',
    key: `credit-${(serial += 1)}-press`,
    ...ask,
  });
}
const undoLast = async (remittanceId: number): Promise<void> => {
  const { uses } = await itemOf(remittanceId);
  await undoCredit(t.context, { entryId: uses.at(-1)!.entryId, why: 'Not so' });
};
const onCharge = (chargeId: number) =>
  t.db
    .selectFrom('charge_balance')
    .select(['payer_paid as paid', 'with_payer as payer', 'with_patient as patient'])
    .where('charge_id', '=', chargeId)
    .executeTakeFirstOrThrow();
const booked = async (account: string): Promise<number> => {
  const { rows } = await sql<{
    total: number;
  }>`select coalesce(sum(amount), 0) as total from posting where account = ${account}`.execute(t.db);
  return rows[0]!.total;
};

test('what the payer took of a claim goes back to wait on it, and is followed', async () => {
  const s = await paidClaim();
  const remit = await taken(6800, s.claim.control_number);
  expect((await itemOf(remit)).open).toBe(-6800);
  expect(await settle(remit, { as: 'apply', controlNumber: s.claim.control_number })).toBe(0);
  expect(await onCharge(s.charges[0]!)).toEqual({ paid: 0, payer: 6800, patient: 3000 });
  expect((await readClaim(t.context, s.claim.id)).status).toBe('decided');
  const followUps = await findList(t.context, 'follow-ups', { search: s.claim.control_number });
  expect(followUps.rows.map(({ kind, amount }) => [kind, amount])).toEqual([['reason', 6800]]);
  const { charges } = await readAccount(t.context, s.householdId);
  const under = await readChargeEntries(t.context, s.householdId, charges[0]!.id);
  expect(under.map(({ kind }) => kind)).toContain('credit-applied');
  // Contract and patient part still stand: paid anew in full, it would be billed twice, so it is held.
  const again = await post(
    [],
    [
      decided(s.claim.control_number, [
        { control: s.controls[0]!, charge: 14500, paid: 6800, reasons: PLAIN },
      ]),
    ],
  );
  expect((await readRemittance(t.context, again)).rows[0]!.status).toBe('unmatched');
  await undoLast(remit);
  expect(await onCharge(s.charges[0]!)).toEqual({ paid: 6800, payer: 0, patient: 3000 });
  expect((await readClaim(t.context, s.claim.id)).status).toBe('closed');
  expect((await itemOf(remit)).open).toBe(-6800);
  // Nothing waits any more, so nobody follows it any more.
  expect((await findList(t.context, 'follow-ups', { search: s.claim.control_number })).rows).toEqual([]);
});

test('what is held pays a claim that waits, in part, and ends its denial when nothing is left', async () => {
  const s = await sentClaim(t);
  await post(
    [],
    [
      decided(s.claim.control_number, [
        { control: s.controls[0]!, charge: 14500, paid: 0, reasons: ['CO-16:145.00'] },
      ]),
    ],
  );
  const remit = await post([{ code: 'CS', amount: -20000 }]);
  const to = { as: 'apply', controlNumber: s.claim.control_number } as const;
  await expect(settle(remit, to)).rejects.toThrow('Only 145.00 waits');
  expect(await settle(remit, { ...to, amount: '100.00' })).toBe(10000);
  expect((await readClaim(t.context, s.claim.id)).status).toBe('decided');
  expect(await settle(remit, { ...to, amount: '45.00' })).toBe(5500);
  expect((await readClaim(t.context, s.claim.id)).status).toBe('closed');
  expect((await findList(t.context, 'follow-ups', { search: s.claim.control_number })).rows).toEqual([]);
  await expect(settle(remit, { ...to, amount: '45.00' })).rejects.toThrow('Only 0.00 waits');
  // Undone, it waits again and somebody follows it.
  await undoLast(remit);
  expect((await readClaim(t.context, s.claim.id)).status).toBe('decided');
  expect(await onCharge(s.charges[0]!)).toMatchObject({ paid: 10000, payer: 4500 });
  expect((await findList(t.context, 'follow-ups', { search: s.claim.control_number })).rows).toHaveLength(1);
});

test('our refund of a claim that is held: both leave the credit, and come back when it is undone', async () => {
  const before = await payerCredit(t.db);
  const strange = await post(
    [],
    [decided(`ZZ${(serial += 1)}`, [{ control: 'L1', charge: 6800, paid: 6800, reasons: [] }])],
  );
  const [row] = (await readRemittance(t.context, strange)).rows;
  const remit = await taken(6800);
  const item = await itemOf(remit);
  const counters = await creditCounters(t.context, item.id);
  expect(counters.map(({ value }) => value)).toContain(`claim-${row!.id}`);
  const ask = { as: 'refund', against: `claim-${row!.id}` } as const;
  // In part: the claim stays held, and is not posted meanwhile.
  await settle(remit, { ...ask, amount: '10.00' });
  await expect(
    decideHeld(t.context, { remittanceClaimId: row!.id, as: 'returned', why: 'x' }),
  ).rejects.toThrow('is set off');
  await settle(remit, ask);
  expect((await readRemittance(t.context, strange)).rows[0]).toMatchObject({
    status: 'returned',
    note: expect.stringContaining('The payer took it'),
  });
  expect(await payerCredit(t.db)).toBe(before);
  await undoLast(remit);
  expect((await readRemittance(t.context, strange)).rows[0]!.status).toBe('kept');
  expect((await itemOf(remit)).open).toBe(-5800);
  // Reversing either remittance undoes it too.
  await settle(remit, ask);
  await reverseRemittance(t.context, { remittanceId: remit, why: 'Wrong file' });
  expect((await readRemittance(t.context, strange)).rows[0]!.status).toBe('kept');
  expect((await itemOf(remit)).open).toBe(0);
});

test('a refund that the payer acknowledges (72) and takes (WO) is set off in two remittances', async () => {
  const first = await post([{ code: '72', reference: 'R1', amount: -4000 }]);
  const second = await taken(4000, 'R1');
  const { id } = await itemOf(first);
  expect(await settle(second, { as: 'refund', against: `adjustment-${id}` })).toBe(0);
  expect((await itemOf(first)).open).toBe(0);
  await expect(settle(first, { as: 'return' })).rejects.toThrow('Nothing of it is open');
});

test('kept for good it is income, given up an expense', async () => {
  const income = await booked('income/payer-credit');
  const expense = await booked('expense/payer-credit');
  const held = await post([{ code: 'CS', amount: -12 }]);
  const gone = await taken(34);
  await settle(held, { as: 'give-up' });
  await settle(gone, { as: 'give-up' });
  expect((await booked('income/payer-credit')) - income).toBe(-12);
  expect((await booked('expense/payer-credit')) - expense).toBe(34);
});

test('gone back: we returned it, or the payer paid it back; cash follows', async () => {
  const cash = await booked('cash/transfer');
  const held = await post([{ code: 'CS', amount: -1200 }]);
  const gone = await post([{ code: 'WO', amount: 3400 }], [await other()]);
  await settle(held, { as: 'return' });
  await settle(gone, { as: 'return' });
  // 12.00 came and went; 500.00 less 34.00 came, and the 34.00 after it.
  expect((await booked('cash/transfer')) - cash).toBe(50000);
  await undoLast(held);
  expect((await itemOf(held)).open).toBe(1200);
});

test('interest is income, whatever stands beside it, and is no item', async () => {
  const remit = await post([{ code: 'L6', reference: 'X:1', amount: -55 }]);
  expect((await readRemittance(t.context, remit)).providerAdjustments[0]!.credit).toBeNull();
});

test('refused: another payer’s, the same side, more than is open, an older look, twice', async () => {
  const held = await post([{ code: 'CS', amount: -1000 }]);
  const same = await itemOf(await post([{ code: 'CS', amount: -1000 }]));
  const gone = await itemOf(await taken(2000));
  await expect(settle(held, { as: 'refund', against: `adjustment-${same.id}` })).rejects.toThrow(
    'One of the two',
  );
  await expect(settle(held, { as: 'refund' })).rejects.toMatchObject({ field: 'against' });
  await expect(settle(held, { as: 'refund', against: 'claim-999999' })).rejects.toThrow('not in the payer');
  await expect(settle(held, { as: 'return', amount: '10.01' })).rejects.toThrow('Only 10.00');
  await expect(settle(held, { as: 'return', open: cents(900) })).rejects.toThrow('look at it again');
  await expect(settle(held, { as: 'apply' })).rejects.toMatchObject({ field: 'controlNumber' });
  await expect(settle(held, { as: 'apply', controlNumber: 'OL1' })).rejects.toThrow(
    'No claim has the number',
  );
  const s = await sentClaim(t);
  const otherPayer = await t.db
    .selectFrom('payer')
    .select('id')
    .where('id', '<>', s.claim.payer_id)
    .executeTakeFirst();
  await t.db
    .updateTable('provider_adjustment')
    .set({ payer_id: otherPayer!.id })
    .where('id', '=', same.id)
    .execute();
  await expect(
    settleCredit(t.context, {
      adjustmentId: same.id,
      open: 1000,
      as: 'refund',
      against: `adjustment-${gone.id}`,
      why: 'x',
      key: 'other-payer-1',
    }),
  ).rejects.toThrow('another payer');
  await expect(
    settleCredit(t.context, {
      adjustmentId: same.id,
      open: 1000,
      as: 'apply',
      controlNumber: s.claim.control_number,
      why: 'x',
      key: 'other-payer-2',
    }),
  ).rejects.toThrow('went to another payer');
  // Two people at once: one of them settles it.
  const both = await Promise.allSettled([settle(held, { as: 'return' }), settle(held, { as: 'give-up' })]);
  expect(both.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
});

test('two that set off the same items from either side never wait for each other', async () => {
  const pairs = await Promise.all(
    [1, 2, 3].map(async () => [await post([{ code: 'CS', amount: -500 }]), await taken(500)] as const),
  );
  for (const [held, gone] of pairs) {
    const [a, b] = [await itemOf(held), await itemOf(gone)];
    const both = await Promise.allSettled([
      settle(held, { as: 'refund', against: `adjustment-${b.id}` }),
      settle(gone, { as: 'refund', against: `adjustment-${a.id}` }),
    ]);
    expect(both.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
    for (const one of both)
      if (one.status === 'rejected') expect(String(one.reason)).toMatch(/Nothing of it is open|open now/);
  }
});

test('property: whatever is done and undone, the credit is what came less what was done', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.integer({ min: 1, max: 5000 }),
      fc.array(
        fc.record({
          as: fc.constantFrom('return', 'give-up', 'undo'),
          amount: fc.integer({ min: 1, max: 3000 }),
        }),
        {
          maxLength: 6,
        },
      ),
      async (size, steps) => {
        const remit = await post([{ code: 'CS', amount: -size }]);
        const done: number[] = [];
        for (const { as, amount } of steps) {
          const left = size - done.reduce((all, one) => all + one, 0);
          if (as === 'undo') {
            if (done.length === 0) continue;
            const open = (await itemOf(remit)).uses.filter(({ undone }) => !undone);
            await undoCredit(t.context, { entryId: open.at(-1)!.entryId, why: 'x' });
            done.pop();
          } else {
            const asked = settle(remit, { as: as as 'return', amount: (amount / 100).toFixed(2) });
            if (amount > left) await expect(asked).rejects.toThrow(/open/);
            else {
              await asked;
              done.push(amount);
            }
          }
          expect((await itemOf(remit)).open).toBe(size - done.reduce((all, one) => all + one, 0));
        }
      },
    ),
    { numRuns: runs(12) },
  );
});

test('the list has what is open and what is held, and names our claim', async () => {
  const s = await paidClaim();
  const remit = await taken(100, s.claim.control_number);
  const { rows } = await findList(t.context, 'payer-credit', { search: s.claim.control_number });
  expect(rows).toMatchObject([
    {
      kind: 'adjustment',
      what: 'WO overpayment taken',
      open: -100,
      remittanceId: remit,
      claim: { controlNumber: s.claim.control_number },
    },
  ]);
});

describe('what is written of it', () => {
  const trail = async (subject: string, id: number) =>
    (
      await t.db
        .selectFrom('audit')
        .select('detail')
        .where('subject_kind', '=', subject)
        .where('subject_id', '=', String(id))
        .where('action', 'in', ['settled', 'undone'])
        .orderBy('id')
        .execute()
    ).map(({ detail }) => detail);

  test('gone back: who paid whom, why, and who did it; undone, why', async () => {
    const held = await post([{ code: 'CS', amount: -1200 }]);
    const gone = await taken(3400, 'REF-1');
    const { trace } = await readRemittance(t.context, held);
    await settle(held, { as: 'return', amount: '2.00' });
    await settle(gone, { as: 'return' });
    const [one, two] = [await itemOf(held), await itemOf(gone)];
    expect(one.uses).toMatchObject([
      { words: `Returned: provider adjustment CS of ${trace}, By letter`, amount: 200, undone: false },
    ]);
    expect(two.uses[0]!.words).toMatch(
      /^Paid back by the payer: provider adjustment WO REF-1 of TR\d+, By letter$/,
    );
    await undoLast(held);
    expect((await itemOf(held)).uses).toMatchObject([{ undone: true }]);
    expect(await trail('provider adjustment', one.id)).toEqual([
      { as: 'return', amount: 200, why: 'By letter' },
    ]);
    expect(await trail('entry', one.uses[0]!.entryId)).toEqual([{ why: 'Not so' }]);
  });

  test('taken back of a claim: the line that it is of, what is followed and until when; a long reason is kept whole', async () => {
    const why = 'Their letter of the 3rd: '.padEnd(300, 'x');
    const s = await paidClaim();
    const remit = await taken(6800, s.claim.control_number);
    await settle(remit, { as: 'apply', controlNumber: s.claim.control_number, why });
    const { trace } = await readRemittance(t.context, remit);
    const memo = `Cedar Sound Health, provider adjustment WO ${s.claim.control_number} of ${trace}: ${why}`;
    const { rows } = await findList(t.context, 'follow-ups', { search: s.claim.control_number });
    expect(rows).toMatchObject([
      { words: `68.00 taken back: ${memo}`, amount: 6800, dueDate: addDays(TODAY, 7), claimId: s.claim.id },
    ]);
    const claim = await readClaim(t.context, s.claim.id);
    expect(claim.events.at(-1)).toMatchObject({ status: 'decided', words: memo });
    await undoCredit(t.context, { entryId: (await itemOf(remit)).uses[0]!.entryId, why });
    expect((await readClaim(t.context, s.claim.id)).events.at(-1)).toMatchObject({
      status: 'closed',
      words: `Payer credit on it was undone: ${why}`,
    });
  });

  test('a claim with several lines is paid line by line; one that waits for its decision goes on waiting', async () => {
    const s = await sentClaim(t, ['60.00', '40.00']);
    const remit = await post([{ code: 'CS', amount: -10_000 }]);
    const events = async () => (await readClaim(t.context, s.claim.id)).events.length;
    const before = await events();
    await settle(remit, { as: 'apply', controlNumber: s.claim.control_number, amount: '75.00' });
    expect((await onCharge(s.charges[0]!)).paid).toBe(6000);
    expect((await onCharge(s.charges[1]!)).paid).toBe(1500);
    // Each line is an entry of its own, undone by itself.
    for (const { entryId } of (await itemOf(remit)).uses)
      await undoCredit(t.context, { entryId, why: 'Not so' });
    for (const chargeId of s.charges) expect((await onCharge(chargeId)).paid).toBe(0);
    expect((await readClaim(t.context, s.claim.id)).status).toBe('sent');
    expect(await events()).toBe(before);
  });

  test('set off: who took it, and held again when it is undone', async () => {
    const strange = await post(
      [],
      [decided(`ZZ${(serial += 1)}`, [{ control: 'L1', charge: 500, paid: 500, reasons: [] }])],
    );
    const [row] = (await readRemittance(t.context, strange)).rows;
    const remit = await taken(500);
    const why = 'They wrote '.padEnd(300, 'x');
    const { trace } = await readRemittance(t.context, remit);
    await settle(remit, { as: 'refund', against: `claim-${row!.id}`, why });
    expect((await readRemittance(t.context, strange)).rows[0]!.note).toBe(
      `The payer took it with provider adjustment WO of ${trace}: ${why}`,
    );
    await undoCredit(t.context, { entryId: (await itemOf(remit)).uses[0]!.entryId, why });
    expect((await readRemittance(t.context, strange)).rows[0]!.note).toBe(`Held again: ${why}`);
  });
});

describe('refused', () => {
  test('an adjustment, a claim or an entry that is not there, or is not what is meant', async () => {
    const remit = await post([{ code: 'CS', amount: -1000 }]);
    await expect(settle(remit, { as: 'return', adjustmentId: 999_999 } as Ask)).rejects.toThrow(
      'There is no such provider adjustment',
    );
    // A claim that the payer does not have.
    const made = await household(t);
    await charge(t, t.context, made.patientId, '145.00');
    const [claimId] = await buildClaims(t.context, { householdId: made.householdId });
    const { control_number: controlNumber } = await t.db
      .selectFrom('claim')
      .select('control_number')
      .where('id', '=', claimId!)
      .executeTakeFirstOrThrow();
    await expect(settle(remit, { as: 'apply', controlNumber })).rejects.toThrow('the payer does not have it');
    const s = await paidClaim();
    const gone = await taken(10_000);
    await expect(settle(gone, { as: 'apply', controlNumber: s.claim.control_number })).rejects.toThrow(
      'The payer has paid only 68.00 on claim',
    );
    expect((await itemOf(gone)).open).toBe(-10_000);

    // More than is open on the other side, and what has nothing open any more.
    const small = await taken(400);
    const other = `adjustment-${(await itemOf(small)).id}`;
    await expect(settle(remit, { as: 'refund', against: other, amount: '4.01' })).rejects.toThrow(
      'Only 4.00 is open there',
    );
    await settle(small, { as: 'give-up' });
    await expect(settle(remit, { as: 'refund', against: other, amount: '4.00' })).rejects.toThrow(
      'One of the two',
    );

    // Undoing what was not done by hand, what is another's, and what was undone.
    const { entryId } = (await itemOf(small)).uses[0]!;
    await undoCredit(t.context, { entryId, why: 'x' });
    await expect(undoCredit(t.context, { entryId, why: 'x' })).rejects.toThrow('This was undone before');
    const { entry_id: decision } = await t.db
      .selectFrom('posting')
      .select('entry_id')
      .where('charge_id', '=', s.charges[0]!)
      .where('remittance_id', 'is not', null)
      .executeTakeFirstOrThrow();
    const strange = await post(
      [],
      [decided(`ZZ${(serial += 1)}`, [{ control: 'L1', charge: 500, paid: 500, reasons: [] }])],
    );
    const [row] = (await readRemittance(t.context, strange)).rows;
    await decideHeld(t.context, { remittanceClaimId: row!.id, as: 'returned', why: 'check 9' });
    const { id: returned } = await t.db
      .selectFrom('entry')
      .select('id')
      .where('kind', '=', 'payer-return')
      .orderBy('id', 'desc')
      .executeTakeFirstOrThrow();
    const entries = () => t.db.selectFrom('entry').select('id').execute();
    const before = (await entries()).length;
    for (const id of [decision, returned, 999_999])
      await expect(undoCredit(t.context, { entryId: id, why: 'x' })).rejects.toThrow(
        'There is nothing to undo',
      );
    expect((await entries()).length).toBe(before);
  });
});

test('the list says of each item what it is: held, kept, an adjustment', async () => {
  const [a, b] = [`ZZ${(serial += 1)}`, `ZZ${(serial += 1)}`];
  const id = await post(
    [{ code: 'CS', reference: 'OF-LIST', amount: -300 }],
    [a, b].map((number) => decided(number, [{ control: 'L1', charge: 500, paid: 500, reasons: [] }])),
  );
  const { rows, trace } = await readRemittance(t.context, id);
  await decideHeld(t.context, { remittanceClaimId: rows[1]!.id, as: 'kept', why: 'x' });
  const listed = await findList(t.context, 'payer-credit', { search: trace });
  expect(listed.rows.map(({ what, reference, open }) => [what, reference, open]).sort()).toEqual([
    ['CS adjustment', 'OF-LIST', 300],
    ['claim, kept as credit', b, 500],
    ['held claim', a, 500],
  ]);
});
