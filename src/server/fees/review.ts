/** What payers did in a period with what they were billed, beside what the office and their contracts say: read for the yearly look. */
import { sql } from 'kysely';
import { z } from 'zod';
import { type CalendarDate, addDays, addMonths } from '../../core/calendar';
import { type PayerService, type ReviewedPayer, reviewed } from '../../core/fees/review';
import { dateField, idField } from '../../core/fields';
import type { Cents } from '../../core/money';
import { type Context, Refused, allow } from '../access';
import { inFacility } from '../estimates/door';
import { parseInput } from '../input';

/** What is asked of a review. */
export const reviewAsked = z.object({
  from: dateField.optional(),
  to: dateField.optional(),
  /** A raise of all that is allowed, in percent as typed. */
  raise: z
    .string()
    .trim()
    .regex(/^\d{1,2}([.,]\d{1,2})?$/, 'is a percentage such as 3.5')
    .default('3'),
  /** A schedule that the payers would go by instead. */
  scheduleId: idField.optional(),
});

/** A review as it is shown. */
export interface Review {
  from: CalendarDate;
  to: CalendarDate;
  /** In hundredths of a percent. */
  share: number;
  schedule: { id: number; name: string } | null;
  schedules: { id: number; name: string }[];
  payers: ReviewedPayer[];
}

/** What payers did with each service of which they were the first payer, by the day of the service. One query. */
export async function payerServices(
  context: Context,
  from: CalendarDate,
  to: CalendarDate,
): Promise<PayerService[]> {
  const { rows } = await sql<PayerService>`
    with version as (
      select fee_schedule_id, code, amount, coalesce(facility_amount, amount) as facility,
        coalesce(valid_from::date, '-infinity'::date) as since,
        coalesce(
          lead(valid_from::date) over (partition by fee_schedule_id, code order by valid_from nulls first),
          'infinity'::date
        ) as until
      from fee
    ),
    line as (
      select c.id, m.payer_id, c.code, c.units, c.coverage_id, c.billed, c.tax_billed, c.tax, m.sent_date,
        o.amount * c.units as office,
        case when ${inFacility(sql`c.case_id`, sql`c.location_id`)} then n.facility else n.amount end * c.units as contract
      from charge c
        join claim_line l on l.charge_id = c.id and l.coverage_id = c.coverage_id and l.bills
        join claim m on m.id = l.claim_id
        join location w on w.id = c.location_id
        join coverage_plan p on p.id = c.coverage_id
        join insurance_plan i on i.id = p.insurance_plan_id
        left join version o on o.fee_schedule_id = coalesce(
          w.fee_schedule_id, (select id from fee_schedule where standard)
        )
          and o.code = c.code
          and c.service_date::date >= o.since
          and c.service_date::date < o.until
        left join version n on i.contracted
          and n.fee_schedule_id = i.fee_schedule_id
          and n.code = c.code
          and c.service_date::date >= n.since
          and c.service_date::date < n.until
      where c.status = 'done'
        and c.kind = 'service'
        and c.service_date between ${from}::date and ${to}::date
        and m.status not in ('draft', 'ready', 'held', 'withdrawn')
    ),
    word as (
      select p.charge_id,
        coalesce(sum(p.amount) filter (where a.class = 'cash' or p.account = 'credit/payer'), 0) as paid,
        coalesce(
          sum(p.amount) filter (
            where p.account = 'receivable/patient' or p.account = 'receivable/payer' and p.coverage_id <> x.coverage_id
          ), 0
        ) as passed_on,
        coalesce(sum(p.amount) filter (where a.part = 'reduced'), 0) as reduced,
        coalesce(-sum(p.amount) filter (where p.account = 'receivable/payer' and p.reason_group is not null), 0) as
          refused,
        max(e.business_date) as decided_on
      from line x
        join posting p on p.charge_id = x.id
        join claim m on m.id = p.claim_id and m.coverage_id = x.coverage_id
        join entry e on e.id = p.entry_id
        join book_account a on a.code = p.account
      where p.remittance_claim_id is not null or p.provider_adjustment_id is not null
      group by p.charge_id
    ),
    said as (
      select x.*, w.paid,
        -- Refused, or taken off whole: nothing is allowed. What was taken back and waits for a new word says nothing.
        w.paid + w.passed_on <= 0 and (w.refused > 0 or w.reduced > 0) as denied,
        w.paid + w.passed_on - case when x.tax_billed then least(x.tax, w.paid + w.passed_on) else 0 end as allowed,
        w.paid + w.passed_on > 0 as accepted, case when w.paid + w.passed_on > 0 or w.refused > 0 or w.reduced > 0
          then w.decided_on::date - x.sent_date::date end as days
      from line x
        left join word w on w.charge_id = x.id
    )
    select payer_now(d.payer_id) as "payerId", max(y.name) as payer, d.code, max(s.description) as description,
      count(*) as lines, count(*) filter (where d.denied) as denied,
      coalesce(sum(d.billed) filter (where d.denied), 0)::bigint as "deniedAmount",
      count(*) filter (where d.accepted) as answered, coalesce(sum(d.units) filter (where d.accepted), 0) as units,
      coalesce(sum(coalesce(d.office, d.billed)) filter (where d.accepted), 0)::bigint as office,
      coalesce(sum(d.contract) filter (where d.accepted), 0)::bigint as contract,
      coalesce(sum(d.units) filter (where d.accepted and d.contract is not null), 0) as "contractUnits",
      coalesce(sum(d.allowed) filter (where d.accepted), 0)::bigint as allowed,
      coalesce(sum(d.paid) filter (where d.accepted), 0)::bigint as paid,
      count(*) filter (where d.accepted and d.allowed < d.contract) as below,
      coalesce(sum(d.contract - d.allowed) filter (where d.accepted and d.allowed < d.contract), 0)::bigint as
        "belowAmount",
      coalesce(sum(d.days) filter (where d.days >= 0), 0) as days, count(d.days) filter (where d.days >= 0) as "daysOf"
    from said d
      join payer y on y.id = payer_now(d.payer_id)
      join service_code s on s.code = d.code
    group by payer_now(d.payer_id), d.code
    order by payer_now(d.payer_id), d.code`.execute(context.db);
  return rows;
}

