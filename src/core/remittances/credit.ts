/** What can be done with a provider adjustment that stands in a payer's credit. */
import { z } from 'zod';
import { centsField, idField, keyField, moneyField, reasonField } from '../fields';

/**
 * The ways out: it is applied to a claim; it was our refund, which another item of the credit explains; it is given up; the
 * money went back to where it came from.
 */
export const CREDIT_WAYS = ['apply', 'refund', 'give-up', 'return'] as const;
/** One of the ways out. */
export type CreditWay = (typeof CREDIT_WAYS)[number];

/** Another item of the payer's credit: a provider adjustment, or a held claim of a remittance. */
export const creditItemField = z
  .string()
  .regex(/^(adjustment|claim)-[1-9]\d{0,14}$/, 'is no item of the payer’s credit')
  .transform((text) => {
    const [kind = '', id = ''] = text.split('-');
    return { kind: kind as 'adjustment' | 'claim', id: Number(id) };
  });

/** Settling a provider adjustment, whole or in part. */
export const settleCreditInput = z
  .object({
    adjustmentId: idField,
    as: z.enum(CREDIT_WAYS),
    /** Without a sign; all that is open when absent. */
    amount: moneyField.optional(),
    /** What was open when the form was filled, in cents. */
    open: centsField,
    controlNumber: z.string().trim().max(40, 'may have 40 characters').default(''),
    against: creditItemField.optional(),
    why: reasonField('Say why'),
    key: keyField,
  })
  .refine((data) => data.as !== 'apply' || data.controlNumber !== '', {
    path: ['controlNumber'],
    error: 'is missing',
  })
  .refine((data) => data.as !== 'refund' || data.against, { path: ['against'], error: 'is missing' })
  .refine((data) => data.amount === undefined || data.amount > 0, {
    path: ['amount'],
    error: 'must be more than zero',
  });

/** A provider adjustment. */
export const adjustmentInput = z.object({ adjustmentId: idField });
/** Something that was done with payer credit, to be undone. */
export const undoCreditInput = z.object({ entryId: idField, why: reasonField('Say why it is undone') });
