/** Remittances keyed from paper: the same as a file, saved unfinished, posted once, opened again with a reason. */
import { sql } from 'kysely';
import fc from 'fast-check';
import { cents, toDecimal } from '../../core/money';
import { fileDatabase } from '../../testing/database';
import { brokenInvariants, decided, intake, remitText, says, sentClaim } from '../../testing/desk';
import { runs } from '../../testing/runs';
import { payerCredit } from '../books/balances';
import { findList } from '../lists/read';
import {
  addKeyedClaim,
  changeKeyed,
  closeAndPost,
  closeKeyed,
  dropKeyed,
  dropKeyedClaim,
  reopenKeyed,
  saveKeyedClaim,
  sayKeyedAdjustments,
  startKeyed,
} from './keyed';
import { keyedCandidates, readKeyed } from './keyed-page';
import { postRemittance } from './post';
import { readRemittance } from './read';
import { reverseRemittance } from './reverse';

const t = fileDatabase();
const key = (): string => crypto.randomUUID();
let serial = 0;
let payerId: number;
beforeAll(async () => {
  payerId = (
    await t.db.selectFrom('payer').select('id').where('payer_id', '=', 'CSH01').executeTakeFirstOrThrow()
  ).id;
});
type Sent = Awaited<ReturnType<typeof sentClaim>>;
const begin = (amount: string, more: object = {}) =>
  startKeyed(t.context, {
    payerId,
    amount,
    method: Number(amount) === 0 ? 'NON' : 'CHK',
    trace: `PAPER-${(serial += 1)}`,
    paymentDate: t.context.today,
    source: 'mail',
    key: key(),
    ...more,
  });
const NOTHING = { deductible: 0, coinsurance: 0, copay: 0, reasons: [], remarks: [] };
/** A charge of 145.00 as the contract has it: 98.00 allowed, 30.00 of it the patient's, 68.00 paid. */
const PLAIN = { ...NOTHING, number: 1, allowed: 9800, copay: 3000, paid: 6800 };
const versionOf = async (keyedClaimId: number) =>
  (
    await t.db
      .selectFrom('keyed_claim')
      .select('version')
      .where('id', '=', keyedClaimId)
      .executeTakeFirstOrThrow()
  ).version;
const typed = async (keyedId: number, s: Sent, lines: object[], more: object = {}) => {
  const keyedClaimId = await addKeyedClaim(t.context, {
    keyedId,
    controlNumber: s.claim.control_number,
    key: key(),
  });
  await saveKeyedClaim(t.context, {
    keyedClaimId,
    status: '1',
    payerClaimNumber: 'PCN1',
    lines: lines as never,
    seen: await versionOf(keyedClaimId),
    ...more,
  });
  return keyedClaimId;
};
/** What the books say of charges. */
const figuresOf = async (chargeIds: readonly number[]) =>
  t.db
    .selectFrom('charge_balance')
    .select(['payer_paid', 'reduced', 'with_patient', 'with_payer'])
    .where('charge_id', 'in', [...chargeIds])
    .orderBy('charge_id')
    .execute();
/** Entries of a claim as a file would leave them: kind, account, reason and amount, but not the ids. */
const entriesOf = async (s: Sent) => {
  const { rows } = await sql<Record<string, unknown>>`
    select e.kind, p.account, p.reason_group, p.reason_code, p.amount, e.business_date,
      array_position(${s.charges}::bigint[], p.charge_id) as line
    from posting p
      join entry e on e.id = p.entry_id
    where p.charge_id = any(${s.charges}::bigint[]) and p.remittance_id is not null
    order by 1, 2, 3 nulls first, 4 nulls first, 5, 7`.execute(t.db);
  return rows;
};
const proven = async () => expect(await brokenInvariants(t)).toEqual([]);

