/** What is sent to write and to end a note. */
import { z } from 'zod';
import { idField, keyField, optionalDateField } from '../fields';
import { wordsField } from '../statements/input';
import { AUDIENCES, type Audience } from './notes';

/**
 * A note on an account. What is for the patient prints until a day or so many times; what is for us may stand at the head of the
 * account, until a day or until it is ended.
 */
export const noteInput = z
  .object({
    householdId: idField,
    audience: z.enum(Object.keys(AUDIENCES) as [Audience]).default('us'),
    words: wordsField(z.string().trim().min(1, 'are missing').max(500, 'may have 500 characters')),
    pinned: z.boolean().default(false),
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
  .superRefine(({ audience, pinned, until, times }, issues) => {
    const say = (path: string, message: string): void =>
      issues.addIssue({ code: 'custom', path: [path], message });
    const counted = (times ?? null) !== null;
    if (audience === 'patient' && until === null && !counted)
      say('until', 'or how many times it prints is missing');
    if (audience === 'us' && counted) say('times', 'is for notes that print');
    if (audience === 'patient' && pinned) say('pinned', 'is for notes of ours');
  });

/** A note that stands no more. */
export const endNoteInput = z.object({ noteId: idField });
