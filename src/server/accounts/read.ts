/** Reading the account page. */
import { sql } from 'kysely';
import { NOT_BILLABLE_WHY, type BillPatient, type BillPatientWhy } from '../../core/accounts/bill-patient';
import type { CalendarDate } from '../../core/calendar';
import type { Delivery, PieceOutcome } from '../../core/mail/pieces';
import { type Cents, ZERO, sum } from '../../core/money';
import type { Aging } from '../../core/statements/aging';
import type { Db } from '../../db/connect';
import { type Context, Refused, allow, audit } from '../access';
import {
  type HouseholdFigures,
  benefitsUsed,
  coverageDay,
  creditLeft,
  householdAging,
  householdFigures,
  receiptReversed,
  receiptsOf,
} from '../books/balances';
import type { Tender } from '../../core/payments/tenders';
import { type OpenLine, readOpenLines } from '../payments/receipts';
import { type PlanRow, plansOf } from '../plans/read';
import { notBillable } from '../books/not-billable';
import { type AccountStop, readConfidential, readStops } from '../statements/household';
import { type LedgerCharge, readCharges, unbilledIn } from './ledger';
import { personVersion } from './register';

/** A coverage of a person's standing case. */
export interface MemberCoverage {
  id: number;
  /** First, second or third in order. */
  position: number;
  payer: string;
  plan: string;
  memberId: string;
  groupNumber: string;
  relationship: 'self' | 'spouse' | 'child' | 'other';
  subscriberId: number | null;
  subscriber: string;
  validFrom: CalendarDate | null;
  validTo: CalendarDate | null;
  billPatient: BillPatient;
  billPatientWhy: '' | BillPatientWhy;
  /** In force today. */
  now: boolean;
  version: number;
}

/** One person of a household, and the first coverage that is in force today with what is used of it; amounts in cents. */
export interface Member {
  id: number;
  caseId: number;
  last: string;
  first: string;
  birthDate: CalendarDate;
  sex: 'F' | 'M' | 'U';
  coverages: MemberCoverage[];
  deductible: Cents;
  deductibleUsed: Cents;
  maximum: Cents | null;
  maximumUsed: Cents;
  /** Who saw the person last, by form of the claim. */
  providers: Partial<Record<'professional' | 'dental', number>>;
  /** Versions of the rows behind the person's form. */
  version: string;
}

/** A statement that was sent. `amount` in cents. */
export interface AccountStatement {
  id: number;
  date: CalendarDate;
  dueDate: CalendarDate;
  amount: Cents;
  delivery: Delivery;
  outcome: '' | PieceOutcome;
  /** Why it does not count; null when it does. */
  voided: string | null;
}

/** A letter that was sent. `amount` in cents, of what it named as past due. */
export interface AccountLetter {
  pieceId: number;
  date: CalendarDate;
  name: string;
  amount: Cents;
  delivery: Delivery;
  outcome: '' | PieceOutcome;
  /** Why it does not count; null when it does. */
  voided: string | null;
}

/** What of an account is proposed for, or with, an agency; `open` in cents. */
export interface AccountPlacement {
  id: number;
  number: string;
  agency: string;
  proposed: boolean;
  open: Cents;
}

/** Everything the account page shows. */
export interface AccountPage {
  household: {
    id: number;
    number: string;
    last: string;
    first: string;
    line1: string;
    line2: string;
    city: string;
    state: string;
    zip: string;
    phone: string;
    email: string;
    notice: string;
  };
  figures: HouseholdFigures;
  aging: Aging;
  members: Member[];
  charges: LedgerCharge[];
  /** What is open, whatever of the ledger is shown, oldest first. */
  open: OpenLine[];
  /** Charges that wait with their first payer and are on no claim to it. */
  unbilled: number;
  receipts: {
    id: number;
    date: CalendarDate;
    amount: Cents;
    /** The patient with an address apart whose own money it is; null for the household’s. */
    patientId: number | null;
    /** Credit of a receipt, given back. */
    refund: boolean;
    tender: Tender;
    reference: string;
    left: Cents;
    /** The account that paid, where it is another one. */
    from: string | null;
    /** When it was reversed, by whom and why; null when it stands. */
    reversed: { date: CalendarDate; by: string; why: string } | null;
  }[];
  statements: AccountStatement[];
  letters: AccountLetter[];
  /** Null where nothing is proposed for or with an agency. */
  placement: AccountPlacement | null;
  /** What is stopped on the account. */
  stops: AccountStop[];
  /** Patients whose services go to a confidential address. */
  confidential: { patientId: number; patient: string }[];
  /** What stands with patients and may not be billed to them, in cents, and what forbids it. */
  forbidden: { amount: Cents; why: string } | null;
  /** Its payment plans, newest first. */
  plans: PlanRow[];
  /** Accounts whose statements lie in one envelope with this one's, and what they owe, in cents. */
  mailedWith: { id: number; number: string; owed: Cents }[];
  followUps: { id: number; kind: string; words: string; dueDate: CalendarDate; claimId: number | null }[];
  /** Given up as bad debt and not recovered, in cents. */
  givenUp: Cents;
  /** Charges left out because the account is long. */
  earlier: number;
}

