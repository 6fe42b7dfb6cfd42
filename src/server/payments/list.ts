/** The list of receipts. */
import { sql } from 'kysely';
import type { Cents } from '../../core/money';
import { day, list, money, textLike, words } from '../lists/list';

/** Nothing of it is booked any more. */
const REVERSED = sql`k.booked = 0`;

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
    tender: words('Tender', sql`w.tender`),
    reference: words('Reference', sql`w.reference`),
    by: words('Taken by', sql`coalesce(u.name, r.user_id)`),
    state: words(
      'State',
      sql`
        case
          when ${REVERSED} then 'reversed, was ' || (abs(r.amount) / 100.0)::numeric(14, 2)
          when r.refund_of is not null then 'given back'
          when r.placement_id is not null then 'from an agency'
          else ''
        end`,
    ),
    left: money('Held as credit', sql<Cents>`coalesce(k.held, 0)`),
    // What was reversed was not received.
    amount: money('Amount', sql<Cents>`case when ${REVERSED} then 0 else r.amount end`),
  },
  hidden: { householdId: sql<number>`r.household_id` },
  views: { all: { label: 'All' } },
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
