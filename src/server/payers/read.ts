/** Reading the page of a payer: how its claims leave, who of ours it knows, its plans, and what is open with it. */
import { sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import { type Cents, ZERO } from '../../core/money';
import { TRANSACTIONS, TRANSACTION_NAMES, type Transaction } from '../../core/payers/words';
import { CLAIM_STATUSES, type ClaimStatus } from '../../core/claims/life';
import { type Context, Refused, allow } from '../access';
import { readSetup } from '../setup/read';

/** One kind of transaction, whether its clearinghouse passes it on for the payer, and who has an agreement about it. */
export interface PayerTransaction {
  kind: Transaction;
  words: string;
  taken: boolean;
  needs: boolean;
  agreements: { who: string; since: CalendarDate }[];
}

/** The page of a payer. Amounts in cents. */
export interface PayerPage {
  id: number;
  name: string;
  accepts: 'electronic' | 'paper' | 'hold';
  connection: string;
  payerId: string;
  unfinished: boolean;
  retiredOn: CalendarDate | null;
  /** The payer that it was merged into. */
  mergedInto: { id: number; name: string } | null;
  /** What its clearinghouse calls it; null where its list does not have it. */
  listed: string | null;
  /** Whether there is a list of its clearinghouse at all. */
  hasList: boolean;
  transactions: PayerTransaction[];
  plans: { id: number; name: string; schedule: string | null; scheduleId: number | null; people: number }[];
  /** Claims that are not settled, by state. */
  claims: { status: ClaimStatus; count: number; total: Cents }[];
  /** What waits with it. */
  waiting: Cents;
  /** Whoever it may be merged into. */
  others: { id: number; name: string }[];
}

/** Reads it. @throws Refused when there is none */
export async function readPayer(context: Context, payerId: number): Promise<PayerPage> {
  allow(context, 'read setup');
  const { db } = context;
  const row = await db
    .selectFrom('payer as y')
    .leftJoin('connection as c', 'c.id', 'y.connection_id')
    .leftJoin('payer as i', 'i.id', 'y.merged_into')
    .leftJoin('clearinghouse_payer as q', (join) =>
      join.onRef('q.connection_id', '=', 'y.connection_id').onRef('q.code', '=', 'y.payer_id'),
    )
    .select([
      'y.id',
      'y.name',
      'y.accepts',
      'y.payer_id as payerId',
      'y.unfinished',
      'y.retired_on as retiredOn',
      'c.name as connection',
      'i.id as into',
      'i.name as intoName',
      'q.name as listed',
      'q.takes',
      'q.needs',
      sql<boolean>`exists (select from clearinghouse_payer x where x.connection_id = y.connection_id)`.as(
        'hasList',
      ),
    ])
    .where('y.id', '=', payerId)
    .executeTakeFirst();
  if (!row) throw new Refused('unknown', 'There is no such payer');
  const [agreements, plans, claims, waiting, others] = await Promise.all([
    db
      .selectFrom('payer_agreement as a')
      .leftJoin('provider as v', 'v.id', 'a.provider_id')
      .select([
        'a.transaction',
        'a.since',
        sql<string>`coalesce(v.first || ' ' || v.last, 'the practice')`.as('who'),
      ])
      .where('a.payer_id', '=', payerId)
      .where('a.active', '=', true)
      .orderBy('a.since')
      .orderBy('a.id')
      .execute(),
    db
      .selectFrom('insurance_plan as n')
      .leftJoin('fee_schedule as s', 's.id', 'n.fee_schedule_id')
      .select([
        'n.id',
        'n.name',
        's.name as schedule',
        's.id as scheduleId',
        sql<number>`
          (
            select count(distinct r.patient_id)
            from policy p
              join policy_person r on r.policy_id = p.id
            where p.insurance_plan_id = n.id
          )`.as('people'),
      ])
      .where('n.payer_id', '=', payerId)
      .orderBy('n.name')
      .execute(),
    db
      .selectFrom('claim')
      .select(['status', sql<number>`count(*)`.as('count'), sql<Cents>`sum(total)`.as('total')])
      .where('payer_id', '=', payerId)
      .where(
        'status',
        'in',
        CLAIM_STATUSES.filter((status) => status !== 'closed' && status !== 'withdrawn'),
      )
      .groupBy('status')
      .execute(),
    db
      .selectFrom('payer_balance')
      .select(sql<Cents>`coalesce(sum(with_payer), 0)::bigint`.as('amount'))
      .where('payer_id', '=', payerId)
      .where('with_payer', '<>', ZERO)
      .executeTakeFirstOrThrow(),
    db
      .selectFrom('payer')
      .select(['id', 'name'])
      .where('id', '<>', payerId)
      .where('merged_into', 'is', null)
      .orderBy('name')
      .execute(),
  ]);
  const { takes, needs, into, intoName, connection, listed, ...payer } = row;
  return {
    ...payer,
    connection: connection ?? '',
    listed,
    mergedInto: into === null ? null : { id: into, name: intoName! },
    transactions: TRANSACTION_NAMES.map((kind) => ({
      kind,
      words: TRANSACTIONS[kind],
      taken: takes?.includes(kind) ?? false,
      needs: needs?.includes(kind) ?? false,
      agreements: agreements
        .filter(({ transaction }) => transaction === kind)
        .map(({ who, since }) => ({ who, since })),
    })),
    plans,
    claims: claims.toSorted((a, b) => CLAIM_STATUSES.indexOf(a.status) - CLAIM_STATUSES.indexOf(b.status)),
    waiting: waiting.amount,
    others,
  };
}

/** The tables of Setup that stand on its page, in their order. */
export const PAYER_PARTS = [
  'payer-providers',
  'payer-agreements',
  'payer-rules',
  'payer-needs',
  'payer-contacts',
  'payer-references',
  'payer-settings',
] as const;

/** What stands in them of a payer. */
export const readPayerParts = (context: Context, payerId: number) =>
  Promise.all(PAYER_PARTS.map((key) => readSetup(context, key, { of: String(payerId) })));
