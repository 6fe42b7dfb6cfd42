/** Reading plans: where each stands, of one household or of all that are running. */
import { type RawBuilder, sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import { type BasisPoints, type Cents, add, sum } from '../../core/money';
import { interestThrough } from '../../core/plans/interest';
import { type PlanProgress, type PlanStatus, progressOf } from '../../core/plans/progress';
import type { Every, Extra, InterestBy } from '../../core/plans/terms';
import type { Db } from '../../db/connect';
import { type Context, Refused, allow, audit } from '../access';
import { CLOSED_ACCOUNT } from '../../core/reports/lists';
import { closedOf, opened } from '../closed';

/**
 * A plan with where it stands. Amounts in cents, the rate in basis points a year, the annual percentage rate in
 * hundredths of a percent.
 */
export interface PlanRow extends PlanProgress {
  id: number;
  number: string;
  householdId: number;
  account: string;
  guarantor: string;
  phone: string;
  email: string;
  siteId: number | null;
  status: PlanStatus;
  amount: Cents;
  down: Cents;
  rate: BasisPoints;
  every: Every;
  extra: Extra;
  interestBy: InterestBy;
  level: Cents;
  first: CalendarDate;
  /** When it was signed; of one that is not, when it was proposed. */
  agreedOn: CalendarDate;
  financeCharge: Cents;
  total: Cents;
  apr: number;
  lateCharges: boolean;
  replaces: string | null;
  by: string;
  endedOn: CalendarDate | null;
  endedWhy: string;
  /** Interest that has come due and is in no books yet. */
  interestDue: Cents;
  version: number;
}

interface Found extends Omit<PlanRow, keyof PlanProgress | 'interestDue'> {
  downLeft: Cents;
  counted: number;
  through: CalendarDate;
  onPlan: Cents;
  principal: Cents;
  schedule: { number: number; date: CalendarDate; amount: Cents }[];
  payments: { date: CalendarDate; amount: Cents; principal: Cents }[];
}

/** Where the household `h` of a plan is seen: its own site, else that of its last service. */
const SITE = sql`
  coalesce(
    h.location_id,
    (select c.location_id
      from charge c
      where c.household_id = h.id and c.kind = 'service' and c.status <> 'void'
      order by c.service_date desc, c.id desc
      limit 1)
  )`;

/**
 * What of the down payment of a plan `l` is not made: of what was the patient's on the day on which it was agreed, as far as
 * credit does not stand against it.
 */
const DOWN_LEFT = sql`
  case
    when l.down = 0 or l.status <> 'accepted' then 0
    else greatest(0, least(
      (select coalesce(sum(least(d.amount, y.open)), 0)
        from plan_down d
          cross join lateral (
            select coalesce(sum(t.with_patient), 0) as open
            from debt_layer t
            where t.charge_id = d.charge_id and t.since <= l.accepted_on
          ) y
        where d.plan_id = l.id),
      (select o.owed - o.credit from owed_part o where o.household_id = l.household_id and o.part = 0)))
  end`;

/** The installments of a plan `l`, in their order. */
const SCHEDULE = sql`
  (select json_agg(json_build_object('number', i.number, 'date', i.date, 'amount', i.amount) order by i.number)
    from plan_installment i
    where i.plan_id = l.id)`;

/** What stood on a plan `l`, but for interest, once an entry `e` was written; what was reversed since did not stand. */
const PRINCIPAL_THEN = sql`
  (select coalesce(sum(x.amount), 0)
    from posting x
      join charge c on c.id = x.charge_id
    where x.plan_id = l.id and x.account = 'receivable/plan' and c.kind <> 'interest' and x.entry_id <= e.id
      and not exists (
        select 1
        from entry r
          join posting z on z.entry_id = r.id and z.plan_id = l.id
        where r.reverses = x.entry_id
      ))`;

/** What was paid on a plan `l` and stands, in the order in which it was. */
const PAYMENTS = sql`
  coalesce(
    (select json_agg(
        json_build_object('date', k.date, 'amount', k.amount, 'principal', k.principal) order by k.date, k.entry_id)
      from (
        select e.id as entry_id, e.business_date as date, sum(p.amount) as amount, ${PRINCIPAL_THEN} as principal
        from posting p
          join entry e on e.id = p.entry_id
        where p.plan_id = l.id
          and e.kind = 'plan-payment'
          and p.account = 'credit/patient'
          and not exists (select 1 from entry r where r.reverses = e.id)
        group by e.id
      ) k), '[]')`;

async function find(db: Db, which: RawBuilder<unknown>): Promise<Found[]> {
  const { rows } = await sql<Found>`
    select l.id, l.number, l.household_id as "householdId", h.number as account,
      h.last || ', ' || h.first as guarantor, h.phone, h.email, ${SITE} as "siteId",
      l.status, l.amount, l.down, l.rate, l.every, l.extra, l.interest_by as "interestBy", l.level,
      l.first_date as first, coalesce(l.accepted_on, l.agreed_on) as "agreedOn",
      l.finance_charge as "financeCharge", l.total, l.apr,
      l.late_charges as "lateCharges", o.number as replaces, l.user_name as by, l.ended_on as "endedOn",
      l.ended_why as "endedWhy", l.version, l.interest_counted as counted, l.interest_through as through,
      ${DOWN_LEFT} as "downLeft", coalesce(b.on_plan, 0) as "onPlan", coalesce(b.principal, 0) as principal,
      ${SCHEDULE} as schedule, ${PAYMENTS} as payments
    from payment_plan l
      join household h on h.id = l.household_id
      left join payment_plan o on o.id = l.replaces
      left join lateral (
        select sum(p.amount) as on_plan, sum(p.amount) filter (where c.kind <> 'interest') as principal
        from posting p
          join charge c on c.id = p.charge_id
        where p.plan_id = l.id and p.account = 'receivable/plan'
      ) b on true
    where ${which}
    order by l.id`.execute(db);
  return rows;
}

/** Plans with where they stand on the business date; a fixed number of queries whatever their number. */
export async function readPlans(context: Context, which: RawBuilder<unknown>): Promise<PlanRow[]> {
  const { db, today } = context;
  const found = await find(db, which);
  return found.map(({ counted, through, onPlan, principal, schedule, payments, downLeft, ...plan }) => {
    const due =
      plan.status === 'accepted'
        ? interestThrough({ ...plan, principal, counted, through }, today, true)
        : [];
    const interestDue = sum(due.map(({ amount }) => amount));
    const last = due.at(-1) ?? { counted, date: through };
    return {
      ...plan,
      interestDue,
      ...progressOf(
        {
          ...plan,
          installments: schedule,
          payments,
          left: add(onPlan, interestDue),
          principal,
          counted: last.counted,
          through: last.date,
          downLeft,
          downOn: plan.agreedOn,
        },
        today,
      ),
    };
  });
}

/** The plans of a household that are not ended, and those that were, newest first. */
export const plansOf = (context: Context, householdId: number): Promise<PlanRow[]> =>
  readPlans(context, sql`l.household_id = ${householdId}`).then((rows) => rows.reverse());

/** One plan. @throws Refused when it is not there */
export async function readPlan(context: Context, planId: number): Promise<PlanRow> {
  allow(context, 'read accounts');
  const [plan] = await readPlans(context, sql`l.id = ${planId}`);
  if (!plan) throw new Refused('unknown', 'There is no such plan');
  await opened(context, { kind: 'payment plan', id: planId });
  return plan;
}

/** A plan that runs; of one that is closed to who asks its amounts and days alone are said. */
export interface RunningPlan extends PlanRow {
  closed: boolean;
}

/** The plans that run, for the board of the station; put on the audit trail as a list. */
export async function runningPlans(context: Context): Promise<RunningPlan[]> {
  allow(context, 'read accounts');
  const plans = await readPlans(context, sql`l.status = 'accepted'`);
  const closed = await closedOf(
    context,
    plans.map(({ householdId }) => householdId),
  );
  await audit(context.db, context, 'listed', { kind: 'list', id: 'plans' });
  return plans.map((plan) =>
    closed.has(plan.householdId)
      ? { ...plan, number: '', account: '', guarantor: CLOSED_ACCOUNT, phone: '', email: '', closed: true }
      : { ...plan, closed: false },
  );
}