const LEDGER_LIMIT = 400;

/**
 * Reads an account whole; a fixed number of queries whatever its length.
 * @param all reads every charge of a long account instead of the newest ones
 */
export async function readAccount(context: Context, householdId: number, all = false): Promise<AccountPage> {
  allow(context, 'read accounts');
  const { db } = context;
  const found = await db
    .selectFrom('household')
    .select([
      'id',
      'number',
      'last',
      'first',
      'line1',
      'line2',
      'city',
      'state',
      'zip',
      'phone',
      'email',
      'notice',
      sql<number>`(select count(*) from charge where household_id = household.id)`.as('count'),
    ])
    .where('id', '=', householdId)
    .executeTakeFirst();
  if (!found) throw new Refused('There is no such account');
  const { count, ...household } = found;
  const [
    ,
    figures,
    aging,
    members,
    charges,
    open,
    receipts,
    statements,
    letters,
    placement,
    stops,
    followUps,
    confidential,
    forbidden,
    mailedWith,
    plans,
    givenUp,
  ] = await Promise.all([
    audit(db, context, 'read', { kind: 'household', id: householdId }),
    householdFigures(db, householdId),
    householdAging(db, householdId, context.today),
    readMembers(context, householdId),
    readCharges(db, householdId, all ? 100_000 : LEDGER_LIMIT),
    readOpenLines(context, [householdId]),
    readReceipts(db, householdId),
    readStatements(db, householdId),
    readAccountLetters(db, householdId),
    readPlacementOf(db, householdId),
    readStops(context, householdId),
    db
      .selectFrom('follow_up')
      .select(['id', 'kind', 'words', 'due_date as dueDate', 'claim_id as claimId'])
      .where('household_id', '=', householdId)
      .where('closed_at', 'is', null)
      .orderBy('due_date')
      .execute(),
    readConfidential(db, householdId),
    notBillable(db, { householdId }),
    readEnvelope(db, householdId),
    plansOf(context, householdId),
    readGivenUp(db, householdId),
  ]);
  return {
    household,
    figures,
    aging,
    members,
    charges,
    open,
    unbilled: unbilledIn(charges).length,
    receipts,
    statements,
    letters,
    placement,
    stops,
    confidential: confidential.map(({ patientId, patient }) => ({ patientId, patient })),
    forbidden:
      forbidden.length === 0
        ? null
        : { amount: sum(forbidden.map(({ amount }) => amount)), why: NOT_BILLABLE_WHY[forbidden[0]!.why] },
    mailedWith,
    plans,
    followUps,
    givenUp,
    earlier: Math.max(0, count - charges.length),
  };
}

/** What was given up as bad debt and not recovered, in cents. */
async function readGivenUp(db: Db, householdId: number): Promise<Cents> {
  const { rows } = await sql<{ amount: Cents }>`
    select coalesce(sum(amount), 0) as amount from posting where household_id = ${householdId} and account in ('reduction/bad-debt', 'reduction/bad-debt-recovered')`.execute(
    db,
  );
  return rows[0]!.amount;
}

const readEnvelope = async (db: Db, householdId: number): Promise<AccountPage['mailedWith']> => {
  const { rows } = await sql<AccountPage['mailedWith'][number]>`
    select h.id, h.number, b.owed from household o join household h on coalesce(h.mailed_with, h.id) = coalesce(o.mailed_with, o.id) and h.id <> o.id
      join owed_part b on b.household_id = h.id and b.part = 0 where o.id = ${householdId} and (h.mailed_with is not null or o.mailed_with is not null) order by h.id`.execute(
    db,
  );
  return rows;
};

