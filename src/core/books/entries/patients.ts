/** Entries of what a patient pays, and of what is taken off a patient’s part. */
import type { CalendarDate } from '../../calendar';
import { type Cents, negate } from '../../money';
import type { BookAccount } from '../accounts';
import type { Dimensions } from '../dimensions';
import type { ChargePart, EntryDraft, Posting } from '../entry';

/** The cash of a tender: its account, and where it is. */
export interface CashOf {
  account: BookAccount;
  tenderId: number;
  placeId: number;
}

/** Money taken from a patient goes to the household's credit first. */
export function receiptEntry(input: {
  businessDate: CalendarDate;
  memo: string;
  about: Dimensions & { householdId: number; receiptId: number };
  cash: CashOf;
  amount: Cents;
}): EntryDraft {
  return {
    kind: 'receipt',
    businessDate: input.businessDate,
    memo: input.memo,
    key: `receipt:${input.about.receiptId}`,
    postings: [
      { ...input.about, ...input.cash, amount: input.amount },
      { ...input.about, account: 'credit/patient', amount: negate(input.amount) },
    ],
  };
}

/** Credit of a receipt given back: cash of the refund, which is a receipt below zero. `amount` in cents. */
export const refundEntry = (input: {
  businessDate: CalendarDate;
  memo: string;
  householdId: number;
  refundId: number;
  receiptId: number;
  cash: CashOf;
  amount: Cents;
}): EntryDraft => ({
  kind: 'refund',
  businessDate: input.businessDate,
  memo: input.memo,
  key: `receipt:${input.refundId}`,
  postings: [
    {
      householdId: input.householdId,
      receiptId: input.receiptId,
      account: 'credit/patient',
      amount: input.amount,
    },
    {
      householdId: input.householdId,
      receiptId: input.refundId,
      ...input.cash,
      amount: negate(input.amount),
    },
  ],
});

/** A tender that is taken from where it lay to the bank. `amount` in cents, below zero for what was given back. */
export const depositEntry = (input: {
  businessDate: CalendarDate;
  memo: string;
  about: { receiptId: number; depositId: number };
  cash: CashOf;
  to: number;
  amount: Cents;
}): EntryDraft => ({
  kind: 'deposit',
  businessDate: input.businessDate,
  memo: input.memo,
  postings: [
    { ...input.about, ...input.cash, amount: negate(input.amount) },
    { ...input.about, ...input.cash, placeId: input.to, amount: input.amount },
  ],
});

/** Credit applied to one charge. */
export function allocationEntry(input: {
  businessDate: CalendarDate;
  memo: string;
  about: Dimensions & { householdId: number; chargeId: number; receiptId: number };
  amount: Cents;
}): EntryDraft {
  return {
    kind: 'allocation',
    businessDate: input.businessDate,
    memo: input.memo,
    postings: [
      { ...input.about, account: 'credit/patient', amount: input.amount },
      { ...input.about, account: 'receivable/patient', amount: negate(input.amount) },
    ],
  };
}

/** What a patient had paid too much of a charge, back to the credit of the receipt that paid it. `amount` in cents. */
export const overpaidEntry = (input: Parameters<typeof allocationEntry>[0]): EntryDraft => ({
  ...allocationEntry({ ...input, amount: negate(input.amount) }),
  kind: 'overpaid',
});

/** Credit of a receipt moved to another household, whose charges it pays too. `amount` in cents. */
export const transferEntry = (input: {
  businessDate: CalendarDate;
  memo: string;
  receiptId: number;
  from: number;
  to: number;
  amount: Cents;
}): EntryDraft => ({
  kind: 'transfer',
  businessDate: input.businessDate,
  memo: input.memo,
  postings: [
    { receiptId: input.receiptId, householdId: input.from, account: 'credit/patient', amount: input.amount },
    {
      receiptId: input.receiptId,
      householdId: input.to,
      account: 'credit/patient',
      amount: negate(input.amount),
    },
  ],
});

/**
 * What stands with a patient and may not be billed to one, taken off; below zero, what the payer's correction brings
 * back. `amount` in cents.
 */
export const notBillableEntry = (input: {
  businessDate: CalendarDate;
  memo: string;
  amount: Cents;
  about: Dimensions & { chargeId: number; householdId: number };
}): EntryDraft => ({
  kind: 'not-billable',
  businessDate: input.businessDate,
  memo: input.memo,
  postings: [
    { ...input.about, account: 'reduction/not-billable', amount: input.amount },
    { ...input.about, account: 'receivable/patient', amount: negate(input.amount) },
  ],
});

/** What stands with a patient taken off for a stated reason: small balances, courtesy, bad debt. Amounts in cents. */
export const patientWriteOffEntry = (input: {
  kind: 'write-off' | 'bad-debt';
  businessDate: CalendarDate;
  why: string;
  account: BookAccount;
  parts: readonly ChargePart[];
}): EntryDraft => ({
  kind: input.kind,
  businessDate: input.businessDate,
  memo: input.why,
  postings: input.parts.flatMap(({ about, amount }): Posting[] => [
    { ...about, account: input.account, amount },
    { ...about, account: 'receivable/patient', amount: negate(amount) },
  ]),
});

/** Credit of a receipt that pays what was written off as bad debt: the reduction is taken back by so much, it is no income again. */
export const badDebtRecoveredEntry = (input: {
  businessDate: CalendarDate;
  memo: string;
  receiptId: number;
  parts: readonly ChargePart[];
}): EntryDraft => ({
  kind: 'bad-debt-recovered',
  businessDate: input.businessDate,
  memo: input.memo,
  postings: input.parts.flatMap(({ about, amount }): Posting[] => {
    const shared = { ...about, receiptId: input.receiptId };
    return [
      { ...shared, account: 'credit/patient', amount },
      { ...shared, account: 'reduction/bad-debt-recovered', amount: negate(amount) },
    ];
  }),
});
