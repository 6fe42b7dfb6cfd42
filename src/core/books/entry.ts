/**
 * Entries of the double-entry journal. A positive amount is a debit, a negative one a credit; the postings of an
 * entry sum to zero, and so do those of each charge within it: a charge's receivables are therefore always its fee
 * less reductions less payments.
 */
import type { CalendarDate } from '../calendar';
import { type Cents, ZERO, add, negate, sum } from '../money';
import { type AccountClass, type BookAccount, classOf } from './accounts';
import type { Dimensions } from './dimensions';
import type { EntryKind } from './kinds';
import type { Passing } from './passing';

/** One amount on one account, in cents. */
export interface Posting extends Dimensions {
  account: BookAccount;
  amount: Cents;
  /** Since when the patient owes it, where it comes back and keeps the day that it had. */
  since?: CalendarDate;
}

/** An entry before it is written. */
export interface EntryDraft {
  kind: EntryKind;
  businessDate: CalendarDate;
  memo: string;
  /** Writing the same key twice is refused by the database. */
  key?: string;
  reverses?: number;
  /** By which stated exception the patient owes what a payer took off. */
  exception?: Passing | null | undefined;
  postings: Posting[];
}

/** What of a charge an entry moves, in cents. */
export interface ChargePart {
  about: Dimensions & { chargeId: number; householdId: number };
  amount: Cents;
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
    postings: of.postings.map(({ since: _, ...posting }) => ({ ...posting, amount: negate(posting.amount) })),
  };
}

/** Sum of the postings on accounts of a class, in cents. */
export const sumOfClass = (postings: readonly Posting[], wanted: AccountClass): Cents =>
  sum(postings.filter((posting) => classOf(posting.account) === wanted).map((posting) => posting.amount));
