/** How what is overdue does: letters and what came after them, stages by month, promises, agencies. */
import { sql } from 'kysely';
import type { Cents } from '../../core/money';
import { money, number, words } from '../lists/list';
import { PLACEMENT_STATE } from '../overdue/placement-list';
import { period, report } from './report';

/** A share in percent; a dash where there is nothing to share. */
const percent = (part: ReturnType<typeof sql>, whole: ReturnType<typeof sql>) =>
  sql<string>`case when coalesce(${whole}, 0) = 0 then '–' else round(100.0 * ${part} / ${whole}) || ' %' end`;

/**
 * What patients and agencies paid on the charges that a letter named, from its day on and through another; what was
 * taken back is left out.
 */
const paidOn = (through: ReturnType<typeof sql>) => sql<Cents>`coalesce((
  select sum(p.amount)
  from letter_charge c
    join posting p on p.charge_id = c.charge_id and p.account in ('credit/patient', 'credit/agency')
    join entry e on e.id = p.entry_id
  where c.piece_id = l.piece_id
    and e.reverses is null
    and e.business_date >= l.date
    and e.business_date <= ${through}
    and not exists (select 1 from entry r where r.reverses = e.id)), 0)`;

const LETTERS = sql`letter l join mail_piece k on k.id = l.piece_id and k.status <> 'void'`;

/** Letters by their words, and what came within 30 days of each. */
export const letterReturns = report({
  name: 'letter-returns',
  title: 'Letters and what came within 30 days',
  about:
    'Letters sent in the period, by letter and version: what they named as past due, and what was paid on just that within 30 days of each.',
  permission: 'read books',
  parameters: period(365),
  columns: {
    letter: words('Letter', sql`t.name`),
    version: words('Version', sql`v.number::text`),
    letters: number('Letters', sql`count(*)`),
    answered: number('Brought something', sql`count(*) filter (where m.came > 0)`),
    named: money('Past due in them', sql<Cents>`sum(l.amount)`),
    came: money('Came within 30 days', sql<Cents>`sum(m.came)`),
    share: words('Share', percent(sql`sum(m.came)`, sql`sum(l.amount)`)),
  },
  groups: ['letter'],
  chart: { along: 'letter', draws: ['named', 'came'] },
  household: null,
  from: () =>
    sql`
      ${LETTERS}
        join letter_version v on v.id = l.version_id
        join letter_template t on t.id = v.template_id
        cross join lateral (select ${paidOn(sql`l.date + 30`)} as came) m`,
  where: ({ from, to }) => sql`l.date between ${from} and ${to}`,
  rowBy: sql`t.name, v.number`,
  order: sql`t.name, v.number`,
});

/** What became of the letters of each month and stage. */
export const stageMoves = report({
  name: 'stage-moves',
  title: 'Stages, what became of them',
  about:
    'Letters by the month in which they went out and their stage: how many moved on to the next stage or to an agency, how many are cured, so that nothing which they named is with the patient any more, and what was paid on it.',
  permission: 'read books',
  parameters: period(365),
  columns: {
    month: words('Month', sql`to_char(date_trunc('month', l.date::timestamp), 'YYYY-MM')`),
    stage: words('Stage', sql`coalesce(s.name, 'Stage ' || l.position)`),
    letters: number('Letters', sql`count(*)`),
    moved: number('Moved on', sql`count(*) filter (where m.moved)`),
    placed: number('To an agency', sql`count(*) filter (where m.placed and not m.moved)`),
    cured: number('Cured', sql`count(*) filter (where m.cured and not m.placed and not m.moved)`),
    still: number('Still there', sql`count(*) filter (where not m.moved and not m.placed and not m.cured)`),
    named: money('Past due in them', sql<Cents>`sum(l.amount)`),
    paid: money('Paid since', sql<Cents>`sum(m.paid)`),
  },
  groups: ['month', 'stage'],
  household: null,
  from: (
    _,
    { today },
  ) => sql`${LETTERS} left join overdue_stage s on s.id = l.stage_id cross join lateral (select
      exists (
        select 1
        from letter n
          join mail_piece q on q.id = n.piece_id and q.status <> 'void'
          join letter_charge c on c.piece_id = n.piece_id
          join letter_charge d on d.piece_id = l.piece_id and d.charge_id = c.charge_id
        where n.household_id = l.household_id and n.position > l.position and n.date >= l.date) as moved,
      exists (
        select 1
        from placement_charge c
          join letter_charge d on d.charge_id = c.charge_id and d.piece_id = l.piece_id
          join placement g on g.id = c.placement_id and g.placed_on >= l.date
      ) as placed,
      not exists (
        select 1
        from letter_charge c
          join charge_balance b on b.charge_id = c.charge_id
        where c.piece_id = l.piece_id and b.with_patient + b.on_plan + b.at_agency > 0
      ) as cured,
      ${paidOn(sql`${today}::date`)} as paid) m`,
  where: ({ from, to }) => sql`l.date between ${from} and ${to}`,
  rowBy: sql`date_trunc('month', l.date::timestamp), l.position, coalesce(s.name, 'Stage ' || l.position)`,
  order: sql`date_trunc('month', l.date::timestamp), l.position`,
});

