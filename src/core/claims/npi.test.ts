import fc from 'fast-check';
import { isNpi, npiCheckDigit } from './npi';

describe('NPI', () => {
  test('the worked example of CMS: 123456789 has the check digit 3', () => {
    // Source: CMS, “Requirements for National Provider Identifier (NPI) and NPI Check Digit”.
    expect(npiCheckDigit('123456789')).toBe('3');
    expect(isNpi('1234567893')).toBe(true);
  });

  test('any single wrong digit is noticed', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 100_000_000, max: 299_999_999 }),
        fc.integer({ min: 1, max: 9 }),
        fc.integer({ min: 1, max: 9 }),
        (nine, at, plus) => {
          const good = `${nine}${npiCheckDigit(String(nine))}`;
          expect(isNpi(good)).toBe(true);
          const digits = [...good];
          digits[at] = String((Number(digits[at]) + plus) % 10);
          expect(isNpi(digits.join(''))).toBe(false);
        },
      ),
    );
  });

  test.each(['', '123', '12345678930', 'abcdefghij', '3234567893'])('“%s” is not an NPI', (text) =>
    expect(isNpi(text)).toBe(false),
  );
});
