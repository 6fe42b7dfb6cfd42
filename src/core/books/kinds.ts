/**
 * The kinds of entries: what each is called in the ledger and in exports, what its postings must carry, and how the
 * balance story tells it. The database knows the same list and refuses an entry that does not carry what its kind needs.
 */
import { type CalendarDate, formatDate } from '../calendar';
import { type Cents, formatMoneyPlain, negate, sum } from '../money';
import type { Dimension } from './dimensions';
import { PASSING, type Passing } from './passing';

/** What an entry did to one charge. Amounts in cents. */
export interface EntryFacts {
  date: CalendarDate;
  payer: string;
  memo: string;
  /** True when a later entry undoes this one. */
  undone: boolean;
  paidByPayer: Cents;
  paidByPatient: Cents;
  paidByAgency: Cents;
  /** What is expected to come off by contract; less than zero where it is no longer only expected. */
  expected: Cents;
  /** Reductions and what passed to the patient, by reason, in the patient's words. */
  reduced: { words: string; amount: Cents }[];
  passedOn: { words: string; amount: Cents }[];
  /** What the payer refused. */
  refused: { words: string; amount: Cents }[];
  /** By which stated exception it became the patient's though the payer had taken it off. */
  exception: Passing | null;
}

interface EntryKindShape {
  label: string;
  /** Dimensions that every posting of such an entry carries. */
  needs: readonly Dimension[];
  /** Of which day what it makes the patient's is owed: the day of its posting where nothing is said, else its business date. */
  agesFrom?: 'business';
  /**
   * Sentences for the patient; none when the charge itself says it. Why we reverse or write off is for us alone.
   * @param waits whether something of the charge still waits with the entry's payer
   */
  tell: (entry: EntryFacts, waits: boolean) => string[];
}

const m = formatMoneyPlain;
const nothing = (): string[] => [];
const later = (entry: EntryFacts, words: string): string => (entry.undone ? ` (${words} later)` : '');

/** What we took off ourselves, and what of it was taken back because a payer decided. */
const takenOff = (entry: EntryFacts, off: string, back: string): string => {
  const amount = sum(entry.reduced.map((item) => item.amount));
  return amount < 0
    ? `On ${formatDate(entry.date)} ${m(negate(amount))} ${back}.`
    : `On ${formatDate(entry.date)} ${off} ${m(amount)}${later(entry, 'taken back')}.`;
};

function tellDecision(entry: EntryFacts, waits: boolean): string[] {
  const day = formatDate(entry.date);
  return [
    `${entry.payer} decided on ${day} and paid ${entry.paidByPayer === 0 ? 'nothing' : m(entry.paidByPayer)}${later(entry, 'corrected')}.`,
    ...entry.reduced.map((item) => `${m(item.amount)} was taken off: ${item.words}.`),
    ...entry.passedOn.map((item) => `${m(item.amount)} passed to you: ${item.words}.`),
    ...entry.refused.map(
      (item) => `${m(item.amount)} was refused: ${item.words}.${waits ? ' We are following it up.' : ''}`,
    ),
  ];
}

