/**
 * What a payer says twice, wrongly or for somebody else: each situation a file, with what it leaves in the books beside it.
 * The rules are common practice where no source is named; statuses and group codes are those of ASC X12N 005010X221A1.
 */
import { sql } from 'kysely';
import { addDays } from '../../core/calendar';
import { cents } from '../../core/money';
import type { RemitClaim, Remittance } from '../../core/x12/remittance835';
import { TODAY, fileDatabase } from '../../testing/database';
import {
  PAYEE,
  brokenInvariants,
  decided,
  intake,
  postedRemittance,
  remitText,
  sentClaim,
} from '../../testing/desk';
import { withdrawClaim } from '../claims/hold';
import { Refused } from '../access';
import { readChargeEntries } from '../accounts/ledger';
import { readAccount } from '../account-page/read';
import { payerCredit } from '../books/balances';
import { takeReceipt } from '../payments/take';
import { checkRemittance, decideHeld, matchHeld, takeUpAgain } from './held';
import { postRemittance } from './post';
import { readRemittance } from './read';
import { reverseRemittance } from './reverse';

const t = fileDatabase();
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

type Sent = Awaited<ReturnType<typeof sentClaim>>;
type Line = Parameters<typeof decided>[1][number];

/** A line of 145.00 by its payment and its reasons. */
const line = (s: Sent, paid: number, reasons: string[], more: Partial<Line> = {}): Line => ({
  control: s.controls[0]!,
  charge: 14500,
  paid,
  reasons,
  ...more,
});
const PLAIN = ['CO-45:47.00', 'PR-3:30.00'];
const says = (s: Sent, lines: Line[], status = '1', more: Partial<RemitClaim> = {}): RemitClaim => ({
  ...decided(s.claim.control_number, lines, status),
  ...more,
});
const plain = (s: Sent): RemitClaim => says(s, [line(s, 6800, PLAIN)]);
const takenBack = (s: Sent): RemitClaim =>
  says(s, [line(s, -6800, ['CO-45:-47.00', 'PR-3:-30.00'], { charge: -14500 })], '22');

const remit = (claims: RemitClaim[], more: Partial<Remittance> = {}): Promise<number> =>
  postedRemittance(t, claims, more);

/** The patient of a claim, as the payer names them. */
const patientOf = async (s: Sent): Promise<RemitClaim['patient']> => {
  const { last, first } = await t.db
    .selectFrom('patient')
    .select(['last', 'first'])
    .where('id', '=', s.claim.patient_id)
    .executeTakeFirstOrThrow();
  return { last, first, memberId: '' };
};

interface Books {
  paid?: number;
  reduced?: number;
  patient?: number;
  payer?: number;
}
/** Where the first charge of a claim stands, in cents: paid by the payer, reduced, with the patient, with the payer. */
async function books(s: Sent): Promise<Required<Books>> {
  const found = await t.db
    .selectFrom('charge_balance')
    .selectAll()
    .where('charge_id', '=', s.charges[0]!)
    .executeTakeFirstOrThrow();
  return {
    paid: found.payer_paid,
    reduced: found.reduced,
    patient: found.with_patient,
    payer: found.with_payer,
  };
}
const UNTOUCHED = { paid: 0, reduced: 0, patient: 0, payer: 14500 };
const POSTED = { paid: 6800, reduced: 4700, patient: 3000, payer: 0 };
const credit = () => payerCredit(t.db);
const held = async (remittanceId: number) =>
  (await readRemittance(t.context, remittanceId)).rows.filter((row) => row.status === 'unmatched');
const openFollowUps = async (s: Sent): Promise<string[]> =>
  (
    await t.db
      .selectFrom('follow_up')
      .select('kind')
      .where('household_id', '=', s.householdId)
      .where('closed_at', 'is', null)
      .orderBy('id')
      .execute()
  ).map(({ kind }) => kind);

/**
 * One file for a claim that was sent and not decided: where the charge stands after it, what stays in the payer's credit
 * and what is followed up.
 */
