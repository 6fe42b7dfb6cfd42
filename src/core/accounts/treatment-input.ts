/** What the forms of planned treatment send. */
import { z } from 'zod';
import {
  dateField,
  idField,
  keyField,
  moneyField,
  optionalDateField,
  reasonField,
  textField,
} from '../fields';

const idOrNone = idField.nullish().transform((value) => value ?? null);

/** A way of treating beside others. */
export const optionInput = z.object({
  caseId: idField,
  name: textField(60).pipe(z.string().min(1, 'is missing')),
});

/** Whether a way of treating is chosen: of others nothing is spoken for. */
export const chooseInput = z.object({ optionId: idField, chosen: z.boolean() });

/** In which way of treating planned services are, and in which phase of it. */
export const placeInput = z.object({
  chargeIds: z.array(idField).min(1, 'are not chosen').max(200, 'are at most 200'),
  optionId: idOrNone,
  phase: z.coerce.number().int('is a whole number').min(1, 'is at least 1').max(9, 'is at most 9'),
});

/** An estimate that is handed over. */
export const estimateGivenInput = z.object({
  caseId: idField,
  /** One way of treating; none: what is chosen. */
  optionId: idOrNone,
  validUntil: dateField,
  /** For when it is booked. */
  bookedFor: optionalDateField,
  /** The patient asked for it. */
  asked: z.boolean().default(false),
  key: keyField,
});

/** An estimate that was signed. */
export const estimateSignedInput = z.object({
  estimateId: idField,
  by: textField(80).pipe(z.string().min(1, 'is missing')),
  on: dateField,
});

/** What is asked for above a good faith estimate, looked at and found right. */
export const aboveSeenInput = z.object({
  estimateId: idField,
  why: reasonField('Say why so much more is asked for'),
});

/** Modifiers that say why a payer is not expected to pay, and whether a notice is on file. */
export const NOTICE_MODIFIERS = {
  GA: 'notice on file, as the payer demands one',
  GX: 'notice on file, given freely',
  GY: 'never covered; no notice is needed',
  GZ: 'expected to be refused; no notice on file',
} as const;

/** A notice that a service will not be covered, signed before it is done. */
export const noticeInput = z.object({
  caseId: idField,
  code: z.string().trim().toUpperCase().min(1, 'is missing'),
  why: reasonField('Say why it will not be covered'),
  price: moneyField,
  modifier: z.enum(Object.keys(NOTICE_MODIFIERS) as [keyof typeof NOTICE_MODIFIERS], { error: 'is missing' }),
  signedOn: optionalDateField,
  key: keyField,
});