/** A percentage as typed in hundredths of a percent. */
const shareTyped = (text: string): number => Math.round(Number(text.replace(',', '.')) * 100);

/** Reads the review of a period, the last year where none is said. */
export async function readReview(context: Context, input: z.input<typeof reviewAsked>): Promise<Review> {
  allow(context, 'read books');
  const asked = parseInput(reviewAsked, input);
  const to = asked.to ?? context.today;
  const from = asked.from ?? addDays(addMonths(to, -12), 1);
  if (from > to) throw new Refused('date', 'It begins after it ends', 'from');
  const share = shareTyped(asked.raise);
  const [all, schedules] = await Promise.all([
    payerServices(context, from, to),
    context.db
      .selectFrom('fee_schedule')
      .select(['id', 'name'])
      .where('kind', '=', 'contract')
      .orderBy('name')
      .execute(),
  ]);
  const schedule = schedules.find(({ id }) => id === asked.scheduleId) ?? null;
  if (asked.scheduleId !== undefined && !schedule) throw new Refused('unknown', 'There is no such schedule');
  const other = schedule
    ? (
        await sql<{ code: string; fee: Cents | null }>`
          select code, fee_on(${schedule.id}, code, ${to}::date) as fee
          from (select distinct code from fee where fee_schedule_id = ${schedule.id}) f`.execute(context.db)
      ).rows
    : null;
  return {
    from,
    to,
    share,
    schedule,
    schedules,
    payers: reviewed(all, {
      share,
      other: other && new Map(other.flatMap(({ code, fee }) => (fee === null ? [] : [[code, fee] as const]))),
    }),
  };
}