/** Every kind of entry. */
export const ENTRY_KINDS = {
  charge: { label: 'charge', needs: ['householdId', 'chargeId', 'patientId', 'providerId'], tell: nothing },
  'account-charge': { label: 'added to the account', needs: ['householdId', 'chargeId'], tell: nothing },
  opening: { label: 'brought in', needs: ['householdId', 'chargeId'], agesFrom: 'business', tell: nothing },
  'expected-write-off': {
    label: 'expected write-off',
    needs: ['householdId', 'chargeId', 'patientId', 'coverageId', 'payerId'],
    // What comes off after all says the decision.
    tell: (entry) =>
      entry.expected > 0
        ? [`${m(entry.expected)} is expected to come off by our contract with ${entry.payer}.`]
        : [],
  },
  'payer-decision': {
    label: 'payer decision',
    needs: ['householdId', 'chargeId', 'coverageId', 'payerId', 'claimId', 'remittanceId'],
    tell: tellDecision,
  },
  'payer-credit': { label: 'held for the payer', needs: ['payerId', 'remittanceId'], tell: nothing },
  'payer-return': { label: 'returned to the payer', needs: ['payerId', 'remittanceId'], tell: nothing },
  'provider-adjustment': { label: 'provider adjustment', needs: ['payerId', 'remittanceId'], tell: nothing },
  'credit-applied': {
    label: 'provider adjustment applied',
    needs: [
      'householdId',
      'chargeId',
      'coverageId',
      'payerId',
      'claimId',
      'remittanceId',
      'providerAdjustmentId',
    ],
    tell: (entry) => [
      entry.paidByPayer < 0
        ? `${entry.payer} took back ${m(negate(entry.paidByPayer))} on ${formatDate(entry.date)}${later(entry, 'corrected')}.`
        : `${entry.payer} paid ${m(entry.paidByPayer)} on ${formatDate(entry.date)}${later(entry, 'corrected')}.`,
    ],
  },
  'credit-set-off': { label: 'payer credit set off', needs: ['payerId', 'remittanceId'], tell: nothing },
  'credit-given-up': {
    label: 'payer credit written off',
    needs: ['payerId', 'remittanceId', 'providerAdjustmentId'],
    tell: nothing,
  },
  receipt: { label: 'receipt', needs: ['householdId', 'receiptId'], tell: nothing },
  refund: { label: 'refund', needs: ['householdId', 'receiptId'], tell: nothing },
  allocation: {
    label: 'payment',
    needs: ['householdId', 'chargeId', 'receiptId'],
    tell: (entry) => [
      `On ${formatDate(entry.date)} you paid ${m(entry.paidByPatient)}${later(entry, 'taken back')}.`,
    ],
  },
  overpaid: {
    label: 'became credit',
    needs: ['householdId', 'chargeId', 'receiptId'],
    tell: (entry) => [
      `On ${formatDate(entry.date)} ${m(negate(entry.paidByPatient))} that you had paid became credit, since less of this service is yours to pay${later(entry, 'taken back')}.`,
    ],
  },
  transfer: { label: 'moved to another account', needs: ['householdId', 'receiptId'], tell: nothing },
  'plan-accepted': {
    label: 'put on a plan',
    needs: ['householdId', 'chargeId', 'planId'],
    tell: (entry) => [`On ${formatDate(entry.date)} ${entry.memo}${later(entry, 'taken back')}.`],
  },
  'plan-interest': {
    label: 'interest of a plan',
    needs: ['householdId', 'chargeId', 'planId'],
    agesFrom: 'business',
    tell: nothing,
  },
  'plan-payment': {
    label: 'paid by plan',
    needs: ['householdId', 'chargeId', 'receiptId', 'planId'],
    tell: (entry) => [
      `On ${formatDate(entry.date)} you paid ${m(entry.paidByPatient)} by your payment plan${later(entry, 'taken back')}.`,
    ],
  },
  'plan-ended': {
    label: 'came back from a plan',
    needs: ['householdId', 'chargeId', 'planId'],
    tell: (entry) => [`On ${formatDate(entry.date)} ${entry.memo}${later(entry, 'taken back')}.`],
  },
  placed: {
    label: 'handed to an agency',
    needs: ['householdId', 'chargeId', 'placementId'],
    tell: (entry) => [`On ${formatDate(entry.date)} ${entry.memo}${later(entry, 'taken back')}.`],
  },
  'placement-ended': {
    label: 'came back from an agency',
    needs: ['householdId', 'chargeId', 'placementId'],
    tell: (entry) => [`On ${formatDate(entry.date)} ${entry.memo}${later(entry, 'taken back')}.`],
  },
  'agency-payment': {
    label: 'paid by an agency',
    needs: ['householdId', 'placementId'],
    tell: (entry) => [
      `On ${formatDate(entry.date)} ${m(entry.paidByAgency)} came from the agency${later(entry, 'taken back')}.`,
    ],
  },
  'agency-direct': {
    label: 'paid to us, with an agency',
    needs: ['householdId', 'placementId', 'receiptId'],
    tell: (entry) => [
      `On ${formatDate(entry.date)} you paid ${m(entry.paidByPatient)}${later(entry, 'taken back')}.`,
    ],
  },
  'agency-credit': {
    label: 'became credit',
    needs: ['householdId', 'placementId'],
    tell: (entry) => [
      `On ${formatDate(entry.date)} ${m(negate(entry.paidByAgency))} that the agency had collected became your credit, since less of this service is yours to pay${later(entry, 'taken back')}.`,
    ],
  },
  'agency-fee-paid': {
    label: 'fee of an agency paid',
    needs: ['householdId', 'placementId'],
    tell: nothing,
  },
  'bad-debt': {
    label: 'bad debt',
    needs: ['householdId', 'chargeId'],
    tell: (entry) => [
      takenOff(entry, 'we gave up', 'that we had given up counts again, since the insurer decided otherwise'),
    ],
  },
  'bad-debt-recovered': {
    label: 'bad debt recovered',
    needs: ['householdId', 'chargeId', 'receiptId'],
    tell: (entry) => [
      `On ${formatDate(entry.date)} you paid ${m(entry.paidByPatient)} that we had given up${later(entry, 'taken back')}.`,
    ],
  },
  'coverage-change': {
    label: 'coverage changed',
    needs: ['householdId', 'chargeId', 'patientId'],
    tell: (entry) => [
      `On ${formatDate(entry.date)} the coverage of this service was changed: ${entry.memo}.`,
    ],
  },
  'charge-correction': {
    label: 'put right',
    needs: ['householdId', 'chargeId', 'patientId', 'providerId'],
    tell: (entry) => [`On ${formatDate(entry.date)} it was put right on a corrected claim: ${entry.memo}.`],
  },
  'to-patient': {
    label: 'passed to the patient',
    needs: ['householdId', 'chargeId', 'coverageId', 'payerId'],
    tell: (entry) => [
      sum(entry.passedOn.map((item) => item.amount)) < 0
        ? `On ${formatDate(entry.date)} ${m(negate(sum(entry.passedOn.map((item) => item.amount))))} went back from you to ${entry.payer}: ${entry.memo}.`
        : `On ${formatDate(entry.date)} ${m(sum(entry.passedOn.map((item) => item.amount)))} passed from ${entry.payer} to you${later(entry, 'taken back')}: ${entry.memo}${entry.exception ? `, since ${PASSING[entry.exception].patient}` : ''}.`,
    ],
  },
  'to-next-payer': {
    label: 'put before the next payer',
    needs: ['householdId', 'chargeId', 'coverageId', 'payerId'],
    tell: (entry) => [
      `On ${formatDate(entry.date)} what ${entry.payer} did not pay was put before your other insurer${later(entry, 'taken back')}.`,
    ],
  },
  'write-off': {
    label: 'write-off',
    needs: ['householdId', 'chargeId'],
    tell: (entry) => [
      takenOff(
        entry,
        'we took off',
        'that we had taken off counts again, since the insurer decided otherwise',
      ),
    ],
  },
  'not-billable': {
    label: 'may not be billed',
    needs: ['householdId', 'chargeId'],
    tell: (entry) => {
      const amount = sum(entry.reduced.map((item) => item.amount));
      return [
        amount < 0
          ? `On ${formatDate(entry.date)} ${m(negate(amount))} of it came back, since the insurer corrected itself.`
          : `On ${formatDate(entry.date)} we took off ${m(amount)}, which may not be billed to you${later(entry, 'taken back')}.`,
      ];
    },
  },
  deposit: {
    label: 'taken to the bank',
    needs: ['receiptId', 'tenderId', 'placeId', 'depositId'],
    tell: nothing,
  },
  'place-move': {
    label: 'taken out of a drawer',
    needs: ['receiptId', 'tenderId', 'placeId'],
    tell: nothing,
  },
  'tender-correction': {
    label: 'payment put right',
    needs: ['receiptId', 'tenderId', 'placeId'],
    tell: nothing,
  },
  'drawer-difference': { label: 'drawer over or short', needs: ['placeId'], tell: nothing },
  'deposit-difference': { label: 'difference taken to the bank', needs: ['placeId'], tell: nothing },
  reversal: {
    label: 'reversal',
    needs: [],
    tell: (entry) => [`On ${formatDate(entry.date)} an earlier entry was taken back.`],
  },
} as const satisfies Record<string, EntryKindShape>;

/** What an entry records. */
export type EntryKind = keyof typeof ENTRY_KINDS;

/** The sentences of the balance story for one entry. */
export const tellEntry = (kind: EntryKind, entry: EntryFacts, waits: boolean): string[] =>
  ENTRY_KINDS[kind].tell(entry, waits);
