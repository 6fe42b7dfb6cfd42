/** The list of the payers' credit: provider adjustments that are open, and claims whose money is held. */
import { sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import type { Cents } from '../../core/money';
import { adjustmentWords } from '../../core/remittances/adjustment-words';
import { day, list, money, textLike, words } from '../lists/list';

const ITEMS = sql`(
  select a.id * 2 as id, 'adjustment' as kind, a.id as of, a.remittance_id, a.payer_id, a.code, a.reference,
    a.provider, a.period, b.open
  from provider_adjustment_balance b join provider_adjustment a on a.id = b.provider_adjustment_id where b.open <> 0
  union all
  select c.id * 2 + 1, case c.status when 'kept' then 'kept' else 'held' end, c.id, c.remittance_id, r.payer_id, '',
    c.control_number, '', null, h.open
  from remittance_claim c join remittance r on r.id = c.remittance_id
    cross join lateral (
      select coalesce(-sum(p.amount), 0) as open
      from posting p
      where p.remittance_claim_id = c.id and p.account = 'credit/payer'
    ) h
  where c.status in ('unmatched', 'kept') and h.open <> 0)`;

/** What is in the payers' credit, the newest payment first. */
export const payerCreditList = list({
  name: 'payer-credit',
  noun: ['item', 'items'],
  permission: 'read remittances',
  station: 'Remittances',
  path: '/remittances/credit',
  from: sql`${ITEMS} k join remittance r on r.id = k.remittance_id`,
  shown: sql`join payer y on y.id = k.payer_id`,
  household: null,
  id: sql`k.id`,
  columns: {
    payer: words('Payer', sql`y.name`),
    date: day('Paid on', sql<CalendarDate>`r.payment_date`),
    trace: words('Trace', sql`r.trace`),
    what: words('What', null),
    reference: words('Reference', sql`k.reference`),
    provider: words('Provider', sql`k.provider`, { extra: true }),
    period: day('Year to', sql<CalendarDate | null>`k.period`, { extra: true }),
    open: money('Open', sql<Cents>`k.open`),
  },
  hidden: {
    kind: sql<'adjustment' | 'held' | 'kept'>`k.kind`,
    /** Id of the provider adjustment, or of the claim of the remittance. */
    of: sql<number>`k.of`,
    code: sql<string>`k.code`,
    remittanceId: sql<number>`k.remittance_id`,
    /** Our claim that the reference names. */
    claim: sql<{
      id: number;
      controlNumber: string;
    } | null>`
      (
        select json_build_object('id', m.id, 'controlNumber', m.control_number)
        from claim m
        where k.reference <> ''
          and (
            m.control_number = k.reference
              or (m.payer_claim_number <> '' and m.payer_claim_number = k.reference and m.payer_id = k.payer_id)
          )
        order by m.control_number = k.reference desc, m.id
        limit 1
      )`,
  },
  finish: (row) => ({
    what:
      row.kind === 'adjustment'
        ? adjustmentWords(row.code)
        : row.kind === 'held'
          ? 'held claim'
          : 'claim, kept as credit',
  }),
  filters: { payer: sql`k.payer_id` },
  views: {
    all: { label: 'All' },
    adjustments: {
      label: 'Provider adjustments',
      where: () => sql`k.kind = 'adjustment'`,
      waits: {
        words: [
          'provider adjustment is open in a payer’s credit',
          'provider adjustments are open in payers’ credit',
        ],
        sum: 'open',
      },
    },
    held: { label: 'Held claims', where: () => sql`k.kind = 'held'` },
    kept: { label: 'Kept', where: () => sql`k.kind = 'kept'` },
  },
  search: (like) =>
    sql.join(
      [
        textLike(sql`r.trace`, like),
        textLike(sql`k.reference`, like),
        sql`k.payer_id in (select id from payer where lower(name) like ${like})`,
      ],
      sql` or `,
    ),
  order: sql`r.payment_date desc, k.id desc`,
});
