/** Putting a statement together from a household's charges: which are shown, under which heading, what is brought forward. */
import { type CalendarDate, addDays } from '../calendar';
import type { Owed } from '../books/owed';
import { type Cents, ZERO, add, least, minus, most, sum } from '../money';
import { type ChargeTotals, chargedIn } from '../books/strip';
import { ageOwed } from './aging';
import {
  type Layout,
  STATEMENT_COLUMNS,
  type OneStatement,
  type StatementAmounts,
  type StatementContent,
  type StatementLine,
  type StatementOptions,
} from './document';
import { type Message, messagesFor } from './messages';
import { type WordsFacts, faultOf, fillWords } from './variables';
import { type StoryCharge, tellBalance, tellCharge } from './story';

/** A charge as a statement needs it: its story and its totals. */
export interface ChargeForStatement {
  story: StoryCharge;
  totals: ChargeTotals;
}

/** What a statement is put together from. Amounts in cents. */
export interface StatementFacts {
  charges: readonly ChargeForStatement[];
  /** What is owed of them, the credit that stands against it, and what is past due. */
  owed: Owed;
  /** The last day at whose end the account stood at zero; null when it never did. */
  zeroOn: CalendarDate | null;
  agingFrom: 'responsible' | 'service';
  /** Messages in their order, how many are printed at most, and the site that the household belongs to. */
  messages: readonly Message[];
  most: number;
  siteId: number | null;
}

/** What a statement says besides the account's money. */
export type StatementFrame = Pick<
  OneStatement,
  | 'paper'
  | 'practice'
  | 'remit'
  | 'hours'
  | 'tenders'
  | 'account'
  | 'to'
  | 'date'
  | 'dueDate'
  | 'notes'
  | 'installments'
  | 'plans'
  | 'options'
>;

/** What is to be paid of a charge: what stands with the patient, but for what may not be billed; what is below zero is held. */
const toPay = ({ story, totals }: ChargeForStatement): Cents =>
  most(ZERO, minus(totals.withPatient, story.forbidden ?? ZERO));

/** The amounts of a charge by the columns of a statement. What may not be billed stands with what was taken off. */
const amountsOf = (charge: ChargeForStatement): StatementAmounts => {
  const { story, totals: t } = charge;
  return {
    charged: chargedIn(t),
    payerPaid: t.payerPaid,
    writtenOff: sum([t.reduced, t.expected, story.forbidden ?? ZERO]),
    patientPaid: sum([t.patientPaid, t.agencyPaid]),
    // What stands below zero is held until the insurer has said its word.
    waiting: add(t.withPayer, least(t.withPatient, ZERO)),
    elsewhere: sum([t.onPlan, t.atAgency]),
    owed: toPay(charge),
  };
};

/** Sums by column. */
export const sumAmounts = (rows: readonly StatementAmounts[]): StatementAmounts =>
  Object.fromEntries(
    STATEMENT_COLUMNS.map((column) => [column, sum(rows.map((row) => row[column]))]),
  ) as StatementAmounts;

/** The first day that is shown; null for everything. */
function firstDay(
  { range }: StatementOptions,
  zeroOn: CalendarDate | null,
  date: CalendarDate,
): CalendarDate | null {
  if (range === 'all') return null;
  if (range === 'zero') return zeroOn === null ? null : addDays(zeroOn, 1);
  return addDays(date, 1 - Number(range));
}

/** The last day on which something happened to a charge. */
const lastDay = ({ story }: ChargeForStatement): CalendarDate =>
  story.entries.reduce((day, entry) => (entry.date > day ? entry.date : day), story.date);

const lineOf = (charge: ChargeForStatement): StatementLine => {
  const { chargeId, title, sentences } = tellCharge(charge.story);
  const { date, patient } = charge.story;
  return { chargeId, date, patient, title, ...amountsOf(charge), sentences };
};

/** Open in its parts, though they may cancel each other. */
const isOpen = (charge: ChargeForStatement): boolean =>
  charge.totals.withPayer !== 0 ||
  charge.totals.withPatient !== 0 ||
  charge.totals.onPlan !== 0 ||
  charge.totals.atAgency !== 0;

/** Lines under headings, in the order of their first. */
function under(
  charges: readonly ChargeForStatement[],
  heading: (charge: ChargeForStatement) => string,
): OneStatement['sections'] {
  const sections = new Map<string, StatementLine[]>();
  for (const charge of charges) {
    const title = heading(charge);
    sections.set(title, [...(sections.get(title) ?? []), lineOf(charge)]);
  }
  return [...sections].map(([title, lines]) => ({ title, lines }));
}

/** The heading of a charge; what is nobody's stands under the account's. */
const HEADINGS: Readonly<Record<Layout, (charge: ChargeForStatement) => string>> = {
  'by-date': () => '',
  'by-person': ({ story }) => story.patient || 'On the account',
  'by-case': ({ story }) =>
    story.patient ? `${story.patient}: ${story.caseName || 'general care'}` : 'On the account',
};