const FIRST: readonly [
  what: string,
  claim: (s: Sent) => RemitClaim,
  books: Books,
  credit: number,
  followUps: string[],
][] = [
  ['paid as contracted', plain, POSTED, 0, []],
  ['forwarded by the first payer (19)', (s) => says(s, [line(s, 6800, PLAIN)], '19'), POSTED, 0, []],
  ['decided as the second payer (2)', (s) => says(s, [line(s, 6800, PLAIN)], '2'), UNTOUCHED, 6800, []],
  [
    'decided as the third payer, forwarded (21)',
    (s) => says(s, [line(s, 6800, PLAIN)], '21'),
    UNTOUCHED,
    6800,
    [],
  ],
  ['a reversal of nothing (22)', (s) => ({ ...takenBack(s) }), UNTOUCHED, -6800, []],
  ['not theirs (23)', (s) => says(s, [line(s, 0, ['OA-109:145.00'])], '23'), UNTOUCHED, 0, []],
  ['a predetermination (25)', (s) => says(s, [line(s, 0, ['CO-101:145.00'])], '25'), UNTOUCHED, 0, []],
  ['a predetermination that pays', (s) => says(s, [line(s, 6800, PLAIN)], '25'), UNTOUCHED, 6800, []],
  ['a status that is not known', (s) => says(s, [line(s, 6800, PLAIN)], '77'), UNTOUCHED, 6800, []],
  ['denied (4)', (s) => says(s, [line(s, 0, ['CO-16:145.00'])], '4'), UNTOUCHED, 0, ['denial']],
  [
    'denied with a reason that reduces otherwise',
    (s) => says(s, [line(s, 0, ['CO-45:145.00'])]),
    UNTOUCHED,
    0,
    ['denial'],
  ],
  [
    'status 4, but the deductible passed on',
    (s) => says(s, [line(s, 0, ['CO-45:47.00', 'PR-1:98.00'])], '4'),
    { reduced: 4700, patient: 9800 },
    0,
    [],
  ],
  [
    'a reason that is not in the table, so that nobody knows what it moves: held with its money',
    (s) => says(s, [line(s, 9800, ['CO-999:47.00'])]),
    UNTOUCHED,
    9800,
    [],
  ],
  [
    'a reason that is not in the table, of a group that says what moves',
    (s) => says(s, [line(s, 9800, ['OA-999:47.00'])]),
    { paid: 9800, payer: 4700 },
    0,
    ['reason'],
  ],
  ['PR-22, another payer', (s) => says(s, [line(s, 0, ['PR-22:145.00'])]), UNTOUCHED, 0, ['reason']],
  ['PR-26, before coverage', (s) => says(s, [line(s, 0, ['PR-26:145.00'])]), UNTOUCHED, 0, ['reason']],
  ['PR-27, after coverage', (s) => says(s, [line(s, 0, ['PR-27:145.00'])]), UNTOUCHED, 0, ['reason']],
  ['PR-31, not identified', (s) => says(s, [line(s, 0, ['PR-31:145.00'])]), UNTOUCHED, 0, ['reason']],
  [
    'a claim without lines',
    (s) =>
      says(s, [], '1', {
        charge: cents(14500),
        paid: cents(9800),
        adjustments: [{ group: 'CO', reason: '45', amount: cents(4700) }],
      }),
    { paid: 9800, reduced: 4700 },
    0,
    [],
  ],
  [
    'a claim without lines, charged otherwise',
    (s) =>
      says(s, [], '1', {
        charge: cents(15000),
        paid: cents(10300),
        adjustments: [{ group: 'CO', reason: '45', amount: cents(4700) }],
      }),
    UNTOUCHED,
    10300,
    [],
  ],
  [
    'a line charged otherwise',
    (s) => says(s, [line(s, 10300, ['CO-45:47.00'], { charge: 15000 })]),
    UNTOUCHED,
    10300,
    [],
  ],
  [
    'another code, with the one that we billed',
    (s) => {
      const claim = says(s, [line(s, 6800, PLAIN, { control: '', code: '99212' })]);
      return { ...claim, lines: [{ ...claim.lines[0]!, billed: '99213' }] };
    },
    POSTED,
    0,
    [],
  ],
  [
    'a line split in two',
    (s) =>
      says(s, [
        line(s, 3000, ['CO-45:47.00'], { charge: 7700 }),
        line(s, 3800, ['PR-3:30.00'], { charge: 6800 }),
      ]),
    POSTED,
    0,
    [],
  ],
  [
    'the patient’s part said otherwise (CLP05)',
    (s) => ({ ...plain(s), patientResponsibility: cents(4500) }),
    POSTED,
    0,
    [],
  ],
  [
    'a number that is none of ours',
    (s) => ({ ...plain(s), controlNumber: 'NOBODY1', payerClaimNumber: '' }),
    UNTOUCHED,
    6800,
    [],
  ],
];

