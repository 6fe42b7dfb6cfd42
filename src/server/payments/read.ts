/** Reading receipts. */
import { sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import type { Cents } from '../../core/money';
import { type Context, allow } from '../access';
import { type Found, type ListQuery, findRows, likeText } from '../lists/find';

/** One receipt. Amounts in cents; `left` is still held as credit. */
export interface ReceiptRow {
  id: number;
  date: CalendarDate;
  householdId: number;
  account: string;
  guarantor: string;
  tender: string;
  reference: string;
  amount: Cents;
  left: Cents;
  by: string;
  /** `reversed`, else empty. */
  state: string;
}

/** Receipts, newest first, searched by guarantor, account or check number. */
export async function listReceipts(context: Context, ask: ListQuery): Promise<Found<ReceiptRow>> {
  allow(context, 'read accounts');
  let query = context.db.selectFrom('receipt as r').innerJoin('household as h', 'h.id', 'r.household_id');
  const like = likeText(ask.search);
  if (like)
    query = query.where((eb) =>
      eb.or([
        eb(sql`lower(h.last || ', ' || h.first)`, 'like', like),
        eb(sql`lower(h.number)`, 'like', like),
        eb(sql`lower(r.reference)`, 'like', like),
      ]),
    );
  /** What the books hold of a receipt in the accounts like `account`, as money that came in. */
  const booked = (account: string, sign: 1 | -1) =>
    sql`coalesce((select ${sql.lit(sign)} * sum(p.amount) from posting p where p.receipt_id = r.id and p.account like ${account}), 0)`;
  return findRows(
    'receipts',
    ask,
    query,
    { amount: sql`r.amount`, left: sql`${booked('credit/patient', -1)}` },
    query
      .leftJoin('user as u', 'u.id', 'r.user_id')
      .select([
        'r.id',
        'r.business_date as date',
        'r.household_id as householdId',
        'h.number as account',
        sql`h.last || ', ' || h.first`.as('guarantor'),
        'r.tender',
        'r.reference',
        'r.amount',
        sql`coalesce(u.name, r.user_id)`.as('by'),
        booked('credit/patient', -1).as('left'),
        sql`case when ${booked('cash/%', 1)} = 0 then 'reversed' else '' end`.as('state'),
      ])
      .orderBy('r.business_date', 'desc')
      .orderBy('r.id', 'desc'),
  );
}
