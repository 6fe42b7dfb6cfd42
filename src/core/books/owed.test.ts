import fc from 'fast-check';
import { type CalendarDate, addDays, calendarDate } from '../calendar';
import { type Cents, ZERO, cents, sum } from '../money';
import { type Debt, type Stated, askedFor, owedOf } from './owed';

const START = calendarDate('2026-01-01');
const day = (n: number): CalendarDate => addDays(START, n);
const GRACE = 10;

/** What a statement of a day said: due in fourteen days. */
const said = (on: number, owed: number, since = 0, credit = 0): Stated => ({
  on: day(on),
  due: day(on + 14),
  owed: cents(owed),
  credit: cents(credit),
  since: cents(since),
});
const debt = (
  chargeId: number,
  layers: readonly [since: number, amount: number][],
  stated: readonly Stated[] = [],
  owed = layers.reduce((all, [, amount]) => all + amount, 0),
): Debt => ({
  chargeId,
  date: day(chargeId),
  owed: cents(owed),
  layers: layers.map(([since, amount]) => ({ since: day(since), amount: cents(amount) })),
  stated,
});
const late = (debts: readonly Debt[], credit: number, today: number) => {
  const { pastDue, since, left } = owedOf(debts, cents(credit), GRACE, day(today));
  return { pastDue, since, left };
};

