/** How patients pay: what each way is called, what stands beside it, and whether that must. Cards and financing are their own. */

/** Every tender; each has its book account `cash/…`. */
export const TENDERS = {
  check: { words: 'Check', reference: 'Check number', needed: true },
  cash: { words: 'Cash', reference: 'Note number', needed: false },
  transfer: { words: 'Bank transfer', reference: 'Reference', needed: false },
} as const;
/** How a patient pays. */
export type Tender = keyof typeof TENDERS;
/** All of them, in the order in which they are offered. */
export const TENDER_NAMES = Object.keys(TENDERS) as [Tender, ...Tender[]];

/** Where a tender can be. */
export const TENDER_STATES = ['pending', 'taken', 'declined', 'returned', 'void'] as const;
/** Where a tender is. */
export type TenderState = (typeof TENDER_STATES)[number];
/** The moves that are allowed; the database refuses any other. What came back may be handed in again. */
export const TENDER_MOVES: Readonly<Record<TenderState, readonly TenderState[]>> = {
  pending: ['taken', 'declined', 'void'],
  taken: ['returned', 'void'],
  declined: [],
  returned: ['taken'],
  void: [],
};

/** Places of money. */
export const PLACE_KINDS = {
  drawer: 'Cash drawer',
  undeposited: 'Not yet deposited',
  clearing: 'Being cleared',
  bank: 'Bank account',
} as const;
/** A kind of place. */
export type PlaceKind = keyof typeof PLACE_KINDS;
/** Where money of a tender comes first: what is handed over lies here, what is transferred is in the bank. */
export const FIRST_PLACE: Readonly<Record<Tender, PlaceKind>> = {
  check: 'undeposited',
  cash: 'undeposited',
  transfer: 'bank',
};

/** A receipt's tender as the ledger says it. */
export const tenderMemo = ({ tender, reference }: { tender: Tender; reference: string }): string =>
  tender === 'cash' || reference === '' ? TENDERS[tender].words : `${TENDERS[tender].words} ${reference}`;
