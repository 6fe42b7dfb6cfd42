/** Entries of what a patient pays, and of what is taken off a patient’s part. */
import type { CalendarDate } from '../../calendar';
import { type Cents, ZERO, add, negate } from '../../money';
import type { BookAccount } from '../accounts';
import type { Dimensions } from '../dimensions';
import type { ChargePart, EntryDraft, Posting } from '../entry';

/** The cash of a tender: its account, and where it is. */
export interface CashOf {
  account: BookAccount;
  tenderId: number;
  placeId: number;
}

/**
 * Money of one tender goes to the household's credit first; what was added for a card is income of its own, and pays nothing.
 * `amount` and `surcharge` in cents.
 */
export function receiptEntry(input: {
  businessDate: CalendarDate;
  memo: string;
  about: Dimensions & { householdId: number; receiptId: number };
  cash: CashOf;
  amount: Cents;
  surcharge?: Cents;
}): EntryDraft {
  const surcharge = input.surcharge ?? ZERO;
  return {
    kind: 'receipt',
    businessDate: input.businessDate,
    memo: input.memo,
    // Once by tender, whatever was asked how often of a terminal.
    key: `tender:${input.cash.tenderId}`,
    postings: [
      { ...input.about, ...input.cash, amount: add(input.amount, surcharge) },
      {
        ...input.about,
        tenderId: input.cash.tenderId,
        account: 'credit/patient',
        amount: negate(input.amount),
      },
      ...(surcharge === 0
        ? []
        : [
            {
              ...input.about,
              tenderId: input.cash.tenderId,
              account: 'income/surcharge' as const,
              amount: negate(surcharge),
            },
          ]),
    ],
  };
}

/** Credit of a receipt given back: cash of the refund, which is a receipt below zero. Amounts in cents. */
export const refundEntry = (input: {
  businessDate: CalendarDate;
  memo: string;
  householdId: number;
  refundId: number;
  receiptId: number;
  cash: CashOf;
  amount: Cents;
  surcharge?: Cents;
}): EntryDraft => {
  const surcharge = input.surcharge ?? ZERO;
  const about = { householdId: input.householdId, receiptId: input.refundId };
  return {
    kind: 'refund',
    businessDate: input.businessDate,
    memo: input.memo,
    key: `tender:${input.cash.tenderId}`,
    postings: [
      {
        householdId: input.householdId,
        receiptId: input.receiptId,
        account: 'credit/patient',
        amount: input.amount,
      },
      { ...about, tenderId: input.cash.tenderId, account: 'income/surcharge', amount: surcharge },
      { ...about, ...input.cash, amount: negate(add(input.amount, surcharge)) },
    ],
  };
};

/** What a tender truly was: its cash goes from one row to the other, where it is. `amount` in cents. */
export const tenderCorrectionEntry = (input: {
  businessDate: CalendarDate;
  memo: string;
  about: { householdId: number; receiptId: number };
  from: CashOf;
  to: CashOf;
  amount: Cents;
}): EntryDraft => ({
  kind: 'tender-correction',
  businessDate: input.businessDate,
  memo: input.memo,
  key: `tender:${input.to.tenderId}`,
  postings: [
    { ...input.about, ...input.from, amount: negate(input.amount) },
    { ...input.about, ...input.to, amount: input.amount },
  ],
});

/** A tender that is taken out of a drawer to where it waits for the bank. `amount` in cents. */
export const placeMoveEntry = (input: {
  businessDate: CalendarDate;
  memo: string;
  about: { householdId: number; receiptId: number };
  cash: CashOf;
  to: number;
  amount: Cents;
}): EntryDraft => ({
  kind: 'place-move',
  businessDate: input.businessDate,
  memo: input.memo,
  postings: [
    { ...input.about, ...input.cash, amount: negate(input.amount) },
    { ...input.about, ...input.cash, placeId: input.to, amount: input.amount },
  ],
});

/** By how much more, or less below zero, was counted in a drawer than was to be there. `amount` in cents. */
export const drawerDifferenceEntry = (input: {
  businessDate: CalendarDate;
  memo: string;
  drawerId: number;
  placeId: number;
  locationId: number;
  amount: Cents;
}): EntryDraft => {
  const { placeId, locationId, amount } = input;
  return {
    kind: 'drawer-difference',
    businessDate: input.businessDate,
    memo: input.memo,
    key: `drawer:${input.drawerId}`,
    postings: [
      { placeId, locationId, account: 'cash/cash', amount },
      { placeId, locationId, account: 'expense/cash-difference', amount: negate(amount) },
    ],
  };
};

/** A drawer's difference that is taken to the bank with its cash. `amount` in cents. */
export const depositDifferenceEntry = (input: {
  businessDate: CalendarDate;
  memo: string;
  depositId: number;
  from: number;
  to: number;
  amount: Cents;
}): EntryDraft => ({
  kind: 'deposit-difference',
  businessDate: input.businessDate,
  memo: input.memo,
  postings: [
    { depositId: input.depositId, placeId: input.from, account: 'cash/cash', amount: negate(input.amount) },
    { depositId: input.depositId, placeId: input.to, account: 'cash/cash', amount: input.amount },
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
  /** The tender whose money it is; null for credit that is moved later. */
  tenderId?: number | null;
  from: number;
  to: number;
  amount: Cents;
}): EntryDraft => {
  const about = { receiptId: input.receiptId, tenderId: input.tenderId, account: 'credit/patient' } as const;
  return {
    kind: 'transfer',
    businessDate: input.businessDate,
    memo: input.memo,
    postings: [
      { ...about, householdId: input.from, amount: input.amount },
      { ...about, householdId: input.to, amount: negate(input.amount) },
    ],
  };
};

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