test('saved unfinished, found by any of its facts, closed by another: posted and locked', async () => {
  const [one, two] = [await sentClaim(t), await sentClaim(t, ['145.00', '42.00'])];
  const keyedId = await begin('68.00', { references: ['EOB 77-12'], trace: 'CHK 4471' });
  await typed(keyedId, one, [PLAIN]);
  const second = await typed(keyedId, two, []);
  const found = async (search: string) =>
    (await findList(t.context, 'keyed', { view: 'open', search })).rows.map(({ id }) => id);
  for (const fact of ['4471', '77-12', 'cedar sound', '68.00', two.claim.control_number.toLowerCase()])
    expect(await found(fact)).toContain(keyedId);
  expect(await found('no such thing')).toEqual([]);
  const page = await readKeyed(t.context, keyedId);
  expect(page).toMatchObject({ applied: 6800, left: 0, status: 'open', references: ['EOB 77-12'] });
  expect(page.claims).toMatchObject([
    { explained: true, charge: 14500, paid: 6800 },
    { explained: false, charge: 18700, paid: 0 },
  ]);
  // What Enter takes of the line that is not keyed: the contract and the copay.
  expect(page.claims[1]!.lines[0]!.expected).toMatchObject({ allowed: 9800, copay: 3000, paid: 6800 });
  await expect(closeAndPost(t.context, { keyedId })).rejects.toThrow(/is not keyed whole/);
  await dropKeyedClaim(t.context, { keyedClaimId: second });
  const biller = t.as('biller');
  const { remittanceId, posted } = await closeAndPost(biller, { keyedId });
  expect(posted).toBe(1);
  expect(await figuresOf(one.charges)).toEqual([
    { payer_paid: 6800, reduced: 4700, with_patient: 3000, with_payer: 0 },
  ]);
  expect(await readRemittance(t.context, remittanceId)).toMatchObject({ status: 'posted', amount: 6800 });
  // The database keeps it too, whoever writes.
  for (const change of [
    'update keyed_claim set paid = 1 where keyed_id = $1',
    'delete from keyed_claim where keyed_id = $1',
    `update keyed_remittance set trace = 'other' where id = $1`,
    `update keyed_remittance set status = 'dropped', why = 'x', amount = 1 where id = $1`,
  ])
    await expect(t.pool.query(change, [keyedId])).rejects.toThrow(/opened again before it is changed/);
  for (const act of [
    () => addKeyedClaim(t.context, { keyedId, controlNumber: two.claim.control_number, key: key() }),
    () => dropKeyed(t.context, { keyedId, why: 'x' }),
    () => closeAndPost(t.context, { keyedId }),
  ])
    await expect(act()).rejects.toThrow(/closed and locked/);
  await proven();
});

test('a line explains itself, or says what is left; nothing else of the claim is taken either', async () => {
  const s = await sentClaim(t);
  const keyedId = await begin('68.00');
  await expect(typed(keyedId, s, [{ ...PLAIN, paid: 6700 }])).rejects.toMatchObject({
    field: 'lines.0',
    facts: { left: 100 },
    message: expect.stringContaining('145.00 less what is taken off is 68.00, and 67.00 is said to be paid'),
  });
  const { claims } = await readKeyed(t.context, keyedId);
  const save = async (lines: object[], status = '1') =>
    saveKeyedClaim(t.context, {
      keyedClaimId: claims[0]!.id,
      status,
      payerClaimNumber: '',
      lines: lines as never,
      seen: await versionOf(claims[0]!.id),
    });
  for (const lines of [[{ ...PLAIN, number: 2 }], [PLAIN, PLAIN]])
    await expect(save(lines)).rejects.toThrow(/is not on claim/);
  for (const [field, value] of [
    ['paid', -1],
    ['allowed', 1.5],
    ['copay', '30'],
    ['remarks', ['n130!']],
  ] as const)
    await expect(save([{ ...PLAIN, [field]: value }])).rejects.toMatchObject({ code: 'invalid' });
  await expect(save([PLAIN], '25')).rejects.toMatchObject({ code: 'invalid' });
});

