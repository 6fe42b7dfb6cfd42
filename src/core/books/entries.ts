/**
 * Entries of the double-entry journal. A positive amount is a debit, a negative one a credit; the postings of an
 * entry sum to zero, and so do those of each charge within it: a charge's receivables are therefore always its fee
 * less reductions less payments.
 */
import type { CalendarDate } from '../calendar';
import { type Cents, ZERO, add, minus, negate, sum } from '../money';
import { type AccountClass, type BookAccount, classOf } from './accounts';
import type { Dimensions } from './dimensions';
import type { EntryKind } from './kinds';

/** One amount on one account, in cents. */
export interface Posting extends Dimensions {
  account: BookAccount;
  amount: Cents;
}

/** An entry before it is written. */
export interface EntryDraft {
  kind: EntryKind;
  businessDate: CalendarDate;
  memo: string;
  /** Writing the same key twice is refused by the database. */
  key?: string;
  reverses?: number;
  postings: Posting[];
}

/** An entry whose postings do not sum to zero, as a whole or for one charge. */
export class UnbalancedEntry extends Error {
  constructor(readonly draft: EntryDraft) {
    super(`The postings of this ${draft.kind} entry do not sum to zero`);
    this.name = 'UnbalancedEntry';
  }
}

/**
 * Drops postings of zero and proves that the entry balances.
 * @returns null when nothing is left to write
 * @throws UnbalancedEntry
 */
export function balanced(draft: EntryDraft): EntryDraft | null {
  const postings = draft.postings.filter((posting) => posting.amount !== 0);
  const byCharge = new Map<number | null, Cents>();
  for (const posting of postings) {
    const charge = posting.chargeId ?? null;
    byCharge.set(charge, add(byCharge.get(charge) ?? ZERO, posting.amount));
  }
  if ([...byCharge.values()].some((total) => total !== 0)) throw new UnbalancedEntry(draft);
  return postings.length === 0 ? null : { ...draft, postings };
}

/**
 * A service done: the fee is owed by the first coverage's payer, or by the patient when there is none; tax on it is the
 * patient's. `fee` and `tax` in cents.
 */
export function chargeEntry(input: {
  businessDate: CalendarDate;
  memo: string;
  fee: Cents;
  tax?: Cents;
  about: Dimensions & { chargeId: number; householdId: number; patientId: number; providerId: number };
  coverage: { coverageId: number; payerId: number } | null;
}): EntryDraft {
  const { about, coverage, fee, tax = ZERO } = input;
  return {
    kind: 'charge',
    businessDate: input.businessDate,
    memo: input.memo,
    key: `charge:${about.chargeId}`,
    postings: [
      coverage
        ? { ...about, ...coverage, account: 'receivable/payer', amount: fee }
        : { ...about, account: 'receivable/patient', amount: fee },
      { ...about, account: 'income/fees', amount: negate(fee) },
      { ...about, account: 'receivable/patient', amount: tax },
      { ...about, account: 'payable/tax', amount: negate(tax) },
    ],
  };
}

/** What may be put on an account without a service, and the account of the books that it is earned on. */
export const ACCOUNT_CHARGES = {
  interest: { account: 'income/interest', kind: 'account-charge', words: 'Interest' },
  late: { account: 'income/late-charge', kind: 'account-charge', words: 'Late charge' },
  opening: { account: 'opening/balance', kind: 'opening', words: 'Balance brought in' },
} as const satisfies Record<string, { account: BookAccount; kind: EntryKind; words: string }>;
/** Interest, a late charge, or a balance brought in from an earlier system. */
export type AccountChargeKind = keyof typeof ACCOUNT_CHARGES;

/** Something put on an account without a service: no code, no provider, nobody's claim. `amount` in cents. */
export function accountChargeEntry(input: {
  kind: AccountChargeKind;
  businessDate: CalendarDate;
  memo: string;
  amount: Cents;
  about: Dimensions & { chargeId: number; householdId: number };
}): EntryDraft {
  const { account, kind } = ACCOUNT_CHARGES[input.kind];
  return {
    kind,
    businessDate: input.businessDate,
    memo: input.memo,
    key: `charge:${input.about.chargeId}`,
    postings: [
      { ...input.about, account: 'receivable/patient', amount: input.amount },
      { ...input.about, account, amount: negate(input.amount) },
    ],
  };
}

