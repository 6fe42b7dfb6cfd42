/** What a card bears beside what it pays, and what goes back. Rates are made up; the rules are common practice, no source. */
import fc from 'fast-check';
import { type Cents, basisPoints, cents } from '../money';
import { type SurchargeRule, basisOf, surchargeBack, surchargeOf } from './surcharge';

const rule = (more: Partial<SurchargeRule> = {}): SurchargeRule => ({
  rate: basisPoints(300),
  cost: basisPoints(280),
  brands: new Map([
    ['visa', basisPoints(300)],
    ['mastercard', basisPoints(250)],
  ]),
  state: { rule: 'allowed', most: basisPoints(0), words: 'A surcharge is added.' },
  ...more,
});
const of = (
  base: number,
  more: Partial<SurchargeRule> = {},
  card = { kind: 'credit' as const, brand: 'Visa' },
) => surchargeOf({ base: cents(base), kept: cents(0) }, card, rule(more));

test('never above our cost, nor the brand’s most, nor the state’s', () => {
  expect(of(10_000)).toMatchObject({ rate: 280, amount: 280, said: 'A surcharge is added.' });
  expect(of(10_000, {}, { kind: 'credit', brand: 'MASTERCARD' })).toMatchObject({ rate: 250, amount: 250 });
  expect(of(10_000, { state: { rule: 'capped', most: basisPoints(200), words: '' } })).toMatchObject({
    rate: 200,
    amount: 200,
  });
  // Half a cent away from zero, once.
  expect(of(625, { rate: basisPoints(200) }).amount).toBe(13);
  expect(of(0)).toMatchObject({ amount: 0, why: 'It comes to nothing' });
});

test.each([
  [{ rate: basisPoints(0) }, undefined, ''],
  [{}, { kind: 'debit', brand: 'Visa' }, 'A debit card bears none'],
  [{}, { kind: 'prepaid', brand: 'Visa' }, 'A prepaid card bears none'],
  [{}, { kind: 'unknown', brand: 'Visa' }, 'The kind of card is not known: none'],
  [{}, { kind: 'credit', brand: 'Otherwise' }, 'Nothing is agreed with Otherwise: none'],
  [{ state: null }, undefined, 'Nothing is known of surcharges in this state: none'],
  [
    { state: { rule: 'forbidden' as const, most: basisPoints(0), words: '' } },
    undefined,
    'This state forbids it',
  ],
])('none: %#', (more, card, why) => {
  expect(of(10_000, more, card as never)).toMatchObject({ rate: 0, amount: 0, why });
});

test('what is kept from it is said, and bears none', () => {
  const deal = {
    parts: [
      { id: 1, amount: cents(4_000) },
      { id: 2, amount: cents(1_000) },
    ],
    plans: [{ id: 9, amount: cents(500) }],
    agency: cents(0),
    left: cents(300),
  };
  expect(basisOf(deal, new Set([1]), false)).toEqual({ base: 1_800, kept: 4_000 });
  expect(basisOf(deal, new Set([1]), true)).toEqual({ base: 1_000, kept: 4_800 });
  expect(
    surchargeOf(basisOf(deal, new Set([1, 2]), true), { kind: 'credit', brand: 'Visa' }, rule()),
  ).toMatchObject({ amount: 0, why: 'All of it is of a coverage that bears none' });
  expect(
    surchargeOf(basisOf(deal, new Set([1]), false), { kind: 'credit', brand: 'Visa' }, rule()),
  ).toMatchObject({ amount: 50, why: 'On 18.00: 40.00 may bear none' });
});

test('in whatever parts it goes back, the surcharge goes back with them, all of it with all, and never more', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 500_000 }),
      fc.nat({ max: 20_000 }),
      fc.array(fc.integer({ min: 1, max: 90_000 }), { maxLength: 8 }),
      (amount, surcharge, parts) => {
        const paid = { amount: cents(amount), surcharge: cents(surcharge) };
        let before = { amount: cents(0), surcharge: cents(0) };
        for (const wanted of [...parts, amount]) {
          const part = Math.min(wanted, paid.amount - before.amount) as Cents;
          if (part <= 0) continue;
          const back = surchargeBack(part, paid, before);
          expect(back).toBeGreaterThanOrEqual(0);
          before = { amount: cents(before.amount + part), surcharge: cents(before.surcharge + back) };
          // By what went back until then, to the cent.
          expect(Math.abs(before.surcharge - (paid.surcharge * before.amount) / paid.amount)).toBeLessThan(1);
        }
        expect(before).toEqual(paid);
      },
    ),
  );
});
