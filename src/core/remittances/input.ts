/** What the screens of the remittances station ask. */
import { z } from 'zod';
import { PASSINGS } from '../books/passing';
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
  as: z.enum(['correction', 'additional', 'meant', 'again', 'returned', 'kept']),
  why: reasonField('Say why'),
});
/** What a reason does that Setup does not know, said where a claim waits for it. */
export const reasonInput = z.object({
  remittanceClaimId: idField,
  group: z.enum(['CO', 'PI']),
  code: z
    .string()
    .trim()
    .toUpperCase()
    .regex(/^[A-Z0-9]{1,5}$/, 'is a code of up to five letters and digits'),
  /** Whether it refuses, so that it stays with the payer, or takes off. */
  denial: z.boolean(),
  words: reasonField('Say what it means'),
});
/** A list of combinations of reasons and remarks, as CSV. */
export const combinationsInput = z.object({
  text: z.string().min(1, 'is empty').max(2_000_000, 'is too large'),
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
 * What a payer does not pay of a charge, to be written off, passed to the patient or put before the next payer; of every payer of
 * the charge when no coverage is named. What a payer took off under its own groups is the patient's by an exception alone.
 */
export const settleInput = z.object({
  chargeId: idField,
  coverageId: idField.optional(),
  to: z.enum(['off', 'patient', 'next']),
  exception: z.enum(PASSINGS).nullish(),
  why: reasonField('Say why'),
});
