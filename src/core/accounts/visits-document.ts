/** A file of visits to be entered: who, when, by whom, and what was done. Amounts are text as they are typed. */
import { z } from 'zod';
import { dateField } from '../fields';
import { visitInput } from './input';

const visit = z.strictObject({
  /** The account, such as A-10234, and whose of it: by first name, and birth date where two have it. */
  account: z.string().min(1),
  first: z.string().min(1),
  birthDate: dateField.optional(),
  /** The case by its name; the standing one where nothing is said. */
  case: z.string().optional(),
  /** NPI of who did it. */
  provider: z.string().regex(/^\d{10}$/, 'is a number of ten digits'),
  date: dateField,
  planned: z.boolean().default(false),
  /** It was looked at, and what is doubtful is meant so. */
  sure: z.boolean().default(false),
  lines: visitInput.shape.lines,
});

/** The visits of a file. */
export const visitsDocument = z.strictObject({
  format: z.literal('wergeld-visits'),
  version: z.literal(1),
  visits: z.array(visit).min(1).max(2000),
});

/** The schema of the document, as it is published. */
export const visitsSchema = (): Record<string, unknown> => ({
  title: 'Visits to be entered: who, when, by whom, and what was done',
  description:
    'Amounts are decimal text, dates YYYY-MM-DD; units or minutes, and what is left out is as usual.',
  ...z.toJSONSchema(visitsDocument, { io: 'input', unrepresentable: 'any' }),
});
