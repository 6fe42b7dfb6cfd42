/**
 * Words of our own for the claim status codes that acknowledgments carry (code sources 507 and 508 of X12, as named in
 * 005010X214). From memory: the codes a coordinator meets most.
 */

const CATEGORIES: Record<string, string> = {
  A0: 'passed on',
  A1: 'received',
  A2: 'accepted for processing',
  A3: 'not accepted',
  A4: 'not found',
  A5: 'split',
  A6: 'missing information',
  A7: 'invalid information',
  A8: 'contradictory information',
};

const STATUSES: Record<string, string> = {
  '19': 'receipt confirmed',
  '20': 'accepted',
  '21': 'missing or invalid information',
  '33': 'subscriber not found',
  '54': 'duplicate of an earlier claim',
  '85': 'entity not recognized',
  '116': 'sent to the wrong payer',
  '122': 'missing data',
  '125': 'name',
  '126': 'address',
  '132': 'tax id',
  '145': 'taxonomy code',
  '153': 'identifier',
  '158': 'birth date',
  '162': 'payer id',
  '164': 'member id',
  '187': 'service date',
  '228': 'type of bill',
  '247': 'line information',
  '249': 'place of service',
  '254': 'principal diagnosis',
  '255': 'diagnosis code',
  '400': 'total charge does not match its lines',
  '453': 'modifier',
  '454': 'procedure code',
  '476': 'units',
  '562': 'NPI',
};

const ENTITIES: Record<string, string> = {
  '85': 'billing provider',
  '82': 'rendering provider',
  IL: 'subscriber',
  QC: 'patient',
  PR: 'payer',
  '40': 'receiver',
  '41': 'submitter',
  DN: 'referring provider',
};

/** One status of a 277CA in words, with its codes. */
export function describeStatus(status: { category: string; status: string; entity: string }): string {
  const entity = ENTITIES[status.entity];
  const what = STATUSES[status.status] ?? `status ${status.status}`;
  return `${entity ? `${entity}: ` : ''}${what} (${CATEGORIES[status.category] ?? status.category}, ${status.category}:${status.status}${status.entity ? `:${status.entity}` : ''})`;
}
