/** Areas of the oral cavity that a dental claim names (SV304 of 005010X224A2), in our words. */
export const ORAL_AREAS: Readonly<Record<string, string>> = {
  '00': 'whole mouth',
  '01': 'upper arch',
  '02': 'lower arch',
  '10': 'upper right quadrant',
  '20': 'upper left quadrant',
  '30': 'lower left quadrant',
  '40': 'lower right quadrant',
};