test.each(FIRST)('%s', async (_what, claim, expected, left, followUps) => {
  const s = await sentClaim(t);
  const before = await credit();
  const id = await remit([claim(s)]);
  expect(await books(s)).toEqual({ paid: 0, reduced: 0, patient: 0, payer: 0, ...expected });
  // What a withheld payment (PLB) keeps back stands in the credit as well.
  const withheld = claim(s).paid < 0 ? -claim(s).paid : 0;
  expect((await credit()) - before).toBe(left + withheld);
  expect((await held(id)).length).toBe(left === 0 ? 0 : 1);
  expect(await openFollowUps(s)).toEqual(followUps);
});

test('the patient’s part said otherwise is told beside what is posted', async () => {
  const s = await sentClaim(t);
  const id = await remit([{ ...plain(s), patientResponsibility: cents(4500) }]);
  expect((await readRemittance(t.context, id)).rows[0]!.note).toBe(
    'The payer says that the patient owes 45.00; its adjustments say 30.00, which is posted',
  );
  // Said alike, or not said at all, there is nothing to tell.
  for (const said of [3000, 0]) {
    const other = await sentClaim(t);
    const posted = await remit([{ ...plain(other), patientResponsibility: cents(said) }]);
    expect((await readRemittance(t.context, posted)).rows[0]!.note).toBe('');
  }
});

/** A remittance that is not posted at all, and why. */
const WHOLE: readonly [what: string, more: Partial<Remittance>, why: RegExp][] = [
  [
    'a payer that is not in Setup',
    { payer: { name: 'Somebody', id: 'XX9' }, originator: '' },
    /not in Setup/,
  ],
  [
    'the name of a payer with another number',
    { payer: { name: 'Cedar Sound Health', id: 'XX9' }, originator: '' },
    /not in Setup/,
  ],
  ['somebody else is paid', { payee: { name: 'Gull Practice', npi: '1999999984', taxId: '' } }, /not ours/],
  ['nobody is said to be paid', { payee: { name: 'Osprey', npi: '', taxId: '' } }, /neither NPI nor tax id/],
  ['a notice before a transfer (BPR01 P)', { handling: 'P' }, /only announces/],
  ['for information only, but it pays (BPR01 H)', { handling: 'H' }, /information only/],
  ['taken from our account (BPR03 D)', { creditDebit: 'D' }, /from our account/],
  ['dated in another century', { date: '1926-03-16' as typeof TODAY }, /cannot be right/],
  ['dated next year', { date: addDays(TODAY, 200) }, /cannot be right/],
];

test.each(WHOLE)('held as a whole: %s', async (_what, more, why) => {
  const s = await sentClaim(t);
  const { outcomes } = await intake(t.context, remitText([plain(s)], more));
  const page = await readRemittance(t.context, outcomes[0]!.remittanceId!);
  expect(page.status).toBe('held');
  expect(page.holdReasons.join('; ')).toMatch(why);
  await expect(postRemittance(t.context, page.id)).rejects.toThrow(/held/);
  expect(await books(s)).toEqual(UNTOUCHED);
});

test('information only with nothing paid (BPR01 H) posts what it decides; tax id and providers are ours too', async () => {
  const s = await sentClaim(t);
  await remit([says(s, [line(s, 0, ['CO-45:47.00', 'PR-1:98.00'])])], { handling: 'H', payment: cents(0) });
  expect(await books(s)).toEqual({ paid: 0, reduced: 4700, patient: 9800, payer: 0 });
  const { tax_id: taxId } = await t.db.selectFrom('practice').select('tax_id').executeTakeFirstOrThrow();
  const other = await sentClaim(t);
  await remit([plain(other)], { payee: { ...PAYEE, npi: '', taxId: taxId.replace(/\D/g, '') } });
  expect(await books(other)).toEqual(POSTED);
});

