/** Reading accounts: the list, the account page, the balance story. */
import { sql } from 'kysely';
import { type CalendarDate, parseDate } from '../../core/calendar';
import type { Cents } from '../../core/money';
import { type Aging, ageByResponsibility } from '../../core/statements/aging';
import type { Db } from '../../db/connect';
import { type Context, Refused, allow, audit } from '../access';
import { type Found, type ListQuery, findRows, likeText } from '../lists/find';
import { type LedgerCharge, readCharges } from './ledger';

/** One account of the list. Amounts in cents. */
export interface AccountRow {
  id: number;
  number: string;
  guarantor: string;
  members: string;
  phone: string;
  withPayer: Cents;
  withPatient: Cents;
  credit: Cents;
  balance: Cents;
  lastVisit: string | null;
  lastPayment: string | null;
  lastStatement: string | null;
  notice: string;
}

/** Accounts by name, number, birth date (YYYY-MM-DD) or phone. Views: `owes`, `credit`. */
export async function listAccounts(context: Context, ask: ListQuery): Promise<Found<AccountRow>> {
  allow(context, 'read accounts');
  let query = context.db
    .selectFrom('household as h')
    .innerJoin('household_balance as b', 'b.household_id', 'h.id');
  const like = likeText(ask.search);
  if (like) {
    const search = ask.search!.trim();
    const digits = search.replace(/\D/g, '');
    query = query.where((eb) => {
      const member = eb.selectFrom('patient as p').select('p.id').whereRef('p.household_id', '=', 'h.id');
      return eb.or([
        eb.exists(member.where('p.search', 'like', like)),
        eb(sql`lower(h.first || ' ' || h.last || ', ' || h.first)`, 'like', like),
        eb(sql`lower(h.number)`, 'like', like),
        ...(parseDate(search) ? [eb.exists(member.where('p.birth_date', '=', search))] : []),
        ...(digits.length >= 4
          ? [eb(sql`regexp_replace(h.phone, '\\D', '', 'g')`, 'like', `%${digits}%`)]
          : []),
      ]);
    });
  }
  if (ask.view === 'owes') query = query.where('b.with_patient', '>', 0);
  if (ask.view === 'credit') query = query.where('b.credit', '>', 0);
  const balance = sql<number>`(b.with_payer + b.with_patient + b.on_plan + b.at_agency - b.credit)`;
  return findRows(
    'accounts',
    ask,
    query,
    {
      withPayer: sql`b.with_payer`,
      withPatient: sql`b.with_patient`,
      credit: sql`b.credit`,
      balance,
    },
    query
      .select([
        'h.id',
        'h.number',
        'h.phone',
        'h.notice',
        'b.with_payer as withPayer',
        'b.with_patient as withPatient',
        'b.credit',
        balance.as('balance'),
        sql`h.last || ', ' || h.first`.as('guarantor'),
        sql`(select string_agg(p.first, ', ' order by p.birth_date) from patient p where p.household_id = h.id)`.as(
          'members',
        ),
        sql`(select max(c.service_date) from charge c where c.household_id = h.id)`.as('lastVisit'),
        sql`(select max(r.business_date) from receipt r where r.household_id = h.id)`.as('lastPayment'),
        sql`(select max(s.date) from statement s where s.household_id = h.id)`.as('lastStatement'),
      ])
      .orderBy('h.last')
      .orderBy('h.first')
      .orderBy('h.id'),
  );
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
  figures: {
    withPayer: Cents;
    withPatient: Cents;
    onPlan: Cents;
    atAgency: Cents;
    credit: Cents;
    balance: Cents;
  };
  aging: Aging;
  members: {
    id: number;
    caseId: number;
    last: string;
    first: string;
    birthDate: CalendarDate;
    sex: string;
    payer: string;
    plan: string;
    memberId: string;
    groupNumber: string;
    validFrom: string | null;
    deductible: Cents;
    deductibleUsed: Cents;
    maximum: Cents | null;
    maximumUsed: Cents;
  }[];
  charges: LedgerCharge[];
  receipts: {
    id: number;
    date: CalendarDate;
    amount: Cents;
    tender: string;
    reference: string;
    left: Cents;
    reversed: boolean;
  }[];
  statements: { id: number; date: CalendarDate; dueDate: CalendarDate; amount: Cents }[];
  followUps: { id: number; kind: string; words: string; dueDate: CalendarDate; claimId: number | null }[];
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
  const household = await db
    .selectFrom('household')
    .selectAll()
    .where('id', '=', householdId)
    .executeTakeFirst();
  if (!household) throw new Refused('There is no such account');
  await audit(db, context, 'read', { kind: 'household', id: householdId });
  const [balance, members, charges, count, receipts, statements, followUps, movements] = await Promise.all([
    db.selectFrom('household_balance').selectAll().where('household_id', '=', householdId).executeTakeFirst(),
    readMembers(context, householdId),
    readCharges(db, householdId, all ? 100_000 : LEDGER_LIMIT),
    db
      .selectFrom('charge')
      .select(sql<number>`count(*)`.as('n'))
      .where('household_id', '=', householdId)
      .executeTakeFirstOrThrow(),
    readReceipts(db, householdId),
    db
      .selectFrom('statement')
      .select(['id', 'date', 'due_date as dueDate', 'amount'])
      .where('household_id', '=', householdId)
      .orderBy('id')
      .execute(),
    db
      .selectFrom('follow_up')
      .select(['id', 'kind', 'words', 'due_date as dueDate', 'claim_id as claimId'])
      .where('household_id', '=', householdId)
      .where('closed_at', 'is', null)
      .orderBy('due_date')
      .execute(),
    patientMovements(db, householdId),
  ]);
  const b = balance ?? { with_payer: 0, with_patient: 0, on_plan: 0, at_agency: 0, credit: 0 };
  return {
    household,
    figures: {
      withPayer: b.with_payer,
      withPatient: b.with_patient,
      onPlan: b.on_plan,
      atAgency: b.at_agency,
      credit: b.credit,
      balance: b.with_payer + b.with_patient + b.on_plan + b.at_agency - b.credit,
    } as AccountPage['figures'],
    aging: ageByResponsibility(movements, context.today),
    members,
    charges,
    receipts,
    statements: statements as AccountPage['statements'],
    followUps: followUps as AccountPage['followUps'],
    earlier: Math.max(0, count.n - charges.length),
  };
}

