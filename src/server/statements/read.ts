/** Reading statements: those sent, and the households that are due one. */
import { sql } from 'kysely';
import { type CalendarDate, addDays } from '../../core/calendar';
import type { Cents } from '../../core/money';
import { type Context, allow } from '../access';
import { PAGE_SIZE } from '../accounts/read';

/** A household that owes, with its last statement; or a statement sent. `amount` in cents. */
export interface StatementRow {
  id: number;
  householdId: number;
  account: string;
  guarantor: string;
  amount: Cents;
  date: CalendarDate | null;
  dueDate: CalendarDate | null;
}

const DAYS_BETWEEN = 28;

/** `due`: households that owe and got no statement in four weeks; `sent`: statements, newest first. */
export async function listStatements(
  context: Context,
  filter: { view: 'due' | 'sent'; page?: number },
): Promise<{ rows: StatementRow[]; count: number; total: Cents }> {
  allow(context, 'read accounts');
  const offset = ((filter.page ?? 1) - 1) * PAGE_SIZE;
  const name = sql<string>`h.last || ', ' || h.first`.as('guarantor');
  if (filter.view === 'sent') {
    const totals = await context.db
      .selectFrom('statement')
      .select([sql<number>`count(*)`.as('count'), sql<number>`coalesce(sum(amount), 0)`.as('total')])
      .executeTakeFirstOrThrow();
    const rows = await context.db
      .selectFrom('statement as s')
      .innerJoin('household as h', 'h.id', 's.household_id')
      .select([
        's.id',
        'h.id as householdId',
        'h.number as account',
        name,
        's.amount',
        's.date',
        's.due_date as dueDate',
      ])
      .orderBy('s.date', 'desc')
      .orderBy('s.id', 'desc')
      .limit(PAGE_SIZE)
      .offset(offset)
      .execute();
    return { rows: rows as StatementRow[], count: totals.count, total: totals.total as Cents };
  }
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
  const totals = await due
    .select([sql<number>`count(*)`.as('count'), sql<number>`coalesce(sum(b.with_patient), 0)`.as('total')])
    .executeTakeFirstOrThrow();
  const rows = await due
    .select([
      'h.id',
      'h.id as householdId',
      'h.number as account',
      name,
      'b.with_patient as amount',
      sql<CalendarDate | null>`(select max(s.date) from statement s where s.household_id = h.id)`.as('date'),
      sql<null>`null`.as('dueDate'),
    ])
    .orderBy('b.with_patient', 'desc')
    .limit(PAGE_SIZE)
    .offset(offset)
    .execute();
  return { rows: rows as StatementRow[], count: totals.count, total: totals.total as Cents };
}
