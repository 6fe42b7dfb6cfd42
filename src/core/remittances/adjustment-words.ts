/** Provider adjustments (PLB) in words. */
/** Interest that the payer pays (PLB03-1 code L6) is income, whatever stands beside it. */
export const isInterest = ({ code }: { code: string }): boolean => code === 'L6';

/** What payers mean by the codes of provider adjustments (X12 data element 426), in our words; from memory. */
const ADJUSTMENT_WORDS: Readonly<Record<string, string>> = {
  '50': 'late filing',
  '51': 'interest charged',
  '72': 'refund received',
  AM: 'assigned to a lender',
  AP: 'paid in advance',
  B2: 'rebate',
  BD: 'bad debt',
  CS: 'adjustment',
  CT: 'capitation interest',
  CV: 'capital passed on',
  FB: 'balance forward',
  FC: 'fund share',
  GO: 'education',
  IP: 'incentive paid',
  IR: 'tax withheld',
  J1: 'not covered',
  L3: 'penalty',
  L6: 'interest',
  LE: 'levy',
  LS: 'lump sum',
  WO: 'overpayment taken',
  WU: 'unpaid claims taken',
};
/** What a code of a provider adjustment means. @returns the code alone when it is not known */
export const adjustmentWords = (code: string): string =>
  code in ADJUSTMENT_WORDS ? `${code} ${ADJUSTMENT_WORDS[code]}` : code;
