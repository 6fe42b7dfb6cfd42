/** Tables of limits as they are brought in. */
import { readLimits } from './limits';

test('a head line, marks and case are no matter; what is there twice is taken once', () => {
  expect(readLimits('units', '\uFEFFcode,units,why\n97110,4,a day\nd4341 , 2\n\n97110,6\n')).toEqual({
    lines: [
      { code: '97110', other: '', units: 6, unlessModifier: false },
      { code: 'D4341', other: '', units: 2, unlessModifier: false },
    ],
    wrong: [],
  });
  expect(readLimits('pairs', '99213,36415,yes\n97110,97530,0').lines).toEqual([
    { code: '99213', other: '36415', units: 0, unlessModifier: true },
    { code: '97110', other: '97530', units: 0, unlessModifier: false },
  ]);
});

test('what is wrong is said by line', () => {
  expect(readLimits('units', '97110,0\n9711,4\n97110,1000\n97110,-1\n97110,2.5').wrong).toEqual([
    { line: 1, words: '“0” is no number of units from 1 to 999' },
    { line: 2, words: '“9711” is no code of five letters and digits' },
    { line: 3, words: '“1000” is no number of units from 1 to 999' },
    { line: 4, words: '“-1” is no number of units from 1 to 999' },
    { line: 5, words: '“2.5” is no number of units from 1 to 999' },
  ]);
  expect(
    readLimits('pairs', '99213,99213\n99213,3641,1\n99213,36415,maybe').wrong.map(({ line }) => line),
  ).toEqual([1, 2, 3]);
  expect(readLimits('pairs', '')).toEqual({ lines: [], wrong: [] });
});
