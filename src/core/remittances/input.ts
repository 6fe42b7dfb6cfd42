/** What the screens of the remittances station ask. */
import { z } from 'zod';
import { dateField, idField, reasonField, textField } from '../fields';

/** Posting: remittances by id, or all that are ready. */
export const postInput = z.object({ remittanceIds: z.array(idField).max(5000).optional() });
/** A held claim of a remittance, matched to ours by its number. */
export const matchInput = z.object({
  remittanceClaimId: idField,
  controlNumber: z.string().trim().min(1, 'is missing').max(40, 'may have 40 characters'),
});
/** A remittance, or one claim of it, to be reversed. */
export const reverseInput = z.object({
  remittanceId: idField,
  remittanceClaimId: idField.optional(),
  why: reasonField('Say why it is reversed'),
});
/** What a held claim of a remittance is, as a person says. */
export const heldInput = z.object({
  remittanceClaimId: idField,
  as: z.enum(['correction', 'additional', 'meant', 'returned', 'kept']),
  why: reasonField('Say why'),
});
/** A remittance. */
export const remittanceInput = z.object({ remittanceId: idField });
/** A follow-up that is done. */
export const closeInput = z.object({ followUpId: idField, outcome: reasonField('Say what came of it') });
/** A follow-up that goes on: when, by whom, and what was said. */
export const followUpInput = z.object({
  followUpId: idField,
  dueDate: dateField,
  owner: textField(80),
  note: textField(500),
  version: z.coerce.number().int().optional(),
});
/**
 * What a payer does not pay of a charge, to be written off or passed to the patient; of every payer of the charge when no
 * coverage is named.
 */
export const settleInput = z.object({
  chargeId: idField,
  coverageId: idField.optional(),
  to: z.enum(['off', 'patient']),
  why: reasonField('Say why'),
});
