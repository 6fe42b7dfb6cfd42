/** The book accounts and what each of them means. */

/** Where money owed stands. */
export const RECEIVABLES = [
  'receivable/payer',
  'receivable/patient',
  'receivable/plan',
  'receivable/agency',
] as const;

/** The accounts that every practice has; reductions and tenders may be added. */
export const BOOK_ACCOUNTS = [
  ...RECEIVABLES,
  'credit/patient',
  'credit/payer',
  'cash/cash',
  'cash/check',
  'cash/card',
  'cash/transfer',
  'income/fees',
  'income/interest',
  'income/late-charge',
  'income/surcharge',
  'reduction/contract',
  'reduction/payer',
  'reduction/courtesy',
  'reduction/small-balance',
  'reduction/prompt-pay',
  'reduction/bad-debt',
  'payable/tax',
] as const;

/** One of the standard book accounts. */
export type BookAccount = (typeof BOOK_ACCOUNTS)[number];
