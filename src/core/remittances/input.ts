/** What the screens of the remittances station ask. */
import { z } from 'zod';
import { idField, reasonField } from '../fields';

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
/** A follow-up that is done. */
export const closeInput = z.object({ followUpId: idField, outcome: reasonField('Say what came of it') });
/** What a payer denied of a charge, to be written off; of every payer of the charge when no coverage is named. */
export const writeOffInput = z.object({
  chargeId: idField,
  coverageId: idField.optional(),
  why: reasonField('Say why it is written off'),
});
