/** The list of plans: proposed, running and ended. */
import { sql } from 'kysely';
import type { Cents } from '../../core/money';
import { day, list, money, textLike, words } from '../lists/list';

const LEFT = sql<Cents>`
  coalesce((select sum(p.amount) from posting p where p.plan_id = l.id and p.account = 'receivable/plan'), 0)`;
const PAID = sql<Cents>`
  coalesce((select sum(p.amount) from posting p where p.plan_id = l.id and p.account = 'credit/patient'), 0)`;

/** Plans, newest first. Where each running one stands is worked out on the board of the station. */
export const plansList = list({
  name: 'plans',
  noun: ['plan', 'plans'],
  permission: 'read accounts',
  station: 'Plans',
  path: '/plans',
  from: sql`payment_plan l join household h on h.id = l.household_id`,
  household: sql`l.household_id`,
  id: sql`l.id`,
  columns: {
    number: words('Plan', sql`l.number`),
    account: words('Account', sql`h.number`),
    guarantor: words('Guarantor', sql`h.last || ', ' || h.first`),
    state: words('State', sql`case l.status when 'accepted' then 'running' else l.status end`),
    agreedOn: day('Agreed', sql`l.accepted_on`),
    firstDate: day('First due', sql`l.first_date`, { extra: true }),
    by: words('By', sql`l.user_name`),
    why: words('What became of it', sql`l.ended_why`),
    amount: money('Amount', sql`l.amount - l.down`),
    level: money('Installment', sql`l.level`),
    paid: money('Paid', PAID),
    left: money('Left', LEFT),
  },
  hidden: { householdId: sql<number>`l.household_id` },
  views: {
    all: { label: 'All' },
    proposed: {
      label: 'Proposed',
      where: () => sql`l.status = 'proposed'`,
      waits: {
        words: ['plan is proposed and not signed', 'plans are proposed and not signed'],
        sum: 'amount',
      },
    },
    running: { label: 'Running', where: () => sql`l.status = 'accepted'` },
    broken: { label: 'Broken', where: () => sql`l.status = 'broken'` },
    ended: { label: 'Ended', where: () => sql`l.status in ('finished', 'changed', 'cancelled')` },
  },
  search: (like) =>
    sql`
      lower(h.last || ', ' || h.first) like ${like}
        or ${textLike(sql`h.number`, like)}
        or ${textLike(sql`l.number`, like)}`,
  order: sql`l.id desc`,
});
