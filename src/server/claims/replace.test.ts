/** A claim that the payer has, corrected and sent again (frequency 7) or voided (8): CLM05-3 and REF*F8 of ASC X12N 005010X222A1. */
import fc from 'fast-check';
import type { RemitClaim } from '../../core/x12/remittance835';
import { TODAY, fileDatabase } from '../../testing/database';
import { addDays } from '../../core/calendar';
import {
  brokenInvariants,
  charge,
  decided,
  intake,
  postedRemittance,
  remitText,
  sentClaim,
} from '../../testing/desk';
import { runs } from '../../testing/runs';
import { readAccount } from '../account-page/read';
import { readChargeEntries } from '../accounts/ledger';
import { takeReceipt } from '../payments/take';
import { acceptPlan, proposePlan } from '../plans/agree';
import { voidCharge } from '../accounts/charges';
import { closeFollowUp, settleWaiting } from '../follow-ups/work';
import { decideHeld } from '../remittances/held';
import { postRemittance } from '../remittances/post';
import { readRemittance } from '../remittances/read';
import { reverseRemittance } from '../remittances/reverse';
import { buildClaims } from './build';
import { changeCharge } from './fix';
import { withdrawClaim } from './hold';
import { byUser, moveClaims } from './life';
import { inTransaction } from '../use-case';
import { readClaim } from './read';
import { freeVoided, replaceClaim } from './replace';
import { sendClaims } from './send';

const t = fileDatabase();
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

const post = async (claims: RemitClaim[], more: Parameters<typeof remitText>[1] = {}): Promise<number> => {
  const { outcomes } = await intake(t.context, remitText(claims, more));
  const id = outcomes[0]!.remittanceId!;
  await postRemittance(t.context, id);
  return id;
};
const DENIED = ['CO-16:145.00'];
const PLAIN = ['CO-45:47.00', 'PR-3:30.00'];
const SHORT = ['CO-45:47.00', 'PR-3:30.00', 'CO-59:28.00'];

/** A claim that was sent and decided. */
async function answered(paid: number, reasons: string[]) {
  const s = await sentClaim(t);
  const remittanceId = await post([
    decided(s.claim.control_number, [{ control: s.controls[0]!, charge: 14500, paid, reasons }]),
  ]);
  return { ...s, remittanceId };
}
type Answered = Awaited<ReturnType<typeof answered>>;
const correct = (s: Answered, as: '7' | '8' = '7', more: Record<string, unknown> = {}): Promise<number> =>
  replaceClaim(t.context, { claimId: s.claim.id, as, why: 'Modifier 25 was missing', ...more });
const numberOf = async (id: number): Promise<string> => (await readClaim(t.context, id)).controlNumber;
const says = async (id: number, paid: number, reasons: string[], status = '1'): Promise<RemitClaim> =>
  decided(await numberOf(id), [{ control: '', charge: 14500, paid, reasons }], status);
const takesBack = (s: Answered, paid: number, reasons: string[]): RemitClaim =>
  decided(
    s.claim.control_number,
    [
      {
        control: s.controls[0]!,
        charge: -14500,
        paid: -paid,
        reasons: reasons.map((one) => one.replace(':', ':-')),
      },
    ],
    '22',
  );
const where = (s: Answered) =>
  t.db
    .selectFrom('charge_balance')
    .select(['payer_paid as paid', 'reduced', 'with_patient as patient', 'with_payer as payer'])
    .where('charge_id', '=', s.charges[0]!)
    .executeTakeFirstOrThrow();
const followUps = async (s: Answered): Promise<[string, boolean][]> =>
  (
    await t.db
      .selectFrom('follow_up')
      .select(['kind', 'closed_at'])
      .where('household_id', '=', s.householdId)
      .orderBy('id')
      .execute()
  ).map((row) => [row.kind, row.closed_at !== null]);
const POSTED = { paid: 6800, reduced: 4700, patient: 3000, payer: 0 };