test('the head: a payment has an amount, a payer that is one, a day that has come, and is said to be here', async () => {
  for (const [more, words] of [
    [{ amount: '5.00', method: 'NON' }, /has an amount of 0.00/],
    [{ amount: '0.00', method: 'CHK' }, /without a payment/],
    [{ payerId: 99_999_999 }, /no such payer/],
    [{ receivedDate: '2099-01-01' }, /still to come/],
  ] as const)
    await expect(begin('5.00', more)).rejects.toThrow(words);
  for (const amount of ['-1.00', '99999999999999', 'much'])
    await expect(begin(amount, { method: 'CHK' })).rejects.toMatchObject({ code: 'invalid' });
  const keyedId = await begin('5.00', { trace: 'TWICE' });
  await expect(begin('5.00', { trace: 'TWICE' })).rejects.toMatchObject({
    doubts: [expect.stringContaining('being keyed already')],
  });
  await begin('5.00', { trace: 'TWICE', sure: true });
  const s = await sentClaim(t);
  await typed(keyedId, s, []);
  const other = (
    await t.db
      .selectFrom('payer')
      .select('id')
      .where('id', '<>', payerId)
      .orderBy('id')
      .executeTakeFirstOrThrow()
  ).id;
  const { version } = await readKeyed(t.context, keyedId);
  const change = (more: object) =>
    changeKeyed(t.context, {
      keyedId,
      payerId,
      amount: '6.00',
      method: 'ACH',
      trace: 'ONCE',
      paymentDate: t.context.today,
      source: 'portal',
      seen: version,
      ...more,
    });
  await expect(change({ payerId: other })).rejects.toThrow(/It has claims of/);
  await change({});
  await expect(change({})).rejects.toThrow(/changed its head meanwhile/);
  expect(await readKeyed(t.context, keyedId)).toMatchObject({ amount: 600, source: 'portal', trace: 'ONCE' });
});

test('a claim of another payer, one that was not sent, one that is nobody’s, and the same again', async () => {
  const s = await sentClaim(t);
  const keyedId = await begin('1.00');
  const add = (controlNumber: string) => addKeyedClaim(t.context, { keyedId, controlNumber, key: key() });
  await expect(add('NOBODY')).rejects.toThrow(/There is no claim NOBODY/);
  const other = (
    await t.db
      .selectFrom('payer')
      .select('id')
      .where('id', '<>', payerId)
      .orderBy('id')
      .executeTakeFirstOrThrow()
  ).id;
  const theirs = await begin('1.00', { payerId: other });
  await expect(
    addKeyedClaim(t.context, { keyedId: theirs, controlNumber: s.claim.control_number, key: key() }),
  ).rejects.toThrow(/went to Cedar Sound/);
  expect((await keyedCandidates(t.context, { keyedId, search: s.claim.control_number })).length).toBe(1);
  await add(s.claim.control_number.toLowerCase());
  expect(await keyedCandidates(t.context, { keyedId, search: s.claim.control_number })).toEqual([]);
  // A second time it is what takes an earlier word back; a third there is none.
  const back = await add(s.claim.control_number);
  expect((await readKeyed(t.context, keyedId)).claims.map(({ status }) => status)).toEqual(['1', '22']);
  await expect(add(s.claim.control_number)).rejects.toThrow(/is in it/);
  await expect(
    saveKeyedClaim(t.context, {
      keyedClaimId: back,
      status: '1',
      payerClaimNumber: '',
      lines: [],
      seen: await versionOf(back),
    }),
  ).rejects.toThrow(/with such a word already/);
});

test('two people on one claim: the second is told; two who close it at once make one remittance', async () => {
  const s = await sentClaim(t);
  const keyedId = await begin('68.00');
  const keyedClaimId = await typed(keyedId, s, []);
  const version = await versionOf(keyedClaimId);
  const save = () =>
    saveKeyedClaim(t.context, {
      keyedClaimId,
      status: '1',
      payerClaimNumber: '',
      lines: [PLAIN] as never,
      seen: version,
    });
  const both = await Promise.allSettled([save(), save()]);
  expect(both.filter(({ status }) => status === 'fulfilled')).toHaveLength(1);
  const closed = await Promise.allSettled([
    closeAndPost(t.context, { keyedId }),
    closeAndPost(t.as('biller'), { keyedId }),
  ]);
  expect(closed.filter(({ status }) => status === 'fulfilled')).toHaveLength(1);
  expect((await readKeyed(t.context, keyedId)).made).toHaveLength(1);
  expect(await figuresOf(s.charges)).toMatchObject([{ payer_paid: 6800 }]);
  await proven();
});

