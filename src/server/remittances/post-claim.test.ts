/**
 * What posting one claim of a remittance writes: entries and what they are about, the step in the claim's life, follow-ups with
 * their words and days, the next payer, and what a correction takes back. Days until somebody looks are common practice, no
 * source.
 */
import fc from 'fast-check';
import { sql } from 'kysely';
import { addDays } from '../../core/calendar';
import { cents } from '../../core/money';
import type { RemitClaim, Remittance } from '../../core/x12/remittance835';
import { type TestDatabase, TODAY, testDatabase } from '../../testing/database';
import {
  CONTRACTED,
  brokenInvariants,
  charge,
  decided,
  household,
  postedRemittance,
  says,
  sentClaim,
  secondCoverage,
} from '../../testing/desk';
import { readAccount } from '../account-page/read';
import { Refused } from '../access';
import { buildClaims } from '../claims/build';
import { byUser, moveClaims } from '../claims/life';
import { readClaim } from '../claims/read';
import { sendClaims } from '../claims/send';
import { settleWaiting } from '../follow-ups/work';
import { takeReceipt } from '../payments/take';
import { inTransaction } from '../use-case';
import { settleCredit } from './credit';
import { decideHeld, matchHeld, takeUpAgain } from './held';
import { findList } from '../lists/read';
import { postRemittance } from './post';
import { readRemittance } from './read';
import { reverseRemittance } from './reverse';

let t: TestDatabase;
/** Histories of one claim that are tried. */
const RUNS = Number(process.env.WERGELD_RUNS ?? 12);
let serial = 0;
beforeAll(async () => {
  t = await testDatabase();
});
afterAll(() => t.close());
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

type Sent = Awaited<ReturnType<typeof sentClaim>>;
const remit = async (claims: RemitClaim[], more: Partial<Remittance> = {}) =>
  readRemittance(t.context, await postedRemittance(t, claims, more));
const followUps = (s: { householdId: number }) =>
  t.db
    .selectFrom('follow_up')
    .select(['kind', 'words', 'amount', 'due_date', 'coverage_id', 'outcome', 'closed_at'])
    .where('household_id', '=', s.householdId)
    .orderBy('id')
    .execute();
