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

/** A receipt's tender as the ledger says it. */
export const tenderMemo = ({ tender, reference }: { tender: Tender; reference: string }): string =>
  tender === 'cash' || reference === '' ? TENDERS[tender].words : `${TENDERS[tender].words} ${reference}`;
