/** Reading receipts. */
import { sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import type { Cents } from '../../core/money';
import { type Context, allow } from '../access';
import { PAGE_SIZE, likeText } from '../accounts/read';

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
  reversed: boolean;
  by: string;
}

/** Receipts, newest first, searched by guarantor, account or check number. */
export async function listReceipts(
  context: Context,
  filter: { search?: string; page?: number },
): Promise<{ rows: ReceiptRow[]; count: number; total: Cents }> {
  allow(context, 'read accounts');
  let query = context.db.selectFrom('receipt as r').innerJoin('household as h', 'h.id', 'r.household_id');
  const search = (filter.search ?? '').trim().toLowerCase();
  if (search) {
    const like = `%${likeText(search)}%`;
    query = query.where((eb) =>
      eb.or([
        eb(sql`lower(h.last || ', ' || h.first)`, 'like', like),
        eb(sql`lower(h.number)`, 'like', like),
        eb('r.reference', 'like', like),
      ]),
    );
  }
  const totals = await query
    .select([sql<number>`count(*)`.as('count'), sql<number>`coalesce(sum(r.amount), 0)`.as('total')])
    .executeTakeFirstOrThrow();
  const rows = await query
    .leftJoin('user as u', 'u.id', 'r.user_id')
    .select([
      'r.id',
      'r.business_date as date',
      'r.household_id as householdId',
      'h.number as account',
      sql<string>`h.last || ', ' || h.first`.as('guarantor'),
      'r.tender',
      'r.reference',
      'r.amount',
      sql<string>`coalesce(u.name, r.user_id)`.as('by'),
      sql<number>`coalesce((select -sum(p.amount) from posting p where p.receipt_id = r.id and p.account = 'credit/patient'), 0)`.as(
        'left',
      ),
      sql<boolean>`coalesce((select sum(p.amount) from posting p where p.receipt_id = r.id and p.account like 'cash/%'), 0) = 0`.as(
        'reversed',
      ),
    ])
    .orderBy('r.business_date', 'desc')
    .orderBy('r.id', 'desc')
    .limit(PAGE_SIZE)
    .offset(((filter.page ?? 1) - 1) * PAGE_SIZE)
    .execute();
  return { rows: rows as ReceiptRow[], count: totals.count, total: totals.total as Cents };
}
