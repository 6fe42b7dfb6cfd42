/** Reading statements: those sent, and the households that are due one. */
import { sql } from 'kysely';
import { type CalendarDate, addDays } from '../../core/calendar';
import type { Cents } from '../../core/money';
import { type Context, allow } from '../access';
import { type Found, type ListQuery, findRows } from '../lists/find';

/** A statement sent. `amount` in cents. */
export interface StatementRow {
  id: number;
  householdId: number;
  account: string;
  guarantor: string;
  amount: Cents;
  date: CalendarDate;
  dueDate: CalendarDate;
}

/** A household that is due a statement; `id` is the household's. `amount` in cents. */
export interface StatementDueRow {
  id: number;
  account: string;
  guarantor: string;
  amount: Cents;
  lastStatement: CalendarDate | null;
}

const DAYS_BETWEEN = 28;

const shown = ['h.number as account', sql`h.last || ', ' || h.first`.as('guarantor')] as const;

/** Statements, newest first. */
export function listStatements(context: Context, ask: ListQuery): Promise<Found<StatementRow>> {
  allow(context, 'read accounts');
  const sent = context.db.selectFrom('statement as s').innerJoin('household as h', 'h.id', 's.household_id');
  return findRows(
    'statements',
    ask,
    sent,
    { amount: sql`s.amount` },
    sent
      .select([...shown, 's.id', 'h.id as householdId', 's.amount', 's.date', 's.due_date as dueDate'])
      .orderBy('s.date', 'desc')
      .orderBy('s.id', 'desc'),
  );
}

/** Households that owe and got no statement in four weeks, the largest amount first. */
export function listStatementsDue(context: Context, ask: ListQuery): Promise<Found<StatementDueRow>> {
  allow(context, 'read accounts');
  const due = context.db
    .selectFrom('household_balance as b')
    .innerJoin('household as h', 'h.id', 'b.household_id')
    .where('b.with_patient', '>', 0)
    .where(({ not, exists, selectFrom }) =>
      not(
        exists(
          selectFrom('statement as s')
            .select('s.id')
            .whereRef('s.household_id', '=', 'h.id')
            .where('s.date', '>', addDays(context.today, -DAYS_BETWEEN)),
        ),
      ),
    );
  return findRows(
    'statements-due',
    ask,
    due,
    { amount: sql`b.with_patient` },
    due
      .select([
        ...shown,
        'h.id',
        'b.with_patient as amount',
        sql`(select max(s.date) from statement s where s.household_id = h.id)`.as('lastStatement'),
      ])
      .orderBy('b.with_patient', 'desc')
      .orderBy('h.id'),
  );
}
