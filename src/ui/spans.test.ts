import fc from 'fast-check';
import { spansOf } from './spans';

test('words run on to the next cell that says something; an amount stays in its column', () => {
  // Date, who, what, strip, charged, paid, owed: a charge, and a payment of it.
  const amounts = [false, false, false, false, true, true, true];
  expect(spansOf([true, true, true, false, true, false, false], amounts)).toEqual([1, 1, 2, 0, 1, 1, 1]);
  expect(spansOf([true, true, true, false, false, true, false], amounts)).toEqual([1, 1, 3, 0, 0, 1, 1]);
  expect(spansOf([false, false, true, false, false, false, false], amounts)).toEqual([1, 1, 5, 0, 0, 0, 0]);
});

test('every column is covered once, whatever is said', () => {
  const column = fc.record({ full: fc.boolean(), amount: fc.boolean() });
  fc.assert(
    fc.property(fc.array(column, { minLength: 1, maxLength: 12 }), (columns) => {
      const spans = spansOf(
        columns.map(({ full }) => full),
        columns.map(({ amount }) => amount),
      );
      expect(spans.reduce((all, span) => all + span, 0)).toBe(columns.length);
      // What is said is never covered by something else.
      columns.forEach(({ full }, index) => full && expect(spans[index]).toBeGreaterThan(0));
      columns.forEach(({ amount }, index) => amount && expect(spans[index]).toBeLessThanOrEqual(1));
    }),
  );
});