const statusOf = async (s: Sent): Promise<string> => (await readClaim(t.context, s.claim.id)).status;
const second = ({ patientId }: { patientId: number }): Promise<number> => secondCoverage(t, patientId);
/** A claim that was sent to the next payer for the same charge, written by hand, whatever the first one has decided. */
async function askedNext(s: Sent, coverageId: number): Promise<{ number: string; control: string }> {
  const { id: _, created_at: __, status: ___, content, findings, ...same } = s.claim;
  return inTransaction(t.context, async (act) => {
    const number = `NEXT-${s.claim.control_number}`;
    const { id } = await act.db
      .insertInto('claim')
      .values({
        ...same,
        control_number: number,
        coverage_id: coverageId,
        content: JSON.stringify(content),
        findings: JSON.stringify(findings),
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    const line = await act.db
      .insertInto('claim_line')
      .values({ claim_id: id, number: 1, charge_id: s.charges[0]!, coverage_id: coverageId })
      .returning('id')
      .executeTakeFirstOrThrow();
    for (const [from, to] of [
      ['draft', 'ready'],
      ['ready', 'sent'],
    ] as const)
      await moveClaims(act.db, act, [{ id, status: from }], to, byUser(act), 'by hand');
    await act.note('built claims', { kind: 'claims', id: 1 });
    return { number, control: `L${line.id}` };
  });
}
const entriesOf = (s: Sent) =>
  t.db
    .selectFrom('posting as p')
    .innerJoin('entry as e', 'e.id', 'p.entry_id')
    .select(['e.kind', 'e.memo', 'p.account', 'p.amount', 'p.provider_id', 'p.location_id', 'p.claim_id'])
    .where('p.charge_id', '=', s.charges[0]!)
    .where('e.kind', '=', 'payer-decision')
    .orderBy('p.id')
    .execute();

test.each([
  ['CHK', 'check', 'cash/check'],
  ['ACH', 'transfer', 'cash/transfer'],
] as const)(
  'a decision paid by %s: its entry, what it is about, and the step of the claim',
  async (method, how, account) => {
    const s = await sentClaim(t);
    const { trace } = await remit([says(s, 6800)], { method });
    const entries = await entriesOf(s);
    expect(entries[0]).toEqual({
      kind: 'payer-decision',
      memo: `Cedar Sound Health, ${how} ${trace}`,
      account,
      amount: 6800,
      provider_id: s.claim.provider_id,
      location_id: s.claim.location_id,
      claim_id: s.claim.id,
    });
    const claim = await readClaim(t.context, s.claim.id);
    expect(claim.events.at(-1)).toMatchObject({
      status: 'closed',
      cause: `remittance ${trace}`,
      words: 'Cedar Sound Health decided: paid 68.00 of 145.00',
    });
  },
);

describe('what is passed on to the next payer', () => {
  test.each([
    ['1', '30.00 passed on to Cedar Sound Health: bill the next payer'],
    ['19', '30.00 passed on to Cedar Sound Health; the payer forwarded the claim, wait for its answer'],
  ])('status %s: is followed there, in three days', async (status, words) => {
    const s = await sentClaim(t);
    const coverageId = await second(s);
    await remit([says(s, 6800, CONTRACTED, status)]);
    expect(await followUps(s)).toMatchObject([
      { kind: 'next-payer', words, amount: 3000, due_date: addDays(TODAY, 3), coverage_id: coverageId },
    ]);
    expect(
      await t.db
        .selectFrom('payer_balance')
        .select('with_payer')
        .where('charge_id', '=', s.charges[0]!)
        .where('coverage_id', '=', coverageId)
        .executeTakeFirstOrThrow(),
    ).toEqual({ with_payer: 3000 });
    expect(await statusOf(s)).toBe('closed');
  });

  test('nothing passed on, nobody is followed there', async () => {
    const s = await sentClaim(t);
    await second(s);
    await remit([says(s, 9800, ['CO-45:47.00'])]);
    expect(await followUps(s)).toEqual([]);
  });

  test('the second payer decides beside what the first did: told right it posts, told wrong it waits', async () => {
    for (const [said, ok] of [
      ['OA-23:115.00', true],
      ['OA-23:114.00', false],
    ] as const) {
      const s = await sentClaim(t);
      const coverageId = await second(s);
      await remit([says(s, 6800)]);
      const { number, control } = await askedNext(s, coverageId);
      const page = await remit([
        decided(
          number,
          [
            {
              control,
              charge: 14_500,
              paid: ok ? 2000 : 2100,
              reasons: [said, 'PR-3:10.00'],
            },
          ],
          '2',
        ),
      ]);
      const { figures } = await readAccount(t.context, s.householdId);
      if (ok) {
        expect(page.rows[0]).toMatchObject({ status: 'posted' });
        expect(figures).toMatchObject({ withPatient: 1000, withPayer: 0 });
      } else {
        expect(page.rows[0]).toMatchObject({
          status: 'unmatched',
          holdKind: 'lines',
          holdReason: 'line 99213 says that earlier payers paid and reduced 114.00; here it is 115.00',
        });
        expect(figures).toMatchObject({ withPatient: 0, withPayer: 3000 });
      }
    }
  });
});

describe('follow-ups', () => {
  test('a denial in five days, a short payment in ten, a reason in seven', async () => {
    const [denied, short, looked] = [await sentClaim(t), await sentClaim(t), await sentClaim(t)];
    await remit([
      says(denied, 0, ['CO-16:145.00']),
      says(short, 5000, ['CO-45:65.00', 'PR-3:30.00']),
      says(looked, 0, ['PR-22:145.00']),
    ]);
    expect(await followUps(denied)).toMatchObject([
      { kind: 'denial', amount: 14_500, due_date: addDays(TODAY, 5), coverage_id: denied.claim.coverage_id },
    ]);
    expect(await followUps(short)).toMatchObject([
      {
        kind: 'short-payment',
        amount: 1800,
        due_date: addDays(TODAY, 10),
        words: 'Allowed 80.00, the contract says 98.00: 18.00 short',
      },
    ]);
    expect(await followUps(looked)).toMatchObject([
      { kind: 'reason', amount: 14_500, due_date: addDays(TODAY, 7) },
    ]);
    for (const s of [denied, looked]) expect(await statusOf(s)).toBe('decided');
    expect(await statusOf(short)).toBe('closed');
  });

  test('a denial is over when its line is paid, and stays while part of it waits', async () => {
    const [whole, part] = [await sentClaim(t), await sentClaim(t)];
    await remit([says(whole, 0, ['CO-16:145.00']), says(part, 0, ['CO-16:145.00'])]);
    const { trace } = await remit([says(whole, 6800), says(part, 6800, ['CO-45:47.00', 'OA-59:30.00'])]);
    expect(await followUps(whole)).toMatchObject([
      { kind: 'denial', outcome: `Settled with remittance ${trace}`, closed_at: expect.anything() as Date },
    ]);
    expect((await followUps(part))[0]).toMatchObject({ kind: 'denial', closed_at: null });
    expect(await statusOf(part)).toBe('decided');
  });
});

describe('follow-ups when a decision does not stand any more', () => {
  const open = async (s: Sent) =>
    (await followUps(s)).filter(({ closed_at }) => closed_at === null).map(({ kind }) => kind);

  test('a denial whose payment is reversed comes back; posted anew it is over again; itself reversed it is over', async () => {
    const s = await sentClaim(t);
    const denial = await remit([says(s, 0, ['CO-16:145.00'])]);
    const payment = await remit([says(s, 6800)]);
    expect(await open(s)).toEqual([]);
    for (let round = 0; round < 2; round += 1) {
      await reverseRemittance(t.context, { remittanceId: payment.id, why: 'bounced' });
      expect(await statusOf(s)).toBe('decided');
      // What was the patient's by the payment waits for a new word beside it.
      expect((await open(s)).sort()).toEqual(['denial', 'suspended']);
      const { rows } = await findList(t.context, 'follow-ups', { search: s.claim.control_number });
      expect(rows.find(({ kind }) => kind === 'denial')!.notes[0]).toMatchObject({
        words: `Open again: remittance ${payment.trace} was taken back`,
        by: 'manager',
      });
      await takeUpAgain(t.context, { remittanceId: payment.id });
      await postRemittance(t.context, payment.id);
      expect(await open(s)).toEqual([]);
    }
    await reverseRemittance(t.context, { remittanceId: payment.id, why: 'bounced' });
    await reverseRemittance(t.context, { remittanceId: denial.id, why: 'another patient' });
    expect(await statusOf(s)).toBe('accepted');
    expect((await followUps(s)).filter(({ kind }) => kind === 'denial')).toMatchObject([
      { outcome: 'Its decision was reversed: another patient', closed_at: expect.anything() as Date },
    ]);
    // Reversed the other way round, nothing of it comes back.
    const other = await sentClaim(t);
    const first = await remit([says(other, 0, ['CO-16:145.00'])]);
    const then = await remit([says(other, 6800)]);
    for (const { id } of [first, then]) await reverseRemittance(t.context, { remittanceId: id, why: 'x' });
    expect(await open(other)).toEqual(['suspended']);
    expect(await statusOf(other)).toBe('accepted');
  });

  test('a denial is over as well when nothing is paid, but nothing waits with the payer any more', async () => {
    const s = await sentClaim(t);
    await remit([says(s, 0, ['CO-16:145.00'])]);
    await remit([says(s, 0, ['CO-45:47.00', 'PR-1:98.00'])]);
    expect(await open(s)).toEqual([]);
    expect(await statusOf(s)).toBe('closed');
  });

  test('the denial and its payment reversed at the same moment: the claim waits for its payer, nothing is left open', async () => {
    for (let turn = 0; turn < 3; turn += 1) {
      const s = await sentClaim(t);
      const both = [await remit([says(s, 0, ['CO-16:145.00'])]), await remit([says(s, 6800)])];
      await Promise.all(
        both.map(({ id }) => reverseRemittance(t.context, { remittanceId: id, why: 'both' })),
      );
      expect([await statusOf(s), await open(s)]).toEqual(['accepted', ['suspended']]);
    }
  });

  test('one of several claims reversed leaves the others’ follow-ups', async () => {
    const [a, b] = [await sentClaim(t), await sentClaim(t)];
    const page = await remit([says(a, 0, ['CO-16:145.00']), says(b, 0, ['CO-16:145.00'])]);
    await reverseRemittance(t.context, {
      remittanceId: page.id,
      remittanceClaimId: page.rows[0]!.id,
      why: 'x',
    });
    expect([await open(a), await open(b)]).toEqual([[], ['denial']]);
  });

  test('what we had settled and a payment undid is followed up again when that payment is reversed', async () => {
    const s = await sentClaim(t);
    await remit([says(s, 0, ['CO-16:145.00'])]);
    await settleWaiting(t.context, { chargeId: s.charges[0]!, to: 'off', why: 'our mistake' });
    const payment = await remit([says(s, 6800)]);
    await reverseRemittance(t.context, { remittanceId: payment.id, why: 'x' });
    expect((await open(s)).includes('denial')).toBe(true);
  });

  test('corrected, and taken back by the payer: what the first decision raised is over, with the reason', async () => {
    const [corrected, back] = [await sentClaim(t), await sentClaim(t)];
    const coverageId = await second(back);
    const short = ['CO-45:65.00', 'PR-3:30.00'];
    await remit([says(corrected, 5000, short), says(back, 5000, short)]);
    expect(await open(corrected)).toEqual(['short-payment']);
    expect((await open(back)).sort()).toEqual(['next-payer', 'short-payment']);
    const right = await remit([says(corrected, 6800)]);
    await decideHeld(t.context, {
      remittanceClaimId: right.rows[0]!.id,
      as: 'correction',
      why: 'by telephone',
    });
    expect(await followUps(corrected)).toMatchObject([
      { kind: 'short-payment', outcome: `Corrected by remittance ${right.trace}` },
    ]);
    const { trace } = await remit([says(back, -5000, ['CO-45:-65.00', 'PR-3:-30.00'], '22')]);
    for (const row of await followUps(back))
      expect(row).toMatchObject({ outcome: `Taken back with remittance ${trace}` });
    expect(await statusOf(back)).toBe('accepted');
    const { rows } = await sql<{ n: number }>`
      select with_payer as n
      from payer_balance
      where charge_id = ${back.charges[0]!} and coverage_id = ${coverageId}`.execute(t.db);
    expect(rows).toEqual([{ n: 0 }]);
  });

  test('taken back in part by a person’s word, the first decision still stands, and so does what it raised', async () => {
    const s = await sentClaim(t);
    await remit([says(s, 5000, ['CO-45:65.00', 'PR-3:30.00'])]);
    const part = await remit([says(s, -1000, ['CO-45:-65.00', 'PR-3:-30.00', 'OA-59:-40.00'], '22')]);
    await decideHeld(t.context, { remittanceClaimId: part.rows[0]!.id, as: 'meant', why: 'by telephone' });
    expect(await open(s)).toContain('short-payment');
  });
});

test('property: denied, paid, taken back and reversed in any order, what waits on a decided claim is followed, and nothing else', async () => {
  const denied = (s: Sent) => says(s, 0, ['CO-16:145.00']);
  const paid = (s: Sent) => says(s, 6800);
  const back = (s: Sent) => says(s, -6800, ['CO-45:-47.00', 'PR-3:-30.00'], '22');
  await fc.assert(
    fc.asyncProperty(
      fc.array(
        fc.record({
          what: fc.constantFrom('deny', 'pay', 'back', 'reverse', 'anew'),
          which: fc.nat({ max: 3 }),
        }),
        { minLength: 2, maxLength: 7 },
      ),
      async (steps) => {
        const s = await sentClaim(t);
        const pages: number[] = [];
        for (const { what, which } of steps) {
          const old = pages[which % Math.max(pages.length, 1)];
          const quiet = (error: unknown) => expect(error).toBeInstanceOf(Refused);
          if (what === 'deny' || what === 'pay' || what === 'back') {
            const claim = { deny: denied, pay: paid, back }[what](s);
            pages.push((await remit([{ ...claim, remarks: [`N${pages.length}`] }])).id);
          } else if (old !== undefined && what === 'reverse')
            await reverseRemittance(t.context, { remittanceId: old, why: 'x' }).catch(quiet);
          else if (old !== undefined) {
            await takeUpAgain(t.context, { remittanceId: old }).catch(quiet);
            await postRemittance(t.context, old);
          }
          const { waits } = await t.db
            .selectFrom('payer_balance')
            .select('with_payer as waits')
            .where('charge_id', '=', s.charges[0]!)
            .where('coverage_id', '=', s.claim.coverage_id)
            .executeTakeFirstOrThrow();
          const open = (await followUps(s)).filter(
            ({ kind, closed_at }) => kind === 'denial' && closed_at === null,
          );
          const status = await statusOf(s);
          if (status === 'decided')
            expect([status, waits, open.length > 0]).toEqual([status, waits, waits > 0]);
          else expect([status, open.length]).toEqual([status, 0]);
        }
      },
    ),
    { numRuns: RUNS },
  );
}, 120_000);

describe('taken back', () => {
  test('a denial that stands keeps the claim decided; paid and taken back, it waits for the payer again', async () => {
    const s = await sentClaim(t);
    await remit([says(s, 0, ['CO-16:145.00'])]);
    const page = await remit([says(s, 0, ['CO-16:-145.00'], '22')]);
    expect(page.rows[0]).toMatchObject({
      status: 'noted',
      claimId: s.claim.id,
      note: 'it takes back a denial, of which nothing stood',
      holdReason: '',
    });
    expect(await statusOf(s)).toBe('decided');
    const paid = await sentClaim(t);
    await remit([says(paid, 6800)]);
    await remit([says(paid, -6800, ['CO-45:-47.00', 'PR-3:-30.00'], '22')]);
    expect(await statusOf(paid)).toBe('accepted');
  });

  test('by a correction: what was paid waits for the payer with the reason, what paid nothing is only reversed', async () => {
    const [paid, unpaid] = [await sentClaim(t), await sentClaim(t)];
    const first = await remit([says(paid, 6800), says(unpaid, 0, ['CO-45:47.00', 'PR-1:98.00'])]);
    const again = await remit([
      says(paid, 8800, ['CO-45:47.00', 'PR-3:10.00']),
      says(unpaid, 9800, ['CO-45:47.00']),
    ]);
    for (const row of again.rows) {
      expect(row).toMatchObject({ status: 'unmatched', holdKind: 'second' });
      await decideHeld(t.context, { remittanceClaimId: row.id, as: 'correction', why: 'by telephone' });
    }
    expect((await readRemittance(t.context, first.id)).rows).toMatchObject([
      {
        status: 'unmatched',
        holdKind: 'corrected',
        holdReason: `corrected by ${again.trace}: its 68.00 goes back to the payer, or the payer takes it`,
      },
      { status: 'reversed', holdReason: '' },
    ]);
    const held = await t.db
      .selectFrom('entry')
      .select('memo')
      .where('key', 'like', `held:${first.rows[0]!.id}:%`)
      .execute();
    expect(held).toEqual([{ memo: `Held: claim ${paid.claim.control_number}` }]);
    const reversals = await t.db
      .selectFrom('entry as x')
      .innerJoin('posting as p', 'p.entry_id', 'x.id')
      .select('x.memo')
      .distinct()
      .where('x.kind', '=', 'reversal')
      .where('p.remittance_id', '=', first.id)
      .execute();
    expect(reversals).toEqual([{ memo: 'by telephone' }]);
    for (const row of (await readRemittance(t.context, again.id)).rows)
      expect(row).toMatchObject({ status: 'posted', holdKind: '', holdReason: '' });
  });
});

describe('a person’s choice that does not fit', () => {
  const strange = async (s: Sent) => {
    const claim = { ...says(s, 6800), controlNumber: `NONE-${(serial += 1)}` };
    return (await remit([claim])).rows[0]!;
  };

  test('a claim that was not sent, one with a void charge: said, and nothing moves', async () => {
    const made = await household(t);
    const chargeId = await charge(t, t.context, made.patientId, '100.00');
    await charge(t, t.context, made.patientId, '45.00');
    const [claimId] = await buildClaims(t.context, { householdId: made.householdId });
    const { control_number: controlNumber } = await t.db
      .selectFrom('claim')
      .select('control_number')
      .where('id', '=', claimId!)
      .executeTakeFirstOrThrow();
    const s = await sentClaim(t);
    const row = await strange(s);
    await expect(matchHeld(t.context, { remittanceClaimId: row.id, controlNumber })).rejects.toThrow(
      `This does not fit that claim: our claim ${controlNumber} was not sent: it is ready`,
    );
    await sendClaims(t.context, { claimIds: [claimId!] });
    await t.owner.updateTable('charge').set({ status: 'void' }).where('id', '=', chargeId).execute();
    await expect(matchHeld(t.context, { remittanceClaimId: row.id, controlNumber })).rejects.toThrow(
      `a charge of our claim ${controlNumber} is void`,
    );
    await t.owner.updateTable('charge').set({ status: 'done' }).where('id', '=', chargeId).execute();
    const { figures } = await readAccount(t.context, made.householdId);
    expect(figures).toMatchObject({ withPayer: 14_500, withPatient: 0 });
  });

  test('while part of its money is set off it is not posted', async () => {
    const s = await sentClaim(t);
    const row = await strange(s);
    const other = await sentClaim(t);
    const took = await remit([says(other, 6800)], {
      payment: cents(5800),
      providerAdjustments: [{ code: 'WO', reference: '', amount: cents(1000) }],
    });
    const { id: adjustmentId, open } = took.providerAdjustments[0]!.credit!;
    await settleCredit(t.context, {
      adjustmentId,
      open,
      as: 'refund',
      against: `claim-${row.id}`,
      why: 'x',
      key: `post-claim-set-off-${row.id}`,
    });
    await expect(
      matchHeld(t.context, { remittanceClaimId: row.id, controlNumber: s.claim.control_number }),
    ).rejects.toThrow('Part of its money is set off');
  });
});

test('matched from the credit: the money comes from there, and no cash a second time', async () => {
  const s = await sentClaim(t);
  const { rows, trace } = await remit([{ ...says(s, 6800), controlNumber: `NONE-${(serial += 1)}` }]);
  await matchHeld(t.context, { remittanceClaimId: rows[0]!.id, controlNumber: s.claim.control_number });
  expect((await entriesOf(s))[0]).toMatchObject({
    account: 'credit/payer',
    amount: 6800,
    memo: `Cedar Sound Health, transfer ${trace}`,
  });
});

test('what one claim is decided anew leaves what is overpaid elsewhere to its own follow-up', async () => {
  const [a, b] = [await sentClaim(t), await sentClaim(t)];
  const page = await remit([says(a, 6800), { ...says(b, 6800), controlNumber: `NONE-${(serial += 1)}` }]);
  await takeReceipt(t.context, {
    householdId: a.householdId,
    tenders: [{ tender: 'cash', amount: '30.00' }],

    key: `post-claim-paid-${a.householdId}`,
  });
  await reverseRemittance(t.context, {
    remittanceId: page.id,
    remittanceClaimId: page.rows[0]!.id,
    why: 'look',
  });
  await matchHeld(t.context, {
    remittanceClaimId: page.rows[1]!.id,
    controlNumber: b.claim.control_number,
  });
  expect((await readAccount(t.context, a.householdId)).figures).toMatchObject({
    withPatient: 0,
    held: 3000,
    credit: 0,
  });
});