/** What made the patients of a household responsible, and what took it off, in the order of time. */
export async function patientMovements(
  db: Db,
  householdId: number,
): Promise<{ chargeId: number; date: CalendarDate; amount: Cents }[]> {
  const rows = await db
    .selectFrom('posting as p')
    .innerJoin('entry as e', 'e.id', 'p.entry_id')
    .select(['p.charge_id as chargeId', 'e.business_date as date', 'p.amount'])
    .where('p.household_id', '=', householdId)
    .where('p.account', '=', 'receivable/patient')
    .orderBy('e.business_date')
    .orderBy('p.id')
    .execute();
  return rows as { chargeId: number; date: CalendarDate; amount: Cents }[];
}

async function readMembers(context: Context, householdId: number): Promise<AccountPage['members']> {
  const { rows } = await sql<AccountPage['members'][number]>`
    select p.id, k.id as "caseId", p.last, p.first, p.birth_date as "birthDate", p.sex, coalesce(y.name, '') as payer, coalesce(n.name, '') as plan, coalesce(c.member_id, '') as "memberId",
      coalesce(c.group_number, '') as "groupNumber", c.valid_from as "validFrom", coalesce(n.deductible, 0) as deductible, n.maximum,
      coalesce(u.deductible, 0) as "deductibleUsed", coalesce(u.paid, 0) as "maximumUsed"
    from patient p join care_case k on k.patient_id = p.id and k.standing
    left join coverage c on c.case_id = k.id and c.position = 1 left join plan n on n.id = c.plan_id left join payer y on y.id = n.payer_id
    left join lateral (
      select sum(q.amount) filter (where q.account like 'cash/%' or q.account = 'credit/payer') as paid,
        sum(-q.amount) filter (where q.account = 'receivable/payer' and q.reason_group = 'PR' and q.reason_code = '1') as deductible
      from posting q join charge g on g.id = q.charge_id where q.household_id = p.household_id and q.coverage_id = c.id and g.service_date >= date_trunc('year', ${context.today}::date)
    ) u on true
    where p.household_id = ${householdId} order by p.birth_date, p.id`.execute(context.db);
  return rows;
}

async function readReceipts(db: Db, householdId: number): Promise<AccountPage['receipts']> {
  const rows = await db
    .selectFrom('receipt as r')
    .select([
      'r.id',
      'r.business_date as date',
      'r.amount',
      'r.tender',
      'r.reference',
      sql<number>`coalesce((select -sum(p.amount) from posting p where p.receipt_id = r.id and p.account = 'credit/patient'), 0)`.as(
        'left',
      ),
      sql<boolean>`not exists (select 1 from posting p where p.receipt_id = r.id and p.account like 'cash/%' having sum(p.amount) > 0)`.as(
        'reversed',
      ),
    ])
    .where('r.household_id', '=', householdId)
    .orderBy('r.id')
    .execute();
  return rows as AccountPage['receipts'];
}
