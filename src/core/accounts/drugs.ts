/** Drugs that a service gives, as a claim names them (005010X222A1, 2410 LIN and CTP). */

/** What a drug is measured in (CTP05-1), in words. */
export const NDC_MEASURES = {
  '': 'nothing: it gives no drug',
  ML: 'milliliters',
  UN: 'units',
  GR: 'grams',
  ME: 'milligrams',
  F2: 'international units',
} as const;
/** What a drug is measured in. */
export type NdcMeasure = Exclude<keyof typeof NDC_MEASURES, ''>;

/** So many thousandths as a claim writes them (CTP04): without a point where there is nothing behind it. */
export const measured = (thousandths: number): string => String(thousandths / 1000);
