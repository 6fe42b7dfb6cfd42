/** What a claim says and what was found about it, as the database keeps them. */
import { z } from 'zod';
import { documentKind } from '../documents';
import { type ClaimContent, claimSchema } from './content';
import type { Finding } from './rule';

/** What a claim says: see {@link ClaimContent}. */
export const claimDocument = documentKind<ClaimContent>('claim', 2, claimSchema, {
  1: (claim) => {
    const { lines, ...rest } = claim as { lines: object[] };
    return { ...rest, lines: lines.map((line) => ({ prosthesis: '', priorPlacement: null, ...line })) };
  },
});

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
        'reason',
        'claim',
      ]),
      field: z.string(),
      words: z.string(),
      line: z.int().optional(),
      reference: z.string(),
    }),
  ),
);
