/** Bills to next payers: what was passed on, with what the payer before decided, and what stands in the way. */
import fc from 'fast-check';
import { type Insertable, sql } from 'kysely';
import { addDays } from '../../core/calendar';
import type { DB } from '../../db/views';
import { TODAY, fileDatabase } from '../../testing/database';
import {
  brokenInvariants,
  charge,
  decided,
  household,
  postedRemittance,
  secondCoverage,
  sentClaim,
} from '../../testing/desk';
import { runs } from '../../testing/runs';
import { readAccount } from '../account-page/read';
import { findList } from '../lists/read';
import { reverseRemittance } from '../remittances/reverse';
import { buildClaims } from './build';
import { claimText, readClaim } from './read';
import { sendClaims } from './send';

const t = fileDatabase();
const later = (householdId: number) => buildClaims(t.context, { householdId, which: 'next' });
const stateOf = async (claimId: number) =>
  t.db
    .selectFrom('claim')
    .select(['status', 'position', 'purpose', 'coverage_id'])
    .where('id', '=', claimId)
    .executeTakeFirstOrThrow();

/** A visit of 145.00, sent to the first payer of two. */
async function twoPayers() {
  const s = await sentClaim(t);
  const second = await secondCoverage(t, s.patientId);
  return { ...s, second };
}
const FIRST = ['CO-45:47.00', 'PR-3:30.00'];
const firstDecides = (s: Awaited<ReturnType<typeof twoPayers>>, paid = 6800, reasons = FIRST, status = '1') =>
  postedRemittance(t, [
    decided(s.claim.control_number, [{ control: s.controls[0]!, charge: 14_500, paid, reasons }], status),
  ]);

test('what the first payer passed on is billed to the next one, whole, with its decision as it was received', async () => {
  const s = await twoPayers();
  expect(await later(s.householdId)).toEqual([]);
  await firstDecides(s);
  // Not by who builds for first payers, and not among what waits for that.
  expect(await buildClaims(t.context, { householdId: s.householdId })).toEqual([]);
  expect((await findList(t.context, 'unbilled', { search: s.number })).count).toBe(0);
  const [id, ...more] = await later(s.householdId);
  expect(more).toEqual([]);
  expect(await later(s.householdId)).toEqual([]);
  expect(await stateOf(id!)).toEqual({
    status: 'ready',
    position: 2,
    purpose: 'bill',
    coverage_id: s.second,
  });
  const { content } = await readClaim(t.context, id!);
  expect(content).toMatchObject({ total: 14_500, coverageOrder: 2 });
  expect(content.otherPayers).toMatchObject([
    {
      coverageOrder: 1,
      payer: { name: 'Cedar Sound Health' },
      decided: {
        paid: 6800,
        date: TODAY,
        adjustments: [],
        lines: [
          {
            number: 1,
            paid: 6800,
            adjustments: [
              { group: 'CO', reason: '45', amount: 4700 },
              { group: 'PR', reason: '3', amount: 3000 },
            ],
          },
        ],
      },
    },
  ]);
  await sendClaims(t.context, { claimIds: [id!] });
  const text = await claimText(t.context, await readClaim(t.context, id!));
  for (const segment of [
    'SBR*S*18',
    'SBR*P*18',
    'AMT*D*68.00',
    'SVD*',
    'CAS*PR*3*30.00',
    'DTP*573*D8*20260316',
  ])
    expect(text).toContain(segment);
  const [line] = await t.db.selectFrom('claim_line').select('id').where('claim_id', '=', id!).execute();
  await postedRemittance(t, [
    decided(
      content.controlNumber,
      [{ control: `L${line!.id}`, charge: 14_500, paid: 2000, reasons: ['OA-23:115.00', 'PR-2:10.00'] }],
      '2',
    ),
  ]);
  const { figures } = await readAccount(t.context, s.householdId);
  expect([figures.withPayer, figures.withPatient]).toEqual([0, 1000]);
  expect((await stateOf(id!)).status).toBe('closed');
  expect(await brokenInvariants(t)).toEqual([]);
});

test('the first payer is told of the next one by name', async () => {
  const made = await household(t, true);
  await secondCoverage(t, made.patientId);
  await charge(t, t.context, made.patientId, '145.00');
  const [id] = await buildClaims(t.context, { householdId: made.householdId });
  const { content } = await readClaim(t.context, id!);
  expect(content.coverageOrder).toBe(1);
  expect(content.otherPayers).toEqual([
    expect.objectContaining({
      coverageOrder: 2,
      subscriber: expect.objectContaining({ groupNumber: 'NEXT' }),
    }),
  ]);
  expect(content.otherPayers![0]).not.toHaveProperty('decided');
});

