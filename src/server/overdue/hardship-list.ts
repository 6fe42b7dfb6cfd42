/** The list of reductions that were asked for because somebody cannot pay. */
import { sql } from 'kysely';
import { day, list, money, number, textLike, words } from '../lists/list';

/** Reductions by income, what waits for a decision first. */
export const hardshipList = list({
  name: 'hardship',
  noun: ['reduction', 'reductions'],
  permission: 'read accounts',
  station: 'Overdue',
  path: '/overdue/hardship',
  from: sql`hardship a join household h on h.id = a.household_id`,
  household: sql`a.household_id`,
  id: sql`a.id`,
  columns: {
    account: words('Account', sql`h.number`),
    guarantor: words('Guarantor', sql`h.last || ', ' || h.first`),
    askedOn: day('Asked', sql`a.asked_on`),
    askedBy: words('By', sql`a.asked_by`, { extra: true }),
    evidence: words('What shows it', sql`a.evidence`),
    size: number('Persons', sql`a.size`, { extra: true }),
    income: money('Income a year', sql`a.income`, { extra: true }),
    share: number('Level, %', sql`a.share`, { extra: true }),
    reduction: number('Off, %', sql<number>`a.reduction / 100.0`),
    amount: money('Amount', sql`a.amount`),
    decided: words(
      'Decided',
      sql<string>`case when a.status = 'asked' then '' else a.status || ' by ' || a.decided_by end`,
    ),
    why: words('Why', sql`a.decided_why`, { extra: true }),
  },
  hidden: { householdId: sql<number>`h.id` },
  views: {
    asked: {
      label: 'Not decided',
      where: () => sql`a.status = 'asked'`,
      waits: {
        words: ['reduction for hardship is asked for', 'reductions for hardship are asked for'],
        sum: 'amount',
        rail: true,
      },
    },
    decided: { label: 'Decided', where: () => sql`a.status <> 'asked'` },
    all: { label: 'All' },
  },
  search: (like) => sql`lower(h.last || ', ' || h.first) like ${like} or ${textLike(sql`h.number`, like)}`,
  order: sql`(a.status <> 'asked'), a.id desc`,
});
