/** What is sent about payers. */
import { z } from 'zod';
import { keyField, stateField, textField, zipField } from '../fields';

/** A payer as it is known at the desk: its name and town, and what its plan is called. */
export const deskPayerInput = z.object({
  name: textField(60).pipe(z.string().min(1, 'is missing')),
  city: textField(30).pipe(z.string().min(1, 'is missing')),
  state: stateField,
  zip: zipField,
  plan: textField(60),
  key: keyField,
});