test('a decision that is taken back stops the bill that tells of it; the new one is told instead', async () => {
  const s = await twoPayers();
  const remittanceId = await firstDecides(s);
  const [id] = await later(s.householdId);
  await reverseRemittance(t.context, { remittanceId, why: 'posted by mistake' });
  await expect(sendClaims(t.context, { claimIds: [id!] })).rejects.toThrow(
    /Cedar Sound Health comes before, and no decision of it stands/,
  );
  await firstDecides(s, 9800, ['CO-45:27.00', 'PR-3:20.00']);
  await sendClaims(t.context, { claimIds: [id!] });
  const { content } = await readClaim(t.context, id!);
  expect(content.otherPayers![0]!.decided).toMatchObject({ paid: 9800, lines: [{ paid: 9800 }] });
  expect(await brokenInvariants(t)).toEqual([]);
});

test('each of two claims goes on to the next payer by itself', async () => {
  const s = await twoPayers();
  const day = '2026-03-14';
  await charge(t, t.context, s.patientId, '90.00', '99213', day as never);
  const [other] = await buildClaims(t.context, { householdId: s.householdId });
  await sendClaims(t.context, { claimIds: [other!] });
  await firstDecides(s);
  const { content } = await readClaim(t.context, other!);
  await postedRemittance(t, [
    decided(content.controlNumber, [
      { control: content.lines[0]!.control, charge: 9000, paid: 6000, reasons: ['PR-2:30.00'] },
    ]),
  ]);
  const built = await later(s.householdId);
  const said = await Promise.all(built.map(async (id) => (await readClaim(t.context, id)).content));
  expect(said.map(({ total, otherPayers }) => [total, otherPayers![0]!.decided!.paid]).sort()).toEqual([
    [14_500, 6800],
    [9000, 6000],
  ]);
});

test('property: whatever two payers decide of a visit, and say anew, the next one is told what stands, and the patient owes the rest', async () => {
  const cents = (n: number): string => (n / 100).toFixed(2);
  const word = fc.record({ off: fc.integer({ min: 1, max: 4000 }), left: fc.integer({ min: 1, max: 5000 }) });
  const visit = fc.record({
    fees: fc.array(fc.integer({ min: 10_000, max: 30_000 }), { minLength: 1, maxLength: 2 }),
    first: word,
    anew: fc.option(word, { nil: undefined }),
    share: fc.integer({ min: 0, max: 100 }),
  });
  await fc.assert(
    fc.asyncProperty(visit, async ({ fees, first, anew, share }) => {
      const s = await sentClaim(t, fees.map(cents));
      await secondCoverage(t, s.patientId);
      const says = (one: { off: number; left: number }, sign = 1, status = '1') =>
        postedRemittance(t, [
          decided(
            s.claim.control_number,
            fees.map((fee, at) => ({
              control: s.controls[at]!,
              charge: sign * fee,
              paid: sign * (fee - one.off - one.left),
              reasons: [`CO-45:${cents(sign * one.off)}`, `PR-2:${cents(sign * one.left)}`],
            })),
            status,
          ),
        ]);
      await says(first);
      if (anew) {
        await says(first, -1, '22');
        await says(anew);
      }
      const stands = anew ?? first;
      const [id, ...more] = await later(s.householdId);
      expect(more).toEqual([]);
      await sendClaims(t.context, { claimIds: [id!] });
      const { content } = await readClaim(t.context, id!);
      const told = content.otherPayers![0]!.decided!;
      // By own arithmetic: paid, taken off and left of each line, and of all of them.
      expect(
        told.lines.map(({ paid, adjustments }) => [paid, ...adjustments.map(({ amount }) => amount)]),
      ).toEqual(fees.map((fee) => [fee - stands.off - stands.left, stands.off, stands.left]));
      const pays = Math.floor((stands.left * share) / 100);
      await postedRemittance(t, [
        decided(
          content.controlNumber,
          fees.map((fee, at) => ({
            control: content.lines[at]!.control,
            charge: fee,
            paid: pays,
            reasons: [
              `OA-23:${cents(fee - stands.left)}`,
              ...(stands.left > pays ? [`PR-2:${cents(stands.left - pays)}`] : []),
            ],
          })),
          '2',
        ),
      ]);
      const { figures } = await readAccount(t.context, s.householdId);
      expect([figures.withPayer, figures.withPatient]).toEqual([0, fees.length * (stands.left - pays)]);
    }),
    { numRuns: runs(12) },
  );
  expect(await brokenInvariants(t)).toEqual([]);
});

