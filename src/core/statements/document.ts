/** What a statement says, as it was sent and is kept. */
import { z } from 'zod';
import type { CalendarDate } from '../calendar';
import { documentKind } from '../documents';
import { centsField, dateField } from '../fields';
import type { Cents } from '../money';
import { PAPER_SIZES, type PaperSize } from '../paper';
import type { Aging } from './aging';
import type { ChargeStory } from './story';

/** What a statement says. Amounts in cents. */
export interface StatementContent {
  /** What it is printed on. */
  paper: PaperSize;
  practice: { name: string; line1: string; city: string; state: string; zip: string; phone: string };
  account: string;
  to: { name: string; line1: string; line2: string; city: string; state: string; zip: string };
  date: CalendarDate;
  dueDate: CalendarDate;
  amount: Cents;
  aging: Aging;
  charges: ChargeStory[];
  closing: string;
}

/** The kept statement. */
export const statementDocument = documentKind<StatementContent>(
  'statement',
  1,
  z.object({
    paper: z.enum(PAPER_SIZES),
    practice: z.object({
      name: z.string(),
      line1: z.string(),
      city: z.string(),
      state: z.string(),
      zip: z.string(),
      phone: z.string(),
    }),
    account: z.string(),
    to: z.object({
      name: z.string(),
      line1: z.string(),
      line2: z.string(),
      city: z.string(),
      state: z.string(),
      zip: z.string(),
    }),
    date: dateField,
    dueDate: dateField,
    amount: centsField,
    aging: z.tuple([centsField, centsField, centsField, centsField, centsField]),
    charges: z.array(
      z.object({
        chargeId: z.int(),
        title: z.string(),
        owed: centsField,
        sentences: z.array(
          z.object({ words: z.string(), entryId: z.int().optional(), chargeId: z.int().optional() }),
        ),
      }),
    ),
    closing: z.string(),
  }),
);
