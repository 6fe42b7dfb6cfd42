/** What the screens of the statements station ask. */
import { z } from 'zod';
import { STATES } from '../claims/states';
import {
  dateField,
  idField,
  keyField,
  optionalDateField,
  reasonField,
  sureField,
  textField,
} from '../fields';
import { optionsField } from './document';
import { HOUSEHOLD_DELIVERIES } from '../mail/pieces';
import { runInput } from './sets';
import { faultOf } from './variables';

/** Words that may have variables in them: those that nobody knows are refused, with the place. */
export const wordsField = (text: z.ZodString) =>
  text.superRefine((words, check) => {
    const fault = faultOf(words);
    if (fault !== null) check.addIssue({ code: 'custom', message: `cannot be read: ${fault}` });
  });

/** One household's statement, handed over or printed at once. */
export const statementInput = z.object({
  householdId: idField,
  /** The patient alone whose services go to a confidential address. */
  patientId: idField.nullish().transform((value) => value ?? null),
  sure: sureField,
  key: keyField,
});

/** A statement as it would be. */
export const previewInput = statementInput.omit({ key: true, sure: true });

/** Preparing drafts of those whom a run takes. */
export const draftInput = runInput.extend({
  title: textField(80),
  options: optionsField.optional(),
  key: keyField,
});

const pieces = z.array(idField).min(1, 'are not chosen').max(5000, 'are too many at once');

/** Changing pieces that are drafts: what is absent stays. */
export const editInput = z.object({
  pieceIds: pieces,
  delivery: z.enum(['mail', 'print-shop', 'email']).optional(),
  /** Words for the patient on this statement alone. */
  note: wordsField(z.string().trim().max(500, 'may have 500 characters')).optional(),
  /** Until when it is to be paid; empty goes back to the policy's days. */
  dueDate: z.union([z.literal(''), dateField]).optional(),
  options: optionsField.partial().optional(),
});

/** Pieces made anew from the books. */
export const refreshInput = z.object({ pieceIds: pieces });

/** Pieces that are not to go out. */
export const takeOutInput = z.object({
  pieceIds: pieces,
  why: reasonField('Say why these are taken out'),
});

/** Pieces that go out after all. */
export const putBackInput = z.object({ pieceIds: pieces });

/** A household added to a batch, whatever the rows said. */
export const addInput = z.object({ batchId: idField, householdId: idField });

const pieceNumber = z.coerce.number().int().min(1).max(1_000_000, 'is no number of a piece');

/** A batch, or its pieces from one number to another. */
export const batchInput = z.object({
  batchId: idField,
  from: pieceNumber.optional(),
  to: pieceNumber.optional(),
});

/** A batch whose drafts are to be prepared: statements by the rows of a run, or letters of everybody or of those named. */
export const batchToDraftInput = z.object({
  batchId: idField,
  kind: z.enum(['statement', 'letter']),
  run: runInput.nullish(),
  householdIds: z.array(idField).nullish(),
});

/** Pieces that were printed and mailed, or are handed over once more, also those that are not as they were made. */
export const leavingInput = batchInput.extend({ sure: sureField });

/** Papers of a batch to print: those that wait for it, or all once more; or the list alone. */
export const paperInput = batchInput.extend({
  what: z.enum(['waiting', 'again']).default('again'),
  list: z.literal('only').optional(),
});

/** Pieces that never reached anybody. */
export const voidInput = z.object({ pieceIds: pieces, why: reasonField('Say why these do not count') });

/** How a household is written to. */
export const deliveryInput = z.object({
  householdId: idField,
  delivery: z.enum(Object.keys(HOUSEHOLD_DELIVERIES) as [keyof typeof HOUSEHOLD_DELIVERIES]),
  deliveryWhy: textField(200),
  holdUntil: optionalDateField,
  holdWhy: textField(200),
  category: z.string().max(200).nullish(),
  siteId: idField.nullish(),
  /** Number of the account in whose envelope its statements go; empty for its own. */
  mailedWith: z
    .string()
    .trim()
    .toUpperCase()
    .max(20, 'is no account number')
    .nullish()
    .transform((value) => value ?? ''),
  /** Cases that bear no late charges. */
  spared: z.array(idField).max(500, 'are too many').default([]),
  /** Mail and e-mail reach it again. */
  addressGood: z.boolean().default(false),
  /** Whether late charges may be put on it. */
  lateCharges: z.boolean().default(true),
  /** Each receipt goes by e-mail, without anybody asking. */
  receiptsByEmail: z.boolean().default(false),
  version: z.int().optional(),
});

const addressLine = (most: number) => z.string().trim().max(most, `may have ${most} characters`).default('');

/** A second address to which what concerns one patient goes, and nothing of it to the household's. */
export const confidentialInput = z
  .object({
    patientId: idField,
    name: z.string().trim().min(1, 'is missing').max(80, 'may have 80 characters'),
    delivery: z.enum(['mail', 'print-shop', 'email']).default('mail'),
    line1: addressLine(55),
    line2: addressLine(55),
    city: addressLine(30),
    state: z
      .string()
      .trim()
      .toUpperCase()
      .refine((value) => value === '' || STATES.has(value), 'is a two-letter state code such as WA')
      .default(''),
    zip: z
      .string()
      .trim()
      .regex(/^(\d{5}(-?\d{4})?)?$/, 'has five or nine digits')
      .default(''),
    email: z.union([z.literal(''), z.email('is not an e-mail address')]).default(''),
    why: textField(200),
    version: z.int().optional(),
  })
  .superRefine((data, issues) => {
    const needs =
      data.delivery === 'email' ? (['email'] as const) : (['line1', 'city', 'state', 'zip'] as const);
    for (const name of needs)
      if (data[name] === '') issues.addIssue({ code: 'custom', path: [name], message: 'is missing' });
  });

/** A confidential address that is none any more. */
export const endConfidentialInput = z.object({ patientId: idField });

/** Stopping something on an account. */
export const stopInput = z.object({
  householdId: idField,
  reasonId: idField,
  note: textField(300),
  until: optionalDateField,
});

/** Lifting a stop. */
export const liftInput = z.object({ stopId: idField, why: reasonField('Say why it is lifted') });

/** Putting late charges on accounts. */
export const lateInput = z.object({
  householdIds: z.array(idField).min(1, 'are not chosen').max(5000, 'are too many at once'),
  key: keyField,
});

/** Words with variables as they would stand on a household's statement. */
export const wordsInput = z.object({
  householdId: idField,
  words: z.string().max(500, 'may have 500 characters'),
});
