/** Ledgers on paper: which charges of an account, of which days, site and person, and as one document or one each. */
import { z } from 'zod';
import { type ChargeTotals, openIn, paidIn } from '../books/strip';
import { idField, optionalDateField } from '../fields';

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

/** What of an account is printed: a view of the ledger, or what was paid, as an itemized receipt. */
export const paperInput = z
  .object({
    householdId: idField,
    what: z.enum([...(Object.keys(LEDGER_VIEWS) as [LedgerView]), 'receipt']).default('all'),
    from: optionalDateField,
    to: optionalDateField,
    siteId: idField.nullish().transform((value) => value ?? null),
    patientId: idField.nullish().transform((value) => value ?? null),
    /** One document for each person instead of one for all. */
    each: z
      .union([z.boolean(), z.literal('1').transform(() => true)])
      .nullish()
      .transform((value) => value ?? false),
  })
  .refine(({ from, to }) => from === null || to === null || from <= to, {
    path: ['to'],
    message: 'lies before the first day',
  });