test('a file of the same payment, before and after: it is posted once', async () => {
  const s = await sentClaim(t);
  const keyedId = await begin('68.00', { trace: 'BOTH-1' });
  await typed(keyedId, s, [PLAIN]);
  const file = () => intake(t.context, remitText([says(s, 6800)], { trace: 'BOTH-1' }));
  const waitsIn = async () => (await readKeyed(t.context, keyedId)).claims[0]!.waitsIn;
  expect(await waitsIn()).toBe('');
  const first = await file();
  // It is said while the file waits to be posted.
  expect(await waitsIn()).toBe('BOTH-1');
  await postRemittance(t.context, first.outcomes[0]!.remittanceId!);
  expect(await waitsIn()).toBe('');
  // Who begins to key it is told so at once.
  await expect(begin('68.00', { trace: 'BOTH-1' })).rejects.toMatchObject({
    doubts: expect.arrayContaining([
      expect.stringContaining('This payment is here: remittance of 16 Mar 2026'),
    ]),
  });
  await expect(closeAndPost(t.context, { keyedId })).rejects.toThrow(/is here already, from a file/);
  expect(await figuresOf(s.charges)).toMatchObject([{ payer_paid: 6800 }]);
  // Reversed, the paper may say it.
  await reverseRemittance(t.context, { remittanceId: first.outcomes[0]!.remittanceId!, why: 'by paper' });
  await closeAndPost(t.context, { keyedId });
  const again = await intake(
    t.context,
    remitText([says(s, 6700, ['CO-45:48.00', 'PR-3:30.00'])], { trace: 'BOTH-1', payment: cents(6800) }),
  );
  expect(again.outcomes[0]).toMatchObject({
    result: 'held',
    why: expect.stringContaining('keyed from paper'),
  });
  expect(await figuresOf(s.charges)).toMatchObject([{ payer_paid: 6800 }]);
  await proven();
});

test('the payment only waits in the payer’s credit, and is explained later by whoever posts', async () => {
  const before = await payerCredit(t.db);
  const s = await sentClaim(t);
  const keyedId = await begin('68.00');
  await expect(closeAndPost(t.context, { keyedId })).rejects.toMatchObject({
    field: 'rest',
    facts: { left: 6800 },
  });
  const only = await closeAndPost(t.context, { keyedId, rest: true });
  expect(await payerCredit(t.db)).toBe(before + 6800);
  expect((await readRemittance(t.context, only.remittanceId)).providerAdjustments).toMatchObject([
    { code: 'REST', amount: -6800, credit: { open: 6800 } },
  ]);
  const biller = t.as('biller');
  await reopenKeyed(biller, { keyedId, why: 'the paper came' });
  expect(await payerCredit(t.db)).toBe(before);
  await typed(keyedId, s, [PLAIN]);
  await closeAndPost(biller, { keyedId });
  expect(await payerCredit(t.db)).toBe(before);
  expect(await figuresOf(s.charges)).toMatchObject([{ payer_paid: 6800, with_patient: 3000 }]);
  // Now it has a claim: a manager opens it, with a reason; what was said before and now are both seen.
  await expect(reopenKeyed(biller, { keyedId, why: 'a slip' })).rejects.toThrow(/may not/);
  await expect(reopenKeyed(t.context, { keyedId, why: '' })).rejects.toMatchObject({ code: 'invalid' });
  await reopenKeyed(t.context, { keyedId, why: 'a slip' });
  expect(await figuresOf(s.charges)).toMatchObject([{ payer_paid: 0, with_payer: expect.any(Number) }]);
  const [claim] = (await readKeyed(t.context, keyedId)).claims;
  await saveKeyedClaim(t.context, {
    keyedClaimId: claim!.id,
    status: '1',
    payerClaimNumber: '',
    lines: [{ ...PLAIN, allowed: 8800, copay: 2000 }] as never,
    seen: claim!.version,
  });
  await closeAndPost(t.context, { keyedId });
  expect(await figuresOf(s.charges)).toEqual([
    { payer_paid: 6800, reduced: 5700, with_patient: 2000, with_payer: 0 },
  ]);
  expect((await readKeyed(t.context, keyedId)).made.map(({ reversed }) => reversed)).toEqual([
    false,
    true,
    true,
  ]);
  await proven();
});

