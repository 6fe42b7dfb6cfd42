/** What is sent to write and to end a note. */
import { z } from 'zod';
import { idField, keyField, optionalDateField } from '../fields';
import { wordsField } from '../statements/input';
import { AUDIENCES, type Audience } from './notes';

/**
 * A note on an account, a person or a case of it, or on a payer. What is for the patient prints until a day or so many times; what is for us may stand at the head of the
 * account, until a day or until it is ended.
 */
export const noteInput = z
  .object({
    householdId: idField.optional(),
    /** One of the account's people, or one of that person's cases, which it is about. */
    patientId: idField.nullish().transform((value) => value ?? null),
    caseId: idField.nullish().transform((value) => value ?? null),
    /** A payer instead of an account. */
    payerId: idField.optional(),
    audience: z.enum(Object.keys(AUDIENCES) as [Audience]).default('us'),
    words: wordsField(z.string().trim().min(1, 'are missing').max(500, 'may have 500 characters')),
    pinned: z.boolean().default(false),
    /** Each user sees it once a day on opening. */
    onOpening: z.boolean().default(false),
    until: optionalDateField,
    times: z
      .union([
        z.literal('').transform(() => null),
        z.coerce
          .number('are a whole number')
          .int('are a whole number')
          .min(1, 'are at least 1')
          .max(99, 'are at most 99'),
      ])
      .nullish(),
    key: keyField,
  })
  .superRefine(
    ({ audience, pinned, until, times, householdId, payerId, patientId, caseId, onOpening }, issues) => {
      const say = (path: string, message: string): void =>
        issues.addIssue({ code: 'custom', path: [path], message });
      if ((householdId === undefined) === (payerId === undefined))
        say('householdId', 'or a payer is what it is about, and not both');
      if (payerId !== undefined && audience === 'patient') say('audience', 'is us for what is about a payer');
      if (payerId !== undefined && patientId !== null) say('patientId', 'is for notes on an account');
      if (patientId === null && caseId !== null) say('caseId', 'is one person’s');
      if (onOpening && !pinned) say('onOpening', 'is for what stands at the head');
      const counted = (times ?? null) !== null;
      if (audience === 'patient' && until === null && !counted)
        say('until', 'or how many times it prints is missing');
      if (audience === 'us' && counted) say('times', 'is for notes that print');
      if (audience === 'patient' && pinned) say('pinned', 'is for notes of ours');
    },
  );

/** A note that stands no more. */
export const endNoteInput = z.object({ noteId: idField });

/** Notices that somebody has read on opening. */
export const seenInput = z.object({ noteIds: z.array(idField).min(1).max(100) });
