/** What is sent about payers. */
import { z } from 'zod';
import { STATES } from '../claims/states';
import { keyField, textField } from '../fields';

/** A payer as it is known at the desk: its name and town, and what its plan is called. */
export const deskPayerInput = z.object({
  name: textField(60).pipe(z.string().min(1, 'is missing')),
  city: textField(30).pipe(z.string().min(1, 'is missing')),
  state: z
    .string()
    .trim()
    .toUpperCase()
    .refine((value) => STATES.has(value), 'is a two-letter state code such as WA'),
  zip: z
    .string()
    .trim()
    .regex(/^\d{5}(-?\d{4})?$/, 'has five or nine digits'),
  plan: textField(60),
  key: keyField,
});
