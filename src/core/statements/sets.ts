/** Sets of rows that choose households, as they are kept and entered. */
import { z } from 'zod';
import { documentKind } from '../documents';
import { idField } from '../fields';
import { CONDITIONS, CONDITION_IDS, type SelectionRow } from './selection';

const MOST_ROWS = 30;
/** Units of what a condition asks for, and how much it may be at most. */
const MOST: Readonly<Record<string, number>> = { days: 3650, months: 120, money: 100_000_000 };

/** A row, with the number or the choices that its condition asks for. */
const rowField: z.ZodType<SelectionRow, unknown> = z
  .object({
    side: z.enum(['take', 'leave']),
    what: z.enum(CONDITION_IDS),
    number: z.int().optional(),
    choices: z.array(z.string().max(200)).max(200).optional(),
  })
  .superRefine(({ what, number, choices }, check) => {
    const { asks } = CONDITIONS[what];
    const most = MOST[asks];
    if (most !== undefined && number === undefined)
      check.addIssue({ code: 'custom', message: `“${CONDITIONS[what].words}” wants its number` });
    if (most !== undefined && number !== undefined && (number > most || (asks !== 'money' && number < 0)))
      check.addIssue({
        code: 'custom',
        message: `“${CONDITIONS[what].words}”: the number is out of its range`,
      });
    if (asks !== 'nothing' && most === undefined && (choices ?? []).length === 0)
      check.addIssue({ code: 'custom', message: `“${CONDITIONS[what].words}” wants a choice` });
  });

/** The rows of a set; none takes everybody who owes. */
export const rowsField = z.array(rowField).max(MOST_ROWS, `are at most ${MOST_ROWS}`);

/** The rows as they are kept. */
export const rowsDocument = documentKind<SelectionRow[]>('set of rows', 1, rowsField);

/** The set that a practice begins with: those whose cycle has come round and whose address is good. */
export const FIRST_ROWS: readonly SelectionRow[] = [
  { side: 'take', what: 'cycle' },
  { side: 'leave', what: 'address-incomplete' },
  { side: 'leave', what: 'mail-returned' },
  { side: 'leave', what: 'handed-over', number: 14 },
];

/** What a run goes by: rows as they stand on the screen, a saved set, or each site's own. */
export const runInput = z.object({
  setId: idField.nullish(),
  rows: rowsField.nullish(),
  /** Households of this site alone. */
  siteId: idField.nullish(),
});

/** Saving a set under a name. */
export const saveSetInput = z.object({
  setId: idField.nullish(),
  name: z.string().trim().min(1, 'is missing').max(60, 'may have 60 characters'),
  siteId: idField.nullish(),
  standard: z.boolean().default(false),
  rows: rowsField,
  version: z.int().optional(),
});
