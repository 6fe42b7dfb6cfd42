/** What the screens of the claims station ask. */
import { z } from 'zod';
import { idField, reasonField, textField } from '../fields';

/** Building: of one household, or of all. */
export const buildInput = z
  .object({
    householdId: idField.optional(),
    /** What earlier payers have passed on to the next ones, of one household, instead of what waits with first payers. */
    later: z.boolean().default(false),
  })
  .refine(({ later, householdId }) => !later || householdId !== undefined, {
    path: ['householdId'],
    message: 'is missing: next payers are billed by account',
  });
/** Sending: claims by id, or all that are ready; with `ready` those of the ids that are ready still, the others are left. */
export const sendInput = z.object({
  claimIds: z.array(idField).max(2000).optional(),
  ready: z.boolean().default(false),
});
/** Sending all that are ready, in the background. */
export const sendAllInput = z.object({});
/** One claim. */
export const claimInput = z.object({ claimId: idField });
/** A claim to be held. */
export const holdInput = z.object({ claimId: idField, why: reasonField('Say why it is held') });
/** A claim to be withdrawn. */
export const withdrawInput = z.object({ claimId: idField, why: reasonField('Say why it is withdrawn') });
/** Checking again: claims of one household, or all that are still ours. */
export const recheckInput = z.object({ householdId: idField.optional() });
/** A claim that the payer has, to be sent again corrected (frequency 7) or to be voided (8), with the payer's own number of it. */
export const replaceInput = z.object({
  claimId: idField,
  as: z.enum(['7', '8']),
  payerClaimNumber: textField(50),
  why: reasonField('Say what is corrected, or why it is voided'),
});
/** A void that the payer has confirmed. */
export const freeInput = z.object({ claimId: idField, why: reasonField('Say who confirmed it') });
