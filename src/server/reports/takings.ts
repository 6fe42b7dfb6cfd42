/** What was taken, tender by tender, and what a merchant account charged. */
import { sql } from 'kysely';
import { addDays } from '../../core/calendar';
import type { Cents } from '../../core/money';
import { TENDER_STATE_WORDS } from '../../core/payments/tenders';
import { day, money, words } from '../lists/list';
import { report } from './report';

const STATES = sql.join(
  Object.entries(TENDER_STATE_WORDS).map(
    ([state, said]) => sql`when ${sql.lit(state)} then ${sql.lit(said)}`,
  ),
  sql` `,
);
const BY = sql`coalesce(u.name, r.user_id)`;
const FROM = sql`
  tender t
    join receipt r on r.id = t.receipt_id
    join tender_kind k on k.code = t.kind
    join household h on h.id = r.household_id
    left join location l on l.id = r.location_id
    left join "user" u on u.id = r.user_id
    left join place p on p.id = t.place_id
    left join attempt a on a.tender_id = t.id and a.state = 'approved' and a.what <> 'void'`;

/** Every tender of a period by the day on which it was received. */
export const takings = report({
  name: 'takings',
  title: 'Taken at the desk',
  about:
    'Each means of payment by the day on which it was received, as it stands now: what came back, was taken back or was declined is said and counts nothing.',
  permission: 'read books',
  parameters: {
    from: { label: 'From', kind: 'day', usual: (today) => addDays(today, -6) },
    to: { label: 'To', kind: 'day', usual: (today) => today },
  },
  columns: {
    from: words('From', sql`h.last || ', ' || h.first`),
    date: day('Day', sql`r.received_on`),
    month: words('Month', sql`to_char(r.received_on, 'YYYY-MM')`),
    tender: words('Tender', sql`k.words`),
    reference: words(
      'Reference',
      sql`case when t.last_four <> '' then concat_ws(' ', t.brand, t.last_four) else t.reference end`,
    ),
    type: words('Type', sql`case when t.amount < 0 then 'given back' else 'taken' end`),
    state: words('State', sql`case t.state ${STATES} else '' end`),
    by: words('Taken by', BY),
    site: words('Site', sql`coalesce(l.name, '')`),
    surcharge: money('Surcharge', sql<Cents>`case when t.state = 'taken' then t.surcharge else 0 end`),
    amount: money('Amount', sql<Cents>`case when t.state = 'taken' then t.amount + t.surcharge else 0 end`),
  },
  groups: ['date', 'month', 'tender', 'type', 'by', 'site'],
  household: sql`h.id`,
  leads: sql`'/accounts/' || h.id`,
  from: () => FROM,
  where: ({ from, to }) => sql`r.received_on between ${from} and ${to}`,
  rowBy: sql`t.id, r.id, k.code, h.id, l.id, u.id, p.id, a.id`,
  order: sql`r.received_on desc, t.id desc`,
});

/** What merchant accounts charged and gave back, with their authorizations. */
export const merchants = report({
  name: 'merchants',
  title: 'Cards, by merchant account',
  about:
    'What terminals approved by the day on which it was received, with the authorization and how the card was read. What was taken back on its day counts nothing.',
  permission: 'read books',
  parameters: {
    from: { label: 'From', kind: 'day', usual: (today) => addDays(today, -6) },
    to: { label: 'To', kind: 'day', usual: (today) => today },
  },
  columns: {
    from: words('From', sql`h.last || ', ' || h.first`),
    date: day('Day', sql`r.received_on`),
    merchant: words('Merchant account', sql`p.name`),
    card: words('Card', sql`concat_ws(' ', t.brand, t.last_four)`),
    kind: words('Kind', sql`t.card_kind`),
    entry: words('Read', sql`t.card_entry`),
    authorization: words('Authorization', sql`t.approval`),
    state: words('State', sql`case t.state ${STATES} else '' end`),
    by: words('Taken by', BY),
    surcharge: money('Surcharge', sql<Cents>`case when t.state = 'taken' then t.surcharge else 0 end`),
    amount: money('Amount', sql<Cents>`case when t.state = 'taken' then t.amount + t.surcharge else 0 end`),
  },
  groups: ['merchant', 'date', 'kind', 'by'],
  household: sql`h.id`,
  leads: sql`'/accounts/' || h.id`,
  from: () => FROM,
  where: ({ from, to }) => sql`r.received_on between ${from} and ${to} and a.id is not null`,
  rowBy: sql`t.id, r.id, k.code, h.id, l.id, u.id, p.id, a.id`,
  order: sql`r.received_on desc, t.id desc`,
});
