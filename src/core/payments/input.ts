/** What the forms of the payments station send. */
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
import type { Cents } from '../money';
import { TENDERS, TENDER_NAMES, type Tender } from './tenders';

/** An amount that may be left empty. */
const optionalMoneyField = z
  .string()
  .trim()
  .nullish()
  .transform((value) => value || null)
  .pipe(moneyField.nullable());

/** Money has an amount, and what its tender needs beside it. */
function tendered(
  { amount, tender, reference }: { amount: Cents; tender: Tender; reference: string },
  context: z.RefinementCtx,
): void {
  if (amount <= 0) context.addIssue({ code: 'custom', path: ['amount'], message: 'must be more than zero' });
  if (TENDERS[tender].needed && reference === '')
    context.addIssue({ code: 'custom', path: ['reference'], message: 'is missing' });
}

/** What the payment form sends. `parts` by charge id, for spreading by hand; oldest first when absent. */
export const receiptInput = z
  .object({
    householdId: idField,
    /** The patient with an address apart whose own money it is; the household’s when absent. */
    patientId: idField.nullish().transform((value) => value ?? null),
    amount: moneyField,
    tender: z.enum(TENDER_NAMES),
    reference: textField(40),
    note: textField(200),
    /** The day on which it came; today where none is said. */
    receivedOn: optionalDateField,
    /** What of it goes to payment plans, by plan. */
    plans: z.record(z.string().regex(/^\d+$/), moneyField).nullish(),
    /** What of it pays what is with a collection agency. */
    agency: optionalMoneyField,
    /** Whether it pays the households too that are mailed in one envelope with this one. */
    together: z.boolean().default(false),
    parts: z.record(z.string().regex(/^\d+$/), moneyField).nullish(),
    /** What was owed when the form was opened, in cents; absent where nobody has looked. */
    owed: centsField.optional(),
    key: keyField,
    sure: sureField,
  })
  .superRefine(tendered);

const partsField = z.record(z.string().regex(/^\d+$/), moneyField).nullish();

/**
 * Credit to be used: the household’s, or that of a patient with an address apart. `parts` by charge id and `plans` by plan where
 * it is chosen what it pays; open charges, oldest first, when nothing is.
 */
export const creditInput = z.object({
  householdId: idField,
  patientId: idField.nullish().transform((value) => value ?? null),
  parts: partsField,
  plans: partsField,
  agency: optionalMoneyField,
  key: keyField,
});
/** Credit of a receipt to be given back. `seen` is what was held when the form was opened, in cents. */
export const refundInput = z
  .object({
    receiptId: idField,
    amount: moneyField,
    tender: z.enum(TENDER_NAMES),
    reference: textField(40),
    why: reasonField('Say why it is given back'),
    seen: centsField.optional(),
    key: keyField,
    sure: sureField,
  })
  .superRefine(tendered);
/** What a receipt pays of a charge, to be taken back from it. */
export const reverseAllocationInput = z.object({
  entryId: idField,
  why: reasonField('Say why it is taken back'),
});
/** Tenders that are taken to the bank together: which, from where, to which account, on which day and under which number. */
export const depositInput = z.object({
  fromPlaceId: idField,
  toPlaceId: idField,
  date: dateField,
  number: textField(40),
  tenderIds: z.array(idField).min(1, 'Choose what is deposited').max(2000, 'At most 2,000 at a time'),
  key: keyField,
});
/** A deposit that was not made. */
export const undoDepositInput = z.object({ depositId: idField, why: reasonField('Say why it is undone') });
/** A receipt to be reversed. */
export const reverseReceiptInput = z.object({
  receiptId: idField,
  why: reasonField('Say why it is reversed'),
});
