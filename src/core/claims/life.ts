/** The life of a claim: its states, and the moves from one to another that are allowed. */

/** Where a claim can be. */
export const CLAIM_STATUSES = [
  'draft',
  'ready',
  'sent',
  'accepted',
  'rejected',
  'decided',
  'closed',
  'held',
  'withdrawn',
] as const;
/** Where a claim is. */
export type ClaimStatus = (typeof CLAIM_STATUSES)[number];

/**
 * The moves that are allowed; the database refuses any other. What the payer has is answered, decided and closed; a
 * decision that is reversed leaves it accepted again. A claim that is not with the payer can be held or withdrawn.
 */
export const CLAIM_MOVES: Readonly<Record<ClaimStatus, readonly ClaimStatus[]>> = {
  draft: ['ready', 'held', 'withdrawn'],
  ready: ['draft', 'held', 'sent', 'withdrawn'],
  held: ['draft', 'withdrawn'],
  sent: ['accepted', 'rejected', 'decided', 'closed'],
  accepted: ['rejected', 'decided', 'closed'],
  // A payer may decide what a clearinghouse has rejected.
  rejected: ['sent', 'accepted', 'decided', 'closed', 'withdrawn'],
  decided: ['closed', 'accepted'],
  closed: ['decided', 'accepted'],
  withdrawn: [],
};

/** Whether a claim may go from one state to another; staying where it is, is no move. */
export const mayMove = (from: ClaimStatus, to: ClaimStatus): boolean => CLAIM_MOVES[from].includes(to);

/** Whether a state is one of a list. */
export const isIn = (states: readonly ClaimStatus[], status: ClaimStatus): boolean => states.includes(status);

/** States in which a claim is still ours and follows what it is built from. */
export const OURS = ['draft', 'ready', 'rejected', 'held'] as const satisfies readonly ClaimStatus[];
/** Whether a claim is still ours. */
export const isOurs = (status: ClaimStatus): boolean => isIn(OURS, status);

/** Ours, and nothing stops it from being sent but what is wrong. */
export const SENDABLE = ['draft', 'ready', 'rejected'] as const satisfies readonly ClaimStatus[];
/** Ours, and somebody has to do something before it goes. */
export const TO_FIX = ['draft', 'rejected', 'held'] as const satisfies readonly ClaimStatus[];
/** With the payer, which has not decided. */
export const WAITING = ['sent', 'accepted'] as const satisfies readonly ClaimStatus[];
/** The payer has decided. */
export const DECIDED = ['decided', 'closed'] as const satisfies readonly ClaimStatus[];
/** It went to the payer, and was not rejected. */
export const WENT = [...WAITING, ...DECIDED] as const satisfies readonly ClaimStatus[];
/** Nothing of it waits with the payer any more. */
export const DONE = ['closed', 'withdrawn'] as const satisfies readonly ClaimStatus[];

/** States in which a payer may answer a claim. */
export const ANSWERABLE = [...WAITING, 'rejected'] as const satisfies readonly ClaimStatus[];

/** States in which a claim can be corrected or voided by another one: the payer has it and has a number for it. */
export const REPLACEABLE = ['accepted', ...DECIDED] as const satisfies readonly ClaimStatus[];
/** Whether a claim can be corrected or voided by another one. */
export const isReplaceable = (status: ClaimStatus): boolean => isIn(REPLACEABLE, status);

/** States in which a payer may decide a claim: it was sent. */
export const DECIDABLE = [...WAITING, 'rejected', ...DECIDED] as const satisfies readonly ClaimStatus[];
/** Whether a payer may decide a claim. */
export const isDecidable = (status: ClaimStatus): boolean => isIn(DECIDABLE, status);
