/** The money of a household as its ledger shows it. */
import { sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import type { Cents } from '../../core/money';
import type { Tender } from '../../core/payments/tenders';
import type { Db } from '../../db/connect';
import { wordsBeside } from '../notes/notes';
import { creditLeft, receiptReversed, receiptsOf } from '../books/balances';

/** Money that came or went back. `amount` and `left`, what of it is held as credit, in cents. */
export interface AccountReceipt {
  id: number;
  date: CalendarDate;
  amount: Cents;
  /** The patient with an address apart whose own money it is; null for the household’s. */
  patientId: number | null;
  /** Credit of a receipt, given back. */
  refund: boolean;
  tender: Tender;
  reference: string;
  /** What was noted beside it, for us. */
  note: string;
  left: Cents;
  /** The account that paid, where it is another one. */
  from: string | null;
  /** When it was reversed, by whom and why; null when it stands. */
  reversed: { date: CalendarDate; by: string; why: string } | null;
}

/** All receipts of a household and those of others that pay its charges, in the order in which they came. */
export const readReceipts = (db: Db, householdId: number): Promise<AccountReceipt[]> =>
  db
    .selectFrom('receipt as r')
    .innerJoin('receipt_tender as w', 'w.receipt_id', 'r.id')
    .select([
      'r.id',
      'r.received_on as date',
      'r.amount',
      'r.patient_id as patientId',
      sql<boolean>`r.refund_of is not null`.as('refund'),
      'w.tender',
      'w.reference',
      wordsBeside('receipt_id', sql`r.id`).as('note'),
      creditLeft(sql`r.id`, householdId).as('left'),
      sql<string | null>`
        case
          when r.household_id = ${householdId} then null
          else (select h.number from household h where h.id = r.household_id)
        end`.as('from'),
      sql<AccountReceipt['reversed']>`
        (
          select json_build_object('date', e.posting_date, 'by', coalesce(u.name, e.user_id), 'why', e.memo)
          from entry e
            left join "user" u on u.id = e.user_id
        where ${receiptReversed(sql`r.id`)}
          and e.id = (
            select max(p.entry_id)
            from posting p
              join entry x on x.id = p.entry_id
            where p.receipt_id = r.id and x.reverses is not null
          ))`.as('reversed'),
    ])
    .where(receiptsOf(householdId))
    .orderBy('r.id')
    .execute();
