import { guarded } from './spreadsheet';

describe('values for spreadsheets', () => {
  // Source: OWASP, “CSV Injection”.
  test.each([
    ['=1+1', "'=1+1"],
    ['+cmd', "'+cmd"],
    ['@sum', "'@sum"],
    ['-name', "'-name"],
    ['\tx', "'\tx"],
    ['\rx', "'\rx"],
  ])('%j cannot run', (value, safe) => expect(guarded(value)).toBe(safe));

  test.each([
    [-12.5, '-12.5'],
    ['-300', '-300'],
    ['Rosa', 'Rosa'],
    [null, ''],
    [undefined, ''],
    [0, '0'],
  ])('%j stays', (value, same) => expect(guarded(value)).toBe(same));
});
