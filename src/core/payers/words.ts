/** What is known of payers besides their name: closed lists. */

/** Claim filing indicator (SBR09, 005010X222A1 2000B): the kinds of payers, from memory. */
export const FILING_CODES = {
  CI: 'Commercial',
  BL: 'Blue Cross or Blue Shield',
  MB: 'Medicare Part B',
  MA: 'Medicare Part A',
  MC: 'Medicaid',
  WC: 'Accidents at work',
  AM: 'Car',
  LM: 'Liability, medical',
  CH: 'Military families',
  VA: 'Veterans',
  OF: 'Other federal program',
  FI: 'Federal employees',
  TV: 'Title V',
  HM: 'Health maintenance organization',
  '12': 'Preferred provider organization',
  '13': 'Point of service',
  '14': 'Exclusive provider organization',
  '15': 'Indemnity',
  '16': 'Medicare, managed',
  '17': 'Dental maintenance organization',
  DS: 'Disability',
  '11': 'Other, not federal',
  ZZ: 'Not known',
} as const;

/** How its claims leave. */
export const WAYS = { electronic: 'over a connection', paper: 'on paper', hold: 'not yet' } as const;
/** What becomes of a new claim. */
export const NEW_CLAIMS = {
  evening: 'is built in the evening',
  sent: 'is built and sent in the evening',
  held: 'is built in the evening and held',
  asked: 'is built when somebody asks',
} as const;
/** How a claim that it has is put right. */
export const CORRECTIONS = {
  replaced: 'frequency 7 and 8',
  reopened: 'reopened by form or telephone',
  new: 'a new claim only',
} as const;

/** Transactions that a clearinghouse may pass on for a payer. */
export const TRANSACTIONS = {
  '837P': 'Professional claims (837P)',
  '837D': 'Dental claims (837D)',
  '835': 'Remittances (835)',
  '270': 'Eligibility (270)',
  '276': 'Claim status (276)',
} as const;
/** The name of a transaction. */
export type Transaction = keyof typeof TRANSACTIONS;
/** The names of all of them, in their order. */
export const TRANSACTION_NAMES = [
  '837P',
  '837D',
  '835',
  '270',
  '276',
] as const satisfies readonly Transaction[];

/** For what somebody at a payer is asked. */
export const CONTACT_PURPOSES = {
  claims: 'claims',
  eligibility: 'eligibility',
  authorizations: 'authorizations',
  appeals: 'appeals',
  payments: 'payments',
  providers: 'provider relations',
  adjuster: 'adjuster',
} as const;

/** Qualifiers of a payer's further identifiers (2010BB REF01). */
export const PAYER_REFERENCES = {
  '2U': 'payer number',
  EI: 'employer number',
  FY: 'claim office',
  NF: 'NAIC code',
} as const;

/** Qualifiers of the number of a provider at a payer (2310B REF01). */
export const INDIVIDUAL_QUALIFIERS = {
  '': '–',
  G2: 'G2 commercial number',
  '0B': '0B state license',
  '1G': '1G UPIN',
  LU: 'LU location',
} as const;
/** Qualifiers of the number of the group at a payer: 2010BB takes G2 and LU, 2010AA 0B and 1G. */
export const GROUP_QUALIFIERS = {
  '': '–',
  G2: 'G2 commercial number',
  LU: 'LU location',
  '0B': '0B state license',
  '1G': '1G UPIN',
} as const;
/** Whether the number of a group stands with who bills (2010AA), and not with the payer (2010BB). */
export const standsWithBilling = (qualifier: string): boolean => qualifier === '0B' || qualifier === '1G';
