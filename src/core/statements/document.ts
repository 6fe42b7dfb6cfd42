/** What a statement says, as it was sent and is kept. */
import { z } from 'zod';
import type { CalendarDate } from '../calendar';
import { documentKind } from '../documents';
import { centsField, dateField } from '../fields';
import { type Cents, sum } from '../money';
import { PAPER_SIZES, type PaperSize } from '../paper';
import type { Aging } from './aging';
import type { Sentence } from './story';

/** How far back a statement goes: since the account stood at zero last, so many days, or to its beginning. */
export const RANGES = {
  all: 'everything',
  zero: 'since the last zero balance',
  '30': 'the last 30 days',
  '45': 'the last 45 days',
  '60': 'the last 60 days',
  '90': 'the last 90 days',
} as const;
/** How far back a statement goes. */
export type Range = keyof typeof RANGES;

/** In which order charges stand: all by date, or each person's or each case's under a heading. */
export const LAYOUTS = {
  'by-date': 'by date',
  'by-person': 'each person by itself',
  'by-case': 'each case by itself',
} as const;
/** In which order charges stand. */
export type Layout = keyof typeof LAYOUTS;

/** How a statement is laid out. */
export interface StatementOptions {
  range: Range;
  /** Charges that are open, or all of them. */
  items: 'open' | 'all';
  layout: Layout;
}

/** What is open, from the beginning, by date. */
export const PLAIN_OPTIONS: StatementOptions = { range: 'all', items: 'open', layout: 'by-date' };

/** The options as forms send them. */
export const optionsField = z.object({
  range: z.enum(Object.keys(RANGES) as [Range, ...Range[]]).default('all'),
  items: z.enum(['open', 'all']).default('open'),
  layout: z.enum(Object.keys(LAYOUTS) as [Layout, ...Layout[]]).default('by-date'),
});

/** The options as they are kept. */
export const optionsDocument = documentKind<StatementOptions>('way to lay out a statement', 1, optionsField);

/** The columns of amounts of a statement: what was charged, what came off it, and where the rest is. */
export const STATEMENT_COLUMNS = [
  'charged',
  'payerPaid',
  'writtenOff',
  'patientPaid',
  'waiting',
  'elsewhere',
  'owed',
] as const;
/** Amounts by column, in cents; `elsewhere` is on a plan or with an agency. */
export type StatementAmounts = Record<(typeof STATEMENT_COLUMNS)[number], Cents>;

/** One charge on a statement. */
export interface StatementLine extends StatementAmounts {
  chargeId: number;
  date: CalendarDate;
  patient: string;
  title: string;
  sentences: Sentence[];
}

/** Where a statement's money is to be sent, and who sends it. */
interface Address {
  name: string;
  line1: string;
  city: string;
  state: string;
  zip: string;
}

/** What the statement of one account says. Amounts in cents. */
export interface OneStatement {
  /** What it is printed on. */
  paper: PaperSize;
  practice: Address & { phone: string };
  /** To whom payments are sent. */
  remit: Address;
  hours: string;
  tenders: string[];
  account: string;
  to: Address & { line2: string };
  date: CalendarDate;
  dueDate: CalendarDate;
  /** What is due: what is owed less credit, and what payment plans ask for until then; below zero is credit left over. */
  amount: Cents;
  owed: Cents;
  credit: Cents;
  pastDue: Cents;
  withPayers: Cents;
  onPlan: Cents;
  /** What payment plans ask for until the due date, which is in what is due. */
  installments: { plan: string; number: number; date: CalendarDate; amount: Cents }[];
  /** Where each running plan stands, in words. */
  plans: string[];
  aging: Aging;
  /** Since when the oldest amount is owed; null when nothing is. */
  oldest: CalendarDate | null;
  /** How old the amounts of the aging are counted. */
  agingFrom: 'responsible' | 'service';
  options: StatementOptions;
  /** What stands on charges before the range, in sums; null when nothing is left out. */
  forward: ({ before: CalendarDate; charges: number } & StatementAmounts) | null;
  /** Under one heading, or one for each person. */
  sections: { title: string; lines: StatementLine[] }[];
  notes: string[];
  messages: string[];
  closing: string;
  /** What is owed of each charge, also of those that stand in sums. */
  shows: { chargeId: number; owed: Cents; credit: Cents }[];
}

