/** A terminal's list against ours, and numbers that look like a card's. */
import { cents } from '../money';
import { looksLikeCard } from './input';
import { type BatchRow, compareBatch } from './terminal';

const row = (key: string, amount: number, authorization = '1'): BatchRow => ({
  key,
  what: 'sale',
  amount: cents(amount),
  authorization,
  lastFour: '2003',
  brand: 'Visa',
});

test('row by row: the same, missing there, missing here, another amount, another authorization', () => {
  const theirs = [row('a', 100), row('b', 200), row('c', 300), row('d', 400, '9')];
  const ours = [
    { key: 'a', amount: cents(100), authorization: '1' },
    { key: 'c', amount: cents(301), authorization: '1' },
    { key: 'd', amount: cents(400), authorization: '8' },
    { key: 'e', amount: cents(500), authorization: '1' },
  ];
  expect(compareBatch(theirs, ours).map(({ key, words }) => [key, words])).toEqual([
    ['b', 'Not in our books'],
    ['c', 'Another amount'],
    ['d', 'Another authorization'],
    ['e', 'Not on the terminal’s list'],
  ]);
  expect(compareBatch([row('a', 100)], [ours[0]!])).toEqual([]);
  expect(compareBatch([], [])).toEqual([]);
});

// Made up, with and without the check digit of ISO/IEC 7812-1.
test.each([
  ['4539578763621486', true],
  ['4539 5787 6362 1486', true],
  ['4539-5787-6362-1486 exp 04/29', true],
  ['4539578763621487', false],
  ['1234', false],
  ['check 1044 of 16 Mar 2026', false],
  ['', false],
])('%s: %s', (text, looks) => {
  expect(looksLikeCard(text)).toBe(looks);
});
