/** Words with variables in them, as messages, letters and e-mails have: `{amount due}` stands for what is due. */
import { type CalendarDate, daysBetween, formatDate } from '../calendar';
import { type Cents, formatMoneyPlain } from '../money';

/** What the variables stand for. Amounts in cents. */
export interface WordsFacts {
  guarantor: string;
  account: string;
  date: CalendarDate;
  dueDate: CalendarDate;
  amount: Cents;
  pastDue: Cents;
  credit: Cents;
  withPayers: Cents;
  onPlan: Cents;
  /** Since when the oldest amount is owed; null when nothing is. */
  oldest: CalendarDate | null;
  practice: string;
  phone: string;
  hours: string;
}

interface Variable {
  /** What it is, for who writes the words. */
  words: string;
  of(facts: WordsFacts): string;
}

/** Every variable, by the name that stands between the braces. */
export const VARIABLES = {
  guarantor: { words: 'who is written to', of: (f) => f.guarantor },
  account: { words: 'the account’s number', of: (f) => f.account },
  date: { words: 'the day of the statement', of: (f) => formatDate(f.date) },
  'amount due': { words: 'what is due', of: (f) => formatMoneyPlain(f.amount) },
  'due date': { words: 'until when it is to be paid', of: (f) => formatDate(f.dueDate) },
  'past due': { words: 'what of it is past due', of: (f) => formatMoneyPlain(f.pastDue) },
  credit: { words: 'credit that is held', of: (f) => formatMoneyPlain(f.credit) },
  'with insurers': { words: 'what insurers still have', of: (f) => formatMoneyPlain(f.withPayers) },
  'on plan': { words: 'what is on a payment plan', of: (f) => formatMoneyPlain(f.onPlan) },
  'oldest since': {
    words: 'since when the oldest amount is owed',
    of: (f) => (f.oldest ? formatDate(f.oldest) : formatDate(f.date)),
  },
  'oldest days': {
    words: 'for how many days',
    of: (f) => String(f.oldest ? Math.max(0, daysBetween(f.oldest, f.date)) : 0),
  },
  practice: { words: 'the practice’s name', of: (f) => f.practice },
  phone: { words: 'the telephone for questions', of: (f) => f.phone },
  hours: { words: 'the hours', of: (f) => f.hours },
} as const satisfies Record<string, Variable>;
/** Name of a variable. */
export type VariableName = keyof typeof VARIABLES;
/** Names of all variables. */
export const VARIABLE_NAMES = Object.keys(VARIABLES) as VariableName[];

/** Words that cannot be read: a variable that nobody knows, or a brace that stands alone. `at` counts from 1. */
export class BrokenWords extends Error {
  constructor(
    message: string,
    readonly at: number,
  ) {
    super(`${message}, at letter ${at}`);
  }
}

/** Words that were read: text, and the names of variables. */
export type ReadWords = readonly (string | { variable: VariableName })[];

/** Reads words with variables. @throws BrokenWords naming the place */
export function readWords(text: string): ReadWords {
  const parts: (string | { variable: VariableName })[] = [];
  let from = 0;
  while (from < text.length) {
    const open = text.indexOf('{', from);
    const plain = open < 0 ? text.slice(from) : text.slice(from, open);
    const stray = plain.indexOf('}');
    if (stray >= 0) throw new BrokenWords('A } without its {', from + stray + 1);
    if (plain !== '') parts.push(plain);
    if (open < 0) break;
    const close = text.indexOf('}', open);
    const again = text.indexOf('{', open + 1);
    if (close < 0 || (again >= 0 && again < close)) throw new BrokenWords('A { without its }', open + 1);
    const name = text
      .slice(open + 1, close)
      .trim()
      .toLowerCase();
    if (!Object.hasOwn(VARIABLES, name)) throw new BrokenWords(`There is no variable {${name}}`, open + 1);
    parts.push({ variable: name as VariableName });
    from = close + 1;
  }
  return parts;
}

/** Puts what the variables stand for in their places. @throws BrokenWords */
export const fillWords = (text: string, facts: WordsFacts): string =>
  readWords(text)
    .map((part) => (typeof part === 'string' ? part : VARIABLES[part.variable].of(facts)))
    .join('');

/** What is wrong with words that have variables in them; null when nothing is. */
export function faultOf(text: string): string | null {
  try {
    readWords(text);
    return null;
  } catch (error) {
    if (error instanceof BrokenWords) return error.message;
    throw error;
  }
}
