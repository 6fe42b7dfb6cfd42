/**
 * Credit whose owner is not heard of: how long it rests by the state of the owner's last address, when a letter is written, and when
 * it is the state's to keep for the owner (unclaimed property). The practice brings the table in; no state is known to the program.
 */
import Papa from 'papaparse';
import { z } from 'zod';
import { type CalendarDate, addDays, addMonths, formatDate } from '../calendar';
import { documentKind } from '../documents';
import { centsField, dateField, placeFields } from '../fields';
import { type Cents, ZERO, formatMoneyPlain, parseMoney } from '../money';
import { PAPER_SIZES, type PaperSize } from '../paper';

/** What a state says: months from the last contact, days that a letter goes out before, the least amount for which one does (cents). */
export interface DormancyRule {
  state: string;
  months: number;
  letterDays: number;
  least: Cents;
  source: string;
}

/** What was read, and what is wrong with which line, from 1. */
export interface ReadDormancy {
  rules: DormancyRule[];
  wrong: { line: number; words: string }[];
}

const wholeIn = (text: string, least: number, most: number): number | null => {
  const found = Number(text);
  return /^\d{1,4}$/.test(text) && found >= least && found <= most ? found : null;
};

/** Reads the table: `state,months,letter days,least,source`, the first line may name them. A state that is there twice is wrong. */
export function readDormancy(text: string): ReadDormancy {
  const { data } = Papa.parse<string[]>(text.replace(/^\uFEFF/, ''), { skipEmptyLines: 'greedy' });
  const rules = new Map<string, DormancyRule>();
  const wrong: ReadDormancy['wrong'] = [];
  for (const [index, cells] of data.entries()) {
    const [code = '', months = '', days = '', least = '', source = ''] = cells.map((cell) => cell.trim());
    const state = code.toUpperCase();
    if (index === 0 && state === 'STATE') continue;
    const say = (words: string): void => void wrong.push({ line: index + 1, words });
    const rule = {
      state,
      months: wholeIn(months, 1, 360),
      letterDays: days === '' ? 60 : wholeIn(days, 0, 730),
      least: least === '' ? ZERO : parseMoney(least),
      source: source.slice(0, 200),
    };
    if (!/^[A-Z]{2}$/.test(state)) say(`“${code.slice(0, 20)}” is no state of two letters`);
    else if (rules.has(state)) say(`${state} is there twice`);
    else if (rule.months === null) say(`“${months.slice(0, 20)}” is no number of months from 1 to 360`);
    else if (rule.letterDays === null) say(`“${days.slice(0, 20)}” is no number of days up to 730`);
    else if (rule.least === null || rule.least < 0) say(`“${least.slice(0, 20)}” is no amount`);
    else rules.set(state, rule as DormancyRule);
  }
  return { rules: [...rules.values()], wrong };
}

/** The day from which credit is the state's, and that from which a letter may go out. */
export function restsUntil(
  lastContact: CalendarDate,
  { months, letterDays }: Pick<DormancyRule, 'months' | 'letterDays'>,
): { until: CalendarDate; letterFrom: CalendarDate } {
  const until = addMonths(lastContact, months);
  return { until, letterFrom: addDays(until, -letterDays) };
}

const address = z.object(placeFields);

/** What a letter to an owner says, as it was written. `amount` in cents. */
export interface CreditLetterContent {
  paper: PaperSize;
  practice: z.output<typeof address> & { phone: string };
  account: string;
  to: z.output<typeof address>;
  date: CalendarDate;
  amount: Cents;
  lastContact: CalendarDate;
  /** The day from which it is handed over. */
  until: CalendarDate;
}

/** The kept letter. */
export const creditLetterDocument = documentKind<CreditLetterContent>(
  'letter about credit',
  1,
  z.object({
    paper: z.enum(PAPER_SIZES),
    practice: address.extend({ phone: z.string() }),
    account: z.string(),
    to: address,
    date: dateField,
    amount: centsField,
    lastContact: dateField,
    until: dateField,
  }),
);

/** The words of a letter to an owner, paragraph by paragraph: nothing of anybody's health. */
export const creditLetterWords = ({
  practice,
  account,
  to,
  amount,
  lastContact,
  until,
}: CreditLetterContent): string[] => [
  `We hold ${formatMoneyPlain(amount)} US dollars that are yours, on account ${account}. We last heard of you on ${formatDate(lastContact)}.`,
  `Please call us at ${practice.phone} or send this letter back, and say whether the money is to be sent to you, and where. Your answer is enough: it stays yours.`,
  `If we do not hear of you, the law of your state, ${to.state}, asks us to hand the money over to the state, which keeps it for you as unclaimed property. We would do so from ${formatDate(until)}; you can claim it there afterwards.`,
  practice.name,
];
