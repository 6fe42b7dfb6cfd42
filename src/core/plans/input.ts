/** What the screens of the plans station send. */
import { z } from 'zod';
import { dateField, idField, keyField, moneyField, reasonField, sureField, textField } from '../fields';
import { basisPoints } from '../money';
import { TENDER_NAMES } from '../payments/tenders';
import { EVERY, EXTRA, type Every, type Extra, INTEREST_BY, type InterestBy } from './terms';

/** No plan bears more, in basis points a year. */
const MOST_RATE = 10_000;

/** A yearly rate as it is typed, such as `5` or `7.25`; in basis points. */
export const rateField = z.union([z.string(), z.number()]).transform((value, context) => {
  const found = /^(\d{1,3})(?:\.(\d{1,2}))?\s*%?$/.exec(String(value).trim() || '0');
  if (!found) {
    context.addIssue({ code: 'custom', message: 'is a percentage with at most two decimals' });
    return z.NEVER;
  }
  const rate = Number(found[1]) * 100 + Number((found[2] ?? '').padEnd(2, '0'));
  if (rate > MOST_RATE) {
    context.addIssue({ code: 'custom', message: `is at most ${MOST_RATE / 100} %` });
    return z.NEVER;
  }
  return basisPoints(rate);
});

const optionalMoney = z
  .string()
  .trim()
  .nullish()
  .transform((value) => value || null)
  .pipe(moneyField.nullable());

const terms = {
  householdId: idField,
  /** The charges that it takes, oldest first up to `amount` where that is given; all that are open where none are named. */
  chargeIds: z
    .array(idField)
    .max(500, 'are too many')
    .nullish()
    .transform((value) => value ?? null),
  /** The plan that it takes the place of: what is open there is taken over too. */
  replaces: idField.nullish().transform((value) => value ?? null),
  amount: optionalMoney,
  down: optionalMoney,
  rate: rateField.default(basisPoints(0)),
  every: z.enum(Object.keys(EVERY) as [Every]).default('month'),
  /** How many installments, or how much each. */
  installments: z.coerce
    .number()
    .int('is a whole number')
    .min(1, 'is at least 1')
    .max(600, 'is at most 600')
    .nullish()
    .transform((value) => value ?? null),
  installment: optionalMoney,
  first: dateField,
  interestBy: z.enum(Object.keys(INTEREST_BY) as [InterestBy]).default('period'),
  extra: z.enum(Object.keys(EXTRA) as [Extra]).default('shortens'),
  /** Whether installments that are missed bear the policy's late charge. */
  lateCharges: z.boolean().default(false),
};

const oneOfBoth = {
  check: (data: { installments: number | null; installment: unknown }): boolean =>
    (data.installments === null) !== (data.installment === null),
  say: { path: ['installments'], message: 'or the installment: give one of both' },
};

/** Terms as they are typed, to be worked out. */
export const quoteInput = z.object(terms).refine(oneOfBoth.check, oneOfBoth.say);

/** A plan to be proposed by these terms. */
export const proposeInput = z
  .object({ ...terms, key: keyField, sure: sureField })
  .refine(oneOfBoth.check, oneOfBoth.say);

/** Accepting a plan: who signed, and what was drawn on the screen, as a PNG in base64. */
export const acceptInput = z.object({
  planId: idField,
  signedBy: z.string().trim().min(1, 'is missing').max(80, 'may have 80 characters'),
  signature: z
    .string()
    .max(400_000, 'is too large')
    .regex(/^(data:image\/png;base64,[A-Za-z0-9+/=]+)?$/, 'is no picture')
    .default(''),
  sure: sureField,
});

/** A plan that is given up: what is open goes back to the patient. */
export const cancelInput = z.object({ planId: idField, why: reasonField('Say why it is cancelled') });

/** Installments that are taken, line by line. */
export const collectInput = z.object({
  lines: z
    .array(
      z.object({
        planId: idField,
        amount: moneyField,
        tender: z.enum(TENDER_NAMES),
        reference: textField(40),
      }),
    )
    .min(1, 'are not chosen')
    .max(500, 'are too many at once'),
  key: keyField,
});