test('interest and an offset beside the claims; more than the payment is refused', async () => {
  const s = await sentClaim(t);
  const keyedId = await begin('60.00');
  await typed(keyedId, s, [PLAIN]);
  await expect(closeAndPost(t.context, { keyedId, rest: true })).rejects.toThrow(
    /comes to 68.00, 8.00 more than the payment/,
  );
  const { version } = await readKeyed(t.context, keyedId);
  await sayKeyedAdjustments(t.context, {
    keyedId,
    adjustments: [
      { code: 'wo', reference: 'PCN0', amount: '10.00' },
      { code: 'L6', reference: '', amount: '-2.00' },
    ],
    seen: version,
  });
  expect(await readKeyed(t.context, keyedId)).toMatchObject({ applied: 6000, left: 0 });
  const before = await payerCredit(t.db);
  await closeAndPost(t.context, { keyedId });
  // The offset is the payer's word against us; interest is income.
  expect(await payerCredit(t.db)).toBe(before - 1000);
  await proven();
});

test('killed between closing and posting it is ready, and posted as one of a file is', async () => {
  const s = await sentClaim(t);
  const keyedId = await begin('68.00');
  await typed(keyedId, s, [PLAIN]);
  const remittanceId = await closeKeyed(t.context, { keyedId });
  expect(await figuresOf(s.charges)).toMatchObject([{ payer_paid: 0 }]);
  await expect(reopenKeyed(t.context, { keyedId, why: 'x' })).rejects.toThrow(/is being posted/);
  expect((await findList(t.context, 'remittances', { view: 'ready' })).rows.map(({ id }) => id)).toContain(
    remittanceId,
  );
  await postRemittance(t.context, remittanceId);
  await postRemittance(t.context, remittanceId);
  expect(await figuresOf(s.charges)).toMatchObject([{ payer_paid: 6800 }]);
  await proven();
});

test('what is taken back and said anew on one paper leaves what the second says', async () => {
  const s = await sentClaim(t);
  const first = await begin('68.00');
  await typed(first, s, [PLAIN]);
  await closeAndPost(t.context, { keyedId: first });
  const again = await begin('10.00');
  await typed(again, s, [{ ...PLAIN, copay: 2000, paid: 7800 }]);
  await typed(again, s, [PLAIN], { status: '22' });
  expect(await readKeyed(t.context, again)).toMatchObject({ applied: 1000, left: 0 });
  await closeAndPost(t.context, { keyedId: again });
  expect(await figuresOf(s.charges)).toEqual([
    { payer_paid: 7800, reduced: 4700, with_patient: 2000, with_payer: 0 },
  ]);
  await proven();
});

