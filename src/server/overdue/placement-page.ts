/** One placement with its evidence: charges, payments, letters, contacts, and what was said of it. */
import { sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import type { BasisPoints, Cents } from '../../core/money';
import { sum } from '../../core/money';
import { PLACEMENT_STATES, type PlacementStatus } from '../../core/overdue/agency';
import { objectionsIn, objectionsWords } from '../../core/overdue/hand-over';
import { type Context, Refused, allow } from '../access';
import { opened } from '../closed';
import { type ContactRow, readContacts } from './contacts';
import { toHandOver } from './proposals';

/** A placement as its page shows it. Amounts in cents, the contingency in basis points. */
export interface PlacementPage {
  id: number;
  number: string;
  householdId: number;
  account: string;
  guarantor: string;
  reach: string;
  agency: string;
  status: PlacementStatus;
  state: string;
  disputed: boolean;
  amount: Cents;
  contingency: BasisPoints;
  pays: 'gross' | 'net';
  proposedOn: CalendarDate;
  proposedBy: string;
  why: string;
  placedOn: CalendarDate | null;
  approvedBy: string;
  /** Why its hand-over is not written, in words; empty where nothing holds it. */
  heldWhy: string;
  endedOn: CalendarDate | null;
  endedWhy: string;
  open: Cents;
  collected: Cents;
  fee: Cents;
  feeOwed: Cents;
  /** Credit that the household has, which could pay it. */
  credit: Cents;
  /** What stands with the patient, and what was given up of it. */
  withPatient: Cents;
  givenUp: Cents;
  charges: {
    chargeId: number;
    date: CalendarDate;
    patient: string;
    title: string;
    fee: Cents;
    payerPaid: Cents;
    patientPaid: Cents;
    reduced: Cents;
    amount: Cents;
  }[];
  receipts: { id: number; date: CalendarDate; words: string; amount: Cents }[];
  letters: { pieceId: number; date: CalendarDate; stage: string; amount: Cents; outcome: string }[];
  statements: { id: number; date: CalendarDate; amount: Cents }[];
  contacts: ContactRow[];
  payments: {
    id: number;
    reference: string;
    paidOn: CalendarDate;
    gross: Cents;
    fee: Cents;
    direct: boolean;
    reversed: string;
  }[];
  events: { day: CalendarDate; what: string; words: string; amount: Cents; fee: Cents; by: string }[];
}

/** Reads a placement with all that a manager decides by. @throws Refused when it is not there */
export async function readPlacement(context: Context, placementId: number): Promise<PlacementPage> {
  allow(context, 'read accounts');
  const { db } = context;
  const { rows } = await sql<
    Omit<
      PlacementPage,
      | 'state'
      | 'heldWhy'
      | 'charges'
      | 'receipts'
      | 'letters'
      | 'statements'
      | 'contacts'
      | 'payments'
      | 'events'
    > & { objections: unknown }
  >`
    select l.id, l.number, l.household_id as "householdId", h.number as account,
      h.last || ', ' || h.first as guarantor, concat_ws(' · ', nullif(h.phone, ''), nullif(h.email, '')) as reach,
      c.name as agency,
      l.status, l.disputed, l.amount, l.contingency, l.pays, l.proposed_on as "proposedOn",
      l.proposed_by as "proposedBy", l.why, l.placed_on as "placedOn", l.approved_by as "approvedBy",
      case when l.ended_on is null then l.objections end as objections, l.ended_on as "endedOn",
      l.ended_why as "endedWhy",
      coalesce(
        (select sum(p.amount) from posting p where p.placement_id = l.id and p.account = 'receivable/agency'), 0
      ) as open,
      coalesce(
        (select sum(y.gross) from agency_payment y where y.placement_id = l.id and y.reversed_on is null), 0
      ) as collected,
      coalesce(
        (select sum(y.fee) from agency_payment y where y.placement_id = l.id and y.reversed_on is null), 0
      ) as fee,
      coalesce(
        (select -sum(p.amount) from posting p where p.placement_id = l.id and p.account = 'payable/agency-fee'), 0
      ) as "feeOwed",
      b.credit, b.with_patient as "withPatient",
      coalesce(
        (
          select sum(p.amount)
          from posting p
          where p.charge_id in (select id from charge where household_id = h.id)
            and p.account in ('reduction/bad-debt', 'reduction/bad-debt-recovered')
        ),
        0
      ) as "givenUp"
    from placement l
      join household h on h.id = l.household_id
      join household_balance b on b.household_id = h.id
      join connection c on c.id = l.connection_id
    where l.id = ${placementId}`.execute(db);
  const [found] = rows;
  if (!found) throw new Refused('unknown', 'There is no such placement');
  const { objections, ...facts } = found;
  const { householdId } = facts;
  await opened(context, { kind: 'placement', id: placementId });
  // What would be handed over is worked out as the approval does it; what was is what stands in the placement.
  const proposed = found.status === 'proposed' ? await toHandOver(context, [householdId]) : null;
  const due = proposed?.parts.get(householdId) ?? [];
  const [charges, receipts, letters, statements, contacts, payments, events] = await Promise.all([
    sql<PlacementPage['charges'][number]>`
      select c.id as "chargeId", c.service_date as date, coalesce(p.first, '') as patient, c.description as title,
        b.fee + b.tax + b.added + b.opened as fee, b.payer_paid as "payerPaid",
        b.patient_paid + b.agency_paid as "patientPaid", b.reduced,
        t.amount
      from charge c join charge_balance b on b.charge_id = c.id left join patient p on p.id = c.patient_id
      join ${
        proposed
          ? sql`
        unnest(
          ${due.map(({ about }) => about.chargeId!)}::bigint[], ${due.map(({ amount }) => amount)}::bigint[]
        ) as t (charge_id, amount) on t.charge_id = c.id`
          : sql`
        placement_charge t on t.charge_id = c.id and t.placement_id = ${placementId}`
      }
      order by c.service_date, c.id`.execute(db),
    sql<PlacementPage['receipts'][number]>`
      select r.id, r.received_on as date,
        w.how || case when k.booked = 0 then ', reversed' else '' end as words,
        r.amount
      from receipt r
        join receipt_balance k on k.receipt_id = r.id
        join receipt_tender w on w.receipt_id = r.id
      where r.household_id = ${householdId}
      order by r.received_on desc, r.id desc
      limit 20`.execute(db),
    sql<PlacementPage['letters'][number]>`
      select l.piece_id as "pieceId", l.date, coalesce(s.name, 'Stage ' || l.position) as stage, l.amount,
        case
          when p.status = 'void' then 'not sent after all'
          when p.status = 'failed' then p.why
          else p.outcome
        end as outcome
      from letter l
        join mail_piece p on p.id = l.piece_id
        left join overdue_stage s on s.id = l.stage_id
      where l.household_id = ${householdId} and l.patient_id is null
      order by l.date desc, l.piece_id desc
      limit 20`.execute(db),
    sql<PlacementPage['statements'][number]>`
      select s.id, s.date, s.amount
      from statement s
      where s.household_id = ${householdId}
        and s.patient_id is null
        and not exists (select 1 from statement_void v where v.statement_id = s.id)
      order by s.date desc, s.id desc
      limit 20`.execute(db),
    readContacts(context, householdId),
    sql<PlacementPage['payments'][number]>`
      select id, reference, paid_on as "paidOn", gross, fee, direct, reversed_why as reversed
      from agency_payment
      where placement_id = ${placementId}
      order by id`.execute(db),
    sql<PlacementPage['events'][number]>`
      select on_day as day, what, words, amount, fee, user_name as by
      from placement_event
      where placement_id = ${placementId}
      order by id`.execute(db),
  ]);
  return {
    ...facts,
    heldWhy: objectionsWords(objectionsIn(objections)),
    state: PLACEMENT_STATES[found.status],
    // A proposal’s amount is what it would be today.
    amount: due.length > 0 ? sum(due.map(({ amount }) => amount)) : found.amount,
    charges: charges.rows,
    receipts: receipts.rows,
    letters: letters.rows,
    statements: statements.rows,
    contacts,
    payments: payments.rows,
    events: events.rows,
  };
}

/** The agencies of Setup. */
export async function readAgencies(
  context: Context,
): Promise<{ id: number; name: string; feeOwed: Cents }[]> {
  allow(context, 'read accounts');
  const { rows } = await sql<{ id: number; name: string; feeOwed: Cents }>`
    select c.id, c.name,
      coalesce(
        (
          select -sum(p.amount)
          from posting p
            join placement l on l.id = p.placement_id
          where l.connection_id = c.id and p.account = 'payable/agency-fee'
        ),
        0
      ) as "feeOwed"
    from connection c where c.kind = 'agency' order by c.name`.execute(context.db);
  return rows;
}