describe('a second decision', () => {
  test.each([
    ['in another file', async (s: Sent) => [await remit([plain(s)]), await remit([plain(s)])].at(-1)!],
    ['twice in one file', async (s: Sent) => remit([plain(s), plain(s)])],
  ])('%s: posted once, the other held', async (_what, twice) => {
    const s = await sentClaim(t);
    const before = await credit();
    const id = await twice(s);
    expect(await books(s)).toEqual(POSTED);
    expect((await credit()) - before).toBe(6800);
    expect(await held(id)).toMatchObject([
      { holdKind: 'second', holdReason: 'it is decided already, just so: 68.00 would be paid twice' },
    ]);
  });

  const second = async (claim: (s: Sent) => RemitClaim) => {
    const s = await sentClaim(t);
    await remit([plain(s)]);
    const before = await credit();
    const id = await remit([claim(s)]);
    return { s, before, id, remittanceClaimId: (await held(id))[0]!.id };
  };

  test('a duplicate is given back: the money is gone, nothing is left to do', async () => {
    const { s, before, id, remittanceClaimId } = await second(plain);
    await decideHeld(t.context, { remittanceClaimId, as: 'returned', why: 'check 77 sent back' });
    expect(await books(s)).toEqual(POSTED);
    expect((await credit()) - before).toBe(0);
    expect(await readRemittance(t.context, id)).toMatchObject({ unmatched: 0, held: 0, returned: 6800 });
    await expect(decideHeld(t.context, { remittanceClaimId, as: 'returned', why: 'again' })).rejects.toThrow(
      /not held any more/,
    );
  });

  test('or kept, and then stays in the credit', async () => {
    const { before, id, remittanceClaimId } = await second(plain);
    await decideHeld(t.context, { remittanceClaimId, as: 'kept', why: 'they take it from the next one' });
    expect((await credit()) - before).toBe(6800);
    expect(await readRemittance(t.context, id)).toMatchObject({ unmatched: 0, held: 6800 });
    // Kept is no dead end, and neither is given back by mistake.
    await decideHeld(t.context, { remittanceClaimId, as: 'returned', why: 'they want it back' });
    expect((await credit()) - before).toBe(0);
    await reverseRemittance(t.context, { remittanceId: id, remittanceClaimId, why: 'it never left' });
    await takeUpAgain(t.context, { remittanceId: id });
    await postRemittance(t.context, id);
    expect((await credit()) - before).toBe(6800);
    expect(await held(id)).toMatchObject([{ holdKind: 'second' }]);
  });

  test('a correction takes the first back and stands alone; what the patient had paid too much is credit at once', async () => {
    const s = await sentClaim(t);
    const first = await remit([plain(s)]);
    await takeReceipt(t.context, {
      householdId: s.householdId,
      tenders: [{ tender: 'cash', amount: '30.00' }],

      key: `correction-${s.householdId}`,
    });
    const before = await credit();
    const id = await remit([says(s, [line(s, 8800, ['CO-45:47.00', 'PR-3:10.00'])])]);
    await decideHeld(t.context, {
      remittanceClaimId: (await held(id))[0]!.id,
      as: 'correction',
      why: 'they say so',
    });
    expect(await books(s)).toEqual({ paid: 8800, reduced: 4700, patient: 0, payer: 0 });
    // The first payment of 68.00 is still here and is the payer's: it is seen there, and goes back from there.
    expect((await credit()) - before).toBe(6800);
    const [corrected] = await held(first);
    expect(corrected).toMatchObject({ holdKind: 'corrected', paid: 6800 });
    await decideHeld(t.context, { remittanceClaimId: corrected!.id, as: 'returned', why: 'check 81' });
    expect((await credit()) - before).toBe(0);
    const page = await readAccount(t.context, s.householdId);
    expect(page.figures).toMatchObject({ withPatient: 0, credit: 2000 });
    const under = await readChargeEntries(t.context, s.householdId, page.charges[0]!.id);
    expect(under.at(-1)).toMatchObject({ kind: 'overpaid', paidByPatient: -2000 });
    expect(await openFollowUps(s)).toEqual([]);
  });

  test('corrected in the moment in which the first is reversed as a whole: one after the other, and the books hold', async () => {
    for (let turn = 0; turn < 5; turn += 1) {
      const s = await sentClaim(t);
      const first = await remit([plain(s)]);
      const second = await remit([says(s, [line(s, 6900, ['CO-45:46.00', 'PR-3:30.00'])])]);
      const [row] = await held(second);
      const both = await Promise.allSettled([
        decideHeld(t.context, { remittanceClaimId: row!.id, as: 'correction', why: 'x' }),
        reverseRemittance(t.context, { remittanceId: first, why: 'x' }),
      ]);
      for (const one of both) if (one.status === 'rejected') expect(one.reason).toBeInstanceOf(Refused);
      expect(await brokenInvariants(t)).toEqual([]);
    }
  });

  test('paid on top moves the payment alone; more than was asked is followed up', async () => {
    const s = await sentClaim(t);
    await remit([says(s, [line(s, 4000, ['CO-45:47.00', 'OA-59:28.00', 'PR-3:30.00'])])]);
    expect((await books(s)).payer).toBe(2800);
    const id = await remit([says(s, [line(s, 2800, ['CO-45:117.00'])])]);
    await decideHeld(t.context, {
      remittanceClaimId: (await held(id))[0]!.id,
      as: 'additional',
      why: 'the rest',
    });
    expect(await books(s)).toEqual(POSTED);
    const more = await remit([says(s, [line(s, 500, ['CO-45:140.00'])])]);
    await decideHeld(t.context, {
      remittanceClaimId: (await held(more))[0]!.id,
      as: 'additional',
      why: 'more',
    });
    expect((await books(s)).payer).toBe(-500);
    expect(await openFollowUps(s)).toContain('overpaid');
  });

  test('as the order of payers says otherwise, a person may mean it', async () => {
    const s = await sentClaim(t);
    const id = await remit([says(s, [line(s, 6800, PLAIN)], '2')]);
    const [row] = await held(id);
    expect(row).toMatchObject({ holdKind: 'order' });
    await decideHeld(t.context, { remittanceClaimId: row!.id, as: 'meant', why: 'their mistake' });
    expect(await books(s)).toEqual(POSTED);
  });

  test('after a denial a payment is the first one, and ends the follow-up by itself', async () => {
    const s = await sentClaim(t);
    await remit([says(s, [line(s, 0, ['CO-16:145.00'])])]);
    expect(await openFollowUps(s)).toEqual(['denial']);
    await remit([plain(s)]);
    expect(await books(s)).toEqual(POSTED);
    expect(await openFollowUps(s)).toEqual([]);
  });
});