/** What a person may type of a charge, with the adjustments that follow by hand: allowed, parts, a reason, and what is left is paid. */
const anyTyped = (charge: number) =>
  fc
    .record({
      cut: fc.nat(charge),
      ded: fc.nat(3000),
      coins: fc.nat(3000),
      copay: fc.nat(3000),
      denied: fc.boolean(),
      known: fc.boolean(),
    })
    .map(({ cut, ded, coins, copay, denied, known }) => {
      if (denied)
        return {
          line: {
            allowed: null,
            deductible: 0,
            coinsurance: 0,
            copay: 0,
            paid: 0,
            reason: { group: 'CO', reason: '97', amount: charge },
          },
          reasons: [`CO-97:${toDecimal(cents(charge))}`],
          paid: 0,
        };
      let room = charge - cut;
      const take = (wanted: number): number => {
        const got = Math.min(wanted, room);
        room -= got;
        return got;
      };
      const [d, c, o] = [take(ded), take(coins), take(copay)];
      const said = (code: string, amount: number) =>
        amount === 0 ? [] : [`${code}:${toDecimal(cents(amount))}`];
      return {
        line: {
          allowed: known ? charge - cut : null,
          deductible: d,
          coinsurance: c,
          copay: o,
          paid: room,
          reason: known || cut === 0 ? null : { group: 'PI', reason: '204', amount: cut },
        },
        reasons: [
          ...said(known ? 'CO-45' : 'PI-204', cut),
          ...said('PR-1', d),
          ...said('PR-2', c),
          ...said('PR-3', o),
        ],
        paid: room,
      };
    });

test('property: keyed and read from a file, the same remittance gives the same entries', async () => {
  const CHARGES = [14500, 4200];
  await fc.assert(
    fc.asyncProperty(fc.tuple(anyTyped(14500), anyTyped(4200)), async (lines) => {
      const [byFile, byHand] = [
        await sentClaim(t, ['145.00', '42.00']),
        await sentClaim(t, ['145.00', '42.00']),
      ];
      const paid = lines[0].paid + lines[1].paid;
      const trace = `SAME-${(serial += 1)}`;
      const method = paid === 0 ? 'NON' : 'CHK';
      const { outcomes } = await intake(
        t.context,
        remitText(
          [
            decided(
              byFile.claim.control_number,
              lines.map((line, index) => ({
                control: byFile.controls[index]!,
                charge: CHARGES[index]!,
                paid: line.paid,
                reasons: line.reasons,
              })),
            ),
          ],
          { trace, method, payment: cents(paid) },
        ),
      );
      await postRemittance(t.context, outcomes[0]!.remittanceId!);
      const keyedId = await begin(toDecimal(cents(paid)), { trace: `${trace} P`, method });
      await typed(
        keyedId,
        byHand,
        lines.map(({ line: { reason, ...line } }, index) => ({
          ...line,
          number: index + 1,
          remarks: [],
          reasons: reason === null ? [] : [reason],
        })),
      );
      await closeAndPost(t.context, { keyedId });
      expect(await entriesOf(byHand)).toEqual(await entriesOf(byFile));
      expect(await figuresOf(byHand.charges)).toEqual(await figuresOf(byFile.charges));
    }),
    { numRuns: runs(40) },
  );
  await proven();
});

test('of a plan without a contract nothing comes off that the paper does not say', async () => {
  const s = await sentClaim(t);
  const { insurance_plan_id: planId } = await t.db
    .selectFrom('coverage_plan')
    .select('insurance_plan_id')
    .where('id', '=', s.claim.coverage_id)
    .executeTakeFirstOrThrow();
  const contracted = (is: boolean) =>
    t.db.updateTable('insurance_plan').set({ contracted: is }).where('id', '=', planId).execute();
  await contracted(false);
  try {
    const keyedId = await begin('98.00');
    const line = { ...NOTHING, number: 1, allowed: 9800, paid: 9800 };
    await expect(typed(keyedId, s, [line])).rejects.toMatchObject({ facts: { left: 4700 } });
    const [claim] = (await readKeyed(t.context, keyedId)).claims;
    await saveKeyedClaim(t.context, {
      keyedClaimId: claim!.id,
      status: '1',
      payerClaimNumber: '',
      lines: [{ ...line, reasons: [{ group: 'PR', reason: '45', amount: 4700 }] }] as never,
      seen: claim!.version,
    });
    await closeAndPost(t.context, { keyedId });
    expect(await figuresOf(s.charges)).toEqual([
      { payer_paid: 9800, reduced: 0, with_patient: 4700, with_payer: 0 },
    ]);
  } finally {
    await contracted(true);
  }
  await proven();
});
