/** The list of placements, and promises that stand. */
import { sql } from 'kysely';
import type { Cents } from '../../core/money';
import { PLACEMENT_STATES, type PlacementStatus } from '../../core/overdue/agency';
import { objectionsIn, objectionsWords } from '../../core/overdue/hand-over';
import { day, list, money, textLike, words } from '../lists/list';

const OPEN = sql<Cents>`
  coalesce((select sum(p.amount) from posting p where p.placement_id = l.id and p.account = 'receivable/agency'), 0)`;
const paid = (column: 'gross' | 'fee') =>
  sql<Cents>`
    coalesce(
      (
        select sum(y.${sql.ref(column)}) from agency_payment y where y.placement_id = l.id and y.reversed_on is null
      ),
      0
    )`;

/** The state of a placement `l`, in words. */
export const PLACEMENT_STATE = sql<string>`case l.status ${sql.join(
  Object.entries(PLACEMENT_STATES).map(
    ([state, label]) => sql`when ${sql.lit(state)} then ${sql.lit(label)}`,
  ),
  sql` `,
)} end`;

/** Whether a placement `l` was approved and its hand-over is not written, for something speaks against it. */
const HELD = sql<boolean>`(l.objections is not null and l.ended_on is null)`;

/** Placements with agencies, newest first. */
export const placementsList = list({
  name: 'placements',
  noun: ['placement', 'placements'],
  permission: 'read accounts',
  station: 'Overdue',
  path: '/overdue/placements',
  from: sql`placement l join household h on h.id = l.household_id join connection c on c.id = l.connection_id`,
  household: sql`l.household_id`,
  id: sql`l.id`,
  columns: {
    number: words('Placement', sql`l.number`),
    account: words('Account', sql`h.number`),
    guarantor: words('Guarantor', sql`h.last || ', ' || h.first`),
    agency: words('Agency', sql`c.name`),
    state: words(
      'State',
      sql<string>`
        case
          when ${HELD} then 'held back'
          else ${PLACEMENT_STATE}
        end || case when l.disputed and l.ended_on is null then ', disputed' else '' end`,
    ),
    proposedOn: day('Proposed', sql`l.proposed_on`, { extra: true }),
    placedOn: day('Handed over', sql`l.placed_on`),
    endedOn: day('Ended', sql`l.ended_on`, { extra: true }),
    why: words('Why', sql<string>`case when l.ended_why <> '' then l.ended_why else l.why end`, {
      extra: true,
    }),
    amount: money('Amount', sql`l.amount`),
    collected: money('Collected', paid('gross')),
    fee: money('Fee', paid('fee')),
    open: money('Open', OPEN),
  },
  hidden: {
    householdId: sql<number>`l.household_id`,
    status: sql<PlacementStatus>`l.status`,
    objections: sql<unknown>`case when l.ended_on is null then l.objections end`,
  },
  // What holds it back is kept as codes with their facts, and said in the words of today.
  finish: ({ objections }) => (objections === null ? {} : { why: objectionsWords(objectionsIn(objections)) }),
  views: {
    open: { label: 'Not ended', where: () => sql`l.ended_on is null` },
    proposed: {
      label: 'Proposed',
      where: () => sql`l.status = 'proposed'`,
      waits: {
        words: ['account is proposed for an agency', 'accounts are proposed for an agency'],
        sum: 'amount',
        rail: true,
      },
    },
    held: {
      label: 'Held back',
      where: () => HELD,
      waits: { words: ['placement is held back', 'placements are held back'], sum: 'amount', rail: true },
    },
    returned: { label: 'Came back', where: () => sql`l.status in ('returned', 'refused', 'recalled')` },
    all: { label: 'All' },
  },
  search: (like) =>
    sql`
      lower(h.last || ', ' || h.first) like ${like}
        or ${textLike(sql`h.number`, like)}
        or ${textLike(sql`l.number`, like)}`,
  order: sql`l.id desc`,
});

const PAID = sql<Cents>`paid_since(r.household_id, r.made_at, r.by_date)`;

/** Promises that stand: by when, how much, what was paid of it. */
export const promisesList = list({
  name: 'promises',
  noun: ['promise', 'promises'],
  permission: 'read accounts',
  station: 'Overdue',
  path: '/overdue/promises',
  from: sql`promise r join household h on h.id = r.household_id`,
  shown: sql`join contact c on c.id = r.contact_id`,
  household: sql`r.household_id`,
  id: sql`r.id`,
  columns: {
    account: words('Account', sql`h.number`),
    guarantor: words('Guarantor', sql`h.last || ', ' || h.first`),
    phone: words('Phone', sql`h.phone`),
    madeOn: day('Made', sql`r.made_on`),
    byDate: day('By', sql`r.by_date`),
    by: words('Noted by', sql`c.user_name`, { extra: true }),
    why: words('Taken back', sql`r.ended_why`, { extra: true }),
    paid: money('Paid since', PAID),
    amount: money('Promised', sql`r.amount`),
  },
  hidden: { householdId: sql<number>`h.id`, ended: sql<boolean>`r.ended_on is not null` },
  views: {
    open: {
      label: 'Not yet due',
      where: ({ today }) => sql`r.ended_on is null and r.by_date >= ${today}::date and ${PAID} < r.amount`,
    },
    broken: {
      label: 'Broken',
      where: ({ today }) => sql`r.ended_on is null and r.by_date < ${today}::date and ${PAID} < r.amount`,
      waits: { words: ['promise is broken', 'promises are broken'], sum: 'amount', rail: true },
    },
    kept: { label: 'Kept', where: () => sql`r.ended_on is null and ${PAID} >= r.amount` },
    all: { label: 'All' },
  },
  search: (like) => sql`lower(h.last || ', ' || h.first) like ${like} or ${textLike(sql`h.number`, like)}`,
  order: sql`r.by_date, r.id`,
});
