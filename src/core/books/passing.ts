/**
 * When what a payer took off under its own groups (CO, PI) may be passed to the patient all the same: a closed list, kept with the
 * entry. Common practice, no source; where a coverage may not be billed to the patient there is none.
 */
export const PASSING = {
  'no-contract': {
    label: 'No contract with this payer on that day',
    patient: 'we had no contract with your insurer on that day',
  },
  'not-in-force': {
    label: 'Coverage not in force on that day',
    patient: 'your coverage was not in force on that day',
  },
  notice: {
    label: 'Benefit excluded or used up, notice signed before the service',
    patient: 'before the service you had signed a notice with its price',
  },
} as const;
/** A stated exception. */
export type Passing = keyof typeof PASSING;
/** Their codes, as the database keeps them. */
export const PASSINGS = Object.keys(PASSING) as [Passing, ...Passing[]];
