/** A reason code: what Setup says of it, where that shows, how often payers gave it, for how much, and how it ended. */
import { sql } from 'kysely';
import { z } from 'zod';
import { type CalendarDate, addDays, addMonths } from '../../core/calendar';
import { dateField } from '../../core/fields';
import type { Cents } from '../../core/money';
import type { ReasonRow } from '../../core/remittances/reason-words';
import { type Context, Refused, allow } from '../access';
import { parseInput } from '../input';

/** What is asked: a code, and given by payers on which days; in the last year where none are said. */
export const reasonAsked = z.object({
  code: z
    .string()
    .trim()
    .toUpperCase()
    .regex(/^[A-Z0-9]{1,5}$/, 'is a code of up to five letters and digits'),
  from: dateField.optional(),
  to: dateField.optional(),
});

/**
 * How often a payer gave it under a group and for how much; what of it was taken off, passed on, and of what it refused what came
 * after: paid all the same, given up by us, put to the patient or the next payer, or waiting. Amounts in cents.
 */
export interface ReasonUse {
  group: string;
  payerId: number;
  payer: string;
  lines: number;
  amount: Cents;
  takenOff: Cents;
  passedOn: Cents;
  waits: Cents;
  paid: Cents;
  givenUp: Cents;
  patients: Cents;
  nexts: Cents;
  followUps: number;
}

/** A code whole. */
export interface ReasonPage {
  code: string;
  from: CalendarDate;
  to: CalendarDate;
  rows: ReasonRow[];
  uses: ReasonUse[];
}

/** Reads a code with its uses of some days, by group and payer. @throws Refused where nobody knows it */
export async function readReason(context: Context, input: z.input<typeof reasonAsked>): Promise<ReasonPage> {
  allow(context, 'read remittances');
  const asked = parseInput(reasonAsked, input);
  const to = asked.to ?? context.today;
  const from = asked.from ?? addDays(addMonths(to, -12), 1);
  if (from > to) throw new Refused('date', 'It begins after it ends', 'from');
  const { code } = asked;
  const [rows, uses] = await Promise.all([
    context.db
      .selectFrom('reason_code as r')
      .innerJoin('book_account as a', 'a.code', 'r.reduction_account')
      .select([
        'r.group_code as group',
        'r.words',
        'r.patient_words as patientWords',
        'r.denial',
        'r.follow_up as followUp',
        sql<string>`coalesce(r.follow_up_owner, '')`.as('owner'),
        'r.follow_up_days as days',
        'a.words as account',
        sql<boolean>`r.reduction_account = 'reduction/contract'`.as('contract'),
        'r.travels_as as travelsAs',
        'r.standard',
        'r.valid_from as validFrom',
        'r.valid_to as validTo',
      ])
      .where('r.code', '=', code)
      .orderBy(sql`r.group_code <> '*'`)
      .orderBy('r.group_code')
      .execute(),
    usesOf(context, code, from, to),
  ]);
  if (rows.length === 0 && uses.length === 0)
    throw new Refused('unknown', `No reason ${code} is in Setup, and no payer gave one`);
  return { code, from, to, rows, uses };
}

async function usesOf(
  context: Context,
  code: string,
  from: CalendarDate,
  to: CalendarDate,
): Promise<ReasonUse[]> {
  const { rows } = await sql<ReasonUse>`
    with given as (
      select p.reason_group, p.charge_id, m.coverage_id, payer_now(max(m.payer_id)) as payer_id,
        -- Out of what waits with the payer: all of it, whatever became of it then.
        -sum(p.amount) filter (where p.account = 'receivable/payer' and p.coverage_id = m.coverage_id) as amount,
        coalesce(sum(p.amount) filter (where a.part = 'reduced'), 0) as taken_off,
        coalesce(
          sum(p.amount) filter (
            where p.account = 'receivable/patient' or p.account = 'receivable/payer' and p.coverage_id <> m.coverage_id
          ), 0
        ) as passed_on
      from posting p
        join entry e on e.id = p.entry_id
        join claim m on m.id = p.claim_id
        join book_account a on a.code = p.account
      where p.reason_code = ${code}
        and p.charge_id is not null
        and p.remittance_claim_id is not null
      group by p.reason_group, p.charge_id, m.coverage_id
      -- A word that was taken back or said anew counts by its first day.
      having min(e.business_date) between ${from}::date and ${to}::date
    ),
    standing as (
      -- What was taken back is nothing.
      select g.*, g.amount - g.taken_off - g.passed_on as refused, coalesce(b.with_payer, 0) as with_payer,
        coalesce(b.paid, 0) as paid
      from given g
        left join payer_balance b on b.charge_id = g.charge_id and b.coverage_id = g.coverage_id
      where g.amount <> 0
    ),
    ended as (
      select s.*, least(s.refused, greatest(s.with_payer, 0)) as waits,
        (
          select e.kind
          from posting p
            join entry e on e.id = p.entry_id
          where p.charge_id = s.charge_id
            and p.coverage_id = s.coverage_id
            and p.account = 'receivable/payer'
            and e.kind in ('write-off', 'to-patient', 'to-next-payer')
            and not exists (select from entry r where r.reverses = e.id)
          order by e.id desc
          limit 1
        ) as ours
      from standing s
    )
    select d.reason_group as "group", d.payer_id as "payerId", y.name as payer, count(*) as lines,
      sum(d.amount)::bigint as amount, sum(d.taken_off)::bigint as "takenOff", sum(d.passed_on)::bigint as "passedOn",
      sum(d.waits)::bigint as waits,
      coalesce(sum(d.refused - d.waits) filter (where d.ours is null), 0)::bigint as paid,
      coalesce(sum(d.refused - d.waits) filter (where d.ours = 'write-off'), 0)::bigint as "givenUp",
      coalesce(sum(d.refused - d.waits) filter (where d.ours = 'to-patient'), 0)::bigint as patients,
      coalesce(sum(d.refused - d.waits) filter (where d.ours = 'to-next-payer'), 0)::bigint as nexts,
      (
        select count(*)
        from follow_up f
        where f.closed_at is null
          and f.kind in ('denial', 'reason')
          and (f.charge_id, f.coverage_id) in (
            select x.charge_id, x.coverage_id
            from standing x
            where x.reason_group = d.reason_group and x.payer_id = d.payer_id
          )
      ) as "followUps"
    from ended d
      join payer y on y.id = d.payer_id
    group by d.reason_group, d.payer_id, y.name
    order by sum(d.amount) desc, y.name, d.reason_group`.execute(context.db);
  return rows;
}
