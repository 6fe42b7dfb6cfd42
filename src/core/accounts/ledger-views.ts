/** What of a ledger is shown: known to the screen without the schemas of what is asked of the server. */
import { type ChargeTotals, openIn, paidIn } from '../books/strip';

/** What of a ledger is shown, on the screen and on paper. */
export const LEDGER_VIEWS = {
  all: {
    label: 'All',
    words: 'All charges',
    holds: ({ status }) => status !== 'void',
  },
  open: { label: 'Only open', words: 'Charges that are open', holds: (charge) => openIn(charge) !== 0 },
  paid: {
    label: 'Only paid on',
    words: 'Charges that were paid on',
    holds: (charge) => paidIn(charge) !== 0,
  },
  planned: {
    label: 'Planned',
    words: 'Planned services, as an estimate',
    holds: ({ status }) => status === 'planned',
  },
} as const satisfies Record<
  string,
  {
    label: string;
    /** What stands at the head of the paper. */
    words: string;
    holds: (charge: ChargeTotals & { status: 'planned' | 'done' | 'void' }) => boolean;
  }
>;
/** A view of a ledger. */
export type LedgerView = keyof typeof LEDGER_VIEWS;