describe('reversals', () => {
  test('the payer takes back what it paid, and the claim waits for it again', async () => {
    const s = await sentClaim(t);
    await remit([plain(s)]);
    await remit([takenBack(s)]);
    expect(await books(s)).toEqual(UNTOUCHED);
    expect(
      await t.db.selectFrom('claim').select('status').where('id', '=', s.claim.id).executeTakeFirstOrThrow(),
    ).toEqual({ status: 'accepted' });
    await remit([plain(s)]);
    expect(await books(s)).toEqual(POSTED);
  });

  test('a second one, and one of other amounts, are held', async () => {
    const s = await sentClaim(t);
    await remit([plain(s)]);
    const other = says(s, [line(s, -6700, ['CO-45:-48.00', 'PR-3:-30.00'], { charge: -14500 })], '22');
    expect(await held(await remit([other]))).toMatchObject([{ holdKind: 'reversal' }]);
    expect(await books(s)).toEqual(POSTED);
    // A person may post it as it says; the rest stands, and the reversal can be undone like any posting.
    const partial = await remit([{ ...other, remarks: ['N2'] }]);
    const [row] = await held(partial);
    await decideHeld(t.context, { remittanceClaimId: row!.id, as: 'meant', why: 'By phone' });
    expect(await books(s)).toEqual({ paid: 100, reduced: -100, patient: 0, payer: 14500 });
    await reverseRemittance(t.context, { remittanceId: partial, why: 'Not so' });
    expect(await books(s)).toEqual(POSTED);
    await remit([takenBack(s)]);
    expect(await held(await remit([{ ...takenBack(s), remarks: ['N1'] }]))).toMatchObject([
      { holdKind: 'reversal', holdReason: 'it takes back a decision that does not stand here' },
    ]);
    expect(await books(s)).toEqual(UNTOUCHED);
  });
});

