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
import { SPREAD_WAYS } from './spread';
import { TENDERS, TENDER_NAMES, type Tender } from './tenders';

/** An amount that may be left empty. */
const optionalMoneyField = z
  .string()
  .trim()
  .nullish()
  .transform((value) => value || null)
  .pipe(moneyField.nullable());

/** Money has an amount, and what its tender needs beside it: a card that a terminal has read has its authorization from there. */
function tendered(
  {
    amount,
    tender,
    reference,
    reading = '',
  }: { amount: Cents; tender: Tender; reference: string; reading?: string },
  context: z.RefinementCtx,
): void {
  if (amount <= 0) context.addIssue({ code: 'custom', path: ['amount'], message: 'must be more than zero' });
  if (TENDERS[tender].needed && reference === '' && reading === '')
    context.addIssue({ code: 'custom', path: ['reference'], message: 'is missing' });
  if (reading !== '' && tender !== 'card')
    context.addIssue({ code: 'custom', path: ['reading'], message: 'is of a card' });
}

/** Digits in the form of a card number, with the check digit that all of them have (ISO/IEC 7812-1). */
export function looksLikeCard(text: string): boolean {
  for (const [found] of text.matchAll(/\d(?:[ -]?\d){12,18}/g)) {
    const digits = [...found.replace(/\D/g, '')].reverse().map(Number);
    const check = digits.reduce((all, digit, at) => {
      const twice = digit * 2;
      return all + (at % 2 === 0 ? digit : twice > 9 ? twice - 9 : twice);
    }, 0);
    if (check % 10 === 0) return true;
  }
  return false;
}

/** Text beside money, which holds no card number. */
const cardlessField = (max: number) =>
  textField(max).refine((text) => !looksLikeCard(text), {
    message: 'looks like a card number, which is kept nowhere: the terminal takes it',
  });

/** One means of payment among those of a taking. `given` is what was handed over in cash; `reading` a card that the terminal has read. */
const tenderField = z
  .object({
    tender: z.enum(TENDER_NAMES),
    amount: moneyField,
    reference: cardlessField(40),
    given: optionalMoneyField,
    reading: z
      .string()
      .regex(/^[\w-]{8,60}$/, 'is no reading of a terminal')
      .or(z.literal(''))
      .default(''),
    /** The surcharge that was said, in cents; what it comes to is worked out anew. */
    surcharge: centsField.optional(),
  })
  .superRefine((one, context) => {
    tendered(one, context);
    if (one.surcharge !== undefined && (one.surcharge < 0 || (one.surcharge > 0 && one.reading === '')))
      context.addIssue({
        code: 'custom',
        path: ['surcharge'],
        message: 'is of a card that the terminal has read',
      });
    if (one.given !== null && (one.tender !== 'cash' || one.given < one.amount))
      context.addIssue({
        code: 'custom',
        path: ['given'],
        message: one.tender === 'cash' ? 'is less than what is paid' : 'is of cash',
      });
  });

