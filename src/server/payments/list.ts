/** The list of receipts. */
import { sql } from 'kysely';
import { creditLeft, receiptReversed } from '../books/balances';
import { day, list, money, textLike, words } from '../lists/list';

/** Receipts, newest first, searched by guarantor, account or check number. */
export const receiptsList = list({
  name: 'receipts',
  noun: ['receipt', 'receipts'],
  permission: 'read accounts',
  station: 'Payments',
  path: '/payments',
  from: sql`receipt r join household h on h.id = r.household_id`,
  shown: sql`left join "user" u on u.id = r.user_id`,
  id: sql`r.id`,
  columns: {
    date: day('Date', sql`r.business_date`),
    account: words('Account', sql`h.number`),
    guarantor: words('From', sql`h.last || ', ' || h.first`),
    tender: words('Tender', sql`r.tender`),
    reference: words('Reference', sql`r.reference`),
    by: words('Taken by', sql`coalesce(u.name, r.user_id)`),
    state: words('State', sql`case when ${receiptReversed(sql`r.id`)} then 'reversed' else '' end`),
    left: money('Held as credit', creditLeft(sql`r.id`)),
    amount: money('Amount', sql`r.amount`),
  },
  hidden: { householdId: sql<number>`h.id` },
  views: { all: { label: 'All' } },
  search: (like) =>
    sql.join(
      [
        sql`lower(h.last || ', ' || h.first) like ${like}`,
        textLike(sql`h.number`, like),
        textLike(sql`r.reference`, like),
      ],
      sql` or `,
    ),
  order: sql`r.business_date desc, r.id desc`,
});
