/** What the forms of the payments station send. */
import { z } from 'zod';
import { centsField, idField, keyField, moneyField, reasonField, sureField, textField } from '../fields';
import { TENDERS, TENDER_NAMES } from './tenders';

/** What the payment form sends. `parts` by charge id, for spreading by hand; oldest first when absent. */
export const receiptInput = z
  .object({
    householdId: idField,
    amount: moneyField,
    tender: z.enum(TENDER_NAMES),
    reference: textField(40),
    note: textField(200),
    /** What of it goes to payment plans, by plan. */
    plans: z.record(z.string().regex(/^\d+$/), moneyField).nullish(),
    /** What of it pays what is with a collection agency. */
    agency: z
      .string()
      .trim()
      .nullish()
      .transform((value) => value || null)
      .pipe(moneyField.nullable()),
    /** Whether it pays the households too that are mailed in one envelope with this one. */
    together: z.boolean().default(false),
    parts: z.record(z.string().regex(/^\d+$/), moneyField).nullish(),
    /** What was owed when the form was opened, in cents; absent where nobody has looked. */
    owed: centsField.optional(),
    key: keyField,
    sure: sureField,
  })
  .refine((data) => data.amount > 0, { path: ['amount'], error: 'must be more than zero' })
  .refine((data) => !TENDERS[data.tender].needed || data.reference !== '', {
    path: ['reference'],
    error: 'is missing',
  });

/** Credit to be used for open charges. */
export const creditInput = z.object({ householdId: idField, key: keyField });
/** A receipt to be reversed. */
export const reverseReceiptInput = z.object({
  receiptId: idField,
  why: reasonField('Say why it is reversed'),
});