test('a predetermination is no bill: what it is about waits to be billed, and one claim of each purpose is current', async () => {
  const s = await sentClaim(t);
  const { id: _, created_at: __, status: ___, content: ____, findings: _____, ...same } = s.claim;
  const write = (number: string, purpose: 'bill' | 'predetermination') =>
    t.owner.transaction().execute(async (tx) => {
      const { id } = await tx
        .insertInto('claim')
        .values({ ...same, control_number: number, purpose, transmission_id: null, sent_date: null })
        .returning('id')
        .executeTakeFirstOrThrow();
      await tx
        .insertInto('claim_line')
        .values({ claim_id: id, purpose, number: 1, charge_id: s.charges[0]!, coverage_id: same.coverage_id })
        .execute();
      return id;
    });
  const asked = await write('PRE1', 'predetermination');
  await expect(write('PRE2', 'predetermination')).rejects.toThrow(/one_current_claim/);
  await expect(write('BILL2', 'bill')).rejects.toThrow(/one_current_claim/);
  const { rows } = await sql<{ purpose: string; bills: boolean }>`
    select purpose, bills from claim_line where charge_id = ${s.charges[0]!} order by id`.execute(t.db);
  expect(rows).toEqual([
    { purpose: 'bill', bills: true },
    { purpose: 'predetermination', bills: false },
  ]);
  // An answer to it moves no money: it is none of our bills.
  await postedRemittance(t, [
    decided('PRE1', [{ control: 'L1', charge: 14_500, paid: 5000, reasons: ['PR-2:95.00'] }], '25'),
  ]);
  expect(
    await t.db
      .selectFrom('remittance_claim')
      .select(['status', 'claim_id'])
      .orderBy('id', 'desc')
      .executeTakeFirst(),
  ).toEqual({ status: 'unmatched', claim_id: null });
  await expect(
    sql`
      with e as (
        insert into entry (kind, posting_date, business_date, user_id, memo)
        values ('payer-decision', '2026-03-16', '2026-03-16', 'x', 'x')
        returning id
      )
      insert into posting (
        entry_id, account, amount, household_id, patient_id, case_id, charge_id, coverage_id, payer_id, claim_id
      )
      select e.id, 'receivable/payer', n, ${s.householdId}, ${s.patientId}, ${s.caseId}, ${s.charges[0]!},
        ${same.coverage_id}, ${same.payer_id}, ${asked}
      from e, (values (5), (-5)) a (n)`.execute(t.owner),
  ).rejects.toThrow(/do not belong together/);
  // The bill is gone: the charge waits to be billed, whatever was asked beforehand.
  await t.owner
    .updateTable('claim_line')
    .set({ current: false })
    .where('claim_id', '=', s.claim.id)
    .execute();
  const [anew] = await buildClaims(t.context, { householdId: s.householdId });
  expect(anew).toBeGreaterThan(asked);
  await expect(
    t.owner.updateTable('claim_line').set({ purpose: 'bill' }).where('claim_id', '=', asked).execute(),
  ).rejects.toThrow(/one_current_claim|foreign key/);
});

test('what the payer allowed beforehand goes with the claims of its days, under its number', async () => {
  const { caseId, patientId, householdId } = await household(t, true);
  const { payer_id } = await t.db
    .selectFrom('coverage_plan')
    .select('payer_id')
    .where('case_id', '=', caseId)
    .executeTakeFirstOrThrow();
  const allow = (more: Partial<Insertable<DB['care_authorization']>>) =>
    t.db
      .insertInto('care_authorization')
      .values({
        case_id: caseId,
        payer_id,
        kind: 'prior-authorization',
        state: 'approved',
        answered_on: TODAY,
        ...more,
      })
      .execute();
  await allow({ number: 'A1', valid_to: addDays(TODAY, -1) });
  await allow({ number: 'A2', valid_from: TODAY, visits: 4 });
  await allow({ number: 'R1', kind: 'referral', state: 'in-part' });
  await allow({ number: '', state: 'asked', answered_on: null });
  await charge(t, t.context, patientId, '145.00');
  await charge(t, t.context, patientId, '90.00', '99213', addDays(TODAY, -1));
  const claims = await buildClaims(t.context, { householdId });
  const said = await Promise.all(claims.map(async (id) => (await readClaim(t.context, id)).content));
  expect(
    said
      .map(({ total, authorizationNumber, referralNumber }) => [total, authorizationNumber, referralNumber])
      .sort(),
  ).toEqual([
    [14_500, 'A2', 'R1'],
    [9000, 'A1', 'R1'],
  ]);
  for (const wrong of [
    { number: '' },
    { number: 'X', state: 'asked' as const },
    { number: 'X', visits: 0 },
    { number: 'X', valid_from: TODAY, valid_to: addDays(TODAY, -1) },
    { number: 'X', kind: 'hope' as never },
  ])
    await expect(allow(wrong)).rejects.toThrow(/check/);
});
