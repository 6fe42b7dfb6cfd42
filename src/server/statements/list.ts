/** The lists of statements: those sent, and the households that are due one. */
import { sql } from 'kysely';
import { addDays } from '../../core/calendar';
import { day, list, money, textLike, words } from '../lists/list';

/** Days after a statement before the next is due. */
const DAYS_BETWEEN = 28;

const byHousehold = (like: string) =>
  sql`lower(h.last || ', ' || h.first) like ${like} or ${textLike(sql`h.number`, like)}`;

/** Statements, newest first. */
export const statementsList = list({
  name: 'statements',
  noun: ['statement', 'statements'],
  permission: 'read accounts',
  station: 'Statements',
  path: '/statements?view=sent',
  from: sql`statement s join household h on h.id = s.household_id`,
  id: sql`s.id`,
  columns: {
    account: words('Account', sql`h.number`),
    guarantor: words('Guarantor', sql`h.last || ', ' || h.first`),
    date: day('Date', sql`s.date`),
    dueDate: day('Due', sql`s.due_date`),
    amount: money('Amount due', sql`s.amount`),
  },
  hidden: { householdId: sql<number>`h.id` },
  views: { sent: { label: 'Sent' } },
  search: byHousehold,
  order: sql`s.date desc, s.id desc`,
});

/** Households that owe and got no statement in four weeks, the largest amount first; the id is the household's. */
export const statementsDueList = list({
  name: 'statements-due',
  noun: ['household', 'households'],
  permission: 'read accounts',
  station: 'Statements',
  path: '/statements',
  from: sql`household_balance b join household h on h.id = b.household_id`,
  always: ({ today }) =>
    sql`b.with_patient > 0 and not exists (select 1 from statement s where s.household_id = h.id and s.date > ${addDays(today, -DAYS_BETWEEN)})`,
  id: sql`h.id`,
  columns: {
    account: words('Account', sql`h.number`),
    guarantor: words('Guarantor', sql`h.last || ', ' || h.first`),
    lastStatement: day(
      'Last statement',
      sql`(select max(s.date) from statement s where s.household_id = h.id)`,
    ),
    amount: money('Amount due', sql`b.with_patient`),
  },
  views: {
    due: {
      label: 'Due',
      waits: {
        words: ['household is due a statement', 'households are due a statement'],
        sum: 'amount',
        rail: true,
      },
    },
  },
  search: byHousehold,
  order: sql`b.with_patient desc, h.id`,
});
