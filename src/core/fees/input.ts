/** What the forms of fee schedules send. */
import { z } from 'zod';
import { type Cents, parseMoney } from '../money';
import { idField, keyField, optionalDateField, sureField, textField } from '../fields';
import { HIGHEST_FEE } from './raise';

/** A day before any other: as fees are from the beginning. */
export const BEGINNING = '1900-01-01';

/** A fee as typed; empty takes it away. Each line says by itself what is wrong with it, see {@link feeTyped}. */
const feeField = z.string().trim().max(30, 'is not an amount').default('');

/** A fee as typed in cents, null where nothing is typed; or what is wrong with it. */
export function feeTyped(text: string): Cents | null | { fault: string } {
  if (text === '') return null;
  const amount = parseMoney(text);
  if (amount === null) return { fault: `“${text.slice(0, 20)}” is not an amount such as 12.50` };
  if (amount < 0) return { fault: 'A fee is not below zero' };
  return amount > HIGHEST_FEE ? { fault: 'That is more than a fee may be' } : amount;
}

/** Fees of one schedule that hold from a day on. */
export const changeFeesInput = z.object({
  scheduleId: idField,
  /** From when they hold; nothing: from the beginning. */
  from: optionalDateField,
  lines: z
    .array(
      z.object({
        code: z.string().trim().toUpperCase().min(1, 'is missing').max(20, 'may have 20 characters'),
        /** For one unit; empty takes away what holds from that day on. */
        amount: feeField,
        /** In a facility that bills for itself; empty: the same. */
        facility: feeField,
        /** What held on that day when it was looked at, in cents; null: nothing did. Not said: whatever it was. */
        was: z.int().nullish(),
      }),
    )
    .min(1, 'are not chosen')
    .max(20_000, 'are too many at once'),
  /** What was done, such as “raised by 3.5 %”. */
  words: textField(120),
  sure: sureField,
  key: keyField,
});

/** A change of fees that is taken back. */
export const undoFeesInput = z.object({ changeId: idField });
