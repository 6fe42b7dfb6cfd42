/** How patients pay: the life of a tender, and where its money comes first. */
import { FIRST_PLACE, PLACE_KINDS, TENDER_MOVES, TENDER_NAMES, TENDER_STATES } from './tenders';

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