test('a denied claim is corrected, sent with the payer’s number, paid and settled', async () => {
  const s = await answered(0, DENIED);
  const id = await correct(s);
  expect(await readClaim(t.context, s.claim.id)).toMatchObject({
    status: 'closed',
    current: false,
    replacedBy: { id, frequency: '7' },
  });
  expect(await readClaim(t.context, id)).toMatchObject({
    status: 'ready',
    frequency: '7',
    replaces: { controlNumber: s.claim.control_number },
    total: 14500,
    current: true,
  });
  await changeCharge(t.context, { chargeId: s.charges[0]!, diagnoses: ['I10'], modifiers: ['25'] });
  // The denial is on the list until the correction is gone.
  expect(await followUps(s)).toEqual([['denial', false]]);
  await sendClaims(t.context, { claimIds: [id] });
  expect(await followUps(s)).toEqual([['denial', true]]);
  const { content } = await t.db
    .selectFrom('transmission as t')
    .innerJoin('claim as m', 'm.transmission_id', 't.id')
    .select('t.content')
    .where('m.id', '=', id)
    .executeTakeFirstOrThrow();
  expect(content).toContain(`CLM*${await numberOf(id)}*145.00***11:B:7*`);
  expect(content).toContain('REF*F8*PCN1~');
  expect(content).toMatch(/SV1\*HC:99213:25\*145/);
  await post([await says(id, 6800, PLAIN)]);
  expect(await where(s)).toEqual(POSTED);
  expect((await readClaim(t.context, id)).status).toBe('closed');
});

test('what was paid short stays until the payer takes it back; with the new decision it stands once', async () => {
  const s = await answered(4000, SHORT);
  const id = await correct(s);
  await sendClaims(t.context, { claimIds: [id] });
  expect((await where(s)).paid).toBe(4000);
  await post([takesBack(s, 4000, SHORT), await says(id, 6800, PLAIN)]);
  expect(await where(s)).toEqual(POSTED);
  expect((await readClaim(t.context, s.claim.id)).status).toBe('closed');
  expect((await readClaim(t.context, id)).status).toBe('closed');
});

test('paid anew without taking the first back, it is held; as a correction the first one goes', async () => {
  const s = await answered(4000, SHORT);
  const id = await correct(s);
  await sendClaims(t.context, { claimIds: [id] });
  const remittanceId = await post([await says(id, 6800, PLAIN)]);
  const [row] = (await readRemittance(t.context, remittanceId)).rows;
  expect(row).toMatchObject({ status: 'unmatched', holdKind: 'second' });
  await decideHeld(t.context, { remittanceClaimId: row!.id, as: 'correction', why: 'By phone' });
  expect(await where(s)).toEqual(POSTED);
  // The first one's money came and is the payer's.
  expect((await readRemittance(t.context, s.remittanceId)).rows[0]).toMatchObject({
    status: 'unmatched',
    holdKind: 'corrected',
  });
});

test('the payer may answer the correction before it takes the first decision back', async () => {
  const s = await answered(0, DENIED);
  const id = await correct(s);
  await sendClaims(t.context, { claimIds: [id] });
  await post([await says(id, 6800, PLAIN)]);
  // Its reversal would take a denial back where a payment stands now: it waits for a look, and takes nothing off.
  const late = await post([takesBack(s, 0, DENIED)], { payment: 0 as never });
  expect(await where(s)).toEqual(POSTED);
  expect((await readRemittance(t.context, late)).rows[0]!.status).toBe('unmatched');
});

test('the first claim denied once more after its correction went out: the correction’s payment ends that as well', async () => {
  const s = await answered(0, DENIED);
  const id = await correct(s);
  await sendClaims(t.context, { claimIds: [id] });
  await post([
    decided(s.claim.control_number, [{ control: s.controls[0]!, charge: 14500, paid: 0, reasons: DENIED }]),
  ]);
  expect(await followUps(s)).toEqual([
    ['denial', true],
    ['denial', false],
  ]);
  await post([await says(id, 6800, PLAIN)]);
  expect(await followUps(s)).toEqual([
    ['denial', true],
    ['denial', true],
  ]);
});

test('a denial taken back moves nothing, and the correction’s answer is the first that does', async () => {
  const s = await answered(0, DENIED);
  const id = await correct(s);
  await sendClaims(t.context, { claimIds: [id] });
  const both = await post([takesBack(s, 0, DENIED), await says(id, 6800, PLAIN)]);
  expect((await readRemittance(t.context, both)).rows.map(({ status }) => status)).toEqual([
    'noted',
    'posted',
  ]);
  expect(await where(s)).toEqual(POSTED);
});

