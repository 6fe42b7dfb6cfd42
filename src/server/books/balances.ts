/**
 * Balances, read from the kept ones where there are, else from the postings: the one reader of postings for balances.
 * Accounts are asked for by class and part, never by the text of a code.
 */
import { type RawBuilder, sql } from 'kysely';
import type { BookAccount } from '../../core/books/accounts';
import { type CalendarDate, addDays } from '../../core/calendar';
import { type Cents, ZERO, add } from '../../core/money';
import { type Aging, ageOwed, bucketOf } from '../../core/statements/aging';
import type { Db } from '../../db/connect';
import { type Context, allow } from '../access';

/** What a query selects of `charge_balance as b` to have {@link ChargeTotals}. */
export const TOTALS_OF_B = [
  'b.fee',
  'b.tax',
  'b.added',
  'b.opened',
  'b.payer_paid as payerPaid',
  'b.patient_paid as patientPaid',
  'b.agency_paid as agencyPaid',
  'b.reduced',
  'b.expected',
  'b.with_payer as withPayer',
  'b.with_patient as withPatient',
  'b.on_plan as onPlan',
  'b.at_agency as atAgency',
] as const;

/** Postings with their entries and accounts, as a part of a query: `p`, `e` and `a`. */
export const MOVEMENTS = sql`posting p join entry e on e.id = p.entry_id join book_account a on a.code = p.account`;

/** Money that came or went, and was not merely moved or put right, back or forth, as a condition on an entry `e`. */
export const NOT_MOVED = sql<boolean>`
  (
    e.kind not in ('place-move', 'tender-correction')
      and not exists (select from entry w where w.id = e.reverses and w.kind in ('place-move', 'tender-correction'))
  )`;

/** The head figures of a household, in cents; they add up to its balance. */
export interface HouseholdFigures {
  withPayer: Cents;
  withPatient: Cents;
  onPlan: Cents;
  atAgency: Cents;
  credit: Cents;
  /** What of the credit is reserved for visits to come, and lowers nothing. */
  reserved: Cents;
  /** What was paid of parts that wait for a payer’s new word; it stands below zero with the patient and lowers nothing that is owed. */
  held: Cents;
  balance: Cents;
}

/** Reads the head figures of a household. */
export async function householdFigures(db: Db, householdId: number): Promise<HouseholdFigures> {
  const below = sql`
    (
      select coalesce(sum(b.with_patient), 0)
      from charge c
        join charge_balance b on b.charge_id = c.id and b.with_patient < 0
      where c.household_id = ${householdId}
    )`;
  const row = await db
    .selectFrom('household_balance')
    .select([
      'with_payer as withPayer',
      sql<Cents>`with_patient - ${below}`.as('withPatient'),
      sql<Cents>`-${below}`.as('held'),
      'on_plan as onPlan',
      'at_agency as atAgency',
      'credit',
      sql<Cents>`
        (select coalesce(sum(v.credit), 0) from reserved_part v where v.household_id = household_balance.household_id)`.as(
        'reserved',
      ),
      sql<Cents>`with_payer + with_patient + on_plan + at_agency - credit`.as('balance'),
    ])
    .where('household_id', '=', householdId)
    .executeTakeFirst();
  return (
    row ?? {
      withPayer: ZERO,
      withPatient: ZERO,
      onPlan: ZERO,
      atAgency: ZERO,
      credit: ZERO,
      reserved: ZERO,
      held: ZERO,
      balance: ZERO,
    }
  );
}

/** The age of what the patients of a household owe, by the date from which they were responsible. */
export async function householdAging(db: Db, householdId: number, today: CalendarDate): Promise<Aging> {
  const { rows } = await sql<{ owed: Cents; since: CalendarDate | null }>`
    select y.amount as owed, y.since
    from charge c
      join patient_layer y on y.charge_id = c.id
    where c.household_id = ${householdId}`.execute(db);
  return ageOwed(rows, today);
}

/** Debits, credits and balance of each book account, in cents. */
export interface TrialRow {
  account: BookAccount;
  debits: Cents;
  credits: Cents;
  balance: Cents;
}