describe('what is owed', () => {
  test('credit stands against the oldest charges, and what it pays is asked of nobody', () => {
    const owed = owedOf([debt(2, [[2, 5000]]), debt(1, [[1, 20_000]])], cents(21_000), GRACE, day(90));
    expect(owed.charges.map(({ chargeId, credit, left }) => [chargeId, credit, left])).toEqual([
      [1, 20_000, 0],
      [2, 1000, 4000],
    ]);
    expect([owed.owed, owed.credit, owed.left]).toEqual([25_000, 21_000, 4000]);
  });

  test('what is not asked for is owed and never past due; what is asked for is without it and the credit against it', () => {
    const quiet = { ...debt(1, [[0, 5000]], [said(0, 5000)]), quiet: true };
    const other = debt(2, [[0, 3000]], [said(0, 3000)]);
    const owed = owedOf([quiet, other], cents(1000), GRACE, day(300));
    expect([owed.owed, owed.credit, owed.left, owed.pastDue]).toEqual([8000, 1000, 7000, 3000]);
    const asked = askedFor(owed);
    expect([asked.owed, asked.credit, asked.left, asked.pastDue]).toEqual([3000, 0, 3000, 3000]);
    expect(asked.charges.map(({ chargeId }) => chargeId)).toEqual([2]);
    // Where nothing is quiet it is the same.
    const plain = owedOf([other], cents(4000), GRACE, day(300));
    expect(askedFor(plain)).toBe(plain);
    // Credit that is above it stays credit.
    const rich = askedFor(owedOf([quiet], cents(9000), GRACE, day(300)));
    expect([rich.owed, rich.credit, rich.left]).toEqual([0, 4000, 0]);
  });

  test('past due from the day after the due day and the grace, for what was stated', () => {
    const one = [debt(1, [[0, 5000]], [said(0, 5000)])];
    expect(late(one, 0, 24)).toEqual({ pastDue: 0, since: null, left: 5000 });
    expect(late(one, 0, 25)).toEqual({ pastDue: 5000, since: day(25), left: 5000 });
    expect(late([debt(1, [[0, 5000]])], 0, 300)).toEqual({ pastDue: 0, since: null, left: 5000 });
    expect(late([debt(1, [[0, 9000]], [said(0, 5000)])], 0, 300).pastDue).toBe(5000);
  });

  test('200.00 stated long ago beside 150.00, or all of it, held as credit', () => {
    const one = [debt(1, [[0, 20_000]], [said(0, 20_000)])];
    expect(late(one, 15_000, 90)).toEqual({ pastDue: 5000, since: day(25), left: 5000 });
    expect(late(one, 20_000, 90)).toEqual({ pastDue: 0, since: null, left: 0 });
  });

  test('a copay that was stated and paid does not age what becomes the patient’s later', () => {
    // 30.00 stated and paid; 68.00 more on day 120, stated on day 125.
    const first = said(0, 3000, 3000);
    expect(late([debt(1, [[120, 6800]], [first])], 0, 121).pastDue).toBe(0);
    const both = [debt(1, [[120, 6800]], [first, said(125, 6800)])];
    expect(late(both, 0, 149).pastDue).toBe(0);
    expect(late(both, 0, 150)).toEqual({ pastDue: 6800, since: day(150), left: 6800 });
  });

  test('what was gone and came back is not late by a statement from before', () => {
    expect(late([debt(1, [[50, 3000]], [said(1, 3000)])], 0, 90).pastDue).toBe(0);
    expect(late([debt(1, [[50, 3000]], [said(1, 3000), said(55, 3000)])], 0, 90).since).toBe(day(80));
  });

  test('credit counts as paid since: 100.00 stated of 150.00 beside 50.00 that came later', () => {
    expect(late([debt(1, [[0, 15_000]], [said(5, 10_000)])], 5000, 90)).toMatchObject({
      pastDue: 5000,
      left: 10_000,
    });
  });

  test('what was paid since a statement is not past due, also where an earlier payment came back', () => {
    // 150.00 owed, 50.00 paid, 100.00 stated, 60.00 paid since; then the check over 50.00 bounced.
    expect(late([debt(1, [[0, 9000]], [said(5, 10_000, 6000)])], 0, 90).pastDue).toBe(4000);
  });

  test('each part by its own day: what was stated first is past due first', () => {
    const two = [
      debt(1, [[0, 3000], [50, 6800]], [said(1, 3000), said(60, 9800)]), // prettier-ignore
    ];
    const { charges } = owedOf(two, ZERO, GRACE, day(100));
    expect(charges[0]!.pastDue).toEqual([
      { amount: 3000, since: day(26) },
      { amount: 6800, since: day(85) },
    ]);
  });

  test('credit of the day of a statement was not asked for: given back, it is not past due at once', () => {
    const one = (credit: number, since = 0) =>
      late([debt(1, [[0, 20_000 - since]], [said(0, 20_000, since, 15_000)])], credit, 90).pastDue;
    expect(one(15_000)).toBe(5000);
    expect(one(0)).toBe(5000);
    expect(one(0, 15_000)).toBe(5000);
    expect(one(0, 17_000)).toBe(3000);
  });

  test('what may not be billed is owed by nobody', () => {
    const { charges } = owedOf([debt(1, [[0, 5000]], [said(0, 5000)], 2000)], ZERO, GRACE, day(90));
    expect(charges[0]).toMatchObject({ owed: 2000, left: 2000, remaining: [{ amount: 2000 }] });
    expect(charges[0]!.pastDue).toEqual([{ amount: 2000, since: day(25) }]);
  });

  const debts = fc.array(
    fc
      .record({
        layers: fc.array(fc.tuple(fc.nat(200), fc.integer({ min: 1, max: 20_000 })), {
          minLength: 1,
          maxLength: 4,
        }),
        stated: fc.array(fc.tuple(fc.nat(200), fc.nat(40_000), fc.nat(20_000), fc.nat(5000)), {
          maxLength: 4,
        }),
        off: fc.nat(100),
      })
      .map(({ layers, stated, off }) => {
        const sorted = [...layers].sort((a, b) => a[0] - b[0]);
        const whole = sorted.reduce((all, [, amount]) => all + amount, 0);
        return {
          layers: sorted,
          stated: stated.map(([on, owed, since, credit]) => said(on, owed, since, Math.min(credit, owed))),
          owed: Math.max(1, whole - Math.floor((whole * off) / 150)),
        };
      }),
    { maxLength: 8 },
  );

  test('whatever was stated: past due is never more than is left, and only grows while nothing happens', () => {
    fc.assert(
      fc.property(debts, fc.nat(60_000), fc.nat(400), (all, credit, today) => {
        const given = all.map(({ layers, stated, owed }, index) => debt(index + 1, layers, stated, owed));
        const at = (n: number) => owedOf(given, cents(credit), GRACE, day(n));
        const now = at(today);
        expect(now.left).toBe(Math.max(0, now.owed - credit));
        expect(now.pastDue).toBeLessThanOrEqual(now.left);
        for (const { owed, credit: against, left, remaining, pastDue } of now.charges) {
          expect(left).toBe(owed - against);
          expect(sum(remaining.map(({ amount }) => amount))).toBe(owed);
          const past: Cents = sum(pastDue.map(({ amount }) => amount));
          expect(past).toBeLessThanOrEqual(left);
          expect(pastDue.every((part) => part.amount > 0)).toBe(true);
        }
        expect(at(today + 1).pastDue).toBeGreaterThanOrEqual(now.pastDue);
        // More credit never makes more of it past due.
        expect(owedOf(given, cents(credit + 100), GRACE, day(today)).pastDue).toBeLessThanOrEqual(
          now.pastDue,
        );
      }),
    );
  });
});