/** What a piece says: the statement of one account, and those of other households that lie in the same envelope. */
export interface StatementContent extends OneStatement {
  /** Whose account it is, where others are joined; the address may be another's. */
  name: string;
  joined: (OneStatement & { householdId: number; name: string })[];
}

/** All that is to be paid by a piece, in cents: of its own account and of those that are joined to it. */
export const dueTogether = (content: StatementContent): Cents =>
  sum([content.amount, ...content.joined.map(({ amount }) => amount)]);

const address = { name: z.string(), line1: z.string(), city: z.string(), state: z.string(), zip: z.string() };
const amounts = {
  charged: centsField,
  payerPaid: centsField,
  writtenOff: centsField,
  patientPaid: centsField,
  waiting: centsField,
  elsewhere: centsField,
  owed: centsField,
};
const sentence = z.object({
  words: z.string(),
  entryId: z.int().optional(),
  chargeId: z.int().optional(),
});

const oneStatement = z.object({
  paper: z.enum(PAPER_SIZES),
  practice: z.object({ ...address, phone: z.string() }),
  remit: z.object(address),
  hours: z.string(),
  tenders: z.array(z.string()),
  account: z.string(),
  to: z.object({ ...address, line2: z.string() }),
  date: dateField,
  dueDate: dateField,
  amount: centsField,
  owed: centsField,
  credit: centsField,
  pastDue: centsField,
  withPayers: centsField,
  onPlan: centsField,
  installments: z
    .array(z.object({ plan: z.string(), number: z.int(), date: dateField, amount: centsField }))
    .default([]),
  plans: z.array(z.string()).default([]),
  aging: z.tuple([centsField, centsField, centsField, centsField, centsField]),
  oldest: dateField.nullable(),
  agingFrom: z.enum(['responsible', 'service']),
  options: optionsField,
  forward: z.object({ before: dateField, charges: z.int(), ...amounts }).nullable(),
  sections: z.array(
    z.object({
      title: z.string(),
      lines: z.array(
        z.object({
          chargeId: z.int(),
          date: dateField,
          patient: z.string(),
          title: z.string(),
          ...amounts,
          sentences: z.array(sentence),
        }),
      ),
    }),
  ),
  notes: z.array(z.string()),
  messages: z.array(z.string()),
  closing: z.string(),
  shows: z.array(z.object({ chargeId: z.int(), owed: centsField, credit: centsField })),
});

/** The kept statement. */
export const statementDocument = documentKind<StatementContent>(
  'statement',
  1,
  oneStatement.extend({
    name: z.string().default(''),
    joined: z.array(oneStatement.extend({ householdId: z.int(), name: z.string() })).default([]),
  }),
);

/** What payment plans ask for by a piece, in cents. */
export const installmentsOf = (content: StatementContent): Cents =>
  sum([content, ...content.joined].flatMap(({ installments }) => installments.map(({ amount }) => amount)));

/** Whether two pieces say the same of the money of their accounts, whatever their dates and words. */
export const sameMoney = (a: StatementContent, b: StatementContent): boolean =>
  sameAccount(a, b) &&
  a.joined.length === b.joined.length &&
  a.joined.every((one, index) => {
    const other = b.joined[index]!;
    return one.householdId === other.householdId && sameAccount(one, other);
  });

const sameAccount = (a: OneStatement, b: OneStatement): boolean =>
  a.amount === b.amount &&
  a.credit === b.credit &&
  a.withPayers === b.withPayers &&
  a.shows.length === b.shows.length &&
  a.shows.every(({ chargeId, owed, credit }, index) => {
    const other = b.shows[index]!;
    return other.chargeId === chargeId && other.owed === owed && other.credit === credit;
  });
