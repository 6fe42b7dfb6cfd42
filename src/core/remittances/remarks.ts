/**
 * Remittance advice remark codes (X12 external code source 411). Every number of the list is known; those that the standards’
 * examples, the demo and practice use most have words of our own, from memory.
 */

const WORDS: Readonly<Record<string, string>> = {
  M15: 'its payment is in that of another service of the same day',
  M20: 'procedure code missing or not complete',
  M25: 'what was sent does not show so high a level of service',
  M27: 'the patient need not pay it, nor did the provider know',
  M51: 'procedure code missing, not complete or not valid',
  M53: 'days or units missing or not valid',
  M62: 'number of the authorization missing or not valid',
  M76: 'diagnosis missing or not valid',
  M77: 'place of service missing or not valid',
  M80: 'not covered beside another service of the same day',
  M86: 'not covered: the like was paid within the time allowed',
  M127: 'the record of the patient is missing for this service',
  MA01: 'whoever does not agree may appeal',
  MA04: 'a next payer needs what the payer before it decided',
  MA07: 'the claim was handed on to Medicaid',
  MA13: 'the patient may be asked for no more than is said here',
  MA18: 'the claim was handed on to the supplemental insurer',
  MA27: 'name or number of the insured missing or not valid',
  MA61: 'number of the person missing or not valid',
  MA63: 'principal diagnosis missing or not valid',
  MA67: 'a correction of an earlier claim',
  MA92: 'the plan of another insurance is missing',
  MA130: 'not complete or not valid: send it anew, an appeal does not help',
  N1: 'the payer may be asked to look again',
  N4: 'what the payer before it decided is missing or not complete',
  N16: 'the membership is not in force',
  N19: 'belongs to the principal procedure',
  N20: 'not payable with another service of the same day',
  N29: 'documents missing: notes, summary, report or chart',
  N30: 'the patient is not eligible for this service',
  N54: 'claim information does not fit the authorization',
  N56: 'procedure code not right or not valid for the services or the day',
  N95: 'this kind of provider may not bill for the service',
  N115: 'decided by a local rule of coverage',
  N130: 'see the plan’s documents for what it restricts',
  N179: 'more information was asked of the member',
  N180: 'does not meet what the category of benefits demands',
  N182: 'the claim goes by the fee schedule that holds',
  N290: 'number of the performing provider missing or not valid',
  N362: 'more days or units than may be at most',
  N381: 'see our contract for how this is paid and what it restricts',
  N386: 'decided by a national rule of coverage',
  N418: 'sent to the wrong place',
  N425: 'not covered by statute',
  N428: 'not covered when done at this place',
  N429: 'not covered when counted as routine',
  N430: 'procedure code does not fit the number of units',
  N519: 'billed services do not go together',
  N522: 'a double of a claim that is or will be decided under another number',
  N620: 'the payer’s policy pays for fewer',
  N640: 'more than the plan’s limit in the time',
  N657: 'to be billed with the code that fits',
  N674: 'not covered unless a service that it needs was done before',
  N706: 'document missing',
  N781: 'a patient of the Qualified Medicare Beneficiary program: no deductible may be collected',
  N782: 'a patient of the Qualified Medicare Beneficiary program: no coinsurance may be collected',
  N783: 'a patient of the Qualified Medicare Beneficiary program: no copay may be collected',
};

/** How far each family of numbers goes, by its letters. */
const UNTIL: Readonly<Record<string, number>> = { M: 144, MA: 134, N: 950 };

/** Whether a code has a number of the list. */
export function isRemark(code: string): boolean {
  const [, family = '', number = ''] = /^(MA|M|N)(\d{1,3})$/.exec(code) ?? [];
  return Number(number) >= 1 && Number(number) <= (UNTIL[family] ?? 0);
}

/** A remark with its words, where it has some; one that is not in the list is said to be unknown. */
export const remarkWords = (code: string): string =>
  Object.hasOwn(WORDS, code)
    ? `${code} ${WORDS[code]}`
    : isRemark(code)
      ? code
      : `${code} (not in the list of remarks)`;
