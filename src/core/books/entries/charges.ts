/** Entries of what is put on an account, and of who owes it first. */
import type { CalendarDate } from '../../calendar';
import { type Cents, ZERO, negate } from '../../money';
import type { BookAccount } from '../accounts';
import type { Dimensions } from '../dimensions';
import type { EntryDraft, Posting } from '../entry';
import type { EntryKind } from '../kinds';

/**
 * A service done: the fee is owed by the first coverage's payer, or by the patient when there is none; tax on it by the
 * patient, unless the payer takes it on its claims (`taxBilled`). `fee` and `tax` in cents.
 */
export function chargeEntry(input: {
  businessDate: CalendarDate;
  memo: string;
  fee: Cents;
  tax?: Cents;
  taxBilled?: boolean;
  about: Dimensions & { chargeId: number; householdId: number; patientId: number; providerId: number };
  coverage: { coverageId: number; payerId: number } | null;
}): EntryDraft {
  const { about, coverage, fee, tax = ZERO, taxBilled = false } = input;
  return {
    kind: 'charge',
    businessDate: input.businessDate,
    memo: input.memo,
    key: `charge:${about.chargeId}`,
    postings: [
      owed(about, coverage, fee),
      { ...about, account: 'income/fees', amount: negate(fee) },
      owed(about, taxBilled ? coverage : null, tax),
      { ...about, account: 'payable/tax', amount: negate(tax) },
    ],
  };
}

/**
 * A service that a corrected claim asks more or less for than was billed: the difference in fee and tax, in cents, with whom each was
 * asked of. What was decided of it stays until the payer decides anew.
 */
export function chargeCorrectionEntry(input: {
  businessDate: CalendarDate;
  memo: string;
  fee: Cents;
  tax: Cents;
  taxBilled: boolean;
  about: Dimensions & { chargeId: number; householdId: number; patientId: number; providerId: number };
  coverage: { coverageId: number; payerId: number };
}): EntryDraft {
  const { about, coverage, fee, tax, taxBilled } = input;
  return {
    kind: 'charge-correction',
    businessDate: input.businessDate,
    memo: input.memo,
    postings: [
      owed(about, coverage, fee),
      { ...about, account: 'income/fees', amount: negate(fee) },
      owed(about, taxBilled ? coverage : null, tax),
      { ...about, account: 'payable/tax', amount: negate(tax) },
    ],
  };
}

/** What may be put on an account without a service, and the account of the books that it is earned on. */
export const ACCOUNT_CHARGES = {
  interest: { account: 'income/interest', kind: 'account-charge', words: 'Interest' },
  late: { account: 'income/late-charge', kind: 'account-charge', words: 'Late charge' },
  returned: { account: 'income/returned-check', kind: 'account-charge', words: 'Returned check' },
  opening: { account: 'opening/balance', kind: 'opening', words: 'Balance brought in' },
} as const satisfies Record<string, { account: BookAccount; kind: EntryKind; words: string }>;

/** Interest, a late charge, the charge for a returned check, or a balance brought in from an earlier system. */
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

/** Who owes a charge that nobody was asked for yet: a coverage's payer, or the patient. */
export type Owing = { coverageId: number; payerId: number } | null;

/** So much of a charge with whom it is owed by. */
const owed = (about: Dimensions, who: Owing, amount: Cents): Posting =>
  who
    ? { ...about, ...who, account: 'receivable/payer', amount }
    : { ...about, account: 'receivable/patient', amount };

/** An unbilled charge moved to who owes it under another coverage, and its tax to who owes that. Amounts in cents. */
export function coverageChangeEntry(input: {
  businessDate: CalendarDate;
  memo: string;
  amount: Cents;
  about: Dimensions & { chargeId: number; householdId: number; patientId: number };
  from: Owing;
  to: Owing;
  tax: { amount: Cents; from: Owing; to: Owing };
}): EntryDraft {
  const { about, amount, from, to, tax } = input;
  return {
    kind: 'coverage-change',
    businessDate: input.businessDate,
    memo: input.memo,
    postings: [
      owed(about, from, negate(amount)),
      owed(about, to, amount),
      ...(tax.from?.coverageId === tax.to?.coverageId
        ? []
        : [owed(about, tax.from, negate(tax.amount)), owed(about, tax.to, tax.amount)]),
    ],
  };
}
