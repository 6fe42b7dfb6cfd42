/** What a remittance says, as the database keeps it. */
import { z } from 'zod';
import { documentKind } from '../documents';
import { centsField, dateField } from '../fields';
import { adjustmentSchema } from '../x12/adjustments';
import type { ProviderAdjustment, RemitClaim } from '../x12/remittance835';

const adjustments = z.array(adjustmentSchema);

/** One claim of a remittance: see {@link RemitClaim}. */
export const remitClaimDocument = documentKind<RemitClaim>(
  'claim of a remittance',
  1,
  z.object({
    controlNumber: z.string(),
    status: z.string(),
    charge: centsField,
    paid: centsField,
    patientResponsibility: centsField,
    payerClaimNumber: z.string(),
    adjustments,
    patient: z.object({ last: z.string(), first: z.string(), memberId: z.string() }),
    crossover: z.object({ name: z.string(), id: z.string() }).optional(),
    date: dateField.nullable(),
    remarks: z.array(z.string()),
    lines: z.array(
      z.object({
        code: z.string(),
        billed: z.string().default(''),
        modifiers: z.array(z.string()),
        charge: centsField,
        paid: centsField,
        units: z.number(),
        date: dateField.nullable(),
        adjustments,
        lineControl: z.string(),
        allowed: centsField.nullable(),
        remarks: z.array(z.string()),
      }),
    ),
  }),
);

/** The provider-level adjustments of a remittance: see {@link ProviderAdjustment}. */
export const providerAdjustmentsDocument = documentKind<ProviderAdjustment[]>(
  'list of provider adjustments',
  1,
  z.array(
    z.object({
      code: z.string(),
      reference: z.string(),
      amount: centsField,
      provider: z.string().optional(),
      period: dateField.optional(),
    }),
  ),
);

/** Why a remittance is held, in words. */
export const holdReasonsDocument = documentKind<string[]>('list of reasons', 1, z.array(z.string()));
