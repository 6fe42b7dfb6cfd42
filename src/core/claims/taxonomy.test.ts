import { formOf } from './taxonomy';

// Codes of the NUCC Health Care Provider Taxonomy, from memory.
test.each([
  ['122300000X', 'dental', 'dentist'],
  ['1223G0001X', 'dental', 'general practice dentistry'],
  ['124Q00000X', 'dental', 'dental hygienist'],
  ['126800000X', 'dental', 'dental assistant'],
  ['207Q00000X', 'professional', 'family medicine'],
  ['225100000X', 'professional', 'physical therapist'],
  ['261QP2300X', 'professional', 'primary care clinic'],
  ['', 'professional', 'nothing entered'],
])('%s fits %s claims: %s', (taxonomy, form) => expect(formOf(taxonomy)).toBe(form));