describe('somebody else’s', () => {
  test('a claim of ours that went to another payer is not touched', async () => {
    const s = await sentClaim(t);
    const id = await remit([plain(s)], {
      payer: { name: 'Northlight Mutual', id: await numberOf('Northlight Mutual') },
      originator: '',
    });
    expect(await held(id)).toMatchObject([{ holdKind: 'payer' }]);
    expect(await books(s)).toEqual(UNTOUCHED);
    await expect(
      matchHeld(t.context, {
        remittanceClaimId: (await held(id))[0]!.id,
        controlNumber: s.claim.control_number,
      }),
    ).rejects.toThrow(/went to another payer/);
  });

  test('the payer’s own number finds a claim of the same payer and patient, and of nobody else', async () => {
    const s = await sentClaim(t);
    const number = `PCN-${s.claim.id}`;
    await t.db
      .updateTable('claim')
      .set({ payer_claim_number: number })
      .where('id', '=', s.claim.id)
      .execute();
    const patient = await t.db
      .selectFrom('patient')
      .select(['last', 'first'])
      .where('id', '=', s.patientId)
      .executeTakeFirstOrThrow();
    const by = (last: string): RemitClaim => ({
      ...plain(s),
      controlNumber: '0',
      payerClaimNumber: number,
      patient: { last, first: patient.first, memberId: '' },
    });
    expect(await held(await remit([by('Somebody')]))).toMatchObject([{ holdKind: 'stranger' }]);
    await remit([by(patient.last.toUpperCase())]);
    expect(await books(s)).toEqual(POSTED);
  });

  const numberOf = async (name: string): Promise<string> =>
    (await t.db.selectFrom('payer').select('payer_id').where('name', '=', name).executeTakeFirstOrThrow())
      .payer_id;
});

