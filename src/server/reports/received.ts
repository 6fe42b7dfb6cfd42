/** What came in, and from whom. */
import { sql } from 'kysely';
import { addDays } from '../../core/calendar';
import type { Cents } from '../../core/money';
import { MOVEMENTS, NOT_MOVED } from '../books/balances';
import { day, money, words } from '../lists/list';
import { report } from './report';

/** The household of a row: a remittance is of many. */
const OF = sql`case when p.remittance_id is null then h.id end`;

/** Money of a period by the day on which it was booked, with what was given back or reversed taken off. */
export const received = report({
  name: 'received',
  title: 'Received, by day',
  about:
    'By the day of the books: what payers, patients and agencies paid, less what was given back and what was reversed.',
  permission: 'read books',
  parameters: {
    from: { label: 'From', kind: 'day', usual: (today) => addDays(today, -6) },
    to: { label: 'To', kind: 'day', usual: (today) => today },
  },
  columns: {
    from: words('From', sql`coalesce(max(m.payer_name), max(h.last || ', ' || h.first), 'nobody named')`),
    date: day('Day', sql`e.posting_date`),
    kind: words(
      'Who paid',
      sql`
        case
          when p.remittance_id is not null then 'payers'
          when bool_or(p.placement_id is not null) then 'agencies'
          else 'patients'
        end`,
    ),
    way: words('As', sql`a.words`),
    reference: words('Reference', sql`coalesce(max(m.trace), max(t.reference), '')`),
    amount: money('Amount', sql<Cents>`sum(p.amount)`),
  },
  groups: ['date', 'kind', 'way'],
  chart: { along: 'from', draws: ['amount'] },
  household: OF,
  leads: sql`
    case
      when p.remittance_id is not null then '/remittances/' || p.remittance_id
      else '/accounts/' || ${OF}
    end`,
  from: () =>
    sql`
      ${MOVEMENTS}
        left join household o on o.id = p.household_id
        left join household h on h.id = coalesce(o.merged_into, o.id)
        left join remittance m on m.id = p.remittance_id
        left join tender t on t.id = p.tender_id`,
  where: ({ from, to }) =>
    sql`a.class = 'cash' and p.deposit_id is null and ${NOT_MOVED} and e.posting_date between ${from} and ${to}`,
  rowBy: sql`e.posting_date, a.code, a.words, p.remittance_id, ${OF}, p.receipt_id`,
  order: sql`e.posting_date desc, a.words, 1`,
});