/** The trial balance. */
export async function trialBalance(context: Context): Promise<TrialRow[]> {
  allow(context, 'read books');
  const { rows } = await sql<TrialRow>`
    select account, coalesce(sum(amount) filter (where amount > 0), 0) as debits,
      coalesce(-sum(amount) filter (where amount < 0), 0) as credits, sum(amount) as balance
    from posting
    group by account
    order by account`.execute(context.db);
  return rows;
}

/** Sum of what waits in the payers' credit, in cents. */
export async function payerCredit(db: Db): Promise<Cents> {
  const row = await db
    .selectFrom('posting')
    .select(sql<Cents>`coalesce(-sum(amount), 0)`.as('total'))
    .where('account', '=', 'credit/payer')
    .executeTakeFirstOrThrow();
  return row.total;
}

/** What is left of a receipt as credit of a household, as a part of a query. @param receipt the receipt's id there */
export const creditLeft = (receipt: RawBuilder<number>, householdId: number): RawBuilder<Cents> =>
  sql<Cents>`case when exists (select 1 from receipt_household x where x.receipt_id = ${receipt})
    then coalesce(
      (
        select -sum(p.amount)
        from posting p
        where p.receipt_id = ${receipt}
          and household_now(p.household_id) = ${householdId}
          and p.account = 'credit/patient'
      ),
      0
    )
    else coalesce((select k.held from receipt_balance k where k.receipt_id = ${receipt}), 0) end`;

/** Receipts of a household, and those of others that pay its charges too, as a condition on `receipt as r`. */
export const receiptsOf = (householdId: number): RawBuilder<boolean> =>
  sql<boolean>`
    (
      r.household_id = ${householdId}
        or r.id in (select x.receipt_id from receipt_household x where x.household_id = ${householdId})
    )`;

/** What an account holds of a receipt is reserved for no visit to come, as a condition on `receipt as r`. */
const unreserved = (householdId: number): RawBuilder<boolean> => sql<boolean>`
  (
    r.household_id <> ${householdId}
      or not exists (select from expected_visit v where v.id = r.expected_visit_id and v.freed_on is null)
  )`;

/** Whether a receipt was reversed: none of its cash is in the books any more. @param receipt the receipt's id there */
export const receiptReversed = (receipt: RawBuilder<number>): RawBuilder<boolean> =>
  sql<boolean>`exists (select 1 from receipt_balance k where k.receipt_id = ${receipt} and k.booked = 0)`;

/** What is left of a receipt as credit of a household, in cents. */
export async function creditOf(db: Db, receiptId: number, householdId: number): Promise<Cents> {
  const { rows } = await sql<{ left: Cents }>`
    select ${creditLeft(sql<number>`${receiptId}::bigint`, householdId)} as left`.execute(db);
  return rows[0]!.left;
}

/**
 * Receipts of a household that still hold credit, oldest first. `left` in cents, more than zero.
 * @param patientId of a patient with an address apart alone; null for all others
 * @param visitId those alone that are reserved for a visit to come; null for those that are reserved for none
 */
export async function heldReceipts(
  db: Db,
  householdId: number,
  patientId: number | null = null,
  visitId: number | null = null,
): Promise<{ id: number; how: string; left: Cents }[]> {
  const left = creditLeft(sql`r.id`, householdId);
  return db
    .selectFrom('receipt as r')
    .innerJoin('receipt_balance as k', 'k.receipt_id', 'r.id')
    .innerJoin('receipt_tender as w', 'w.receipt_id', 'r.id')
    .select(['r.id', 'w.how', left.as('left')])
    .where(receiptsOf(householdId))
    .where('k.held', '>', ZERO)
    .where(visitId === null ? unreserved(householdId) : sql<boolean>`r.expected_visit_id = ${visitId}`)
    .where(left, '>', ZERO)
    .where(
      sql<boolean>`
        (
          select a.patient_id from confidential_address a where a.patient_id = r.patient_id and a.ended_on is null
        ) is not distinct from ${patientId}::bigint`,
    )
    .orderBy('r.id')
    .execute();
}

