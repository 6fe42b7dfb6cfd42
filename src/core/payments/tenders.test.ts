/** How patients pay: the life of a tender, and where its money comes first. */
import { FIRST_PLACE, countedCash, PLACE_KINDS, TENDER_MOVES, TENDER_NAMES, TENDER_STATES } from './tenders';

test('every state has its moves, each to a state; a void or declined tender goes nowhere', () => {
  expect(Object.keys(TENDER_MOVES)).toEqual([...TENDER_STATES]);
  for (const tos of Object.values(TENDER_MOVES)) for (const to of tos) expect(TENDER_STATES).toContain(to);
  expect([TENDER_MOVES.void, TENDER_MOVES.declined]).toEqual([[], []]);
  // Nothing becomes pending again, and whatever counts as cash was taken.
  expect(Object.values(TENDER_MOVES).flat()).not.toContain('pending');
});

test('every tender has a first place, of a kind that there is', () => {
  for (const tender of TENDER_NAMES) expect(Object.keys(PLACE_KINDS)).toContain(FIRST_PLACE[tender]);
});

// By hand: three twenties, a five, two ones, three quarters and four cents.
test('bills and coins add up; what is no number is said', () => {
  expect(countedCash({ 2000: '3', 500: '1', 100: '2', 25: '3', 1: '4' })).toBe(6779);
  expect(countedCash({})).toBe(0);
  for (const many of ['-1', '1.5', 'x', '999999']) expect(countedCash({ 100: many })).toBeNull();
});