describe('no dead end', () => {
  test('an unknown payer’s remittance is taken up again after Setup', async () => {
    const s = await sentClaim(t);
    const { outcomes } = await intake(
      t.context,
      remitText([plain(s)], { payer: { name: 'Cedar by another name', id: 'CSH99' }, originator: '' }),
    );
    const remittanceId = outcomes[0]!.remittanceId!;
    expect(await checkRemittance(t.context, { remittanceId })).toEqual([
      'Payer “Cedar by another name” (CSH99) is not in Setup',
    ]);
    await t.db
      .insertInto('payer_identifier')
      .values({ value: 'CSH99', payer_id: s.claim.payer_id })
      .execute();
    expect(await checkRemittance(t.context, { remittanceId })).toEqual([]);
    await postRemittance(t.context, remittanceId);
    expect(await books(s)).toEqual(POSTED);
    await expect(checkRemittance(t.context, { remittanceId })).rejects.toThrow(/Only a held/);
  });

  test('one that does not balance stays held however often it is checked', async () => {
    const s = await sentClaim(t);
    const { outcomes } = await intake(t.context, remitText([plain(s)], { payment: cents(6900) }));
    const remittanceId = outcomes[0]!.remittanceId!;
    for (let again = 0; again < 2; again += 1)
      expect((await checkRemittance(t.context, { remittanceId })).join()).toMatch(/payment is 69\.00/);
  });

  test('reversed by mistake it is posted anew, with interest, as often as it takes; both stay to be seen', async () => {
    const s = await sentClaim(t);
    const interest = { code: 'L6', reference: '', amount: cents(-137) };
    const id = await remit([plain(s)], { payment: cents(6937), providerAdjustments: [interest] });
    const booked = async () =>
      (
        await t.db
          .selectFrom('posting')
          .select(({ fn }) => fn.sum<string>('amount').as('sum'))
          .where('remittance_id', '=', id)
          .where('account', 'in', ['cash/transfer', 'cash/check'])
          .executeTakeFirstOrThrow()
      ).sum;
    for (let round = 1; round <= 2; round += 1) {
      await reverseRemittance(t.context, { remittanceId: id, why: 'wrong day' });
      expect(await books(s)).toEqual(UNTOUCHED);
      expect(await takeUpAgain(t.context, { remittanceId: id })).toBe(1);
      await expect(takeUpAgain(t.context, { remittanceId: id })).rejects.toThrow(/posted and reversed/);
      await postRemittance(t.context, id);
      expect(await books(s)).toEqual(POSTED);
      expect(Number(await booked())).toBe(6937);
      expect((await readRemittance(t.context, id)).rows).toHaveLength(1 + round);
    }
  });

  test('one claim reversed and posted anew leaves the others and the interest alone', async () => {
    const [a, b] = [await sentClaim(t), await sentClaim(t)];
    const interest = { code: 'L6', reference: '', amount: cents(-137) };
    const id = await remit([plain(a), plain(b)], { payment: cents(13737), providerAdjustments: [interest] });
    const [first] = (await readRemittance(t.context, id)).rows;
    await reverseRemittance(t.context, { remittanceId: id, remittanceClaimId: first!.id, why: 'look' });
    expect([await books(a), await books(b)]).toEqual([UNTOUCHED, POSTED]);
    await takeUpAgain(t.context, { remittanceId: id });
    await postRemittance(t.context, id);
    expect([await books(a), await books(b)]).toEqual([POSTED, POSTED]);
  });

  test('one with provider adjustments alone is reversed and posted anew as well', async () => {
    const before = await credit();
    const id = await remit([], {
      payment: cents(500),
      providerAdjustments: [{ code: '72', reference: '', amount: cents(-500) }],
    });
    expect((await credit()) - before).toBe(500);
    await reverseRemittance(t.context, { remittanceId: id, why: 'look' });
    expect((await credit()) - before).toBe(0);
    expect((await readRemittance(t.context, id)).reversed).toBe(true);
    expect(await brokenInvariants(t)).toEqual([]);
    await expect(reverseRemittance(t.context, { remittanceId: id, why: 'again' })).rejects.toThrow(
      /reversed before/,
    );
    await takeUpAgain(t.context, { remittanceId: id });
    await postRemittance(t.context, id);
    expect((await credit()) - before).toBe(500);
  });

  test('two payments of zero under one trace are two if they say different things; the same one is one', async () => {
    const [a, b] = [await sentClaim(t), await sentClaim(t)];
    const zero = (s: Sent) =>
      remitText([says(s, [line(s, 0, ['CO-45:47.00', 'PR-1:98.00'])])], { trace: 'NON1', payment: cents(0) });
    for (const s of [a, b]) {
      const { outcomes } = await intake(t.context, zero(s));
      await postRemittance(t.context, outcomes[0]!.remittanceId!);
      expect((await books(s)).patient).toBe(9800);
      expect((await intake(t.context, zero(s))).outcomes[0]).toMatchObject({ result: 'refused' });
    }
  });

  test('one trace and amount with other content is held until the first is reversed', async () => {
    const [a, b] = [await sentClaim(t), await sentClaim(t)];
    const first = await remit([plain(a)], { trace: 'TWICE' });
    const { outcomes } = await intake(t.context, remitText([plain(b)], { trace: 'TWICE' }));
    const remittanceId = outcomes[0]!.remittanceId!;
    expect(outcomes[0]!.why).toMatch(/here already and says other things/);
    await reverseRemittance(t.context, { remittanceId: first, why: 'it was for somebody else' });
    expect(await checkRemittance(t.context, { remittanceId })).toEqual([]);
    await postRemittance(t.context, remittanceId);
    expect([await books(a), await books(b)]).toEqual([UNTOUCHED, POSTED]);
  });
});

test('an overpayment is followed up though something else is open on the charge', async () => {
  const s = await sentClaim(t);
  // Less than the contract: a short payment is open.
  await remit([says(s, [line(s, 5000, ['CO-45:65.00', 'PR-3:30.00'])])]);
  expect(await openFollowUps(s)).toEqual(['short-payment']);
  const id = await remit([says(s, [line(s, 1800, ['CO-45:127.00'])])]);
  await decideHeld(t.context, { remittanceClaimId: (await held(id))[0]!.id, as: 'additional', why: 'more' });
  expect(await openFollowUps(s)).toEqual(['short-payment', 'overpaid']);
});

