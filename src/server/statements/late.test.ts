/** Late charges over histories: whatever was charged, sent, paid and posted in whatever order. */
import fc from 'fast-check';
import { type CalendarDate, addDays } from '../../core/calendar';
import { cents, sum } from '../../core/money';
import { TODAY, fileDatabase } from '../../testing/database';
import { charge, household } from '../../testing/desk';
import { type Context, Refused } from '../access';
import { voidCharge } from '../accounts/charges';
import { readAccount } from '../account-page/read';
import { checkBooks } from '../books/check';
import { takeReceipt } from '../payments/take';
import { postLate, readLate } from './late';
import { prepareStatement } from './prepare';
import { runs } from '../../testing/runs';

const t = fileDatabase();

let serial = 0;
const key = (): string => `late-test-${(serial += 1)}`;
const on = (day: CalendarDate): Context => ({ ...t.context, today: day });
const lateOn = async (householdId: number) =>
  (await readAccount(t.context, householdId)).charges.filter(
    ({ kind, status }) => kind === 'late' && status === 'done',
  );

test('property: a late charge is what was previewed, once a cycle, on what is past due and on no late charge', async () => {
  const step = fc.record({
    what: fc.constantFrom('charge', 'send', 'send', 'pay', 'post', 'post', 'void'),
    days: fc.integer({ min: 0, max: 35 }),
    amount: fc.integer({ min: 1, max: 30_000 }),
  });
  const rules = fc.record({
    late_kind: fc.constantFrom('none' as const, 'flat' as const, 'yearly' as const),
    late_flat: fc.integer({ min: 0, max: 900 }).map(cents),
    late_rate: fc.integer({ min: 0, max: 2400 }),
    late_least: fc.constant(cents(0)),
    late_most: fc.constantFrom(null, cents(500)),
    cycle_number: fc.integer({ min: 10, max: 40 }),
  });
  await fc.assert(
    fc.asyncProperty(fc.array(step, { minLength: 4, maxLength: 10 }), rules, async (steps, rule) => {
      await t.db
        .updateTable('statement_policy')
        .set({ ...rule, late_rate: rule.late_rate as never, cycle: 'days' })
        .execute();
      const made = await household(t, false, { sure: true });
      const { householdId, patientId } = made;
      let day = addDays(TODAY, -600);
      await charge(t, on(day), patientId, '200.00', '99213', day);
      const quiet = (error: unknown): null => {
        if (!(error instanceof Refused)) throw error;
        return null;
      };
      let posted: CalendarDate | null = null;
      for (const { what, days, amount } of steps) {
        day = addDays(day, days);
        const text = (amount / 100).toFixed(2);
        if (what === 'charge') await charge(t, on(day), patientId, text, '99213', day);
        else if (what === 'send') await prepareStatement(on(day), { householdId, key: key() }).catch(quiet);
        else if (what === 'pay')
          await takeReceipt(on(day), {
            householdId,
            tenders: [{ tender: 'cash', amount: text }],
            key: key(),
          });
        else if (what === 'void') {
          const last = (await lateOn(householdId)).at(-1);
          if (last) await voidCharge(on(day), { chargeId: last.id, why: 'x' }).catch(quiet);
        } else {
          const [row] = await readLate(on(day), [householdId]);
          const before = await lateOn(householdId);
          const last =
            before
              .map(({ date }) => date)
              .sort()
              .at(-1) ?? null;
          const done = await postLate(on(day), { householdIds: [householdId], key: key() }).catch(quiet);
          expect(done?.amount ?? 0).toBe(row?.amount ?? 0);
          const after = await lateOn(householdId);
          expect(sum(after.map(({ added }) => added)) - sum(before.map(({ added }) => added))).toBe(
            done?.amount ?? 0,
          );
          if (!done) continue;
          posted = day;
          // Not before its cycle has come round since the last one that stands.
          if (last !== null) expect(addDays(last, rule.cycle_number) <= day).toBe(true);
          if (rule.late_kind === 'flat') expect(done.amount).toBe(rule.late_flat);
          else if (rule.late_most !== null) expect(done.amount).toBeLessThanOrEqual(rule.late_most);
          // Never more than the yearly rate of all that is past due since the beginning.
          if (rule.late_kind === 'yearly')
            expect(done.amount).toBeLessThanOrEqual(
              Math.ceil((row!.pastDue * rule.late_rate * 600) / 10_000 / 365) + 1,
            );
          // Again on the day, nothing more.
          expect(
            await postLate(on(day), { householdIds: [householdId], key: key() }).catch(quiet),
          ).toBeNull();
        }
      }
      if (rule.late_kind === 'none') expect(posted).toBeNull();
    }),
    { numRuns: runs(12) },
  );
  expect((await checkBooks(t.db)).flatMap(({ faults }) => faults)).toEqual([]);
});

test('a late charge bears none, and one case can be spared', async () => {
  await t.db
    .updateTable('statement_policy')
    .set({ late_kind: 'flat', late_flat: cents(500), cycle: 'days', cycle_number: 20 })
    .execute();
  const { householdId, patientId } = await household(t, false, { sure: true });
  const start = addDays(TODAY, -200);
  await charge(t, on(start), patientId, '50.00', '99213', start);
  await prepareStatement(on(start), { householdId, key: key() });
  await postLate(on(addDays(start, 60)), { householdIds: [householdId], key: key() });
  await prepareStatement(on(addDays(start, 60)), { householdId, key: key() });
  // The charge itself is paid; what is past due now is the late charge alone.
  await takeReceipt(on(addDays(start, 61)), {
    householdId,
    tenders: [{ tender: 'cash', amount: '50.00' }],
    key: key(),
  });
  const [alone] = await readLate(on(addDays(start, 120)), [householdId]);
  expect(alone).toMatchObject({ pastDue: 500, amount: 0, spared: 'what is past due bears none' });
  const spared = await household(t, false, { sure: true });
  await charge(t, on(start), spared.patientId, '50.00', '99213', start);
  await prepareStatement(on(start), { householdId: spared.householdId, key: key() });
  const due = async () => (await readLate(on(addDays(start, 60)), [spared.householdId]))[0]!;
  expect(await due()).toMatchObject({ amount: 500 });
  await t.db
    .updateTable('care_case')
    .set({ late_charges: false })
    .where('patient_id', '=', spared.patientId)
    .execute();
  expect(await due()).toMatchObject({ amount: 0, spared: 'what is past due bears none' });
});
