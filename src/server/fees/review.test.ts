/** The yearly look at contracts. Worked by hand: visits of 145.00, of which Cedar Sound's contract allows 98.00. */
import fc from 'fast-check';
import { type PayerService, daysToPay, reviewed } from '../../core/fees/review';
import { type Cents, cents } from '../../core/money';
import { TODAY, fileDatabase } from '../../testing/database';
import { addDays } from '../../core/calendar';
import {
  CONTRACTED,
  brokenInvariants,
  charge,
  decided,
  household,
  postedRemittance,
  says,
  sentClaim,
} from '../../testing/desk';
import { runs } from '../../testing/runs';
import { addCoverage } from '../accounts/coverage';
import { buildClaims } from '../claims/build';
import { readClaim } from '../claims/read';
import { sendClaims } from '../claims/send';
import { reverseRemittance } from '../remittances/reverse';
import { readSchedules } from './read';
import { readReview } from './review';

const t = fileDatabase();
afterEach(async () => expect(await brokenInvariants(t)).toEqual([]));

const CEDAR = 'Cedar Sound Health';
const review = async (more: object = {}) => readReview(t.context, { from: TODAY, to: TODAY, ...more });
const of = async (name: string, more: object = {}) =>
  (await review(more)).payers.find(({ payer }) => payer === name);

test('what a payer allowed, paid, refused and cut, against the office, the contract and the best payer', async () => {
  expect((await review()).payers).toEqual([]);
  await postedRemittance(t, [says(await sentClaim(t), 6800)]);
  await postedRemittance(t, [says(await sentClaim(t), 5500, ['CO-45:60.00', 'PR-3:30.00'])]);
  await postedRemittance(t, [says(await sentClaim(t), 0, ['CO-97:145.00'])]);
  // One is not answered, and one was taken back.
  await sentClaim(t);
  const back = await postedRemittance(t, [says(await sentClaim(t), 6800, CONTRACTED)]);
  await reverseRemittance(t.context, { remittanceId: back, why: 'test' });
  const cedar = {
    lines: 5,
    denied: 1,
    deniedAmount: 14_500,
    answered: 2,
    units: 2,
    office: 29_000,
    contract: 19_600,
    contractUnits: 2,
    allowed: 18_300,
    paid: 12_300,
    below: 1,
    belowAmount: 1_300,
    againstOffice: 10_700,
    daysOf: 3,
    days: 0,
  };
  // 3 % of 183.00.
  expect(await of(CEDAR)).toMatchObject({ ...cedar, againstBest: 0, raise: 549, other: 0 });
  // Another payer allows 120.00 for the same.
  const [group, plan] = Object.entries(t.insurancePlans).find(([name]) => name.startsWith('NL'))!;
  const { patientId, householdId } = await household(t, false);
  await addCoverage(t.context, {
    patientId,
    insurancePlanId: plan,
    memberId: 'NL55120931',
    groupNumber: group,
    key: 'review-coverage',
  });
  await charge(t, t.context, patientId, '145.00');
  const [claimId] = await buildClaims(t.context, { householdId });
  await sendClaims(t.context, { claimIds: [claimId!] });
  const { content, payer } = await readClaim(t.context, claimId!);
  await postedRemittance(
    t,
    [
      decided(content.controlNumber, [
        {
          control: content.lines[0]!.control,
          charge: 14_500,
          paid: 10_000,
          reasons: ['CO-45:25.00', 'PR-3:20.00'],
        },
      ]),
    ],
    { payer: { name: payer, id: content.payer.payerId } },
  );
  const after = await review();
  expect(after.payers.map((one) => [one.payer, one.againstOffice, one.againstBest])).toEqual([
    [CEDAR, 10_700, 5_700],
    [payer, 2_500, 0],
  ]);
  expect(after.payers[0]!.services[0]!.best).toEqual({ payer, each: 12_000 });
  // By Northlight's own schedule Cedar would pay so much more or less.
  const other = (await readSchedules(t.context)).find(({ name }) => name === `${payer} contract`)!;
  const { rows } = await t.pool.query<{ fee: number }>(`select fee_on($1, '99213', $2) as fee`, [
    other.id,
    TODAY,
  ]);
  expect(await of(CEDAR, { scheduleId: other.id, raise: '10' })).toMatchObject({
    raise: 1_830,
    other: 2 * Number(rows[0]!.fee) - 18_300,
  });
  // A raise never brings more than is charged.
  expect((await of(payer, { raise: '99' }))!.raise).toBe(2_500);
  expect((await readReview(t.context, { from: addDays(TODAY, -9), to: addDays(TODAY, -1) })).payers).toEqual(
    [],
  );
});