test('withdrawn before it was sent, the first claim has its place back, and its follow-up', async () => {
  const s = await answered(0, DENIED);
  const id = await correct(s);
  await withdrawClaim(t.context, { claimId: id, why: 'Nothing was wrong' });
  expect(await readClaim(t.context, s.claim.id)).toMatchObject({
    status: 'decided',
    current: true,
    replacedBy: null,
  });
  expect(await followUps(s)).toEqual([['denial', false]]);
  // And it can be corrected after all.
  expect(await correct(s)).not.toBe(id);
});

test('rejected after it was sent, and withdrawn: the denial is followed again', async () => {
  const s = await answered(0, DENIED);
  const id = await correct(s);
  await sendClaims(t.context, { claimIds: [id] });
  expect(await followUps(s)).toEqual([['denial', true]]);
  await t.db
    .updateTable('claim')
    .set({ status: 'rejected', hold_reason: 'x' })
    .where('id', '=', id)
    .execute();
  await withdrawClaim(t.context, { claimId: id, why: 'Nothing was wrong' });
  expect(await followUps(s)).toEqual([['denial', false]]);
  expect((await readClaim(t.context, s.claim.id)).status).toBe('decided');
});

test('a void is neither corrected nor voided', async () => {
  const s = await answered(6800, PLAIN);
  const id = await correct(s, '8');
  await sendClaims(t.context, { claimIds: [id] });
  await t.db.updateTable('claim').set({ status: 'accepted' }).where('id', '=', id).execute();
  await expect(
    replaceClaim(t.context, { claimId: id, as: '7', payerClaimNumber: 'X', why: 'x' }),
  ).rejects.toThrow('A void is neither');
});

test('without a payer’s number it is asked for, and kept', async () => {
  const s = await answered(0, DENIED);
  await t.db.updateTable('claim').set({ payer_claim_number: '' }).where('id', '=', s.claim.id).execute();
  await expect(correct(s)).rejects.toMatchObject({ field: 'payerClaimNumber' });
  expect((await readClaim(t.context, s.claim.id)).status).toBe('decided');
  const id = await correct(s, '7', { payerClaimNumber: ' ICN-77 ' });
  expect((await readClaim(t.context, id)).content.payerClaimNumber).toBe('ICN-77');
  expect((await readClaim(t.context, s.claim.id)).payerClaimNumber).toBe('ICN-77');
});

test('once, also when two do it at the same moment; a correction of a correction names its number', async () => {
  const s = await answered(0, DENIED);
  const [first, second] = await Promise.allSettled([correct(s), correct(s)]);
  expect([first.status, second.status].sort()).toEqual(['fulfilled', 'rejected']);
  const { id } = await t.db
    .selectFrom('claim')
    .select('id')
    .where('replaces', '=', s.claim.id)
    .executeTakeFirstOrThrow();
  await sendClaims(t.context, { claimIds: [id] });
  await expect(replaceClaim(t.context, { claimId: id, as: '7', why: 'x' })).rejects.toThrow(
    'the payer must have it',
  );
  await post([{ ...(await says(id, 0, DENIED)), payerClaimNumber: 'PCN2' }]);
  const third = await replaceClaim(t.context, { claimId: id, as: '7', why: 'Again' });
  expect((await readClaim(t.context, third)).content.payerClaimNumber).toBe('PCN2');
});

test('an original never carries a payer’s number, though the payer has given it one', async () => {
  const s = await sentClaim(t);
  await t.db
    .updateTable('claim')
    .set({ status: 'rejected', hold_reason: 'x', payer_claim_number: 'ICN-1' })
    .where('id', '=', s.claim.id)
    .execute();
  await sendClaims(t.context, { claimIds: [s.claim.id] });
  expect((await readClaim(t.context, s.claim.id)).content.payerClaimNumber).toBeUndefined();
});

test('a void: what was paid is taken back, then the charge is free to be changed and billed anew', async () => {
  const s = await answered(6800, PLAIN);
  const id = await correct(s, '8');
  await sendClaims(t.context, { claimIds: [id] });
  await expect(freeVoided(t.context, { claimId: id, why: 'By phone' })).rejects.toThrow('still stands');
  const WHOLE = [takesBack(s, 6800, PLAIN)];
  await post(WHOLE, {
    payment: 0 as never,
    providerAdjustments: [{ code: 'WO', reference: 'PCN1', amount: -6800 as never }],
  });
  expect(await where(s)).toEqual({ paid: 0, reduced: 0, patient: 0, payer: 14500 });
  expect(await readClaim(t.context, id)).toMatchObject({ status: 'closed', current: false });
  await changeCharge(t.context, {
    chargeId: s.charges[0]!,
    diagnoses: ['I10'],
    fee: '150.00',
    sure: true,
  });
  const [anew] = await buildClaims(t.context, { householdId: s.householdId });
  const claim = await readClaim(t.context, anew!);
  expect(claim).toMatchObject({ frequency: '1', total: 15000 });
  expect(claim.content.payerClaimNumber).toBeUndefined();
});

