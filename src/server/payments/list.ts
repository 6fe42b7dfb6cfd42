/** The list of receipts. */
import { sql } from 'kysely';
import type { Cents } from '../../core/money';
import { day, list, money, textLike, words } from '../lists/list';

/** Nothing of it is booked any more. */
const REVERSED = sql`coalesce(k.booked, 0) = 0`;

/** Receipts, newest first, searched by guarantor, account or check number. */
export const receiptsList = list({
  name: 'receipts',
  noun: ['receipt', 'receipts'],
  permission: 'read accounts',
  station: 'Payments',
  path: '/payments',
  // The filter asks receipts and what is kept of them alone: all of them are counted and summed.
  from: sql`receipt r left join receipt_balance k on k.receipt_id = r.id`,
  shown: sql`
    join household h on h.id = r.household_id
    join receipt_tender w on w.receipt_id = r.id
    left join "user" u on u.id = r.user_id`,
  household: sql`r.household_id`,
  id: sql`r.id`,
  columns: {
    date: day('Date', sql`r.received_on`),
    account: words('Account', sql`h.number`),
    guarantor: words('From', sql`h.last || ', ' || h.first`),
    paidBy: words('Paid by', sql`r.paid_by`, { extra: true }),
    tender: words('Tender', sql`w.kinds`),
    reference: words('Reference', sql`w.reference`),
    by: words('Taken by', sql`coalesce(u.name, r.user_id)`),
    state: words(
      'State',
      sql`
        case
          when k.receipt_id is null and exists (select from tender t where t.receipt_id = r.id and t.state = 'pending')
            then 'waits for the terminal'
          when k.receipt_id is null then 'declined'
          when ${REVERSED} and exists (select from tender t where t.receipt_id = r.id and t.state = 'returned')
            then 'came back, was ' || (abs(r.amount) / 100.0)::numeric(14, 2)
          when ${REVERSED} then 'reversed, was ' || (abs(r.amount) / 100.0)::numeric(14, 2)
          when r.refund_of is not null then 'given back'
          when r.placement_id is not null then 'from an agency'
          else ''
        end`,
    ),
    left: money('Held as credit', sql<Cents>`coalesce(k.held, 0)`),
    // What was reversed was not received.
    amount: money('Amount', sql<Cents>`coalesce(k.booked, 0)`),
  },
  hidden: { householdId: sql<number>`r.household_id` },
  views: {
    all: { label: 'All' },
    waiting: {
      label: 'Waits for the terminal',
      where: () => sql`r.id in (select t.receipt_id from tender t where t.state = 'pending')`,
      // Nothing of it came yet, which the sum says.
      waits: {
        words: ['payment waits for the card terminal', 'payments wait for the card terminal'],
        sum: 'amount',
      },
    },
  },
  search: (like) =>
    sql.join(
      [
        sql`
          r.household_id in (
            select id
            from household h
            where lower(h.last || ', ' || h.first) like ${like} or ${textLike(sql`h.number`, like)}
          )`,
        sql`exists (select from tender t where t.receipt_id = r.id and ${textLike(sql`t.reference`, like)})`,
      ],
      sql` or `,
    ),
  order: sql`r.received_on desc, r.id desc`,
});
