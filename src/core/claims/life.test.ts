import {
  ANSWERABLE,
  CLAIM_MOVES,
  CLAIM_STATUSES,
  type ClaimStatus,
  DECIDABLE,
  DECIDED,
  DONE,
  OURS,
  SENDABLE,
  TO_FIX,
  WAITING,
  WENT,
  isDecidable,
  isOurs,
  mayMove,
} from './life';

/** Every state that can be reached from one. */
function reached(from: ClaimStatus, seen = new Set<ClaimStatus>()): Set<ClaimStatus> {
  for (const to of CLAIM_MOVES[from])
    if (!seen.has(to)) {
      seen.add(to);
      reached(to, seen);
    }
  return seen;
}

test('every state has its moves, and every move leads to a state', () => {
  expect(Object.keys(CLAIM_MOVES).sort()).toEqual([...CLAIM_STATUSES].sort());
  for (const tos of Object.values(CLAIM_MOVES)) for (const to of tos) expect(CLAIM_STATUSES).toContain(to);
});

test('a draft can come to every other state, and only what is withdrawn stays', () => {
  expect([...reached('draft')].sort()).toEqual([...CLAIM_STATUSES].sort());
  for (const status of CLAIM_STATUSES)
    expect([status, CLAIM_MOVES[status].length === 0]).toEqual([status, status === 'withdrawn']);
});

test('staying is no move', () => {
  for (const status of CLAIM_STATUSES) expect(mayMove(status, status)).toBe(false);
});

test('what the payer has is never withdrawn or held, and goes back to us only by a rejection', () => {
  for (const status of ['sent', 'accepted', 'decided', 'closed'] as const) {
    expect(mayMove(status, 'withdrawn')).toBe(false);
    expect(mayMove(status, 'held')).toBe(false);
    expect(CLAIM_MOVES[status].filter(isOurs)).toEqual(
      status === 'sent' || status === 'accepted' ? ['rejected'] : [],
    );
  }
});

test('only what is ready, or was rejected, is sent', () => {
  expect(CLAIM_STATUSES.filter((status) => mayMove(status, 'sent'))).toEqual(['ready', 'rejected']);
});

test('what is not sent cannot be decided', () => {
  expect(CLAIM_STATUSES.filter((status) => !isDecidable(status))).toEqual([
    'draft',
    'ready',
    'held',
    'withdrawn',
  ]);
  for (const status of ANSWERABLE) expect(DECIDABLE).toContain(status);
  for (const status of OURS) expect(isOurs(status)).toBe(true);
});

test('the lists of states are what the moves say', () => {
  const those = (which: (status: (typeof CLAIM_STATUSES)[number]) => boolean) =>
    CLAIM_STATUSES.filter(which).sort();
  expect([...WENT].sort()).toEqual(those((status) => isDecidable(status) && status !== 'rejected'));
  expect([...SENDABLE].sort()).toEqual(those((status) => isOurs(status) && status !== 'held'));
  // What waits with the payer can still be decided or rejected, and nothing else of ours can.
  expect([...WAITING].sort()).toEqual(
    those((status) => mayMove(status, 'decided') && mayMove(status, 'rejected')),
  );
  expect([...DECIDED].sort()).toEqual(
    those((status) => mayMove(status, 'accepted') && !isOurs(status) && status !== 'sent'),
  );
  expect(TO_FIX.every((status) => isOurs(status))).toBe(true);
  // A claim that is done moves again only by another word of the payer.
  expect(DONE.map((status) => CLAIM_MOVES[status])).toEqual([['decided', 'accepted'], []]);
});
