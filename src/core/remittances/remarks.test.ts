/** Remark codes: their numbers and words. The families and how far they go are from memory. */
import { isRemark, remarkWords } from './remarks';

test.each(['M1', 'M144', 'MA01', 'MA134', 'N1', 'N130', 'N783', 'N905'])('%s is in the list', (code) =>
  expect(isRemark(code)).toBe(true),
);

test.each(['', 'M0', 'M145', 'MA0', 'MA135', 'N0', 'N951', 'N1000', 'X1', '130', 'n130', 'N13O'])(
  '“%s” is not',
  (code) => expect(isRemark(code)).toBe(false),
);

test('words where there are some, the number where there are none, and what is in no list is said so', () => {
  expect(remarkWords('N130')).toBe('N130 see the plan’s documents for what it restricts');
  expect(remarkWords('N900')).toBe('N900');
  expect(remarkWords('ZZ9')).toBe('ZZ9 (not in the list of remarks)');
  // What every object has is no remark.
  expect(remarkWords('toString')).toBe('toString (not in the list of remarks)');
});