/** What the payment form sends: the means of payment, and how the sum of them is spread. */
export const receiptInput = z
  .object({
    householdId: idField,
    /** The patient with an address apart whose own money it is; the household’s when absent. */
    patientId: idField.nullish().transform((value) => value ?? null),
    tenders: z.array(tenderField).min(1, 'are missing').max(8, 'are more than eight'),
    note: cardlessField(200),
    /** Who hands it over, where that is not the guarantor. */
    paidBy: cardlessField(80),
    /** The day on which it came; today where none is said. */
    receivedOn: optionalDateField,
    /** The site where it is taken; the account’s where none is said. */
    locationId: idField.nullish().transform((value) => value ?? null),
    /** What of it goes to payment plans, by plan. */
    plans: z.record(z.string().regex(/^\d+$/), moneyField).nullish(),
    /** What of it pays what is with a collection agency. */
    agency: optionalMoneyField,
    /** Whether it pays the households too that are mailed in one envelope with this one. */
    together: z.boolean().default(false),
    /** How it is spread; where nothing is said by hand with parts, oldest first without. */
    spread: z.enum(SPREAD_WAYS).optional(),
    /** Charges in the order in which they are paid. */
    order: z.array(idField).max(2000, 'are too many').default([]),
    /** The visit to come for which what it does not pay is reserved, and what of it is kept from what is open. */
    expectedVisitId: idField.nullish().transform((value) => value ?? null),
    reserve: optionalMoneyField,
    /** Whose come first. */
    first: idField.nullish().transform((value) => value ?? null),
    /** By hand: parts by charge. */
    parts: z.record(z.string().regex(/^\d+$/), moneyField).nullish(),
    /** What was owed when the form was opened, in cents; absent where nobody has looked. */
    owed: centsField.optional(),
    key: keyField,
    sure: sureField,
  })
  .superRefine(({ spread, parts }, context) => {
    if (spread !== undefined && (spread === 'hand') !== (parts !== null && parts !== undefined))
      context.addIssue({ code: 'custom', path: ['parts'], message: 'are of money that is spread by hand' });
  })
  .transform(({ spread, ...data }) => ({
    ...data,
    spread: spread ?? (data.parts ? ('hand' as const) : ('oldest' as const)),
  }));

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
/**
 * Credit of a receipt to be given back, of which of its tenders, and how. `seen` is what was held when the form was opened, in
 * cents.
 */
export const refundInput = z
  .object({
    receiptId: idField,
    /** The tender that it came with; the first that has as much where none is said. */
    tenderId: idField.nullish().transform((value) => value ?? null),
    amount: moneyField,
    tender: z.enum(TENDER_NAMES),
    reference: cardlessField(40),
    why: reasonField('Say why it is given back'),
    seen: centsField.optional(),
    key: keyField,
    sure: sureField,
  })
  .superRefine((one, context) =>
    // A card that came through a terminal goes back through it, and has its authorization from there.
    tendered(one.tender === 'card' ? { ...one, reading: 'terminal' } : one, context),
  );
/** Whose credit: an account's, or that of a patient with an address apart. */
const ownersField = z
  .array(
    z.object({
      householdId: idField,
      patientId: idField.nullish().transform((value) => value ?? null),
    }),
  )
  .min(1, 'are missing')
  .max(500, 'are too many');
/** Letters to owners of credit who were not heard of. */
export const creditLettersInput = z.object({ owners: ownersField, key: keyField });
/** What an owner answered. */
export const answerCreditLetterInput = z.object({
  creditLetterId: idField,
  words: reasonField('Say what was answered'),
});
/** Credit that is handed over to the state of its owners by one check, or by whatever number it is sent with. */
export const handOverCreditInput = z.object({
  owners: ownersField,
  number: cardlessField(40).refine((value) => value !== '', 'is missing'),
  key: keyField,
});
/** A table of how long credit rests, as CSV. */
export const dormancyInput = z.object({ text: z.string().min(1, 'is empty').max(200_000, 'is too large') });
/** A refund that was asked for, decided on; a check that is written only now may bear another number. */
export const decideRefundInput = z.object({
  refundRequestId: idField,
  approve: z.boolean(),
  why: textField(300),
  reference: cardlessField(40),
  sure: sureField,
});
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
  /** Drawers whose differences are in the cash. */
  drawerIds: z.array(idField).max(500, 'At most 500 at a time').default([]),
  key: keyField,
});
/** A deposit that was not made. */
export const undoDepositInput = z.object({ depositId: idField, why: reasonField('Say why it is undone') });
/** A receipt to be reversed. */
export const reverseReceiptInput = z.object({
  receiptId: idField,
  why: reasonField('Say why it is reversed'),
});
/** A tender of a receipt, and why something is done with it. */
export const tenderInput = z.object({
  tenderId: idField,
  why: reasonField('Say why'),
  key: keyField,
});
/** A receipt that is sent by e-mail. */
export const emailReceiptInput = z.object({ receiptId: idField, key: keyField });
/** A check that came back from the bank. */
export const returnedInput = z.object({
  tenderId: idField,
  why: reasonField('Say why it came back'),
  /** Whether the fee of the practice is put on the account. */
  fee: z.boolean().default(false),
  /** Whether no more checks are taken from it. */
  noChecks: z.boolean().default(false),
  key: keyField,
});
/** A payment that is another account’s: the receipt goes there as it is. */
export const moveReceiptInput = z.object({
  receiptId: idField,
  toHouseholdId: idField,
  why: reasonField('Say why it is moved'),
  key: keyField,
  sure: sureField,
});
/** What a tender truly was. */
export const correctTenderInput = z
  .object({
    tenderId: idField,
    tender: z.enum(TENDER_NAMES),
    reference: cardlessField(40),
    why: reasonField('Say what was wrong'),
    key: keyField,
  })
  .superRefine((one, context) => {
    if (TENDERS[one.tender].needed && one.reference === '')
      context.addIssue({ code: 'custom', path: ['reference'], message: 'is missing' });
  });
