/** Entries of payment plans. */
import type { CalendarDate } from '../../calendar';
import { type Cents, negate } from '../../money';
import type { Dimensions } from '../dimensions';
import type { ChargePart, EntryDraft, Posting } from '../entry';

/** Charges put on a payment plan, or taken over from the one before it. */
export const planAcceptedEntry = (input: {
  businessDate: CalendarDate;
  memo: string;
  key?: string;
  planId: number;
  /** The plan that they come from; null for what stands with the patient. */
  from: number | null;
  parts: readonly ChargePart[];
}): EntryDraft => ({
  kind: 'plan-accepted',
  businessDate: input.businessDate,
  memo: input.memo,
  ...(input.key === undefined ? {} : { key: input.key }),
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
  parts: readonly ChargePart[];
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
  parts: readonly ChargePart[];
}): EntryDraft => ({
  kind: 'plan-ended',
  businessDate: input.businessDate,
  memo: input.memo,
  postings: input.parts.flatMap(({ about, amount }): Posting[] => [
    { ...about, planId: input.planId, account: 'receivable/patient', amount },
    { ...about, planId: input.planId, account: 'receivable/plan', amount: negate(amount) },
  ]),
});
