/** What of mail stands in an account: statements and letters that were sent, and who shares its envelope. */
import { sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import type { Delivery, PieceOutcome } from '../../core/mail/pieces';
import type { Cents } from '../../core/money';
import type { Db } from '../../db/connect';

/** A statement that was sent. `amount` in cents. */
export interface AccountStatement {
  id: number;
  date: CalendarDate;
  dueDate: CalendarDate;
  amount: Cents;
  delivery: Delivery;
  outcome: '' | PieceOutcome;
  /** Why it does not count; null when it does. */
  voided: string | null;
}

/** A letter that was sent. `amount` in cents, of what it named as past due. */
export interface AccountLetter {
  pieceId: number;
  date: CalendarDate;
  name: string;
  amount: Cents;
  delivery: Delivery;
  outcome: '' | PieceOutcome;
  /** Why it does not count; null when it does. */
  voided: string | null;
}

/** An account whose statements lie in one envelope with another’s. `owed` in cents. */
export interface MailedWith {
  id: number;
  number: string;
  owed: Cents;
}

/** Statements in the order in which they were made. */
export const readStatements = (db: Db, householdId: number): Promise<AccountStatement[]> =>
  db
    .selectFrom('statement as s')
    .innerJoin('mail_piece as p', 'p.id', 's.piece_id')
    .leftJoin('statement_void as v', 'v.statement_id', 's.id')
    .select([
      's.id',
      's.date',
      's.due_date as dueDate',
      's.amount',
      'p.delivery',
      'p.outcome',
      'v.why as voided',
    ])
    .where('s.household_id', '=', householdId)
    .orderBy('s.id')
    .execute();

/** Letters in the order in which they were made. */
export async function readAccountLetters(db: Db, householdId: number): Promise<AccountLetter[]> {
  const { rows } = await sql<AccountLetter>`
    select l.piece_id as "pieceId", l.date, coalesce(s.name, 'Letter') as name, l.amount, p.delivery, p.outcome,
      case when p.status = 'void' then p.why end as voided
    from letter l
      join mail_piece p on p.id = l.piece_id
      left join overdue_stage s on s.id = l.stage_id
    where l.household_id = ${householdId}
    order by l.piece_id`.execute(db);
  return rows;
}

/** Accounts whose statements lie in one envelope with this one's, and what they owe. */
export async function readMailedWith(db: Db, householdId: number): Promise<MailedWith[]> {
  const { rows } = await sql<MailedWith>`
    select h.id, h.number, b.owed
    from household o
      join household h on coalesce(h.mailed_with, h.id) = coalesce(o.mailed_with, o.id) and h.id <> o.id
      join owed_part b on b.household_id = h.id and b.part = 0
    where o.id = ${householdId} and (h.mailed_with is not null or o.mailed_with is not null)
    order by h.id`.execute(db);
  return rows;
}
