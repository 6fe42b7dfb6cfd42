/** The book accounts: each has a class, and says which part of a charge's balance its postings move. */

/** What an account is. Rules, invariants and reports go by class, never by the text of a code. */
export const ACCOUNT_CLASSES = [
  'receivable',
  'credit',
  'cash',
  'income',
  'reduction',
  'expense',
  'payable',
  'opening',
] as const;
/** The class of a book account. */
export type AccountClass = (typeof ACCOUNT_CLASSES)[number];

/**
 * The parts of a charge's balance. What was charged: the fee of the service, its tax, what was added to an account
 * (interest, late charges), what was brought in from an earlier system. What came off it: paid by payer, patient or
 * agency, or reduced; what is expected to come off by contract stands apart from what has. Where the rest stands.
 */
export const CHARGE_PARTS = [
  'fee',
  'tax',
  'added',
  'opened',
  'payer_paid',
  'patient_paid',
  'agency_paid',
  'reduced',
  'expected',
  'with_payer',
  'with_patient',
  'on_plan',
  'at_agency',
] as const;
/** One part of a charge's balance; the name of its column. */
export type ChargePart = (typeof CHARGE_PARTS)[number];

interface BookAccountShape {
  class: AccountClass;
  /** Null when the account never stands on a charge. */
  part: ChargePart | null;
  words: string;
}

/**
 * The accounts that every practice has. Cash on a charge is always a payer's: money of patients, lenders and agencies goes
 * to their credit first, and from there to the charge.
 */
export const BOOK_ACCOUNTS = {
  'receivable/payer': { class: 'receivable', part: 'with_payer', words: 'Owed by payers' },
  'receivable/patient': { class: 'receivable', part: 'with_patient', words: 'Owed by patients' },
  'receivable/plan': { class: 'receivable', part: 'on_plan', words: 'On payment plans' },
  'receivable/agency': { class: 'receivable', part: 'at_agency', words: 'With collection agencies' },
  'credit/patient': { class: 'credit', part: 'patient_paid', words: 'Held for patients' },
  'credit/payer': { class: 'credit', part: 'payer_paid', words: 'Held for payers' },
  'credit/agency': { class: 'credit', part: 'agency_paid', words: 'Collected by agencies, not allocated' },
  'cash/cash': { class: 'cash', part: 'payer_paid', words: 'Cash' },
  'cash/check': { class: 'cash', part: 'payer_paid', words: 'Checks' },
  'cash/card': { class: 'cash', part: 'payer_paid', words: 'Cards' },
  'cash/bank': { class: 'cash', part: 'payer_paid', words: 'Debits of bank accounts' },
  'cash/voucher': { class: 'cash', part: 'payer_paid', words: 'Vouchers' },
  'cash/transfer': { class: 'cash', part: 'payer_paid', words: 'Bank transfers' },
  'cash/financing': { class: 'cash', part: 'payer_paid', words: 'Paid by lenders' },
  'income/fees': { class: 'income', part: 'fee', words: 'Fees' },
  'income/interest': { class: 'income', part: 'added', words: 'Interest' },
  'income/late-charge': { class: 'income', part: 'added', words: 'Late charges' },
  'income/surcharge': { class: 'income', part: null, words: 'Card surcharges' },
  'income/returned-check': { class: 'income', part: 'added', words: 'Charges for returned checks' },
  'income/payer-credit': { class: 'income', part: null, words: 'Payer credit kept for good' },
  'reduction/contract': { class: 'reduction', part: 'reduced', words: 'Contractual write-offs' },
  'reduction/payer': { class: 'reduction', part: 'reduced', words: 'Reduced by payers' },
  'reduction/not-billable': {
    class: 'reduction',
    part: 'reduced',
    words: 'May not be billed to patients',
  },
  'reduction/courtesy': { class: 'reduction', part: 'reduced', words: 'Courtesy' },
  'reduction/small-balance': { class: 'reduction', part: 'reduced', words: 'Small balances' },
  'reduction/prompt-pay': { class: 'reduction', part: 'reduced', words: 'Prompt payment' },
  'reduction/bad-debt': { class: 'reduction', part: 'reduced', words: 'Bad debt' },
  'reduction/bad-debt-recovered': { class: 'reduction', part: 'reduced', words: 'Bad debt recovered' },
  'reduction/expected': { class: 'reduction', part: 'expected', words: 'Expected write-offs' },
  'expense/agency-fee': { class: 'expense', part: null, words: 'Fees of agencies' },
  'expense/lender-fee': { class: 'expense', part: null, words: 'Fees of lenders' },
  'expense/cash-difference': { class: 'expense', part: null, words: 'Drawers over and short' },
  'expense/payer-credit': { class: 'expense', part: null, words: 'Taken by payers and given up' },
  'payable/tax': { class: 'payable', part: 'tax', words: 'Tax' },
  'payable/agency-fee': { class: 'payable', part: null, words: 'Fees owed to agencies' },
  'opening/balance': { class: 'opening', part: 'opened', words: 'Brought in from an earlier system' },
} as const satisfies Record<string, BookAccountShape>;

/** One of the standard accounts, or a reduction that a practice has added. */
export type BookAccount = keyof typeof BOOK_ACCOUNTS | `reduction/${string}`;

/** The class of an account. */
export const classOf = (account: BookAccount): AccountClass =>
  account in BOOK_ACCOUNTS ? BOOK_ACCOUNTS[account as keyof typeof BOOK_ACCOUNTS].class : 'reduction';

/** The part of a charge's balance that an account moves; null when it never stands on a charge. */
export const partOf = (account: BookAccount): ChargePart | null =>
  account in BOOK_ACCOUNTS ? BOOK_ACCOUNTS[account as keyof typeof BOOK_ACCOUNTS].part : 'reduced';

/** What an account is called. @returns the code of one that a practice has added */
export const accountWords = (account: BookAccount): string =>
  account in BOOK_ACCOUNTS ? BOOK_ACCOUNTS[account as keyof typeof BOOK_ACCOUNTS].words : account;