/** Money charged and received in a month, in cents. */
export interface MonthFigures {
  month: string;
  charged: Cents;
  payers: Cents;
  patients: Cents;
  written: Cents;
}

/** Keeps the sums by month of what was posted through a day, so that {@link moneyByMonth} sums what came later alone. */
export async function keepMonths(db: Db, through: CalendarDate): Promise<void> {
  await sql`select keep_months(${through}::date)`.execute(db);
}

/** Charged, received and written off by month, from the month of a year before a day on. */
export async function moneyByMonth(db: Db, today: CalendarDate): Promise<MonthFigures[]> {
  const from = sql`date_trunc('month', ${addDays(today, -365)}::date)::date`;
  // What is not kept yet is found by the day of its posting; an index of business dates would bring a whole year (+ 0).
  const { rows } = await sql<MonthFigures>`
    select to_char(d.month, 'YYYY-MM') as month,
      coalesce(-sum(d.amount) filter (where a.part = 'fee'), 0) as charged,
      coalesce(sum(d.amount) filter (where a.class = 'cash' and d.remitted), 0) as payers,
      coalesce(sum(d.amount) filter (where a.class = 'cash' and d.received), 0) as patients,
      coalesce(sum(d.amount) filter (where a.part = 'reduced'), 0) as written
    from (
      select month, account, remitted, received, amount from month_total where month >= ${from}
      union all
      select date_trunc('month', e.business_date)::date, p.account, p.remittance_id is not null,
        p.receipt_id is not null, sum(p.amount)
      from entry e
        join posting p on p.entry_id = e.id
      where e.business_date + 0 >= ${from}
        and e.posting_date > coalesce((select through from months_kept), '0001-01-01')
      group by 1, 2, 3, 4) d
    join book_account a on a.code = d.account group by 1 order by 1`.execute(db);
  return rows;
}

/** What stands open and what came in lately, in cents. */
export interface OpenFigures {
  withPayers: Cents;
  withPatients: Cents;
  credit: Cents;
  receivedThisWeek: Cents;
}

/** Sums over all households, and the cash booked in the seven days up to a day. */
export async function openFigures(db: Db, today: CalendarDate): Promise<OpenFigures> {
  const { rows } = await sql<OpenFigures>`
    select coalesce(sum(with_payer), 0) as "withPayers", coalesce(sum(with_patient), 0) as "withPatients",
      coalesce(sum(credit), 0) as credit,
      (
        select coalesce(sum(p.amount), 0)
        from posting p
          join entry e on e.id = p.entry_id
          join book_account a on a.code = p.account
        where a.class = 'cash' and e.posting_date > ${addDays(today, -7)}
      ) as "receivedThisWeek"
      from household_balance`.execute(db);
  return rows[0]!;
}

/** What patients owe by days since they were responsible, and what payers hold by days since service, in cents. */
export async function agingOfAll(
  db: Db,
  today: CalendarDate,
): Promise<{ patients: Cents[]; payers: Cents[] }> {
  const { rows } = await sql<{ kind: 'patients' | 'payers'; days: number; amount: Cents }>`
    select kind, days, sum(amount) as amount from (
      select 'patients' as kind, amount,
        least(greatest(${today}::date - coalesce(since, ${today}::date), 0), 121) as days
      from patient_layer
      union all
      select 'payers', b.with_payer, least(greatest(${today}::date - c.service_date, 0), 121)
      from charge_balance b
        join charge c on c.id = b.charge_id
      where b.with_payer <> 0) t group by 1, 2`.execute(db);
  const found: { patients: Cents[]; payers: Cents[] } = {
    patients: [ZERO, ZERO, ZERO, ZERO, ZERO],
    payers: [ZERO, ZERO, ZERO, ZERO, ZERO],
  };
  for (const { kind, days, amount } of rows) {
    const bucket = bucketOf(days);
    found[kind][bucket] = add(found[kind][bucket]!, amount);
  }
  return found;
}