/** How one adjustment of a payer moves money. */
export interface DecidedAdjustment {
  group: string;
  reason: string;
  amount: Cents;
  /** `reduce` takes it off the charge, `pass-on` moves it to the next coverage or the patient, `stay` leaves it open with the payer. */
  movement: 'reduce' | 'pass-on' | 'stay';
  reductionAccount: BookAccount;
}

/** A payer's decision on one charge. Amounts in cents; negative ones take back an earlier decision. */
export function payerDecisionEntry(input: {
  businessDate: CalendarDate;
  memo: string;
  key: string;
  about: Dimensions & {
    chargeId: number;
    householdId: number;
    coverageId: number;
    payerId: number;
    claimId: number;
    remittanceId: number;
  };
  cashAccount: BookAccount;
  paid: Cents;
  adjustments: readonly DecidedAdjustment[];
  next: { coverageId: number; payerId: number } | null;
}): EntryDraft {
  const { about } = input;
  const receivable = (amount: Cents): Posting => ({
    ...about,
    account: 'receivable/payer',
    amount: negate(amount),
  });
  const postings: Posting[] = [
    { ...about, account: input.cashAccount, amount: input.paid },
    receivable(input.paid),
  ];
  for (const item of input.adjustments) {
    const reason = { reasonGroup: item.group, reasonCode: item.reason };
    if (item.movement === 'reduce') {
      postings.push(
        { ...about, ...reason, account: item.reductionAccount, amount: item.amount },
        { ...receivable(item.amount), ...reason },
      );
    } else if (item.movement === 'pass-on') {
      const to: Posting = input.next
        ? { ...about, ...reason, ...input.next, account: 'receivable/payer', amount: item.amount }
        : { ...about, ...reason, account: 'receivable/patient', amount: item.amount };
      postings.push(to, { ...receivable(item.amount), ...reason });
    } else {
      // Nothing moves, but the books keep what the payer said: out under its reason, and back to stand open.
      postings.push({ ...receivable(item.amount), ...reason }, receivable(negate(item.amount)));
    }
  }
  return {
    kind: 'payer-decision',
    businessDate: input.businessDate,
    memo: input.memo,
    key: input.key,
    postings,
  };
}

/** Payer money that belongs to no charge yet (or is taken back from there): held in `credit/payer`. */
export function payerCreditEntry(input: {
  kind: 'payer-credit' | 'provider-adjustment';
  businessDate: CalendarDate;
  memo: string;
  key: string;
  about: Dimensions & { payerId: number; remittanceId: number };
  cashAccount: BookAccount;
  against: BookAccount;
  amount: Cents;
}): EntryDraft {
  return {
    kind: input.kind,
    businessDate: input.businessDate,
    memo: input.memo,
    key: input.key,
    postings: [
      { ...input.about, account: input.cashAccount, amount: input.amount },
      { ...input.about, account: input.against, amount: negate(input.amount) },
    ],
  };
}

/** Money taken from a patient goes to the household's credit first. */
export function receiptEntry(input: {
  businessDate: CalendarDate;
  memo: string;
  about: Dimensions & { householdId: number; receiptId: number };
  cashAccount: BookAccount;
  amount: Cents;
}): EntryDraft {
  return {
    kind: 'receipt',
    businessDate: input.businessDate,
    memo: input.memo,
    key: `receipt:${input.about.receiptId}`,
    postings: [
      { ...input.about, account: input.cashAccount, amount: input.amount },
      { ...input.about, account: 'credit/patient', amount: negate(input.amount) },
    ],
  };
}

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

/** What of a charge a plan moves, in cents. */
export interface PlanPart {
  about: Dimensions & { chargeId: number; householdId: number };
  amount: Cents;
}

/** Charges put on a payment plan, or taken over from the one before it. */
export const planAcceptedEntry = (input: {
  businessDate: CalendarDate;
  memo: string;
  key: string;
  planId: number;
  /** The plan that they come from; null for what stands with the patient. */
  from: number | null;
  parts: readonly PlanPart[];
}): EntryDraft => ({
  kind: 'plan-accepted',
  businessDate: input.businessDate,
  memo: input.memo,
  key: input.key,
  postings: input.parts.flatMap(({ about, amount }): Posting[] => [
    { ...about, planId: input.planId, account: 'receivable/plan', amount },
    input.from === null
      ? { ...about, planId: input.planId, account: 'receivable/patient', amount: negate(amount) }
      : { ...about, planId: input.from, account: 'receivable/plan', amount: negate(amount) },
  ]),
});

