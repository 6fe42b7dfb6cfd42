/**
 * What the account page reads, part by part: each is one question about a household with a fixed number of queries, whatever
 * its length. A new part is its reader and its line in `PARTS`.
 */
import { sql } from 'kysely';
import { NOT_BILLABLE_WHY } from '../../core/accounts/bill-patient';
import type { CalendarDate } from '../../core/calendar';
import { type Cents, sum } from '../../core/money';
import type { Db } from '../../db/connect';
import type { Context } from '../access';
import { householdAging, householdFigures } from '../books/balances';
import { readPinned } from '../notes/notes';
import { notBillable } from '../books/not-billable';
import { readOpenLines } from '../books/open-lines';
import { plansOf } from '../plans/door';
import {
  readAccountLetters,
  readCharges,
  readConfidential,
  readMailedWith,
  readMembers,
  readReceipts,
  readStatements,
  readStops,
} from '../accounts/door';

/** Charges of a long account that are read at first. */
const LEDGER_LIMIT = 400;

/** What of an account is proposed for, or with, an agency; `open` in cents. */
export interface AccountPlacement {
  id: number;
  number: string;
  agency: string;
  proposed: boolean;
  open: Cents;
}

async function readPlacementOf(db: Db, householdId: number): Promise<AccountPlacement | null> {
  const { rows } = await sql<AccountPlacement>`
    select l.id, l.number, c.name as agency, l.status = 'proposed' as proposed,
      coalesce(
        (select sum(p.amount) from posting p where p.placement_id = l.id and p.account = 'receivable/agency'), 0
      ) as open
    from placement l
      join connection c on c.id = l.connection_id
    where l.household_id = ${householdId} and l.ended_on is null`.execute(db);
  return rows[0] ?? null;
}

/** Work on the household that is not closed. */
export interface AccountFollowUp {
  id: number;
  kind: string;
  words: string;
  dueDate: CalendarDate;
  claimId: number | null;
}

const readFollowUps = (db: Db, householdId: number): Promise<AccountFollowUp[]> =>
  db
    .selectFrom('follow_up')
    .select(['id', 'kind', 'words', 'due_date as dueDate', 'claim_id as claimId'])
    .where('household_id', '=', householdId)
    .where('closed_at', 'is', null)
    .orderBy('due_date')
    .execute();

/** What stands with patients and may not be billed to them, in cents, and what forbids it; null where nothing does. */
async function readForbidden(db: Db, householdId: number): Promise<{ amount: Cents; why: string } | null> {
  const found = await notBillable(db, { householdId });
  const [first] = found;
  return first ? { amount: sum(found.map(({ amount }) => amount)), why: NOT_BILLABLE_WHY[first.why] } : null;
}

/** What was given up as bad debt and not recovered, in cents. */
async function readGivenUp(db: Db, householdId: number): Promise<Cents> {
  const { rows } = await sql<{ amount: Cents }>`
    select coalesce(sum(amount), 0) as amount
    from posting
    where household_id = ${householdId} and account in ('reduction/bad-debt', 'reduction/bad-debt-recovered')`.execute(
    db,
  );
  return rows[0]!.amount;
}

/** What a reader of a part is asked: the household, and whether all of a long ledger is wanted. */
interface Asked {
  householdId: number;
  all: boolean;
}

/** All parts of the account page, by the name under which the page has them. */
export const PARTS = {
  figures: ({ db }, { householdId }) => householdFigures(db, householdId),
  aging: ({ db, today }, { householdId }) => householdAging(db, householdId, today),
  members: (context, { householdId }) => readMembers(context, householdId),
  charges: ({ db }, { householdId, all }) => readCharges(db, householdId, all ? 100_000 : LEDGER_LIMIT),
  /** What is open, whatever of the ledger is shown, oldest first. */
  open: (context, { householdId }) => readOpenLines(context, [householdId]),
  receipts: ({ db }, { householdId }) => readReceipts(db, householdId),
  statements: ({ db }, { householdId }) => readStatements(db, householdId),
  letters: ({ db }, { householdId }) => readAccountLetters(db, householdId),
  placement: ({ db }, { householdId }) => readPlacementOf(db, householdId),
  stops: (context, { householdId }) => readStops(context, householdId),
  /** Patients whose services go to a confidential address. */
  confidential: async ({ db }, { householdId }) =>
    (await readConfidential(db, householdId)).map(({ patientId, patient }) => ({ patientId, patient })),
  forbidden: ({ db }, { householdId }) => readForbidden(db, householdId),
  /** Notes of ours that stand at its head. */
  pinned: (context, { householdId }) => readPinned(context, householdId),
  /** Payment plans, newest first. */
  plans: (context, { householdId }) => plansOf(context, householdId),
  mailedWith: ({ db }, { householdId }) => readMailedWith(db, householdId),
  followUps: ({ db }, { householdId }) => readFollowUps(db, householdId),
  givenUp: ({ db }, { householdId }) => readGivenUp(db, householdId),
} satisfies Record<string, (context: Context, asked: Asked) => Promise<unknown>>;

/** The parts as they were read. */
export type AccountParts = { [Part in keyof typeof PARTS]: Awaited<ReturnType<(typeof PARTS)[Part]>> };

/** Reads all of them, side by side. */
export async function readParts(context: Context, asked: Asked): Promise<AccountParts> {
  const found = await Promise.all(
    Object.entries(PARTS).map(async ([part, read]) => [part, await read(context, asked)] as const),
  );
  return Object.fromEntries(found) as AccountParts;
}
