/** Ledgers on paper: which charges of an account, of which days, site and person, and as one document or one each. */
import { z } from 'zod';
import { idField, optionalDateField } from '../fields';
import { LEDGER_VIEWS, type LedgerView } from './ledger-views';

/** What of an account is printed: a view of the ledger, what was paid as an itemized receipt, or what to ask for today. */
export const paperInput = z
  .object({
    householdId: idField,
    what: z.enum([...(Object.keys(LEDGER_VIEWS) as [LedgerView]), 'receipt', 'collect']).default('all'),
    from: optionalDateField,
    to: optionalDateField,
    siteId: idField.nullish().transform((value) => value ?? null),
    patientId: idField.nullish().transform((value) => value ?? null),
    /** One case of a person alone. */
    caseId: idField.nullish().transform((value) => value ?? null),
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
