/** How payment plans do: what is promised month by month, what came of it, and which agreements break. */
import { sql } from 'kysely';
import type { Cents } from '../../core/money';
import { money, number, words } from '../lists/list';
import { period, report } from './report';

const MONTH = sql<string>`to_char(date_trunc('month', m.date::timestamp), 'YYYY-MM')`;

/** Installments promised by the month in which they are due, and what was collected on plans in that month. */
export const planMonths = report({
  name: 'plan-months',
  title: 'Plans, promised and collected',
  about:
    'By month: the installments that accepted plans promised for it, and what was paid on plans in it; payments that were taken back are taken off.',
  permission: 'read books',
  parameters: period(365),
  columns: {
    month: words('Month', MONTH),
    promised: money('Promised', sql<Cents>`coalesce(sum(m.amount) filter (where m.what = 'promised'), 0)`),
    collected: money('Collected', sql<Cents>`coalesce(sum(m.amount) filter (where m.what = 'collected'), 0)`),
    installments: number('Installments', sql`count(*) filter (where m.what = 'promised')`),
  },
  chart: { along: 'month', draws: ['promised', 'collected'] },
  household: null,
  from: () => sql`(
    select 'promised' as what, i.date::date as date, i.amount
    from plan_installment i
      join payment_plan l on l.id = i.plan_id
    where l.accepted_on is not null and (l.ended_on is null or i.date <= l.ended_on)
    union all
    select 'collected', e.business_date::date, p.amount
    from posting p
      join entry e on e.id = p.entry_id
    where p.plan_id is not null and p.account = 'credit/patient') m`,
  where: ({ from, to }) => sql`m.date between ${from} and ${to}`,
  rowBy: sql`date_trunc('month', m.date::timestamp)`,
  order: sql`date_trunc('month', m.date::timestamp)`,
});

/** What running plans still have to bring, by the month in which it is due. */
export const planOutstanding = report({
  name: 'plan-outstanding',
  title: 'Plans outstanding, by month due',
  about:
    'What is open on running plans, by the month of the last installment that is agreed; a plan is counted once, with all that is left on it.',
  permission: 'read books',
  parameters: {},
  columns: {
    month: words('Ends in', sql`to_char(m.ends::timestamp, 'YYYY-MM')`),
    plans: number('Plans', sql`count(*)`),
    due: money('Due by now', sql<Cents>`sum(m.due)`),
    left: money('Left', sql<Cents>`sum(m.open)`),
  },
  chart: { along: 'month', draws: ['left'] },
  household: null,
  from: (_, { today }) => sql`(
    select
      date_trunc('month', (select max(i.date) from plan_installment i where i.plan_id = l.id)::timestamp) as ends,
      coalesce(
        (select sum(p.amount) from posting p where p.plan_id = l.id and p.account = 'receivable/plan'), 0
      ) as open,
      greatest(
        0,
        coalesce(
          (select sum(i.amount) from plan_installment i where i.plan_id = l.id and i.date <= ${today}::date), 0
        ) - coalesce((select sum(p.amount) from posting p where p.plan_id = l.id and p.account = 'credit/patient'),
        0)
      ) as due
    from payment_plan l where l.status = 'accepted') m`,
  where: () => sql`m.open <> 0`,
  rowBy: sql`m.ends`,
  order: sql`m.ends`,
});

/** How plans end, by who agreed them and by their terms. */
export const planOutcomes = report({
  name: 'plan-outcomes',
  title: 'Plans, how they end',
  about:
    'Plans agreed in the period, by who agreed them and by their length: how many run, were paid, changed, cancelled or broken. Broken of those that have ended, in percent.',
  permission: 'read books',
  parameters: period(365),
  columns: {
    by: words('Agreed by', sql`l.user_name`),
    terms: words('Terms', sql`m.terms`),
    plans: number('Plans', sql`count(*)`),
    running: number('Run', sql`count(*) filter (where l.status = 'accepted')`),
    finished: number('Paid', sql`count(*) filter (where l.status = 'finished')`),
    changed: number('Changed', sql`count(*) filter (where l.status = 'changed')`),
    cancelled: number('Cancelled', sql`count(*) filter (where l.status = 'cancelled')`),
    broken: number('Broken', sql`count(*) filter (where l.status = 'broken')`),
    rate: words(
      'Broken of ended',
      sql`
        case
          when count(*) filter (where l.status not in ('accepted', 'proposed')) = 0 then '–'
          else round(
            100.0 * count(*) filter (where l.status = 'broken') / count(*) filter (
              where l.status not in ('accepted', 'proposed')
            )
          ) || ' %'
        end`,
    ),
    amount: money('Amount', sql<Cents>`sum(l.amount - l.down)`),
  },
  groups: ['by', 'terms'],
  household: null,
  from: () => sql`payment_plan l cross join lateral (
    select
      case
        when n <= 3 then '1 to 3 installments'
        when n <= 6 then '4 to 6 installments'
        when n <= 12 then '7 to 12 installments'
        else 'over 12 installments'
      end as terms
    from (select count(*) as n from plan_installment i where i.plan_id = l.id) k) m`,
  where: ({ from, to }) => sql`l.accepted_on between ${from} and ${to}`,
  rowBy: sql`l.user_name, m.terms`,
  order: sql`l.user_name, m.terms`,
});
