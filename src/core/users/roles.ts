/** The roles of a practice's people. */
export const ROLES = ['front-desk', 'biller', 'collector', 'manager'] as const;
/** One of the roles. */
export type Role = (typeof ROLES)[number];
/** Of whom a second factor is asked. */
export const SECOND_FACTOR = ['nobody', 'managers', 'everybody'] as const;
