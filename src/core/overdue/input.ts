/** What the screens of the overdue station send. */
import { z } from 'zod';
import {
  centsField,
  dateField,
  idField,
  keyField,
  moneyField,
  optionalDateField,
  reasonField,
  sureField,
  textField,
} from '../fields';
import { CONTACT_KINDS, type ContactKind, type ContactOutcome, OUTCOMES } from './contacts';
import { blocksField } from './letters';

const households = z.array(idField).min(1, 'are not chosen').max(5000, 'are too many at once');
/** The amount that was on the button, in cents; another one is asked about. Absent where it said none. */
const seen = { seen: centsField.optional(), sure: sureField };
const optionalMoney = z
  .string()
  .trim()
  .nullish()
  .transform((value) => value || null)
  .pipe(moneyField.nullable());

/** A letter's words: a new template, or a new version of one. */
export const letterInput = z.object({
  templateId: idField.nullish().transform((value) => value ?? null),
  name: z.string().trim().min(1, 'is missing').max(60, 'may have 60 characters'),
  active: z.boolean().default(true),
  subject: z.string().trim().min(1, 'is missing').max(200, 'may have 200 characters'),
  blocks: blocksField,
  version: z.int().optional(),
});

/** A letter's words as they would go to an account today. */
export const letterPreviewInput = z.object({
  householdId: idField,
  subject: z.string().max(200, 'may have 200 characters'),
  blocks: blocksField,
});

/** Preparing the letters that are due: of everybody, or of those named. */
export const draftLettersInput = z.object({
  householdIds: households.nullish().transform((value) => value ?? null),
  key: keyField,
});

/** Somebody was tried or spoke to us. */
export const contactInput = z
  .object({
    householdId: idField,
    kind: z.enum(Object.keys(CONTACT_KINDS) as [ContactKind]),
    direction: z.enum(['out', 'in']).default('out'),
    whom: textField(80),
    said: textField(1000),
    outcome: z.enum(Object.keys(OUTCOMES) as [ContactOutcome]),
    amount: optionalMoney,
    by: optionalDateField,
    againOn: optionalDateField,
    sure: sureField,
    key: keyField,
  })
  .superRefine(({ outcome, amount, by, said }, issues) => {
    const say = (path: string, message: string): void =>
      issues.addIssue({ code: 'custom', path: [path], message });
    if (outcome === 'promise' && amount === null) say('amount', 'is missing');
    if (outcome === 'promise' && amount !== null && amount <= 0) say('amount', 'is above zero');
    if (outcome === 'promise' && by === null) say('by', 'is missing');
    if ((outcome === 'dispute' || outcome === 'hardship') && said === '') say('said', 'is missing');
  });

/** A contact that was noted by mistake. */
export const voidContactInput = z.object({
  contactId: idField,
  why: reasonField('Say why it does not count'),
});

/** A promise that somebody took back, or that was changed. */
export const endPromiseInput = z.object({ promiseId: idField, why: reasonField('Say why it is taken back') });

/** Giving accounts to somebody, or to nobody. */
export const assignInput = z.object({
  householdIds: households,
  userId: z
    .string()
    .max(80)
    .nullish()
    .transform((value) => value || null),
});

/** Small balances that are written off. */
export const smallInput = z.object({ householdIds: households, ...seen, key: keyField });

/** One that is written off by mistake, taken back. */
export const undoWriteOffInput = z.object({ entryId: idField, why: reasonField('Say why it is taken back') });

/** A proposal to hand an account to an agency. */
export const proposeInput = z.object({
  householdIds: households,
  connectionId: idField,
  why: reasonField('Say why it is handed over'),
  sure: sureField,
});

/** A placement, and why something is done with it. */
export const endPlacementInput = z.object({ placementId: idField, why: reasonField('Say why') });
/** A placement that was held back and goes all the same. */
export const releaseInput = z.object({ placementId: idField, sure: sureField });
/** Placements that are approved at once. */
export const approveInput = z.object({
  placementIds: z.array(idField).min(1, 'are not chosen').max(500, 'are too many at once'),
  ...seen,
});

/** Money of an agency, entered by hand. */
export const agencyMoneyInput = z.object({
  placementId: idField,
  reference: z.string().trim().min(1, 'is missing').max(60, 'may have 60 characters'),
  paidOn: dateField,
  gross: moneyField.refine((amount) => amount > 0, 'is above zero'),
  fee: optionalMoney,
  key: keyField,
});

/** Money of an agency that is taken back. */
export const reverseAgencyMoneyInput = z.object({
  paymentId: idField,
  why: reasonField('Say why it is reversed'),
});

/** Paying an agency what its fees are. */
export const payFeeInput = z.object({
  connectionId: idField,
  amount: moneyField.refine((amount) => amount > 0, 'is above zero'),
  reference: z.string().trim().min(1, 'is missing').max(60, 'may have 60 characters'),
  key: keyField,
});

/** Bad debt: charges of an account that came back, all or a part, written off by decision. */
export const badDebtInput = z.object({
  householdId: idField,
  amount: optionalMoney,
  why: reasonField('Say why it is bad debt'),
  key: keyField,
});

/** Money on what was written off as bad debt, from a receipt that is held. */
export const recoverInput = z.object({ householdId: idField, key: keyField });

/** Asking for a reduction because somebody cannot pay. */
export const hardshipInput = z.object({
  householdId: idField,
  size: z.coerce.number().int('is a whole number').min(1, 'is at least 1').max(20, 'is at most 20'),
  income: moneyField.refine((amount) => amount >= 0, 'is not below zero'),
  evidence: z.string().trim().min(1, 'is missing').max(500, 'may have 500 characters'),
  key: keyField,
});

/** Deciding about it. */
export const decideHardshipInput = z.object({
  hardshipId: idField,
  approve: z.boolean(),
  why: textField(300),
  ...seen,
});
