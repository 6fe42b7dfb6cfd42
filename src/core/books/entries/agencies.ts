/** Entries of what is with an agency: handed over, paid there or to us, its fees, ended. */
import type { CalendarDate } from '../../calendar';
import { type Cents, minus, negate } from '../../money';
import type { BookAccount } from '../accounts';
import type { ChargePart, EntryDraft, Posting } from '../entry';

/** Charges handed to an agency. */
export const placedEntry = (input: {
  businessDate: CalendarDate;
  memo: string;
  key?: string;
  placementId: number;
  parts: readonly ChargePart[];
}): EntryDraft => ({
  kind: 'placed',
  businessDate: input.businessDate,
  memo: input.memo,
  ...(input.key === undefined ? {} : { key: input.key }),
  postings: input.parts.flatMap(({ about, amount }): Posting[] => {
    const shared = { ...about, placementId: input.placementId };
    return [
      { ...shared, account: 'receivable/agency', amount },
      { ...shared, account: 'receivable/patient', amount: negate(amount) },
    ];
  }),
});

/** What is open with an agency, back with the patient. */
export const placementEndedEntry = (input: {
  businessDate: CalendarDate;
  memo: string;
  placementId: number;
  parts: readonly ChargePart[];
}): EntryDraft => ({
  kind: 'placement-ended',
  businessDate: input.businessDate,
  memo: input.memo,
  postings: input.parts.flatMap(({ about, amount }): Posting[] => {
    const shared = { ...about, placementId: input.placementId };
    return [
      { ...shared, account: 'receivable/patient', amount },
      { ...shared, account: 'receivable/agency', amount: negate(amount) },
    ];
  }),
});

/**
 * What an agency collected: all of it goes to the charges; its fee is an expense, kept by the agency where it hands over net,
 * else owed to it. Amounts in cents; the parts sum to `gross`.
 */
export const agencyPaymentEntry = (input: {
  businessDate: CalendarDate;
  memo: string;
  key: string;
  placementId: number;
  householdId: number;
  gross: Cents;
  fee: Cents;
  pays: 'gross' | 'net';
  cashAccount: BookAccount;
  parts: readonly ChargePart[];
}): EntryDraft => {
  const of = { placementId: input.placementId, householdId: input.householdId };
  return {
    kind: 'agency-payment',
    businessDate: input.businessDate,
    memo: input.memo,
    key: input.key,
    postings: [
      {
        ...of,
        account: input.cashAccount,
        amount: input.pays === 'net' ? minus(input.gross, input.fee) : input.gross,
      },
      { ...of, account: 'expense/agency-fee', amount: input.fee },
      ...(input.pays === 'gross'
        ? [{ ...of, account: 'payable/agency-fee' as const, amount: negate(input.fee) }]
        : []),
      { ...of, account: 'credit/agency', amount: negate(input.gross) },
      ...input.parts.flatMap(({ about, amount }): Posting[] => [
        { ...about, ...of, account: 'credit/agency', amount },
        { ...about, ...of, account: 'receivable/agency', amount: negate(amount) },
      ]),
    ],
  };
};

/** What somebody paid to us though it is with an agency: credit of a receipt to its charges, and the agency's fee, which is owed. */
export const agencyDirectEntry = (input: {
  businessDate: CalendarDate;
  memo: string;
  placementId: number;
  householdId: number;
  receiptId: number;
  fee: Cents;
  parts: readonly ChargePart[];
}): EntryDraft => {
  const of = {
    placementId: input.placementId,
    householdId: input.householdId,
    receiptId: input.receiptId,
  };
  return {
    kind: 'agency-direct',
    businessDate: input.businessDate,
    memo: input.memo,
    postings: [
      ...input.parts.flatMap(({ about, amount }): Posting[] => [
        { ...about, ...of, account: 'credit/patient', amount },
        { ...about, ...of, account: 'receivable/agency', amount: negate(amount) },
      ]),
      { ...of, account: 'expense/agency-fee', amount: input.fee },
      { ...of, account: 'payable/agency-fee', amount: negate(input.fee) },
    ],
  };
};

/** Fees that are paid to an agency, by placement. Amounts in cents. */
export const agencyFeePaidEntry = (input: {
  businessDate: CalendarDate;
  memo: string;
  key: string;
  cashAccount: BookAccount;
  parts: readonly { placementId: number; householdId: number; amount: Cents }[];
}): EntryDraft => ({
  kind: 'agency-fee-paid',
  businessDate: input.businessDate,
  memo: input.memo,
  key: input.key,
  postings: input.parts.flatMap(({ amount, ...of }): Posting[] => [
    { ...of, account: 'payable/agency-fee', amount },
    { ...of, account: input.cashAccount, amount: negate(amount) },
  ]),
});

/** What an agency collected of a charge and is not the patient's any more, as credit of the patient: a receipt without cash. */
export const agencyCreditEntry = (input: {
  businessDate: CalendarDate;
  memo: string;
  placementId: number;
  receiptId: number;
  part: ChargePart;
}): EntryDraft => {
  const { about, amount } = input.part;
  const of = { placementId: input.placementId, householdId: about.householdId };
  return {
    kind: 'agency-credit',
    businessDate: input.businessDate,
    memo: input.memo,
    postings: [
      { ...about, ...of, account: 'receivable/patient', amount },
      { ...about, ...of, account: 'credit/agency', amount: negate(amount) },
      { ...of, receiptId: input.receiptId, account: 'credit/agency', amount },
      { ...of, receiptId: input.receiptId, account: 'credit/patient', amount: negate(amount) },
    ],
  };
};
