/** What a provider's taxonomy code says of the claims that fit. */

/**
 * The form of claim that a provider's services fit: codes of the grouping “Dental Providers” begin with 12.
 * @param taxonomy a code of ten characters of the NUCC Health Care Provider Taxonomy
 */
export const formOf = (taxonomy: string): 'professional' | 'dental' =>
  taxonomy.startsWith('12') ? 'dental' : 'professional';