/** Promises, and how many were kept. */
export const promisesKept = report({
  name: 'promises-kept',
  title: 'Promises kept',
  about:
    'Promises made in the period, by month and by who noted them: kept is what was paid by the day that was named, as the journal says. Kept of those whose day is over, in percent; those taken back do not count.',
  permission: 'read books',
  parameters: period(365),
  columns: {
    month: words('Month', sql`to_char(date_trunc('month', r.made_on::timestamp), 'YYYY-MM')`),
    by: words('Noted by', sql`c.user_name`),
    promises: number('Promises', sql`count(*)`),
    kept: number('Kept', sql`count(*) filter (where m.kept)`),
    broken: number('Broken', sql`count(*) filter (where m.broken)`),
    ended: number('Taken back', sql`count(*) filter (where r.ended_on is not null)`),
    open: number(
      'Not yet due',
      sql`count(*) filter (where r.ended_on is null and not m.kept and not m.broken)`,
    ),
    amount: money('Promised', sql<Cents>`sum(r.amount)`),
    paid: money('Paid of it', sql<Cents>`sum(m.paid)`),
    share: words(
      'Kept of those due',
      percent(sql`count(*) filter (where m.kept)`, sql`count(*) filter (where m.kept or m.broken)`),
    ),
  },
  groups: ['month', 'by'],
  household: null,
  from: (_, { today }) => sql`promise r join contact c on c.id = r.contact_id
    cross join lateral (select paid_since(r.household_id, r.made_at, r.by_date) as came) w
    cross join lateral (
      select greatest(0, least(r.amount, w.came)) as paid, r.ended_on is null and w.came >= r.amount as kept,
      r.ended_on is null and w.came < r.amount and r.by_date < ${today}::date as broken) m`,
  where: ({ from, to }) => sql`r.made_on between ${from} and ${to}`,
  rowBy: sql`date_trunc('month', r.made_on::timestamp), c.user_name`,
  order: sql`date_trunc('month', r.made_on::timestamp), c.user_name`,
});

/** What agencies collect. */
export const agencyRecovery = report({
  name: 'agency-recovery',
  title: 'Agencies, what they recover',
  about:
    'Accounts handed over in the period, by agency and how each stands: what was handed over, collected and kept as fee, the share recovered, and how old the debts were on the day of the hand-over.',
  permission: 'read books',
  parameters: period(365),
  columns: {
    agency: words('Agency', sql`c.name`),
    state: words('State', PLACEMENT_STATE),
    placements: number('Placements', sql`count(*)`),
    age: words('Days old', sql`coalesce(round(avg(m.age))::text, '–')`),
    amount: money('Handed over', sql<Cents>`sum(l.amount)`),
    collected: money('Collected', sql<Cents>`sum(m.gross)`),
    fee: money('Fee', sql<Cents>`sum(m.fee)`),
    open: money('Still there', sql<Cents>`sum(m.open)`),
    share: words('Recovered', percent(sql`sum(m.gross)`, sql`sum(l.amount)`)),
  },
  groups: ['agency', 'state'],
  chart: { along: 'agency', draws: ['amount', 'collected'] },
  household: null,
  from: () => sql`placement l join connection c on c.id = l.connection_id cross join lateral (select
      coalesce(
        (select sum(y.gross) from agency_payment y where y.placement_id = l.id and y.reversed_on is null), 0
      ) as gross,
      coalesce(
        (select sum(y.fee) from agency_payment y where y.placement_id = l.id and y.reversed_on is null), 0
      ) as fee,
      coalesce(
        (select sum(p.amount) from posting p where p.placement_id = l.id and p.account = 'receivable/agency'), 0
      ) as open,
      (
        select max(l.placed_on - d.since)
        from placement_charge t
          join debt_layer d on d.charge_id = t.charge_id and d.raised > 0
        where t.placement_id = l.id
      ) as age) m`,
  where: ({ from, to }) => sql`l.placed_on between ${from} and ${to}`,
  rowBy: sql`c.name, l.status`,
  order: sql`c.name, l.status`,
});