test('what cannot be asked is said at its field, and who may not read books reads no contract', async () => {
  await expect(review({ from: '2026-12-31' })).rejects.toMatchObject({ field: 'from' });
  for (const raise of ['much', '-3', '1000'])
    await expect(review({ raise })).rejects.toMatchObject({ field: 'raise' });
  await expect(review({ scheduleId: 99_999_999 })).rejects.toThrow(/no such schedule/);
  await expect(readReview(t.as('front-desk'), {})).rejects.toThrow(/may not/);
});

test('property: the sums of a payer are those of its services, nothing is lost below zero against the best, and the best loses nothing', () => {
  const service = fc
    .record({
      payerId: fc.integer({ min: 1, max: 4 }),
      code: fc.constantFrom('A', 'B', 'C'),
      units: fc.integer({ min: 0, max: 20 }),
      each: fc.integer({ min: 0, max: 20_000 }),
      over: fc.integer({ min: 0, max: 20_000 }),
      rest: fc.integer({ min: 0, max: 99 }),
    })
    .map(({ payerId, code, units, each, over, rest }): PayerService => {
      const allowed = cents(units === 0 ? 0 : units * each + rest);
      return {
        payerId,
        payer: `Payer ${payerId}`,
        code,
        description: code,
        lines: units,
        denied: 0,
        deniedAmount: cents(0),
        answered: units,
        units,
        office: cents(allowed + units * over),
        contract: cents(0),
        contractUnits: 0,
        allowed,
        paid: allowed,
        below: 0,
        belowAmount: cents(0),
        days: units * 3,
        daysOf: units,
      };
    });
  const all = fc.uniqueArray(service, {
    selector: ({ payerId, code }) => `${payerId}/${code}`,
    minLength: 1,
    maxLength: 12,
  });
  fc.assert(
    fc.property(all, fc.integer({ min: 0, max: 9_900 }), (services, share) => {
      const payers = reviewed(services, { share, other: null });
      const total = (rows: readonly { againstOffice: Cents }[]): number =>
        rows.reduce((sum, row) => sum + row.againstOffice, 0);
      expect(total(payers)).toBe(services.reduce((sum, { office, allowed }) => sum + office - allowed, 0));
      for (const payer of payers) {
        expect(total(payer.services)).toBe(payer.againstOffice);
        expect(daysToPay(payer)).toBe(payer.units === 0 ? null : 3);
        for (const one of payer.services) {
          expect(one.againstBest).toBeGreaterThanOrEqual(0);
          expect(one.raise).toBeGreaterThanOrEqual(0);
          expect(one.allowed + one.raise).toBeLessThanOrEqual(Math.max(one.office, one.allowed));
          const rates = services
            .filter(({ code, units }) => code === one.code && units > 0)
            .map(({ allowed, units }) => allowed / units);
          if (one.units > 0 && one.allowed / one.units >= Math.max(...rates)) expect(one.againstBest).toBe(0);
        }
      }
      expect(payers.map(({ againstOffice }) => againstOffice)).toEqual(
        payers.map(({ againstOffice }) => againstOffice).sort((a, b) => b - a),
      );
    }),
    { numRuns: runs(200) },
  );
});
