/** The money of a household as its ledger shows it. */
import { sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import type { Cents } from '../../core/money';
import type { AttemptState, Tender, TenderState } from '../../core/payments/tenders';
import type { Db } from '../../db/connect';
import { zone } from '../access';
import { wordsBeside } from '../notes/notes';
import { creditLeft, receiptReversed, receiptsOf } from '../books/balances';

/** One tender of a receipt. Amounts in cents, below zero where credit went back. */
export interface AccountTender {
  id: number;
  tender: Tender;
  /** It and its reference in words. */
  how: string;
  amount: Cents;
  surcharge: Cents;
  /** What of it did not go back. */
  left: Cents;
  state: TenderState;
  /** A terminal has charged it, or is asked to. */
  byTerminal: boolean;
  /** The day on which a terminal approved it. */
  approvedOn: CalendarDate | null;
  /** The attempt that waits for its answer. */
  attempt: { id: number; state: AttemptState } | null;
  /** Why a terminal refused it. */
  reason: string;
  /** The one that took its place since it was written down wrongly. */
  corrected: boolean;
}

/** Money that came or went back. `amount` and `left`, what of it is held as credit, in cents. */
export interface AccountReceipt {
  id: number;
  date: CalendarDate;
  /** What of it is, or was, in the books; of what waits for a terminal, what was to come. */
  amount: Cents;
  /** The patient with an address apart whose own money it is; null for the household’s. */
  patientId: number | null;
  /** Credit of a receipt, given back. */
  refund: boolean;
  /** Who handed it over, where that was not the guarantor. */
  paidBy: string;
  /** Its tenders in words. */
  how: string;
  tenders: AccountTender[];
  /** Nothing of it ever came: it waits for a terminal, or was declined. */
  nothing: 'waits' | 'declined' | null;
  /** What of it is asked back and waits for a manager, in cents; null where nothing is. */
  askedBack: Cents | null;
  /** Its e-mail, the newest: where it went and what became of it. */
  mailed: string;
  /** What was noted beside it, for us. */
  note: string;
  left: Cents;
  /** The day of the visit to come for which that is reserved. */
  reservedFor: CalendarDate | null;
  /** The account that paid, where it is another one. */
  from: string | null;
  /** It was this account's and is another's now: since when and why. */
  moved: { date: CalendarDate; why: string } | null;
  /** When it was reversed or came back, by whom and why; null when it stands. */
  reversed: { date: CalendarDate; by: string; why: string } | null;
}

/** All receipts of a household and those of others that pay its charges, in the order in which they came. */
export const readReceipts = (db: Db, householdId: number): Promise<AccountReceipt[]> =>
  db
    .selectFrom('receipt as r')
    .innerJoin('receipt_tender as w', 'w.receipt_id', 'r.id')
    .leftJoin('receipt_balance as b', 'b.receipt_id', 'r.id')
    .select([
      'r.id',
      'r.received_on as date',
      sql<Cents>`case when coalesce(b.booked, 0) = 0 then r.amount else b.booked end`.as('amount'),
      'r.patient_id as patientId',
      'r.paid_by as paidBy',
      sql<boolean>`r.refund_of is not null`.as('refund'),
      'w.how',
      sql<AccountReceipt['nothing']>`
        case
          when b.receipt_id is not null or r.placement_id is not null then null
          when exists (select from tender t where t.receipt_id = r.id and t.state = 'pending') then 'waits'
          else 'declined'
        end`.as('nothing'),
      sql<AccountTender[]>`
        coalesce(
          (
            select json_agg(json_build_object(
              'id', t.id, 'tender', t.kind,
              'how', k.words || case
                when t.last_four <> '' then concat(' ', t.brand, ' ', t.last_four)
                when t.reference <> '' and t.kind <> 'cash' then ' ' || t.reference
                else ''
              end,
              'amount', t.amount, 'surcharge', t.surcharge, 'state', t.state, 'byTerminal', t.token <> '',
              'left', t.amount + coalesce(
                (select sum(g.amount) from tender g where g.refund_of = t.id and g.state in ('taken', 'pending')), 0
              ),
              'approvedOn', (
                select (a.answered_at at time zone ${zone()})::date from attempt a where a.tender_id = t.id and a.what = 'sale' and a.state = 'approved'
              ),
              'attempt', (
                select json_build_object('id', a.id, 'state', a.state)
                from attempt a
                where a.tender_id = t.id and a.state in ('asked', 'unclear')
              ),
              'reason', coalesce(
                (
                  select a.reason
                  from attempt a
                  where a.tender_id = t.id and a.state = 'declined' and t.state = 'declined'
                  order by a.id desc
                  limit 1
                ), ''
              ),
              'corrected', exists (select from tender c where c.corrects = t.id)
            ) order by t.id)
            from tender t
              join tender_kind k on k.code = t.kind
            where t.receipt_id = r.id
          ),
          '[]'
        )`.as('tenders'),
      sql<string>`
        coalesce(
          (
            select case m.state
              when 'waiting' then 'waits to go by e-mail'
              when 'sent' then 'sent to ' || m.email
              else 'did not go by e-mail: ' || m.why
            end
            from receipt_message m
            where m.receipt_id = r.id and m.state <> 'void'
            order by m.id desc
            limit 1
          ), ''
        )`.as('mailed'),
      sql<Cents | null>`
        (select q.amount from refund_request q where q.receipt_id = r.id and q.status = 'asked')`.as(
        'askedBack',
      ),
      wordsBeside('receipt_id', sql`r.id`).as('note'),
      creditLeft(sql`r.id`, householdId).as('left'),
      sql<CalendarDate | null>`
        (select v.day from expected_visit v where v.id = r.expected_visit_id and v.freed_on is null)`.as(
        'reservedFor',
      ),
      sql<string | null>`
        case
          when r.household_id = ${householdId} then null
          else (select h.number from household h where h.id = r.household_id)
        end`.as('from'),
      sql<AccountReceipt['moved']>`
        case
          when r.household_id <> ${householdId} then (
            select json_build_object('date', m.on_day, 'why', m.why)
            from receipt_moved m
            where m.receipt_id = r.id and m.household_id = ${householdId}
            order by m.id desc
            limit 1
          )
        end`.as('moved'),
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