async function readMembers(context: Context, householdId: number): Promise<Member[]> {
  const rows = await context.db
    .selectFrom('patient as p')
    .innerJoin('household as h', 'h.id', 'p.household_id')
    .innerJoin('care_case as k', (join) =>
      join.onRef('k.patient_id', '=', 'p.id').on('k.standing', '=', true),
    )
    .leftJoin('coverage as c', (join) =>
      join.on('c.id', '=', sql<number>`coverage_on(k.id, 1, ${context.today}::date)`),
    )
    .leftJoinLateral(
      (eb) =>
        eb
          .selectFrom('plan_terms as t')
          .select(['t.deductible', 't.maximum'])
          .whereRef('t.plan_id', '=', 'c.plan_id')
          .where(sql<boolean>`(t.valid_from is null or t.valid_from <= ${context.today}::date)`)
          .orderBy(sql`t.valid_from desc nulls last`)
          .limit(1)
          .as('terms'),
      (join) => join.onTrue(),
    )
    .select([
      'p.id',
      'k.id as caseId',
      'c.id as coverageId',
      'p.last',
      'p.first',
      'p.birth_date as birthDate',
      'p.sex',
      'terms.maximum',
      'p.version as patientVersion',
      'h.version as householdVersion',
      sql<Cents>`coalesce(terms.deductible, 0)`.as('deductible'),
      sql<
        MemberCoverage[]
      >`coalesce((select json_agg(json_build_object('id', o.id, 'position', o.position, 'payer', y.name, 'plan', m.name, 'memberId', o.member_id, 'groupNumber', o.group_number,
          'relationship', o.relationship, 'subscriberId', o.subscriber_id, 'subscriber', o.subscriber_first || ' ' || o.subscriber_last, 'validFrom', o.valid_from, 'validTo', o.valid_to,
          'billPatient', o.bill_patient, 'billPatientWhy', o.bill_patient_why, 'now', daterange(o.valid_from, o.valid_to, '[]') @> ${context.today}::date, 'version', o.version) order by o.position, o.valid_from desc nulls last)
        from coverage o join plan m on m.id = o.plan_id join payer y on y.id = m.payer_id where o.case_id = k.id), '[]')`.as(
        'coverages',
      ),
      sql<
        Member['providers']
      >`coalesce((select json_object_agg(l.form, l.provider_id) from (select distinct on (c.form) c.form, c.provider_id from charge c
        where c.case_id = k.id and c.kind = 'service' and c.status = 'done' order by c.form, c.service_date desc, c.id desc) l), '{}')`.as(
        'providers',
      ),
    ])
    .where('p.household_id', '=', householdId)
    .orderBy('p.birth_date')
    .orderBy('p.id')
    .execute();
  const day = context.today;
  const used = await benefitsUsed(
    context.db,
    rows.flatMap(({ coverageId }) => (coverageId === null ? [] : { coverageId, day })),
  );
  return rows.map(({ coverageId, patientVersion, householdVersion, ...row }) => {
    const own = coverageId === null ? undefined : used.get(coverageDay({ coverageId, day }));
    return {
      ...row,
      deductibleUsed: own?.deductible ?? ZERO,
      maximumUsed: own?.paid ?? ZERO,
      version: personVersion({ patientVersion, householdVersion }),
    };
  });
}

const readStatements = (db: Db, householdId: number): Promise<AccountStatement[]> =>
  db
    .selectFrom('statement as s')
    .innerJoin('mail_piece as p', 'p.id', 's.piece_id')
    .leftJoin('statement_void as v', 'v.statement_id', 's.id')
    .select([
      's.id',
      's.date',
      's.due_date as dueDate',
      's.amount',
      'p.delivery',
      'p.outcome',
      'v.why as voided',
    ])
    .where('s.household_id', '=', householdId)
    .orderBy('s.id')
    .execute();

async function readAccountLetters(db: Db, householdId: number): Promise<AccountLetter[]> {
  const { rows } = await sql<AccountLetter>`
    select l.piece_id as "pieceId", l.date, coalesce(s.name, 'Letter') as name, l.amount, p.delivery, p.outcome, case when p.status = 'void' then p.why end as voided
    from letter l join mail_piece p on p.id = l.piece_id left join overdue_stage s on s.id = l.stage_id where l.household_id = ${householdId} order by l.piece_id`.execute(
    db,
  );
  return rows;
}

async function readPlacementOf(db: Db, householdId: number): Promise<AccountPlacement | null> {
  const { rows } = await sql<AccountPlacement>`
    select l.id, l.number, c.name as agency, l.status = 'proposed' as proposed,
      coalesce((select sum(p.amount) from posting p where p.placement_id = l.id and p.account = 'receivable/agency'), 0) as open
    from placement l join connection c on c.id = l.connection_id where l.household_id = ${householdId} and l.ended_on is null`.execute(
    db,
  );
  return rows[0] ?? null;
}

const readReceipts = (db: Db, householdId: number): Promise<AccountPage['receipts']> =>
  db
    .selectFrom('receipt as r')
    .select([
      'r.id',
      'r.business_date as date',
      'r.amount',
      'r.patient_id as patientId',
      sql<boolean>`r.refund_of is not null`.as('refund'),
      'r.tender',
      'r.reference',
      creditLeft(sql`r.id`, householdId).as('left'),
      sql<
        string | null
      >`case when r.household_id = ${householdId} then null else (select h.number from household h where h.id = r.household_id) end`.as(
        'from',
      ),
      sql<
        AccountPage['receipts'][number]['reversed']
      >`(select json_build_object('date', e.posting_date, 'by', coalesce(u.name, e.user_id), 'why', e.memo) from entry e left join "user" u on u.id = e.user_id
        where ${receiptReversed(sql`r.id`)} and e.id = (select max(p.entry_id) from posting p join entry x on x.id = p.entry_id where p.receipt_id = r.id and x.reverses is not null))`.as(
        'reversed',
      ),
    ])
    .where(receiptsOf(householdId))
    .orderBy('r.id')
    .execute();
