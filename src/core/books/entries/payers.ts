/** Entries of what a payer decides, pays and takes, and of its credit. */
import type { CalendarDate } from '../../calendar';
import { type Cents, least, minus, negate, sum } from '../../money';
import type { BookAccount } from '../accounts';
import type { Dimensions } from '../dimensions';
import type { EntryDraft, Posting } from '../entry';
import { type Layer, byDays } from '../owed';
import type { Passing } from '../passing';

/**
 * What the contract with the first coverage's payer is expected to take off, before it has answered: it reduces what the payer is
 * expected to owe. `amount` in cents; a negative one takes it back.
 */
export const expectedWriteOffEntry = ({
  about,
  amount,
  ...entry
}: {
  businessDate: CalendarDate;
  memo: string;
  amount: Cents;
  about: Dimensions & { chargeId: number; householdId: number; coverageId: number; payerId: number };
}): EntryDraft => ({
  kind: 'expected-write-off',
  ...entry,
  postings: [
    { ...about, account: 'reduction/expected', amount },
    { ...about, account: 'receivable/payer', amount: negate(amount) },
  ],
});

/** How one adjustment of a payer moves money. */
export interface DecidedAdjustment {
  group: string;
  reason: string;
  amount: Cents;
  /** `reduce` takes it off the charge, `pass-on` moves it to the next coverage or the patient, `stay` leaves it open with the payer. */
  movement: 'reduce' | 'pass-on' | 'stay';
  reductionAccount: BookAccount;
  /** The remark by which what is passed on may never be collected from the patient. */
  remark?: string;
}

/** Where something that was passed on stands: with a coverage, or with the patient (null). `amount` in cents. */
export interface PassedOn {
  coverageId: number | null;
  payerId: number | null;
  remark: string | null;
  amount: Cents;
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
  /** Where what was passed on before stands: what is taken back comes from there. A coverage, or null for the patient. */
  stands?: readonly PassedOn[];
  /** By which days what becomes the patient's counts, where it was the patient's before. */
  held?: readonly Layer[];
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
  const there = (input.stands ?? []).map((one) => ({ ...one }));
  /** Where an amount goes that is passed on: now to the next coverage or the patient; taken back, from where it stands. */
  const destinations = (
    amount: Cents,
    remark: string | null,
  ): { amount: Cents; to: typeof input.next; remark: string | null }[] => {
    if (amount >= 0) return [{ amount, to: input.next, remark }];
    let rest = negate(amount);
    const parts = there.flatMap((one) => {
      const part = least(rest, one.amount);
      if (part <= 0) return [];
      one.amount = minus(one.amount, part);
      rest = minus(rest, part);
      const { coverageId, payerId } = one;
      return [
        {
          amount: negate(part),
          to: coverageId === null || payerId === null ? null : { coverageId, payerId },
          remark: one.remark,
        },
      ];
    });
    return rest > 0 ? [...parts, { amount: negate(rest), to: input.next, remark }] : parts;
  };
  for (const item of input.adjustments) {
    const reason = { reasonGroup: item.group, reasonCode: item.reason };
    if (item.movement === 'reduce') {
      postings.push(
        { ...about, ...reason, account: item.reductionAccount, amount: item.amount },
        { ...receivable(item.amount), ...reason },
      );
    } else if (item.movement === 'pass-on') {
      for (const { amount, to, remark } of destinations(item.amount, item.remark ?? null))
        postings.push({
          ...about,
          ...reason,
          ...(remark === null ? {} : { remarkCode: remark }),
          ...(to
            ? { ...to, account: 'receivable/payer' as const }
            : { account: 'receivable/patient' as const }),
          amount,
        });
      postings.push({ ...receivable(item.amount), ...reason });
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
    postings: keepingDays(postings, input.held ?? []),
  };
}

/** Splits what becomes the patient's by the days that it had before. */
export function keepingDays(postings: readonly Posting[], held: readonly Layer[]): Posting[] {
  const raises = ({ account, amount }: Posting): boolean => account === 'receivable/patient' && amount > 0;
  const days = byDays(sum(postings.filter(raises).map(({ amount }) => amount)), held);
  return postings.flatMap((posting) => {
    if (!raises(posting)) return [posting];
    const parts: Posting[] = [];
    let rest = posting.amount;
    while (rest > 0 && days[0]) {
      const [day] = days;
      const part = least(rest, day.amount);
      parts.push({ ...posting, amount: part, ...(day.since ? { since: day.since } : {}) });
      rest = minus(rest, part);
      day.amount = minus(day.amount, part);
      if (day.amount === 0) days.shift();
    }
    return parts;
  });
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

/** What a payer does not pay, passed to the patient for a stated reason. `amount` in cents. */
export function toPatientEntry(input: {
  businessDate: CalendarDate;
  why: string;
  amount: Cents;
  about: Dimensions & { chargeId: number; householdId: number; coverageId: number; payerId: number };
  /** By which days it counts, where it was the patient's before. */
  held?: readonly Layer[];
  exception?: Passing | null;
}): EntryDraft {
  return {
    kind: 'to-patient',
    businessDate: input.businessDate,
    memo: input.why,
    exception: input.exception,
    postings: keepingDays(
      [
        { ...input.about, account: 'receivable/patient', amount: input.amount },
        { ...input.about, account: 'receivable/payer', amount: negate(input.amount) },
      ],
      input.held ?? [],
    ),
  };
}

/** What a payer does not pay, put before the next coverage's payer; below zero, taken back from there. `amount` in cents. */
export function toNextPayerEntry(input: {
  businessDate: CalendarDate;
  why: string;
  amount: Cents;
  about: Dimensions & { chargeId: number; householdId: number; coverageId: number; payerId: number };
  next: { coverageId: number; payerId: number };
}): EntryDraft {
  return {
    kind: 'to-next-payer',
    businessDate: input.businessDate,
    memo: input.why,
    postings: [
      // No claim to the next payer is there yet.
      { ...input.about, ...input.next, claimId: null, account: 'receivable/payer', amount: input.amount },
      { ...input.about, account: 'receivable/payer', amount: negate(input.amount) },
    ],
  };
}