/**
 * Puts a statement together. What is shown and what is brought forward sum to what the account owes, whatever the range: a
 * charge before the range on which nothing happened since goes into the sums brought forward.
 */
export function composeStatement(frame: StatementFrame, facts: StatementFacts): OneStatement {
  const { options, date } = frame;
  const asked = options.items === 'open' ? facts.charges.filter(isOpen) : facts.charges;
  const first = firstDay(options, facts.zeroOn, date);
  const shown = first === null ? asked : asked.filter((charge) => lastDay(charge) >= first);
  const before = first === null ? [] : asked.filter((charge) => lastDay(charge) < first);
  const all = sumAmounts(facts.charges.map(amountsOf));
  const { owed } = facts;
  const days = new Map(facts.charges.map(({ story }) => [story.chargeId, story.date]));
  // What is owed by its age, before credit: the oldest layer first is what credit will pay.
  const aged = owed.charges.flatMap(({ chargeId, remaining }) =>
    remaining.map(({ amount, since }) => ({
      owed: amount,
      since: facts.agingFrom === 'service' ? days.get(chargeId)! : since,
    })),
  );
  const content: OneStatement = {
    ...frame,
    amount: sum([minus(owed.owed, owed.credit), ...frame.installments.map(({ amount }) => amount)]),
    owed: owed.owed,
    credit: owed.credit,
    pastDue: owed.pastDue,
    withPayers: all.waiting,
    onPlan: sum(facts.charges.map(({ totals }) => totals.onPlan)),
    aging: ageOwed(aged, date),
    oldest: oldestOf(aged),
    agingFrom: facts.agingFrom,
    forward:
      before.length === 0
        ? null
        : {
            before: first!,
            charges: before.length,
            ...sumAmounts(before.map(amountsOf)),
          },
    sections: shown.length === 0 ? [{ title: '', lines: [] }] : under(shown, HEADINGS[options.layout]),
    messages: [],
    closing: tellBalance(
      owed.owed,
      owed.credit,
      all.waiting,
      sum(frame.installments.map(({ amount }) => amount)),
    ),
    shows: owed.charges.map((charge) => ({
      chargeId: charge.chargeId,
      owed: charge.owed,
      credit: charge.credit,
    })),
  };
  return {
    ...content,
    // What was typed for one statement may have variables as messages have; what cannot be read stands as it was typed.
    notes: frame.notes.map((note) => (faultOf(note) === null ? fillWords(note, wordsOf(content)) : note)),
    messages: messagesFor(facts.messages, wordsOf(content), facts.siteId, facts.most),
  };
}

/** The statement of an account that goes out by itself. */
export const alone = (content: OneStatement): StatementContent => ({ ...content, name: '', joined: [] });

/**
 * Puts the statements of several households into one envelope: each keeps its own, and the messages speak of all of them
 * together. @param first the one under whose account they go, with whose it is
 */
export function joinStatements(
  first: OneStatement & { name: string },
  others: StatementContent['joined'],
  { messages, most, siteId }: Pick<StatementFacts, 'messages' | 'most' | 'siteId'>,
): StatementContent {
  const every = [first, ...others];
  const total = (of: (one: OneStatement) => Cents): Cents => sum(every.map(of));
  const together: WordsFacts = {
    ...wordsOf(first),
    amount: total(({ amount }) => amount),
    pastDue: total(({ pastDue }) => pastDue),
    credit: total(({ credit }) => credit),
    withPayers: total(({ withPayers }) => withPayers),
    onPlan: total(({ onPlan }) => onPlan),
    oldest: earliest(every.map(({ oldest }) => oldest)),
  };
  return {
    ...first,
    messages: messagesFor(messages, together, siteId, most),
    joined: others.map((one) => ({ ...one, messages: [] })),
  };
}

/** Since when the oldest amount is owed; null when nothing is. */
const oldestOf = (charges: readonly { owed: Cents; since: CalendarDate | null }[]): CalendarDate | null =>
  earliest(charges.map(({ owed, since }) => (owed > 0 ? since : null)));

const earliest = (days: readonly (CalendarDate | null)[]): CalendarDate | null =>
  days.reduce<CalendarDate | null>(
    (first, day) => (day !== null && (first === null || day < first) ? day : first),
    null,
  );

/** What the variables of messages stand for on a statement. */
export const wordsOf = (content: OneStatement): WordsFacts => ({
  guarantor: content.to.name,
  account: content.account,
  date: content.date,
  dueDate: content.dueDate,
  amount: content.amount,
  pastDue: content.pastDue,
  credit: content.credit,
  withPayers: content.withPayers,
  onPlan: content.onPlan,
  oldest: content.oldest,
  practice: content.practice.name,
  phone: content.practice.phone,
  hours: content.hours,
});