test('a void of a denial ends when somebody says that the payer has confirmed it; the charge can be voided', async () => {
  const s = await answered(0, DENIED);
  const id = await correct(s, '8');
  await expect(freeVoided(t.context, { claimId: id, why: 'x' })).rejects.toThrow('that was sent');
  await sendClaims(t.context, { claimIds: [id] });
  await expect(voidCharge(t.context, { chargeId: s.charges[0]!, why: 'Never done' })).rejects.toThrow(
    'on a claim',
  );
  await freeVoided(t.context, { claimId: id, why: 'Ms Ito, by phone' });
  await voidCharge(t.context, { chargeId: s.charges[0]!, why: 'Never done' });
  expect((await where(s)).payer).toBe(0);
  // A late payment for it moves nothing.
  const late = await post([
    decided(s.claim.control_number, [{ control: s.controls[0]!, charge: 14500, paid: 6800, reasons: PLAIN }]),
  ]);
  expect((await readRemittance(t.context, late)).rows[0]).toMatchObject({
    status: 'unmatched',
    holdReason: expect.stringContaining('is void'),
  });
  expect((await where(s)).paid).toBe(0);
});

test('the first decision reversed here leaves the first claim closed: the correction asks for the money', async () => {
  const s = await answered(4000, SHORT);
  const id = await correct(s);
  await reverseRemittance(t.context, { remittanceId: s.remittanceId, why: 'Posted by mistake' });
  expect((await readClaim(t.context, s.claim.id)).status).toBe('closed');
  await withdrawClaim(t.context, { claimId: id, why: 'Not needed' });
  // Now nothing is decided on it any more.
  expect((await readClaim(t.context, s.claim.id)).status).toBe('accepted');
});

test('while a correction is on its way nothing is settled behind it', async () => {
  const s = await answered(0, DENIED);
  await correct(s);
  await expect(settleWaiting(t.context, { chargeId: s.charges[0]!, to: 'off', why: 'x' })).rejects.toThrow(
    'has not decided it',
  );
  const { id } = await t.db
    .selectFrom('follow_up')
    .select('id')
    .where('household_id', '=', s.householdId)
    .executeTakeFirstOrThrow();
  await closeFollowUp(t.context, { followUpId: id, outcome: 'The correction is prepared' });
});

test.each(['draft', 'ready', 'sent', 'rejected', 'held', 'withdrawn'] as const)(
  'a claim that is %s is not corrected: the payer must have it',
  async (status) => {
    const s = await sentClaim(t);
    if (status !== 'sent') {
      const { patientId, householdId } = s;
      await charge(t, t.context, patientId, '50.00');
      const [claimId] = await buildClaims(t.context, { householdId });
      s.claim.id = claimId!;
      if (status === 'withdrawn') await withdrawClaim(t.context, { claimId: claimId!, why: 'x' });
      else {
        if (status === 'rejected') await sendClaims(t.context, { claimIds: [claimId!] });
        await t.db
          .updateTable('claim')
          .set({ status, hold_reason: 'x' })
          .where('id', '=', claimId!)
          .execute();
      }
    }
    await expect(
      replaceClaim(t.context, { claimId: s.claim.id, as: '7', payerClaimNumber: 'X', why: 'x' }),
    ).rejects.toThrow(`A claim that is ${status} cannot be corrected`);
  },
);

