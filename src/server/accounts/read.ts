/** Reading the account page. */
import { sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import { type Cents, ZERO } from '../../core/money';
import type { Aging } from '../../core/statements/aging';
import type { Db } from '../../db/connect';
import { type Context, Refused, allow, audit } from '../access';
import {
  type HouseholdFigures,
  benefitsUsed,
  creditLeft,
  householdAging,
  householdFigures,
  receiptReversed,
} from '../books/balances';
import { type LedgerCharge, readCharges, unbilledIn } from './ledger';
import { personVersion } from './register';

/** One person of a household with the first coverage; amounts in cents. */
export interface Member {
  id: number;
  caseId: number;
  last: string;
  first: string;
  birthDate: CalendarDate;
  sex: 'F' | 'M' | 'U';
  payer: string;
  plan: string;
  memberId: string;
  groupNumber: string;
  validFrom: CalendarDate | null;
  deductible: Cents;
  deductibleUsed: Cents;
  maximum: Cents | null;
  maximumUsed: Cents;
  /** Versions of the rows behind the person's form. */
  version: string;
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
  /** What each payer holds, the largest first; cents. */
  payers: { payer: string; amount: Cents }[];
  aging: Aging;
  members: Member[];
  charges: LedgerCharge[];
  /** Charges that wait with their first payer and are on no claim to it. */
  unbilled: number;
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
    ])
    .where('id', '=', householdId)
    .executeTakeFirst();
  if (!household) throw new Refused('There is no such account');
  await audit(db, context, 'read', { kind: 'household', id: householdId });
  const [figures, payers, aging, members, charges, count, receipts, statements, followUps] =
    await Promise.all([
      householdFigures(db, householdId),
      payersOf(db, householdId),
      householdAging(db, householdId, context.today),
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
    ]);
  return {
    household,
    figures,
    payers,
    aging,
    members,
    charges,
    unbilled: unbilledIn(charges).length,
    receipts,
    statements,
    followUps,
    earlier: Math.max(0, count.n - charges.length),
  };
}

/** What each payer holds of a household, in cents. */
const payersOf = (db: Db, householdId: number): Promise<{ payer: string; amount: Cents }[]> =>
  db
    .selectFrom('payer_balance as b')
    .innerJoin('charge as c', 'c.id', 'b.charge_id')
    .innerJoin('payer as y', 'y.id', 'b.payer_id')
    .select(['y.name as payer', sql<Cents>`sum(b.with_payer)`.as('amount')])
    .where('c.household_id', '=', householdId)
    .groupBy('y.name')
    .having(sql<boolean>`sum(b.with_payer) <> 0`)
    .orderBy('amount', 'desc')
    .execute();

async function readMembers(context: Context, householdId: number): Promise<Member[]> {
  const rows = await context.db
    .selectFrom('patient as p')
    .innerJoin('household as h', 'h.id', 'p.household_id')
    .innerJoin('care_case as k', (join) =>
      join.onRef('k.patient_id', '=', 'p.id').on('k.standing', '=', true),
    )
    .leftJoin('coverage as c', (join) => join.onRef('c.case_id', '=', 'k.id').on('c.position', '=', 1))
    .leftJoin('plan as n', 'n.id', 'c.plan_id')
    .leftJoin('payer as y', 'y.id', 'n.payer_id')
    .select([
      'p.id',
      'k.id as caseId',
      'c.id as coverageId',
      'p.last',
      'p.first',
      'p.birth_date as birthDate',
      'p.sex',
      'c.valid_from as validFrom',
      'n.maximum',
      'p.version as patientVersion',
      'h.version as householdVersion',
      'c.version as coverageVersion',
      sql<string>`coalesce(y.name, '')`.as('payer'),
      sql<string>`coalesce(n.name, '')`.as('plan'),
      sql<string>`coalesce(c.member_id, '')`.as('memberId'),
      sql<string>`coalesce(c.group_number, '')`.as('groupNumber'),
      sql<Cents>`coalesce(n.deductible, 0)`.as('deductible'),
    ])
    .where('p.household_id', '=', householdId)
    .orderBy('p.birth_date')
    .orderBy('p.id')
    .execute();
  const used = await benefitsUsed(
    context.db,
    rows.flatMap((row) => row.coverageId ?? []),
    context.today,
  );
  return rows.map(({ coverageId, patientVersion, householdVersion, coverageVersion, ...row }) => ({
    ...row,
    deductibleUsed: (coverageId && used.get(coverageId)?.deductible) || ZERO,
    maximumUsed: (coverageId && used.get(coverageId)?.paid) || ZERO,
    version: personVersion({ patientVersion, householdVersion, coverageVersion }),
  }));
}

const readReceipts = (db: Db, householdId: number): Promise<AccountPage['receipts']> =>
  db
    .selectFrom('receipt as r')
    .select([
      'r.id',
      'r.business_date as date',
      'r.amount',
      'r.tender',
      'r.reference',
      creditLeft(sql`r.id`).as('left'),
      receiptReversed(sql`r.id`).as('reversed'),
    ])
    .where('r.household_id', '=', householdId)
    .orderBy('r.id')
    .execute();
