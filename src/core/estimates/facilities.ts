/**
 * Places of service (CMS, two digits) where a facility bills for itself, so that a payer's schedule may allow whoever treats there
 * another amount (Medicare Claims Processing Manual, chapter 12, 20.4.2; from memory).
 */
export const FACILITY_PLACES: readonly string[] = [
  '19', // off campus outpatient hospital
  '21', // inpatient hospital
  '22', // on campus outpatient hospital
  '23', // emergency room
  '24', // ambulatory surgical center
  '26', // military treatment facility
  '31', // skilled nursing facility
  '34', // hospice
  '41', // ambulance on land
  '42', // ambulance on air or water
  '51', // inpatient psychiatric facility
  '52', // psychiatric facility by day
  '53', // community mental health center
  '56', // psychiatric residential center
  '61', // comprehensive inpatient rehabilitation
];
