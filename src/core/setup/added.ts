/** What the forms send that add a code while a visit is entered. */
import { z } from 'zod';
import { textField } from '../fields';

/** A service code that is missing. `fee` as typed, for one unit; empty where there is none yet. */
export const addCodeInput = z.object({
  code: z
    .string()
    .trim()
    .toUpperCase()
    .regex(/^[A-Z0-9]{1,10}$/, 'has letters and digits, ten at most'),
  description: textField(200).pipe(z.string().min(1, 'is missing')),
  category: z.string().trim().min(1, 'is missing'),
  form: z.enum(['professional', 'dental'], { error: 'is missing' }),
  fee: z.string().trim().default(''),
  modifiers: z
    .array(
      z
        .string()
        .trim()
        .toUpperCase()
        .regex(/^[A-Z0-9]{2}$/, 'have two characters each'),
    )
    .max(4, 'are at most four')
    .default([]),
});

/** A diagnosis that is missing (ICD-10-CM: a letter, a digit, and up to five more behind the third; with its point). */
export const addDiagnosisInput = z.object({
  code: z
    .string()
    .trim()
    .toUpperCase()
    .regex(/^[A-Z]\d[A-Z0-9](\.[A-Z0-9]{1,4})?$/, 'is written like E11.9'),
  description: textField(200).pipe(z.string().min(1, 'is missing')),
});

/** A code that was added while a visit was entered, and was looked at. */
export const lookedAtInput = z.object({
  kind: z.enum(['service', 'diagnosis']),
  code: z.string().trim().max(20),
});

/** A charge set made from services that were entered. */
export const makeSetInput = z.object({
  name: textField(60).pipe(z.string().min(1, 'is missing')),
  /** Of one visit, in the order that they are to have. */
  chargeIds: z.array(z.int().positive()).min(1, 'has no service').max(50, 'has at most 50 services'),
});