describe('a correction that asks for more or less', () => {
  /** A claim that the payer has and has not decided. */
  async function accepted(): Promise<Answered> {
    const s = await sentClaim(t);
    await inTransaction(t.context, async (act) => {
      await moveClaims(
        act.db,
        act,
        [{ id: s.claim.id, status: 'sent' }],
        'accepted',
        byUser(act),
        'taken in',
      );
    });
    return { ...s, remittanceId: 0 };
  }

  const fixed = (s: Answered, fee: string, more: Record<string, unknown> = {}) =>
    changeCharge(t.context, { chargeId: s.charges[0]!, fee, diagnoses: ['I10'], sure: true, ...more });
  const answer = async (id: number, fee: number, paid: number, reasons: string[]): Promise<RemitClaim> =>
    decided(await numberOf(id), [{ control: '', charge: fee, paid, reasons }]);

  test('is written by its difference; what was paid beyond stays as credit when the payer decides anew', async () => {
    const s = await answered(6800, PLAIN);
    await takeReceipt(t.context, {
      householdId: s.householdId,
      tenders: [{ tender: 'cash', amount: '30.00' }],

      key: 'replace-30',
    });
    await expect(fixed(s, '100.00')).rejects.toThrow(/is with the payer already/);
    const id = await correct(s);
    await expect(fixed(s, '100.00', { sure: false })).rejects.toMatchObject({
      doubts: [
        'It comes to 100.00 instead of 145.00: −45.00 then waits with Cedar Sound Health until it decides anew',
      ],
    });
    await fixed(s, '100.00');
    expect(await readClaim(t.context, id)).toMatchObject({
      total: 10000,
      content: { lines: [{ charge: 10000 }] },
    });
    // The first claim still says what it said.
    expect(await readClaim(t.context, s.claim.id)).toMatchObject({
      total: 14500,
      lines: [{ charge: 14500 }],
    });
    expect(await where(s)).toEqual({ paid: 6800, reduced: 4700, patient: 0, payer: -4500 });
    await sendClaims(t.context, { claimIds: [id] });
    await post([takesBack(s, 6800, PLAIN), await answer(id, 10_000, 7800, ['CO-45:2.00', 'PR-3:20.00'])]);
    expect(await where(s)).toEqual({ paid: 7800, reduced: 200, patient: 0, payer: 0 });
    const { figures } = await readAccount(t.context, s.householdId);
    expect(figures).toMatchObject({ withPayer: 0, withPatient: 0, credit: 1000 });
    expect((await followUps(s)).filter(([, closed]) => !closed)).toEqual([]);
  });

  test('of what we wrote off or passed on ourselves, so much comes back as is not asked for any more', async () => {
    for (const [to, left] of [
      ['off', { paid: 0, reduced: 10000, patient: 0, payer: 0 }],
      ['patient', { paid: 0, reduced: 0, patient: 10000, payer: 0 }],
    ] as const) {
      const s = await answered(0, ['PI-16:145.00']);
      await settleWaiting(t.context, {
        chargeId: s.charges[0]!,
        to,
        why: 'They refuse',
        ...(to === 'patient' ? { exception: 'no-contract' } : {}),
      });
      await correct(s);
      await fixed(s, '100.00');
      expect(await where(s)).toEqual(left);
    }
  });

  test('what is on a plan comes down with the payer’s new word, and not before', async () => {
    const s = await answered(6800, PLAIN);
    const planId = await proposePlan(t.context, {
      householdId: s.householdId,
      installments: 2,
      first: addDays(TODAY, 20),
      sure: true,
      key: 'replace-plan-1',
    });
    await acceptPlan(t.context, { planId, signedBy: 'Nr Tester', sure: true });
    const id = await correct(s);
    await fixed(s, '100.00');
    expect(await where(s)).toMatchObject({ patient: 0, payer: -4500 });
    await sendClaims(t.context, { claimIds: [id] });
    await post([takesBack(s, 6800, PLAIN), await answer(id, 10_000, 7800, ['CO-45:2.00', 'PR-3:20.00'])]);
    const { on_plan: onPlan, with_patient: left } = await t.db
      .selectFrom('charge_balance')
      .select(['on_plan', 'with_patient'])
      .where('charge_id', '=', s.charges[0]!)
      .executeTakeFirstOrThrow();
    expect([onPlan, left]).toEqual([2000, 0]);
  });

  test('its tooth is put right too; its code is the payer’s word, and stays', async () => {
    const s = await answered(6800, PLAIN);
    await correct(s);
    await changeCharge(t.context, { chargeId: s.charges[0]!, tooth: '19', sure: true });
    await expect(
      t.db.updateTable('charge').set({ code: '80053' }).where('id', '=', s.charges[0]!).execute(),
    ).rejects.toThrow(/A payer has decided this charge/);
    // Once the correction is with the payer nothing of it changes.
    const { id } = (await readClaim(t.context, s.claim.id)).replacedBy!;
    await changeCharge(t.context, { chargeId: s.charges[0]!, diagnoses: ['I10'], sure: true });
    await sendClaims(t.context, { claimIds: [id] });
    await expect(
      t.db
        .updateTable('charge')
        .set({ fee: 100 as never })
        .where('id', '=', s.charges[0]!)
        .execute(),
    ).rejects.toThrow(/A payer has decided this charge/);
  });

  test('withdrawn, the first claim would say something else: the fee is put back first', async () => {
    const s = await answered(0, DENIED);
    const id = await correct(s);
    await fixed(s, '200.00');
    await expect(withdrawClaim(t.context, { claimId: id, why: 'not needed' })).rejects.toThrow(
      /comes to 200.00 by now, and to 145.00 on claim/,
    );
    await fixed(s, '145.00');
    await withdrawClaim(t.context, { claimId: id, why: 'not needed' });
    expect(await readClaim(t.context, s.claim.id)).toMatchObject({ status: 'decided' });
  });

  test('units count the fee anew, and the story says that it was put right', async () => {
    const s = await answered(0, DENIED);
    await correct(s);
    await changeCharge(t.context, { chargeId: s.charges[0]!, units: 2, sure: true });
    const { charges } = await readAccount(t.context, s.householdId);
    expect(charges[0]).toMatchObject({ units: 2 });
    const entries = await readChargeEntries(t.context, s.householdId, s.charges[0]!);
    expect(entries.at(-1)).toMatchObject({
      kind: 'charge-correction',
      memo: expect.stringMatching(/ instead of 145.00$/),
    });
  });

  test('property: whatever it asks for and whatever was decided, taken back and decided anew it stands once', async () => {
    const word = fc.record({ paid: fc.integer({ min: 0, max: 100 }), off: fc.integer({ min: 0, max: 100 }) });
    const parts = (fee: number, { paid, off }: { paid: number; off: number }) => {
      const [pays, less] = [Math.floor((fee * paid) / 200), Math.floor((fee * off) / 200)];
      const rest = fee - pays - less;
      const reasons = [
        ...(less > 0 ? [`CO-45:${(less / 100).toFixed(2)}`] : []),
        ...(rest > 0 ? [`PR-1:${(rest / 100).toFixed(2)}`] : []),
      ];
      return { pays, less, rest, reasons };
    };
    await fc.assert(
      fc.asyncProperty(
        word,
        word,
        fc.integer({ min: 1, max: 30_000 }),
        fc.integer({ min: 0, max: 10_000 }),
        fc.boolean(),
        fc.constantFrom('answer' as const, 'service' as const),
        fc.boolean(),
        async (first, second, fee, patientPays, apart, counts, undecided) => {
          await t.db.updateTable('practice').set({ write_offs_count: counts }).execute();
          const before = parts(14_500, first);
          // Also one that the payer has not answered yet, and answers by its correction alone.
          const s = undecided ? await accepted() : await answered(before.pays, before.reasons);
          if (patientPays > 0)
            await takeReceipt(t.context, {
              householdId: s.householdId,
              tenders: [{ tender: 'cash', amount: (patientPays / 100).toFixed(2) }],

              key: `replace-property-${s.claim.id}`,
            });
          const id = await correct(s, '7', { payerClaimNumber: 'THEIRS1' });
          await fixed(s, (fee / 100).toFixed(2));
          // The contract allows 98.00.
          const { contract_off: off } = await t.db
            .selectFrom('charge')
            .select('contract_off')
            .where('id', '=', s.charges[0]!)
            .executeTakeFirstOrThrow();
          expect(off).toBe(Math.max(0, fee - 9800));
          await sendClaims(t.context, { claimIds: [id] });
          const after = parts(fee, second);
          const words = [
            ...(undecided ? [] : [takesBack(s, before.pays, before.reasons)]),
            await answer(id, fee, after.pays, after.reasons),
          ];
          for (const together of apart ? words.map((word) => [word]) : [words])
            await postedRemittance(t, together);
          const balance = await where(s);
          expect([balance.paid, balance.reduced, balance.payer]).toEqual([after.pays, after.less, 0]);
          const { figures } = await readAccount(t.context, s.householdId);
          expect(figures.withPatient - figures.credit).toBe(after.rest - patientPays);
          expect(await brokenInvariants(t)).toEqual([]);
        },
      ),
      { numRuns: runs(14) },
    );
    await t.db.updateTable('practice').set({ write_offs_count: 'answer' }).execute();
  });
});
