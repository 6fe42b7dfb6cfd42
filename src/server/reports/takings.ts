/** What was taken, tender by tender, of which provider it paid, what a merchant account charged, and what went back by check. */
import { sql } from 'kysely';
import type { Cents } from '../../core/money';
import { TENDER_STATE_WORDS } from '../../core/payments/tenders';
import { day, money, words } from '../lists/list';
import { MOVEMENTS, NOT_MOVED } from '../books/balances';
import { period, report } from './report';

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
  parameters: period(6),
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
  parameters: period(6),
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

/** What patients paid of each provider's services, by what it came with. */
export const patientsPaid = report({
  name: 'patients-paid',
  title: 'Paid by patients, by provider',
  about:
    'By business date, for the provider of the charge that was paid: what a tender paid as it was taken, and what credit paid later. What is held as credit pays no provider yet; what was taken back is taken off.',
  permission: 'read books',
  parameters: period(30),
  columns: {
    provider: words('Provider', sql`coalesce(trim(v.last || ', ' || v.first || ' ' || v.suffix), 'nobody')`),
    date: day('Day', sql`e.business_date`),
    month: words('Month', sql`to_char(e.business_date, 'YYYY-MM')`),
    tender: words('Came with', sql`coalesce(k.words, 'credit')`),
    by: words('Taken by', sql`coalesce(u.name, r.user_id, '')`),
    site: words('Site', sql`coalesce(l.name, '')`),
    amount: money('Amount', sql<Cents>`sum(p.amount)`),
  },
  groups: ['provider', 'date', 'month', 'tender', 'by', 'site'],
  filters: { provider: sql`c.provider_id`, site: sql`r.location_id` },
  household: null,
  from: () => sql`
    ${MOVEMENTS}
      join charge c on c.id = p.charge_id
      left join provider v on v.id = c.provider_id
      left join receipt r on r.id = p.receipt_id
      left join tender t on t.id = p.tender_id
      left join tender_kind k on k.code = t.kind
      left join location l on l.id = r.location_id
      left join "user" u on u.id = r.user_id`,
  where: ({ from, to }) => sql`a.part = 'patient_paid' and e.business_date between ${from} and ${to}`,
  rowBy: sql`1, 2, 3, 4, 5, 6`,
  having: sql`sum(p.amount) <> 0`,
  order: sql`1, 2 desc, 4, 5, 6`,
});

/** How the rows of {@link chargesAndPayments} are made. */
const BY_TIME = { day: 'day', month: 'month' } as const;

/** What was charged and what came in, day by day or month by month. */
export const chargesAndPayments = report({
  name: 'charges-and-payments',
  title: 'Charges and payments',
  about:
    'By business date: what was charged, what was written off, and what came in, with surcharges and credit, less what was given back or reversed.',
  permission: 'read books',
  parameters: { ...period(30), by: { label: 'By', kind: 'choice', choices: BY_TIME } },
  columns: {
    month: words('Month', sql`to_char(m.business_date, 'YYYY-MM')`),
    on: day('Day', sql`case when m.by = 'day' then m.business_date end`),
    charged: money('Charged', sql<Cents>`-sum(m.amount) filter (where m.part = 'fee')`),
    written: money('Written off', sql<Cents>`sum(m.amount) filter (where m.part = 'reduced')`),
    payers: money(
      'From payers',
      sql<Cents>`sum(m.amount) filter (where m.class = 'cash' and m.remittance_id is not null)`,
    ),
    agencies: money(
      'From agencies',
      sql<Cents>`sum(m.amount) filter (where m.class = 'cash' and m.placement_id is not null)`,
    ),
    patients: money(
      'From patients',
      sql<Cents>`sum(m.amount) filter (where m.class = 'cash' and m.receipt_id is not null and m.amount > 0)`,
    ),
    back: money(
      'Back to patients',
      sql<Cents>`sum(m.amount) filter (where m.class = 'cash' and m.receipt_id is not null and m.amount < 0)`,
    ),
    drawers: money(
      'Drawers, over or short',
      sql<Cents>`sum(m.amount) filter (where m.class = 'cash' and coalesce(m.remittance_id, m.placement_id, m.receipt_id) is null)`,
    ),
    cash: money('Came in, in all', sql<Cents>`sum(m.amount) filter (where m.class = 'cash')`),
  },
  silent: ({ by }) => (by === 'day' ? ['month'] : ['on']),
  groups: ['month'],
  chart: { along: 'month', draws: ['charged', 'cash'] },
  household: null,
  from: ({ by }) => sql`
    (
      select e.business_date, a.part, a.class, p.amount, p.remittance_id, p.placement_id, p.receipt_id, ${by}::text as by
      from ${MOVEMENTS}
      where (a.part in ('fee', 'reduced') or a.class = 'cash')
        and p.deposit_id is null and ${NOT_MOVED}
    ) m`,
  where: ({ from, to }) => sql`m.business_date between ${from} and ${to}`,
  rowBy: sql`1, 2`,
  order: sql`1 desc, 2 desc`,
});

/** Checks by which credit went back, to be written, signed and mailed. */
export const refundChecks = report({
  name: 'refund-checks',
  title: 'Refund checks',
  about:
    'Credit that went back by check, with its number, to whom it is written and where it is mailed: the list from which checks are made out. What was reversed since is said and counts nothing.',
  permission: 'read books',
  parameters: period(6),
  columns: {
    number: words('Check', sql`t.reference`),
    to: words(
      'Pay to',
      sql`
        case
          when r.handed_to <> '' then 'Unclaimed property, ' || r.handed_to
          else coalesce(x.name, h.first || ' ' || h.last)
        end`,
    ),
    address: words(
      'Mailed to',
      sql`
        case
          when r.handed_to <> '' then ''
          when x.id is null then concat_ws(', ', nullif(h.line1, ''), nullif(h.line2, ''), h.city, concat(h.state, ' ', h.zip))
          else concat_ws(', ', nullif(x.line1, ''), nullif(x.line2, ''), x.city, concat(x.state, ' ', x.zip))
        end`,
    ),
    date: day('Day', sql`r.received_on`),
    account: words('Account', sql`h.number`),
    state: words('State', sql`case t.state ${STATES} else '' end`),
    by: words('Given back by', BY),
    amount: money('Amount', sql<Cents>`case when t.state = 'taken' then -t.amount else 0 end`),
  },
  groups: ['date', 'by'],
  household: sql`h.id`,
  leads: sql`'/accounts/' || h.id`,
  from: () => sql`
    tender t
      join receipt r on r.id = t.receipt_id
      join household h on h.id = r.household_id
      left join "user" u on u.id = r.user_id
      left join confidential_address x on x.patient_id = r.patient_id and x.ended_on is null`,
  where: ({ from, to }) => sql`t.kind = 'check' and t.amount < 0 and r.received_on between ${from} and ${to}`,
  rowBy: sql`t.id, r.id, h.id, u.id, x.id`,
  order: sql`r.received_on desc, t.id`,
});
