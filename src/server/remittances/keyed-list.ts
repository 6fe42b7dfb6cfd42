/** The list of remittances that are keyed from paper. */
import { sql } from 'kysely';
import { KEYED_SOURCES } from '../../core/remittances/keyed';
import { parseMoney } from '../../core/money';
import { day, list, money, number, textLike, words } from '../lists/list';

/** Keyed remittances, those that are open first, found by any of their facts. */
export const keyedList = list({
  name: 'keyed',
  noun: ['paper remittance', 'paper remittances'],
  permission: 'post remittances',
  station: 'Remittances',
  path: '/remittances/keyed',
  from: sql`
    keyed_remittance k
      join payer y on y.id = k.payer_id
      left join "user" u on u.id = k.user_id
      cross join lateral (
        select count(*) as claims, coalesce(sum(c.paid), 0)::bigint as paid from keyed_claim c where c.keyed_id = k.id
      ) s`,
  household: null,
  id: sql`k.id`,
  columns: {
    trace: words('Check or transfer', sql`k.trace`),
    payer: words('Payer', sql`y.name`),
    date: day('Paid on', sql`k.payment_date`),
    received: day('Received', sql`k.received_date`),
    source: words(
      'Came by',
      sql`case k.source ${sql.join(
        Object.entries(KEYED_SOURCES).map(([key, said]) => sql`when ${sql.lit(key)} then ${sql.lit(said)}`),
        sql` `,
      )} else k.source end`,
    ),
    by: words('Keyed by', sql`coalesce(u.name, k.user_id)`),
    claims: number('Claims', sql`s.claims`),
    paid: money('Keyed', sql`s.paid`),
    amount: money('Payment', sql`k.amount`),
    further: words('Further references', sql`array_to_string(k.further, ', ')`, { extra: true }),
  },
  hidden: { status: sql<'open' | 'closed' | 'dropped'>`k.status` },
  filters: { payer: sql`k.payer_id` },
  views: {
    open: {
      label: 'Not closed',
      where: () => sql`k.status = 'open'`,
      waits: {
        words: ['paper remittance is not closed', 'paper remittances are not closed'],
        sum: 'amount',
        rail: true,
      },
    },
    closed: { label: 'Closed', where: () => sql`k.status = 'closed'` },
    dropped: { label: 'Dropped', where: () => sql`k.status = 'dropped'` },
    all: { label: 'All' },
  },
  search(like, text) {
    const amount = parseMoney(text);
    return sql.join(
      [
        textLike(sql`k.trace`, like),
        textLike(sql`y.name`, like),
        textLike(sql`array_to_string(k.further, ' ')`, like),
        sql`
          exists (
            select
            from keyed_claim c
              join claim m on m.id = c.claim_id
            where c.keyed_id = k.id and ${textLike(sql`m.control_number`, like)}
          )`,
        ...(amount === null ? [] : [sql`k.amount = ${amount}`]),
      ],
      sql` or `,
    );
  },
  order: sql`(k.status <> 'open'), k.payment_date desc, k.id desc`,
});
