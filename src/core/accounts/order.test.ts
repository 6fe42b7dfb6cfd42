/** The usual order of insurers. The rules are from memory (NAIC MDL-120; 42 CFR 411). */
import fc from 'fast-check';
import { calendarDate } from '../calendar';
import { BASES, type Basis, type OrderFacts, orderDiffers } from './order';

const facts = (id: number, more: Partial<OrderFacts> = {}): OrderFacts => ({
  id,
  filingCode: 'CI',
  relationship: 'self',
  holderBirthDate: calendarDate('1980-06-01'),
  basis: '',
  courtOrder: false,
  since: null,
  ...more,
});
const proposed = (...now: OrderFacts[]) => orderDiffers(now);
const child = (id: number, born: string, more: Partial<OrderFacts> = {}) =>
  facts(id, { relationship: 'child', holderBirthDate: calendarDate(born), ...more });

test.each<[string, OrderFacts, OrderFacts, RegExp]>([
  ['the injury', facts(1), facts(2, { filingCode: 'WC' }), /injury/],
  ['a car', facts(1), facts(2, { filingCode: 'AM', relationship: 'other' }), /injury/],
  ['Medicaid', facts(1, { filingCode: 'MC' }), facts(2, { relationship: 'spouse' }), /Medicaid comes last/],
  ['the own policy', facts(1, { relationship: 'spouse' }), facts(2), /own policy/],
  ['the birthday', child(1, '1978-09-02'), child(2, '1985-03-30'), /birthday/],
  ['a court', child(1, '1978-01-02'), child(2, '1985-03-30', { courtOrder: true }), /court/],
  [
    'Medicare after an employer',
    facts(1, { filingCode: 'MB' }),
    facts(2, { basis: 'employed', relationship: 'spouse' }),
    /before Medicare/,
  ],
  ['Medicare before a retiree', facts(1, { basis: 'retired' }), facts(2, { filingCode: 'MB' }), /no longer/],
  ['work before continuation', facts(1, { basis: 'continued' }), facts(2, { basis: 'employed' }), /goes on/],
  [
    'the longer one',
    child(1, '1980-03-30', { since: calendarDate('2022-01-01') }),
    child(2, '1985-03-30', { since: calendarDate('2019-01-01') }),
    /longer/,
  ],
])('%s: said where it differs, and silent where it is so', (_, first, second, said) => {
  expect(proposed(first, second)).toEqual({ order: [2, 1], why: expect.stringMatching(said) });
  expect(proposed(second, first)).toBeNull();
});

test('what no rule tells apart stays as it stands', () => {
  expect(proposed(facts(1), facts(2))).toBeNull();
  expect(proposed(facts(2), facts(1))).toBeNull();
  expect(proposed(child(1, '1980-03-30'), child(2, '1985-03-30'))).toBeNull();
  expect(proposed(facts(1))).toBeNull();
  expect(orderDiffers([])).toBeNull();
});

test('the year of a birthday does not count, and a leap day comes after the 28th', () => {
  expect(proposed(child(1, '1984-02-29'), child(2, '1990-02-28'))!.order).toEqual([2, 1]);
});

test('three: Medicaid last, the own one first', () => {
  expect(
    proposed(facts(1, { filingCode: 'MC' }), facts(2, { relationship: 'spouse' }), facts(3))!.order,
  ).toEqual([3, 2, 1]);
});

test('what is proposed of two is not differed from again', () => {
  const any = (id: number): fc.Arbitrary<OrderFacts> =>
    fc.record({
      id: fc.constant(id),
      filingCode: fc.constantFrom('CI', 'MC', 'MB', 'WC', 'BL'),
      relationship: fc.constantFrom('self', 'spouse', 'child', 'other'),
      holderBirthDate: fc.constantFrom(null, calendarDate('1980-03-01'), calendarDate('1975-09-09')),
      basis: fc.constantFrom<Basis>('', ...(Object.keys(BASES) as Basis[])),
      courtOrder: fc.boolean(),
      since: fc.constantFrom(null, calendarDate('2020-01-01'), calendarDate('2024-01-01')),
    });
  fc.assert(
    fc.property(any(1), any(2), (one, two) => {
      const found = orderDiffers([one, two]);
      if (found) expect(orderDiffers(found.order.map((id) => (id === 1 ? one : two)))).toBeNull();
      // Of the two orders at least one is as the rules would have it.
      expect(found !== null && orderDiffers([two, one]) !== null).toBe(false);
    }),
  );
});
