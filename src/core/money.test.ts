import fc from 'fast-check';
import {
  type Cents,
  basisPoints,
  cents,
  formatMoney,
  formatMoneyPlain,
  parseMoney,
  portion,
  split,
  sum,
  toDecimal,
} from './money';

const anyCents = fc.integer({ min: -9_999_999_999, max: 9_999_999_999 }).map((n) => cents(n));

describe('money', () => {
  test('a split never loses a cent and no part is more than a cent off its share', () => {
    fc.assert(
      fc.property(
        anyCents,
        fc.array(fc.integer({ min: 0, max: 1_000_000 }), { minLength: 1, maxLength: 40 }),
        (amount, weights) => {
          const parts = split(amount, weights);
          expect(sum(parts)).toBe(amount);
          const whole = weights.reduce((a, b) => a + b, 0);
          if (whole > 0)
            parts.forEach((part, index) =>
              expect(Math.abs(part - (amount * weights[index]!) / whole)).toBeLessThanOrEqual(1),
            );
        },
      ),
    );
  });

  test('largest remainder: 100 over three equal parts is 34, 33, 33', () => {
    expect(split(cents(100), [1, 1, 1])).toEqual([34, 33, 33]);
    expect(split(cents(-100), [0, 0, 0])).toEqual([-34, -33, -33]);
    expect(() => split(cents(1), [])).toThrow(RangeError);
    expect(() => split(cents(1), [-1])).toThrow(RangeError);
  });

  test('a portion rounds half away from zero, once', () => {
    expect(portion(cents(1), basisPoints(5000))).toBe(1);
    expect(portion(cents(-1), basisPoints(5000))).toBe(-1);
    expect(portion(cents(333), basisPoints(3333))).toBe(111);
    expect(portion(cents(99_999_999_999), basisPoints(10_000))).toBe(99_999_999_999);
  });

  test('what is written as a decimal is read back the same', () => {
    fc.assert(fc.property(anyCents, (amount) => expect(parseMoney(toDecimal(amount))).toBe(amount)));
    fc.assert(
      fc.property(
        anyCents.filter((n) => n !== 0),
        (amount) => expect(parseMoney(formatMoney(amount).replaceAll('\u2009', ','))).toBe(amount),
      ),
    );
  });

  test.each(['', '-', '.', '12.345', 'abc', '1e3', '1,23', '99999999999', '1 2', 'NaN', '0x10'])(
    '“%s” is not an amount',
    (text) => expect(parseMoney(text)).toBeNull(),
  );
  test.each([
    ['5', 500],
    ['.5', 50],
    ['-0.07', -7],
    ['1,234.50', 123450],
    ['−3', -300],
  ])('“%s” is %d cents', (text, expected) => expect(parseMoney(text)).toBe(expected));

  test('people see thin separators, two decimals, a dash for zero and a minus sign', () => {
    expect(formatMoney(cents(0))).toBe('–');
    expect(formatMoneyPlain(cents(0))).toBe('0.00');
    expect(formatMoney(cents(-123456789))).toBe('−1\u2009234\u2009567.89');
  });

  test('only whole cents are money', () => {
    expect(() => cents(0.5)).toThrow(RangeError);
    expect(() => cents(1e14)).toThrow(RangeError);
    for (const points of [-1, 0.5, 10_001]) expect(() => basisPoints(points)).toThrow(RangeError);
    expect(Object.is(cents(-0) as Cents, 0)).toBe(true);
  });
});
