/** Letters: blocks with words and variables, and what a letter says when it goes out. */
import { z } from 'zod';
import type { CalendarDate } from '../calendar';
import { documentKind } from '../documents';
import { centsField, dateField, placeFields } from '../fields';
import type { Cents } from '../money';
import { PAPER_SIZES, type PaperSize } from '../paper';
import { BrokenWords, type WordsFacts, fillWords, readWords } from '../statements/variables';

/** What a letter is made of. */
export const BLOCKS = {
  paragraph: { words: 'Paragraph', text: true },
  heading: { words: 'Heading', text: true },
  charges: { words: 'What is past due, by service', text: false },
  slip: { words: 'Part to send with a payment', text: false },
} as const;
/** What a part of a letter is. */
export type BlockKind = keyof typeof BLOCKS;

/** A part of a letter; `text` is empty where the kind has none. */
export interface Block {
  kind: BlockKind;
  text: string;
}

const block = z.object({
  kind: z.enum(Object.keys(BLOCKS) as [BlockKind, ...BlockKind[]]),
  text: z.string().trim().max(2000, 'may have 2000 characters').default(''),
});

/** The parts of a letter as a form sends them; those with words have some. */
export const blocksField = z
  .array(block)
  .min(1, 'are missing')
  .max(40, 'are too many')
  .superRefine((blocks, issues) => {
    blocks.forEach(({ kind, text }, index) => {
      if (BLOCKS[kind].text && text === '')
        issues.addIssue({ code: 'custom', path: [index, 'text'], message: `part ${index + 1} is empty` });
      if (!BLOCKS[kind].text && text !== '')
        issues.addIssue({ code: 'custom', path: [index, 'text'], message: `part ${index + 1} has no words` });
      if (kind === 'slip' && index < blocks.length - 1)
        issues.addIssue({
          code: 'custom',
          path: [index, 'kind'],
          message: 'the part to send with a payment is at the end',
        });
    });
  });

/** The parts as they are kept. */
export const blocksDocument = documentKind<Block[]>('letter', 1, z.array(block));

/** Words of a letter that cannot be read, with their place: 0 is the subject, else the number of the part. */
export interface BrokenPart {
  part: number;
  message: string;
}

/** What of a letter cannot be read; empty when all of it can. */
export function brokenParts(subject: string, blocks: readonly Block[]): BrokenPart[] {
  return [subject, ...blocks.map(({ text }) => text)].flatMap((text, part) => {
    try {
      readWords(text);
      return [];
    } catch (error) {
      if (!(error instanceof BrokenWords)) throw error;
      return [{ part, message: `${part === 0 ? 'Subject' : `Part ${part}`}: ${error.message}` }];
    }
  });
}

/** Who a letter is to and from; a line may be empty. */
interface LetterAddress {
  name: string;
  line1: string;
  line2: string;
  city: string;
  state: string;
  zip: string;
}

/** What a letter says, as it was sent and is kept. Amounts in cents. */
export interface LetterContent {
  paper: PaperSize;
  practice: LetterAddress & { phone: string };
  remit: LetterAddress;
  hours: string;
  account: string;
  to: LetterAddress;
  date: CalendarDate;
  subject: string;
  /** The parts with their variables filled. */
  blocks: Block[];
  stage: { id: number | null; position: number; name: string };
  versionId: number;
  pastDue: Cents;
  charges: {
    chargeId: number;
    date: CalendarDate;
    patient: string;
    title: string;
    since: CalendarDate;
    amount: Cents;
  }[];
}

/** The kept letter. */
export const letterDocument = documentKind<LetterContent>(
  'letter to an account',
  1,
  z.object({
    paper: z.enum(PAPER_SIZES),
    practice: z.object({ ...placeFields, phone: z.string() }),
    remit: z.object(placeFields),
    hours: z.string(),
    account: z.string(),
    to: z.object(placeFields),
    date: dateField,
    subject: z.string(),
    blocks: z.array(block),
    stage: z.object({ id: z.int().nullable(), position: z.int(), name: z.string() }),
    versionId: z.int(),
    pastDue: centsField,
    charges: z.array(
      z.object({
        chargeId: z.int(),
        date: dateField,
        patient: z.string(),
        title: z.string(),
        since: dateField,
        amount: centsField,
      }),
    ),
  }),
);

/** Puts what the variables stand for into a letter. @throws BrokenWords */
export const fillLetter = (
  { subject, blocks }: { subject: string; blocks: readonly Block[] },
  facts: WordsFacts,
): { subject: string; blocks: Block[] } => ({
  subject: fillWords(subject, facts),
  blocks: blocks.map(({ kind, text }) => ({ kind, text: fillWords(text, facts) })),
});

/** Whether two letters name the same money. */
export const sameDebt = (a: LetterContent, b: LetterContent): boolean =>
  a.pastDue === b.pastDue &&
  a.charges.length === b.charges.length &&
  a.charges.every((one, index) => {
    const other = b.charges[index]!;
    return one.chargeId === other.chargeId && one.amount === other.amount;
  });

/** The letters that a practice begins with, by stage: due when a debt is so many days past due. */
export const FIRST_LETTERS: readonly {
  name: string;
  days: number;
  subject: string;
  blocks: readonly Block[];
}[] = [
  {
    name: 'First reminder',
    days: 10,
    subject: 'A friendly reminder about account {account}',
    blocks: [
      { kind: 'paragraph', text: 'Dear {guarantor},' },
      {
        kind: 'paragraph',
        text: '{past due} of your account is past due. If you have paid it in the last days, thank you, and please set this letter aside.',
      },
      { kind: 'charges', text: '' },
      {
        kind: 'paragraph',
        text: 'If something looks wrong, or the amount is hard to pay at once, please call us at {phone}: we can explain each line, and a payment plan is possible.',
      },
      { kind: 'paragraph', text: '{practice}' },
      { kind: 'slip', text: '' },
    ],
  },
  {
    name: 'Second reminder',
    days: 30,
    subject: 'Account {account} is still past due',
    blocks: [
      { kind: 'paragraph', text: 'Dear {guarantor},' },
      {
        kind: 'paragraph',
        text: 'We wrote to you about {past due} that is past due and have not heard from you. The oldest amount is yours to pay since {oldest since}.',
      },
      { kind: 'charges', text: '' },
      {
        kind: 'paragraph',
        text: 'Please pay it, or call us at {phone} within fourteen days, so that we find a way together.',
      },
      { kind: 'paragraph', text: '{practice}' },
      { kind: 'slip', text: '' },
    ],
  },
  {
    name: 'Last letter',
    days: 60,
    subject: 'Last letter before account {account} is handed over',
    blocks: [
      { kind: 'paragraph', text: 'Dear {guarantor},' },
      {
        kind: 'paragraph',
        text: '{past due} is past due in spite of our letters. Without your payment, or your call to {phone}, within thirty days we may hand this account to a collection agency.',
      },
      { kind: 'charges', text: '' },
      {
        kind: 'paragraph',
        text: 'If you dispute an amount, or cannot pay it, tell us: then it is not handed over before that is settled.',
      },
      { kind: 'paragraph', text: '{practice}' },
      { kind: 'slip', text: '' },
    ],
  },
];