describe('where money and claims are looked for', () => {
  const posted = async (remittanceId: number, account: string): Promise<number> => {
    const { rows } = await sql<{
      total: number;
    }>`
      select coalesce(sum(amount), 0) as total
      from posting
      where remittance_id = ${remittanceId} and account = ${account}`.execute(t.db);
    return rows[0]!.total;
  };

  test('a check is booked as a check, a transfer as a transfer, interest as interest', async () => {
    const [a, b] = [await sentClaim(t), await sentClaim(t)];
    const interest = { providerAdjustments: [{ code: 'L6', reference: 'I', amount: cents(-50) }] };
    const check = await remit([plain(a)], { method: 'CHK', payment: cents(6850), ...interest });
    const transfer = await remit([plain(b)], { payment: cents(6850), ...interest });
    expect([await posted(check, 'cash/check'), await posted(check, 'cash/transfer')]).toEqual([6850, 0]);
    expect([await posted(transfer, 'cash/check'), await posted(transfer, 'cash/transfer')]).toEqual([
      0, 6850,
    ]);
    for (const id of [check, transfer]) expect(await posted(id, 'income/interest')).toBe(-50);
  });

  test('a payment below zero is held as a whole, and says why', async () => {
    const { outcomes } = await intake(t.context, remitText([], { payment: cents(-6800) }));
    const page = await readRemittance(t.context, outcomes[0]!.remittanceId!);
    expect(page).toMatchObject({ status: 'held' });
    expect(page.holdReasons.join()).toContain('below zero');
  });

  test('a claim that was withdrawn is nobody’s: by our number, and by the payer’s', async () => {
    const made = await sentClaim(t);
    await t.db
      .updateTable('claim')
      .set({ status: 'rejected', hold_reason: 'x', payer_claim_number: `GONE${made.claim.id}` })
      .where('id', '=', made.claim.id)
      .execute();
    await withdrawClaim(t.context, { claimId: made.claim.id, why: 'test' });
    const byOurs = await held(await remit([plain(made)]));
    const byTheirs = await held(
      await remit([
        {
          ...plain(made),
          controlNumber: 'UNKNOWN1',
          payerClaimNumber: `GONE${made.claim.id}`,
          patient: await patientOf(made),
        },
      ]),
    );
    expect([...byOurs, ...byTheirs].map(({ holdKind, claimId }) => [holdKind, claimId])).toEqual([
      ['stranger', null],
      ['stranger', null],
    ]);
  });

  test('another payer’s number for the same patient is not this payer’s', async () => {
    const made = await sentClaim(t);
    const other = await t.db
      .selectFrom('payer')
      .select('id')
      .where('id', '<>', made.claim.payer_id)
      .executeTakeFirstOrThrow();
    await t.db
      .updateTable('claim')
      .set({ payer_id: other.id, payer_claim_number: `THEIRS${made.claim.id}` })
      .where('id', '=', made.claim.id)
      .execute();
    const rows = await held(
      await remit([
        {
          ...plain(made),
          controlNumber: 'UNKNOWN2',
          payerClaimNumber: `THEIRS${made.claim.id}`,
          patient: await patientOf(made),
        },
      ]),
    );
    expect(rows.map(({ holdKind, claimId }) => [holdKind, claimId])).toEqual([['stranger', null]]);
  });

  test('a reason that is followed while money remains is not followed when none does', async () => {
    await t.db
      .updateTable('reason_code')
      .set({ follow_up: 'while-money' })
      .where('code', '=', '45')
      .execute();
    try {
      const [settled, open] = [await sentClaim(t), await sentClaim(t)];
      await remit([says(settled, [line(settled, 9800, ['CO-45:47.00'])])]);
      await remit([says(open, [line(open, 6800, ['CO-45:47.00', 'PR-3:30.00'])])]);
      expect(await openFollowUps(settled)).toEqual([]);
      expect(await openFollowUps(open)).toEqual(['reason']);
    } finally {
      await t.db.updateTable('reason_code').set({ follow_up: 'never' }).where('code', '=', '45').execute();
    }
  });
});
