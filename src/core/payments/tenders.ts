/** How patients pay: what each way is called, what stands beside it, and whether that must. Financing is its own. */

import { type Cents, ZERO, add, cents, times } from '../money';

/** Every tender; each has its book account `cash/…`. */
export const TENDERS = {
  check: { words: 'Check', reference: 'Check number', needed: true },
  cash: { words: 'Cash', reference: 'Note number', needed: false },
  card: { words: 'Card', reference: 'Authorization', needed: true },
  bank: { words: 'Bank account', reference: 'Authorization', needed: true },
  transfer: { words: 'Bank transfer', reference: 'Reference', needed: false },
  voucher: { words: 'Voucher', reference: 'Voucher number', needed: true },
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
  pending: ['taken', 'declined'],
  taken: ['returned', 'void'],
  declined: [],
  returned: ['taken'],
  void: [],
};
/** What is said of a tender that does not count. */
export const TENDER_STATE_WORDS: Readonly<Record<Exclude<TenderState, 'taken'>, string>> = {
  pending: 'waits for the terminal',
  declined: 'declined',
  returned: 'came back',
  void: 'taken back',
};

/** What is asked of a card terminal. */
export const ATTEMPT_KINDS = ['sale', 'void', 'refund'] as const;
/** How far an attempt at a terminal is. Unclear: asked, and no answer came. */
export const ATTEMPT_STATES = ['asked', 'approved', 'declined', 'unclear'] as const;
/** How far an attempt at a terminal is. */
export type AttemptState = (typeof ATTEMPT_STATES)[number];

/** Kinds of cards, as a terminal reports them. */
export const CARD_KINDS = ['credit', 'debit', 'prepaid', 'unknown'] as const;
/** A kind of card. */
export type CardKind = (typeof CARD_KINDS)[number];

/** Places of money. */
export const PLACE_KINDS = {
  drawer: 'Cash drawer',
  undeposited: 'Not yet deposited',
  clearing: 'Being cleared',
  bank: 'Bank account',
} as const;
/** A kind of place. */
export type PlaceKind = keyof typeof PLACE_KINDS;
/** Where money of a tender comes first: what is handed over lies here, cards and debits are cleared, what is transferred is in the bank. */
export const FIRST_PLACE: Readonly<Record<Tender, PlaceKind>> = {
  check: 'undeposited',
  cash: 'undeposited',
  card: 'clearing',
  bank: 'clearing',
  transfer: 'bank',
  voucher: 'undeposited',
};

/** A receipt's tender as the ledger says it. */
export const tenderMemo = ({ tender, reference }: { tender: Tender; reference: string }): string =>
  tender === 'cash' || reference === '' ? TENDERS[tender].words : `${TENDERS[tender].words} ${reference}`;

/** Bills and coins of the dollar, in cents, the largest first. */
export const DENOMINATIONS: readonly Cents[] = [10000, 5000, 2000, 1000, 500, 200, 100, 50, 25, 10, 5, 1].map(
  (value) => cents(value),
);

/** What bills and coins come to. @param pieces how many of each, as typed, by its cents; null where one is no number */
export function countedCash(pieces: Readonly<Record<number, string>>): Cents | null {
  let total: Cents = ZERO;
  for (const each of DENOMINATIONS) {
    const many = (pieces[each] ?? '').trim();
    if (!/^\d{0,5}$/.test(many)) return null;
    total = add(total, times(each, Number(many)));
  }
  return total;
}
