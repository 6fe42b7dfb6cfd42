/** What is sent to say that two payers are one. */
import { z } from 'zod';
import { idField, reasonField } from '../fields';

/** A payer that is the same as another one. */
export const mergePayersInput = z.object({
  payerId: idField,
  intoId: idField,
  why: reasonField('Say how they were found to be one'),
});