/** An attempt at a terminal. */
export const attemptInput = z.object({ attemptId: idField });
const readingKey = z.string().regex(/^[\w-]{8,60}$/, 'is no reading of a terminal');
/** A card that the terminal is to read: on its device, or typed in its own frame. `amount` in cents, for the card holder. */
export const startReadingInput = z.object({
  key: readingKey,
  locationId: idField.nullish().transform((value) => value ?? null),
  entry: z.enum(['device', 'keyed']),
  amount: centsField,
});
/** A reading that is asked for, at which site. */
export const readingInput = z.object({
  key: readingKey,
  locationId: idField.nullish().transform((value) => value ?? null),
});
/** A drawer to be opened at a site, with what is in it for change; the practice's usual where nothing is said. */
export const openDrawerInput = z.object({ locationId: idField, opening: optionalMoneyField, key: keyField });
/** Cash that is taken out of an open drawer into safety. */
export const dropInput = z.object({
  drawerId: idField,
  amount: moneyField.refine((amount) => amount > 0, { message: 'must be more than zero' }),
  words: cardlessField(100),
  key: keyField,
});
/** A drawer that was counted: its cash, its checks, and why it is another amount than was to be there. */
export const closeDrawerInput = z.object({
  drawerId: idField,
  counted: moneyField.refine((amount) => amount >= 0, { message: 'is below zero' }),
  checks: z.coerce.number().int('is no number').min(0, 'is below zero').max(9999, 'is too many'),
  why: textField(300),
  key: keyField,
});
/** A visit to come, as somebody types it. */
export const expectVisitInput = z.object({
  patientId: idField,
  day: dateField,
  time: z
    .string()
    .trim()
    .regex(/^([01]\d|2[0-3]):[0-5]\d$/, 'is written like 09:30')
    .or(z.literal(''))
    .default(''),
  providerId: idField.nullish().transform((value) => value ?? null),
  locationId: idField.nullish().transform((value) => value ?? null),
  reason: textField(100),
  codes: z.array(z.string().trim().toUpperCase().min(1).max(10)).max(30, 'are more than 30').default([]),
  key: keyField,
});
/** A visit to come that is one of a person's, since its file did not say it well enough. */
export const matchVisitInput = z.object({ expectedVisitId: idField, patientId: idField });
/** A visit that does not come, or whose money is free before its time. */
export const endVisitInput = z.object({ expectedVisitId: idField, why: reasonField('Say why') });
/** So large a file of visits may be, in bytes: some ten thousand visits. */
export const MOST_VISITS_BYTES = 1_500_000;
/** A file of visits to come. */
export const importVisitsInput = z.object({
  name: textField(120),
  text: z.string().max(MOST_VISITS_BYTES, 'is more than 1.5 MB'),
});
/** Accounts whose credit pays what is open of them. */
export const applyCreditsInput = z.object({
  householdIds: z.array(idField).min(1, 'Choose whose').max(2000, 'At most 2,000 at a time'),
  key: keyField,
});
/** Credit of a receipt that goes to another account. */
export const transferCreditInput = z.object({
  receiptId: idField,
  fromHouseholdId: idField,
  toHouseholdId: idField,
  amount: moneyField.refine((amount) => amount > 0, { message: 'must be more than zero' }),
  why: reasonField('Say why it goes there'),
  key: keyField,
  sure: sureField,
});
