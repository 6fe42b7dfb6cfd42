/** The balance story: plain sentences that explain a balance, each linked to the entry it speaks of. */
import { type CalendarDate, formatDate } from '../calendar';
import { type Cents, ZERO, add, formatMoneyPlain, negate } from '../money';

/** An entry on one charge, as the ledger shows it. Amounts in cents. */
export interface StoryEntry {
  entryId: number;
  kind: string;
  date: CalendarDate;
  payer: string;
  memo: string;
  /** True when a later entry undoes this one, or this one undoes another. */
  undone: boolean;
  paidByPayer: Cents;
  paidByPatient: Cents;
  /** Reductions and what passed to the patient, by reason, in the patient's words. */
  reduced: { words: string; amount: Cents }[];
  passedOn: { words: string; amount: Cents }[];
  /** What the payer refused and still stands open. */
  refused: { words: string; amount: Cents }[];
}

/** A charge with its entries in the order of time. */
export interface StoryCharge {
  chargeId: number;
  date: CalendarDate;
  patient: string;
  service: string;
  provider: string;
  fee: Cents;
  withPayer: Cents;
  withPatient: Cents;
  onPlan: Cents;
  atAgency: Cents;
  payer: string;
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

/** Tells one charge. */
export function tellCharge(charge: StoryCharge): ChargeStory {
  const sentences: Sentence[] = [
    {
      chargeId: charge.chargeId,
      words: `On ${formatDate(charge.date)}, ${charge.patient} had: ${charge.service}, with ${charge.provider}. The fee is ${m(charge.fee)}.`,
    },
  ];
  for (const entry of charge.entries) {
    if (entry.kind === 'charge') continue;
    sentences.push(
      ...tellEntry(entry).map((words) => ({ words, entryId: entry.entryId, chargeId: charge.chargeId })),
    );
  }
  const close: string[] = [];
  if (charge.withPayer > 0)
    close.push(`${m(charge.withPayer)} is still waiting for ${charge.payer || 'the insurer'}`);
  if (charge.onPlan > 0) close.push(`${m(charge.onPlan)} is on a payment plan`);
  if (charge.atAgency > 0) close.push(`${m(charge.atAgency)} is with a collection agency`);
  if (charge.withPatient > 0) close.push(`${m(charge.withPatient)} is yours to pay`);
  if (charge.withPatient < 0)
    close.push(`${m(negate(charge.withPatient))} too much was paid and is being looked at`);
  if (close.length === 0) close.push('Nothing is left to pay');
  sentences.push({ chargeId: charge.chargeId, words: `${close.join(', ')}.` });
  return {
    chargeId: charge.chargeId,
    title: `${formatDate(charge.date)} · ${charge.service}`,
    owed: charge.withPatient,
    sentences,
  };
}

function tellEntry(entry: StoryEntry): string[] {
  const day = formatDate(entry.date);
  if (entry.kind === 'reversal') return [`On ${day} an earlier entry was taken back: ${entry.memo}.`];
  if (entry.kind === 'allocation')
    return [`On ${day} you paid ${m(entry.paidByPatient)}${entry.undone ? ' (taken back later)' : ''}.`];
  if (entry.kind === 'write-off') return [`On ${day} we took off ${m(total(entry.reduced))}: ${entry.memo}.`];
  const told: string[] = [];
  const later = entry.undone ? ' (corrected later)' : '';
  told.push(
    `${entry.payer} decided on ${day} and paid ${entry.paidByPayer === 0 ? 'nothing' : m(entry.paidByPayer)}${later}.`,
  );
  for (const item of entry.reduced) told.push(`${m(item.amount)} was taken off: ${item.words}.`);
  for (const item of entry.passedOn) told.push(`${m(item.amount)} passed to you: ${item.words}.`);
  for (const item of entry.refused)
    told.push(`${m(item.amount)} was refused: ${item.words}. We are following it up.`);
  return told;
}

const total = (items: readonly { amount: Cents }[]): Cents =>
  items.reduce((all, item) => add(all, item.amount), ZERO);

/** The closing sentence of a household's story; amounts in cents. */
export function tellBalance(owed: Cents, credit: Cents, withPayers: Cents): string {
  const parts = [`Together ${m(owed)} is yours to pay now`];
  if (credit > 0) parts.push(`${m(credit)} of your money is held as credit`);
  if (withPayers > 0) parts.push(`${m(withPayers)} is still with insurers`);
  return `${parts.join('; ')}.`;
}