/** Interest of a payment plan, as it comes due: a charge of its own, on the plan from the beginning. `amount` in cents. */
export const planInterestEntry = (input: {
  businessDate: CalendarDate;
  memo: string;
  planId: number;
  amount: Cents;
  about: Dimensions & { chargeId: number; householdId: number };
}): EntryDraft => ({
  kind: 'plan-interest',
  businessDate: input.businessDate,
  memo: input.memo,
  key: `charge:${input.about.chargeId}`,
  postings: [
    { ...input.about, planId: input.planId, account: 'receivable/plan', amount: input.amount },
    { ...input.about, planId: input.planId, account: 'income/interest', amount: negate(input.amount) },
  ],
});

/** Credit of a receipt that pays charges on a plan. */
export const planPaymentEntry = (input: {
  businessDate: CalendarDate;
  memo: string;
  planId: number;
  receiptId: number;
  parts: readonly PlanPart[];
}): EntryDraft => ({
  kind: 'plan-payment',
  businessDate: input.businessDate,
  memo: input.memo,
  postings: input.parts.flatMap(({ about, amount }): Posting[] => {
    const shared = { ...about, planId: input.planId, receiptId: input.receiptId };
    return [
      { ...shared, account: 'credit/patient', amount },
      { ...shared, account: 'receivable/plan', amount: negate(amount) },
    ];
  }),
});

/** What is open on a plan, back with the patient. */
export const planEndedEntry = (input: {
  businessDate: CalendarDate;
  memo: string;
  planId: number;
  parts: readonly PlanPart[];
}): EntryDraft => ({
  kind: 'plan-ended',
  businessDate: input.businessDate,
  memo: input.memo,
  postings: input.parts.flatMap(({ about, amount }): Posting[] => [
    { ...about, planId: input.planId, account: 'receivable/patient', amount },
    { ...about, planId: input.planId, account: 'receivable/plan', amount: negate(amount) },
  ]),
});

/** What of a charge a placement with an agency moves, in cents. */
export type PlacementPart = PlanPart;

