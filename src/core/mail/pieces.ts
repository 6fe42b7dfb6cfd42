/** Pieces of mail: how each goes out, where it is on its way, and what became of it. */

/** How a piece goes out. */
export const DELIVERIES = {
  mail: 'printed here',
  'print-shop': 'print shop',
  email: 'e-mail',
  'in-person': 'handed over',
} as const;
/** How a piece goes out. */
export type Delivery = keyof typeof DELIVERIES;

/** How a household is written to. */
export const HOUSEHOLD_DELIVERIES = {
  mail: 'printed and mailed here',
  'print-shop': 'by the print shop',
  email: 'by e-mail',
  none: 'not at all',
} as const;

/** Where a piece is: its paper stands when it is made, and it is out when it is sent. */
export const PIECE_STATES = {
  draft: 'draft',
  'taken-out': 'taken out',
  made: 'made, not out yet',
  sent: 'sent',
  failed: 'failed',
  void: 'void: not sent',
} as const;
/** Where a piece is. */
export type PieceState = keyof typeof PIECE_STATES;

/** What the outside said of a piece that was sent. */
export const OUTCOMES = {
  accepted: 'accepted',
  'address-corrected': 'address corrected',
  undeliverable: 'undeliverable',
  bounced: 'came back',
  returned: 'returned',
} as const;
/** What the outside said of a piece. */
export type PieceOutcome = keyof typeof OUTCOMES;

/** What goes out, by the letter with which its id outside begins: pieces of mail, and messages with a receipt. */
const OUTSIDE = { piece: 'P', receipt: 'R' } as const;
/** What goes out. */
export type Outside = keyof typeof OUTSIDE;

const nameOf = (what: Outside, id: number): string => `${OUTSIDE[what]}${String(id).padStart(8, '0')}`;
/** The id of a piece outside, the same however often it is handed over. */
export const pieceName = (pieceId: number): string => nameOf('piece', pieceId);
/** The id outside of a message with a receipt, the same however often it is handed over. */
export const receiptName = (messageId: number): string => nameOf('receipt', messageId);
/** What an id outside names; null when it is none. */
export function namedOutside(name: string): { what: Outside; id: number } | null {
  const found = /^([PR])(\d{8,15})$/.exec(name.trim());
  return found ? { what: found[1] === 'P' ? 'piece' : 'receipt', id: Number(found[2]) } : null;
}
