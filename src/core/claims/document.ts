/** What a claim says and what was found about it, as the database keeps them. */
import { z } from 'zod';
import { documentKind } from '../documents';
import { centsField, dateField } from '../fields';
import type { ClaimContent } from './content';
import type { Finding } from './rule';

const address = z.object({
  line1: z.string(),
  line2: z.string(),
  city: z.string(),
  state: z.string(),
  zip: z.string(),
});
const person = z.object({
  last: z.string(),
  first: z.string(),
  middle: z.string(),
  suffix: z.string(),
  birthDate: dateField,
  sex: z.enum(['F', 'M', 'U']),
  address,
});
const provider = z.object({ last: z.string(), first: z.string(), npi: z.string(), taxonomy: z.string() });

/** What a claim says: see {@link ClaimContent}. */
export const claimDocument = documentKind<ClaimContent>(
  'claim',
  2,
  z.object({
    form: z.enum(['professional', 'dental']),
    controlNumber: z.string(),
    frequency: z.enum(['1', '7', '8']),
    payerClaimNumber: z.string().optional(),
    total: centsField,
    placeOfService: z.string(),
    billing: z.object({
      organization: z.string().optional(),
      last: z.string().optional(),
      first: z.string().optional(),
      npi: z.string(),
      taxonomy: z.string(),
      taxId: z.string(),
      taxIdKind: z.enum(['EI', 'SY']),
      address,
    }),
    subscriber: person.extend({ memberId: z.string(), groupNumber: z.string(), planName: z.string() }),
    patient: person,
    relationship: z.enum(['self', 'spouse', 'child', 'other']),
    coverageOrder: z.int(),
    filingCode: z.string(),
    payer: z.object({ name: z.string(), payerId: z.string() }),
    rendering: provider.optional(),
    facility: z.object({ name: z.string(), address }).optional(),
    referring: provider.optional(),
    diagnoses: z.array(z.string()),
    accident: z
      .object({ kind: z.enum(['AA', 'EM', 'OA']), date: dateField.nullable(), state: z.string() })
      .optional(),
    authorizationNumber: z.string().optional(),
    note: z.string().optional(),
    lines: z.array(
      z.object({
        number: z.int(),
        code: z.string(),
        modifiers: z.array(z.string()),
        charge: centsField,
        units: z.number(),
        pointers: z.array(z.int()),
        date: dateField,
        tooth: z.string(),
        surfaces: z.string(),
        area: z.string(),
        prosthesis: z.enum(['', 'I', 'R']),
        priorPlacement: dateField.nullable(),
        control: z.string(),
      }),
    ),
  }),
  {
    1: (claim) => {
      const { lines, ...rest } = claim as { lines: object[] };
      return { ...rest, lines: lines.map((line) => ({ prosthesis: '', priorPlacement: null, ...line })) };
    },
  },
);

/** The findings of a claim: see {@link Finding}. */
export const findingsDocument = documentKind<Finding[]>(
  'list of findings',
  1,
  z.array(
    z.object({
      rule: z.string(),
      severity: z.enum(['stop', 'warn']),
      place: z.enum([
        'patient',
        'coverage',
        'charge',
        'case',
        'provider',
        'practice',
        'payer',
        'location',
        'claim',
      ]),
      field: z.string(),
      words: z.string(),
      line: z.int().optional(),
      reference: z.string(),
    }),
  ),
);