/** Charges handed to an agency. */
export const placedEntry = (input: {
  businessDate: CalendarDate;
  memo: string;
  key: string;
  placementId: number;
  parts: readonly PlacementPart[];
}): EntryDraft => ({
  kind: 'placed',
  businessDate: input.businessDate,
  memo: input.memo,
  key: input.key,
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
  parts: readonly PlacementPart[];
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
  parts: readonly PlacementPart[];
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
  parts: readonly PlacementPart[];
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

/** What stands with a patient taken off for a stated reason: small balances, courtesy, bad debt. Amounts in cents. */
export const patientWriteOffEntry = (input: {
  kind: 'write-off' | 'bad-debt';
  businessDate: CalendarDate;
  why: string;
  account: BookAccount;
  parts: readonly PlacementPart[];
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
  parts: readonly PlacementPart[];
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

/** What a patient had paid too much of a charge, back to the credit of the receipt that paid it. `amount` in cents. */
export const overpaidEntry = (input: Parameters<typeof allocationEntry>[0]): EntryDraft => ({
  ...allocationEntry({ ...input, amount: negate(input.amount) }),
  kind: 'overpaid',
});

/** Money held for a payer, given back to it; below zero, what a payer had taken and paid back. `amount` in cents. */
export function payerReturnEntry(input: {
  businessDate: CalendarDate;
  memo: string;
  key?: string;
  about: Dimensions & { payerId: number; remittanceId: number };
  cashAccount: BookAccount;
  amount: Cents;
}): EntryDraft {
  const { cashAccount, amount, about, ...rest } = input;
  return {
    ...rest,
    kind: 'payer-return',
    postings: [
      { ...about, account: 'credit/payer', amount },
      { ...about, account: cashAccount, amount: negate(amount) },
    ],
  };
}

/** An item of a payer's credit: a provider adjustment, or a claim whose money is held. */
export type CreditItem = Dimensions & { payerId: number; remittanceId: number };

/** Payer credit that pays a charge; below zero, what the payer has taken back of a charge that it had paid. `amount` in cents. */
export const creditAppliedEntry = (input: {
  businessDate: CalendarDate;
  memo: string;
  about: CreditItem & {
    chargeId: number;
    householdId: number;
    coverageId: number;
    claimId: number;
    providerAdjustmentId: number;
  };
  amount: Cents;
}): EntryDraft => ({
  kind: 'credit-applied',
  businessDate: input.businessDate,
  memo: input.memo,
  postings: [
    { ...input.about, account: 'credit/payer', amount: input.amount },
    { ...input.about, account: 'receivable/payer', amount: negate(input.amount) },
  ],
});

/** Two items of one payer's credit that explain each other: what was held is what the payer has taken. `amount` in cents. */
export const setOffEntry = (input: {
  businessDate: CalendarDate;
  memo: string;
  held: CreditItem;
  taken: CreditItem;
  amount: Cents;
}): EntryDraft => ({
  kind: 'credit-set-off',
  businessDate: input.businessDate,
  memo: input.memo,
  postings: [
    { ...input.held, account: 'credit/payer', amount: input.amount },
    { ...input.taken, account: 'credit/payer', amount: negate(input.amount) },
  ],
});

/** Payer credit that is given up for a stated reason: income when it was held, expense when the payer had taken it. `amount` in cents. */
export const givenUpEntry = (input: {
  businessDate: CalendarDate;
  why: string;
  about: CreditItem & { providerAdjustmentId: number };
  amount: Cents;
}): EntryDraft => ({
  kind: 'credit-given-up',
  businessDate: input.businessDate,
  memo: input.why,
  postings: [
    { ...input.about, account: 'credit/payer', amount: input.amount },
    {
      ...input.about,
      account: input.amount > 0 ? 'income/payer-credit' : 'expense/payer-credit',
      amount: negate(input.amount),
    },
  ],
});

/** Money that is with a payer taken off for a stated reason. `amount` in cents. */
export function writeOffEntry(input: {
  businessDate: CalendarDate;
  why: string;
  account: BookAccount;
  amount: Cents;
  about: Dimensions & { chargeId: number; householdId: number; coverageId: number; payerId: number };
}): EntryDraft {
  return {
    kind: 'write-off',
    businessDate: input.businessDate,
    memo: input.why,
    postings: [
      { ...input.about, account: input.account, amount: input.amount },
      { ...input.about, account: 'receivable/payer', amount: negate(input.amount) },
    ],
  };
}

/** What stands with a patient and may not be billed to one, taken off; below zero, what the payer's correction brings back. `amount` in cents. */
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

/** What a payer does not pay, passed to the patient for a stated reason. `amount` in cents. */
export function toPatientEntry(input: {
  businessDate: CalendarDate;
  why: string;
  amount: Cents;
  about: Dimensions & { chargeId: number; householdId: number; coverageId: number; payerId: number };
}): EntryDraft {
  return {
    kind: 'to-patient',
    businessDate: input.businessDate,
    memo: input.why,
    postings: [
      { ...input.about, account: 'receivable/patient', amount: input.amount },
      { ...input.about, account: 'receivable/payer', amount: negate(input.amount) },
    ],
  };
}

/** Who owes a charge that nobody was asked for yet: a coverage's payer, or the patient. */
export type Owing = { coverageId: number; payerId: number } | null;

/** An unbilled charge moved to who owes it under another coverage. `amount` in cents. */
export function coverageChangeEntry(input: {
  businessDate: CalendarDate;
  memo: string;
  amount: Cents;
  about: Dimensions & { chargeId: number; householdId: number; patientId: number };
  from: Owing;
  to: Owing;
}): EntryDraft {
  const { about, amount } = input;
  const owing = (who: Owing, part: Cents): Posting =>
    who
      ? { ...about, ...who, account: 'receivable/payer', amount: part }
      : { ...about, account: 'receivable/patient', amount: part };
  return {
    kind: 'coverage-change',
    businessDate: input.businessDate,
    memo: input.memo,
    postings: [owing(input.from, negate(amount)), owing(input.to, amount)],
  };
}

/** The entry that undoes another: the same postings with the signs turned. */
export function reversalEntry(
  of: { id: number; postings: readonly Posting[] },
  businessDate: CalendarDate,
  why: string,
): EntryDraft {
  return {
    kind: 'reversal',
    businessDate,
    memo: why,
    reverses: of.id,
    postings: of.postings.map((posting) => ({ ...posting, amount: negate(posting.amount) })),
  };
}

/** Sum of the postings on accounts of a class, in cents. */
export const sumOfClass = (postings: readonly Posting[], wanted: AccountClass): Cents =>
  sum(postings.filter((posting) => classOf(posting.account) === wanted).map((posting) => posting.amount));
