/** Whether what a payer passes on may be billed to the patient. */

/** What a coverage says of it. */
export const BILL_PATIENT = { yes: 'Yes', 'copay-only': 'Copay only', never: 'Never' } as const;
/** Whether what a coverage's payer passes on may be billed to the patient. */
export type BillPatient = keyof typeof BILL_PATIENT;

/**
 * What forbids it: Medicaid pays in full (42 CFR 447.15), a qualified Medicare beneficiary owes no cost share (42 U.S.C.
 * 1396a(n)(3)(B)), an accepted injury claim is the insurer's, or the plan's contract says so.
 */
export const BILL_PATIENT_WHY = {
  medicaid: 'Medicaid',
  qmb: 'Qualified Medicare beneficiary',
  injury: 'Accepted injury claim',
  contract: 'The plan’s contract',
} as const;
/** What forbids to bill the patient. */
export type BillPatientWhy = keyof typeof BILL_PATIENT_WHY;

/** Why something that stands with a patient may not be billed to one: a coverage, or the payer's own word (N781 to N783; from memory). */
export const NOT_BILLABLE_WHY = { ...BILL_PATIENT_WHY, remark: 'The payer’s remark' } as const;
/** Why something that stands with a patient may not be billed. */
export type NotBillableWhy = keyof typeof NOT_BILLABLE_WHY;
