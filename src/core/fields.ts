/** Fields that forms, files and documents share: how each is parsed, and what is said when it is wrong. */
import { STATES } from './claims/states';
import { z } from 'zod';
import { type CalendarDate, parseDate } from './calendar';
import { type Cents, MAX_CENTS, ZERO, cents, parseMoney } from './money';

/** Whole cents, as documents keep them. */
export const centsField: z.ZodType<Cents, number> = z
  .int()
  .min(-MAX_CENTS, 'is no amount')
  .max(MAX_CENTS, 'is no amount')
  .transform((value) => cents(value));
/** A name and address as documents keep them; empty where nothing is known. */
export const placeFields = {
  name: z.string(),
  line1: z.string(),
  line2: z.string(),
  city: z.string(),
  state: z.string(),
  zip: z.string(),
};
/** A calendar date, `YYYY-MM-DD`. */
export const dateField: z.ZodType<CalendarDate, string> = z.string().transform((value, check) => {
  const date = parseDate(value);
  if (!date) check.addIssue({ code: 'custom', message: 'is not a date (YYYY-MM-DD)' });
  return date ?? ('' as never);
});
/** A calendar date, or nothing. */
export const optionalDateField = z
  .union([z.literal('').transform(() => null), dateField])
  .nullish()
  .transform((value) => value ?? null);
/** An amount as a person writes it. */
export const moneyField = z
  .string()
  .trim()
  .transform((text, check) => {
    const amount = parseMoney(text);
    if (amount === null)
      check.addIssue({ code: 'custom', message: `“${text.slice(0, 20)}” is not an amount such as 12.50` });
    return amount ?? ZERO;
  });
/** The id of a row. */
export const idField = z.coerce.number().int().positive();
/** What makes a press count once: the same key does the same thing once, however often it is sent. */
export const keyField = z.string().min(8).max(80);
/** Whether a person has seen what is doubtful and wants it all the same. */
export const sureField = z.boolean().default(false);
/** Why something is done; empty is refused. */
export const reasonField = (ask: string): z.ZodType<string, string> =>
  z.string().trim().max(300, 'may have 300 characters').min(1, { error: ask });

/** Text of up to so many characters, empty when nothing is given. */
export const textField = (max: number) =>
  z.string().trim().max(max, `may have ${max} characters`).default('');

/** A postal code of a state or territory. */
export const stateField = z
  .string()
  .trim()
  .toUpperCase()
  .refine((value) => STATES.has(value), 'is a two-letter state code such as WA');
/** Five or nine digits. */
export const zipField = z
  .string()
  .trim()
  .regex(/^\d{5}(-?\d{4})?$/, 'has five or nine digits');
