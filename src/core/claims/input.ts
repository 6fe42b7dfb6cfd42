/** What the screens of the claims station ask. */
import { z } from 'zod';
import { DELAY_REASONS, type DelayReason } from './delay';
import { idField, keyField, reasonField, textField } from '../fields';

/** Building: of a household, a person, a case, chosen charges, or all. */
export const buildInput = z.object({
  householdId: idField.optional(),
  patientId: idField.optional(),
  caseId: idField.optional(),
  chargeIds: z.array(idField).min(1, 'Choose a charge first').max(2000).optional(),
  /** What waits with first payers, what earlier payers have passed on to next ones, or both. */
  which: z.enum(['first', 'next', 'all']).default('first'),
  /** By itself: of payers whose new claims wait for somebody to ask nothing is built. */
  evening: z.boolean().default(false),
});
/** Building in the evening. */
export const eveningInput = z.object({});
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
/** A table of limits as CSV. */
export const limitsInput = z.object({
  which: z.enum(['units', 'pairs']),
  text: z.string().min(1, 'is empty').max(20_000_000, 'is too large'),
});
/** Printing: claims by id, or all that are ready and go on paper. */
export const printInput = z.object({ claimIds: z.array(idField).min(1).max(2000).optional() });
/** Checking without sending: claims by id, or all that could be sent. */
export const checkOnlyInput = z.object({
  claimIds: z.array(idField).min(1, 'Choose a claim').max(10_000).optional(),
});
/** A check of claims. */
export const checkInput = z.object({ checkId: idField });
/** A file that a check's ready claims would make. */
export const checkFileInput = z.object({ connectionId: idField, form: z.enum(['professional', 'dental']) });
/** Checking again: claims of one household, or all that are still ours. */
export const recheckInput = z.object({ householdId: idField.optional() });
/** A claim that the payer says it does not have. */
export const notOnFileInput = z.object({ claimId: idField, why: reasonField('Say who said so') });
/** A claim whose payer was told what it does not say any more. */
export const toldInput = z.object({ claimId: idField, why: reasonField('Say who was told, and how') });
/** A note on a claim, whatever its state. */
export const claimNoteInput = z.object({
  claimId: idField,
  words: reasonField('Say what is to be noted'),
  key: keyField,
});
/** A claim that is late. */
export const delayInput = z.object({
  claimId: idField,
  reason: z.enum(['', ...(Object.keys(DELAY_REASONS) as [DelayReason, ...DelayReason[]])]),
});
/** Drafts to be one. */
export const mergeInput = z.object({ claimIds: z.array(idField).min(2, 'Choose two claims').max(50) });
/** Lines of a draft to be a claim of their own, by number. */
export const splitInput = z.object({
  claimId: idField,
  lines: z.array(z.int().min(1)).min(1, 'Choose a line').max(50),
});
/**
 * A claim that the payer has, to be sent again corrected (frequency 7) or to be voided (8), with the payer's own number of it; or one that
 * it could not process, to be sent anew (1).
 */
export const replaceInput = z.object({
  claimId: idField,
  as: z.enum(['1', '7', '8']),
  payerClaimNumber: textField(50),
  why: reasonField('Say what is corrected, or why it is voided'),
});
/** A line of a claim, by its number. */
export const lineInput = z.object({ claimId: idField, line: z.coerce.number().int().min(1) });
/** Who did what a claim bills, and where; left out, it is where that provider works. */
export const correctInput = z.object({
  claimId: idField,
  providerId: idField,
  locationId: idField.optional(),
});
/** Services to be further lines of a claim. */
export const addLinesInput = z.object({
  claimId: idField,
  chargeIds: z.array(idField).min(1, 'Choose a service').max(50),
});
/** A claim that was told by telephone or form. */
export const toldByHandInput = z.object({ claimId: idField, why: reasonField('Say who was told, and how') });
/** A void that the payer has confirmed. */
export const freeInput = z.object({ claimId: idField, why: reasonField('Say who confirmed it') });
