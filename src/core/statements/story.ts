/** The balance story: plain sentences that explain a balance, each linked to the entry it speaks of. */
import { ACCOUNT_CHARGES, type AccountChargeKind } from '../books/entries/charges';
import { type EntryFacts, type EntryKind, tellEntry } from '../books/kinds';
import { type CalendarDate, formatDate } from '../calendar';
import { type Cents, ZERO, add, formatMoneyPlain, minus, negate } from '../money';

/** An entry on one charge, as the ledger shows it. Amounts in cents. */
export interface StoryEntry extends EntryFacts {
  entryId: number;
  kind: EntryKind;
  /** The coverage whose payer it is about, if any. */
  coverageId: number | null;
}

/** A charge with its entries in the order of time. Amounts in cents. */
export interface StoryCharge {
  chargeId: number;
  kind: 'service' | AccountChargeKind;
  date: CalendarDate;
  patient: string;
  service: string;
  provider: string;
  /** Of which case it is; empty or left out where it is of general care. */
  caseName?: string;
  /** Everything that was charged: fee and tax, or what was put on the account. */
  charged: Cents;
  tax: Cents;
  /** Where it stands at a contracted fee, what that is less than the office fee. */
  contractOff?: Cents;
  /** What each payer still holds, in the order of the coverages. */
  waiting: readonly { coverageId: number; payer: string; amount: Cents }[];
  withPatient: Cents;
  /** What of it may not be billed. */
  forbidden?: Cents;
  onPlan: Cents;
  atAgency: Cents;
  entries: StoryEntry[];
}

/** One sentence. */
export interface Sentence {
  words: string;
  entryId?: number;
  chargeId?: number;
}

/** The story of one charge, as sentences in the order of what happened. */
export interface ChargeStory {
  chargeId: number;
  title: string;
  owed: Cents;
  sentences: Sentence[];
}

const m = formatMoneyPlain;

/** How a charge begins. */
function opening(charge: StoryCharge): string {
  const day = formatDate(charge.date);
  if (charge.kind !== 'service')
    return `On ${day}, ${m(charge.charged)} came on the account: ${charge.service || ACCOUNT_CHARGES[charge.kind].words}.`;
  const tax = charge.tax > 0 ? `, ${m(charge.tax)} of it tax` : '';
  const of = charge.caseName ? `, for “${charge.caseName}”` : '';
  return `On ${day}, ${charge.patient} had: ${charge.service}, with ${charge.provider}${of}. The fee is ${m(charge.charged)}${tax}${charge.contractOff ? `, by our contract with your insurer, and would be ${m(add(charge.charged, charge.contractOff))} without it` : ''}.`;
}

/** Tells one charge. */
export function tellCharge(charge: StoryCharge): ChargeStory {
  const { chargeId } = charge;
  // Of a fee that is the contracted one nothing is expected to come off.
  const told = charge.entries
    .filter(({ kind }) => kind !== 'expected-write-off' || !charge.contractOff)
    .flatMap((entry) =>
      tellEntry(
        entry.kind,
        entry,
        charge.waiting.some(({ coverageId, amount }) => coverageId === entry.coverageId && amount > 0),
      ).map((words) => ({ words, entryId: entry.entryId, chargeId })),
    );
  const close: string[] = [];
  for (const { payer, amount } of charge.waiting)
    if (amount > 0) close.push(`${m(amount)} is still waiting for ${payer || 'the insurer'}`);
  if (charge.onPlan > 0) close.push(`${m(charge.onPlan)} is on a payment plan`);
  if (charge.atAgency > 0) close.push(`${m(charge.atAgency)} is with a collection agency`);
  const forbidden = charge.forbidden ?? ZERO;
  const owed = minus(charge.withPatient, forbidden);
  if (forbidden > 0) close.push(`${m(forbidden)} may not be billed to you`);
  if (owed > 0) close.push(`${m(owed)} is yours to pay`);
  if (charge.withPatient < 0)
    close.push(`${m(negate(charge.withPatient))} too much was paid and is being looked at`);
  if (close.length === 0) close.push('Nothing is left to pay');
  const service = charge.service || (charge.kind === 'service' ? '' : ACCOUNT_CHARGES[charge.kind].words);
  return {
    chargeId,
    title: `${formatDate(charge.date)} · ${service}`,
    owed,
    sentences: [{ chargeId, words: opening(charge) }, ...told, { chargeId, words: `${close.join(', ')}.` }],
  };
}

/** The closing sentence of a household's story; amounts in cents. @param installments what payment plans ask for besides */
export function tellBalance(
  owed: Cents,
  credit: Cents,
  withPayers: Cents,
  installments: Cents = ZERO,
): string {
  const parts = [owed === 0 ? 'Nothing is yours to pay now' : `Together ${m(owed)} is yours to pay now`];
  const left = minus(owed, credit);
  if (credit > 0)
    parts.push(
      `${m(credit)} of your money is held as credit${owed <= 0 ? '' : left > 0 ? `, so that ${m(left)} is left` : ', which pays all of it'}`,
    );
  if (installments > 0) parts.push(`${m(installments)} of your payment plan comes due besides`);
  if (withPayers > 0) parts.push(`${m(withPayers)} is still with insurers`);
  return `${parts.join('; ')}.`;
}
