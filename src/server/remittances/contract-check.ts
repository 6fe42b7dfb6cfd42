/**
 * The contract check: lines that a first payer allowed otherwise than its contract says, with what it should have paid, the likeliest
 * cause, what was asked for by letter and what came of it.
 */
import { sql } from 'kysely';
import { z } from 'zod';
import { DECIDED } from '../../core/claims/life';
import { type CalendarDate, addDays, addMonths } from '../../core/calendar';
import { dateField, idField } from '../../core/fields';
import { type Cents, sum } from '../../core/money';
import {
  type CauseGroup,
  type CheckedLine,
  type DecidedLine,
  type KnownFee,
  byCause,
  checkedLine,
} from '../../core/remittances/contract-check';
import type { Db } from '../../db/connect';
import { type Context, Refused, allow } from '../access';
import { claimIn } from '../claim-states';
import { isClosed } from '../closed';
import { inFacility } from '../estimates/door';
import { parseInput } from '../input';

/** Which differences are looked at: allowed below the contract, above it, or those that somebody let be. */
export const SIDES = ['short', 'over', 'let-be'] as const;
/** A side. */
export type Side = (typeof SIDES)[number];

/** What is asked of a check: services of which days, of which payer, which side. */
export const contractCheckAsked = z.object({
  from: dateField.optional(),
  to: dateField.optional(),
  payerId: idField.optional(),
  side: z.enum(SIDES).default('short'),
});

/** A line of the check. Of a household that is closed to who asks, its amounts alone are known. */
export interface ContractLine extends CheckedLine {
  chargeId: number;
  coverageId: number;
  claimId: number;
  claim: string;
  payerClaim: string;
  payer: string;
  householdId: number;
  account: string;
  patient: string;
  memberId: string;
  closed: boolean;
  /** The last letter that asked for it, with its day; null where none did. */
  letterId: number | null;
  askedOn: CalendarDate | null;
  /** Why it is let be; empty where it is not. */
  letBe: string;
}

/** A payer's groups, the largest first. Sums in cents. */
export interface CheckedPayer {
  payerId: number;
  payer: string;
  lines: number;
  difference: Cents;
  owed: Cents;
  groups: CauseGroup<ContractLine>[];
}

/** A check as it is shown. */
export interface ContractCheck {
  from: CalendarDate;
  to: CalendarDate;
  side: Side;
  payerId: number | null;
  /** All payers that have a contract, to choose one. */
  known: { id: number; name: string }[];
  payers: CheckedPayer[];
}

type Row = DecidedLine & Omit<ContractLine, keyof CheckedLine> & { scheduleId: number; facility: boolean };

/**
 * Lines of standing decisions that differ from the contract by more than their payer's tolerance. Allowed is what is left after what
 * the payer took off, but for the sequestration, and what it paid on top of that. One query.
 */
async function differing(
  context: Context,
  asked: { from: CalendarDate; to: CalendarDate; payerId: number | null },
): Promise<Row[]> {
  const passed = sql`
    (p.account = 'receivable/patient' or p.account = 'receivable/payer' and p.coverage_id <> l.coverage_id)`;
  const { rows } = await sql<Row>`
    select l.charge_id as "chargeId", l.coverage_id as "coverageId", m.id as "claimId", m.control_number as claim,
      m.payer_claim_number as "payerClaim", y.id as "payerId", y.name as payer, c.household_id as "householdId",
      h.number as account, t.last || ', ' || t.first as patient, coalesce(k.member_id, '') as "memberId",
      ${isClosed(context, sql`c.household_id`)} as closed, c.code, c.units, c.service_date as "serviceDate",
      c.billed as charge, case when c.tax_billed then c.tax else 0 end as tax, l.expected_allowed as expected,
      s.allowed, w.paid, w.sequestered, w.deductible, w.coinsurance, w.copay,
      w.passed - w.deductible - w.coinsurance - w.copay as "otherShare", n.fee_schedule_id as "scheduleId",
      ${inFacility(sql`c.case_id`, sql`c.location_id`)} as facility, a.letter_id as "letterId", a.date as "askedOn",
      coalesce(e.why, '') as "letBe"
    from charge c
      join claim_line l on l.charge_id = c.id and l.bills and not l.left_out and l.expected_allowed is not null
      join payer_balance b on b.charge_id = c.id and b.coverage_id = l.coverage_id
      join claim m on m.id = l.claim_id and ${claimIn(sql`m.status`, DECIDED)}
      join covered k on k.id = l.coverage_id and k.position = 1
      join insurance_plan n on n.id = k.insurance_plan_id
      join payer y on y.id = payer_now(m.payer_id)
      join household h on h.id = c.household_id
      join patient t on t.id = c.patient_id
      cross join lateral (
        select coalesce(sum(p.amount) filter (where r.class = 'cash' or p.account = 'credit/payer'), 0)::bigint as paid,
          coalesce(
            sum(p.amount) filter (where r.part = 'reduced' and p.reason_code is distinct from '253'), 0
          )::bigint as reduced,
          coalesce(sum(p.amount) filter (where r.part = 'reduced' and p.reason_code = '253'), 0)::bigint as sequestered,
          coalesce(sum(p.amount) filter (where ${passed}), 0)::bigint as passed,
          coalesce(sum(p.amount) filter (where ${passed} and p.reason_code = '1'), 0)::bigint as deductible,
          coalesce(sum(p.amount) filter (where ${passed} and p.reason_code = '2'), 0)::bigint as coinsurance,
          coalesce(sum(p.amount) filter (where ${passed} and p.reason_code = '3'), 0)::bigint as copay
        from posting p
          join book_account r on r.code = p.account
          join claim x on x.id = p.claim_id
        where p.charge_id = c.id
          and x.coverage_id = l.coverage_id
          and (p.remittance_claim_id is not null or p.provider_adjustment_id is not null)
      ) w
      cross join lateral (
        select (
          c.billed - w.reduced + greatest(0, w.paid + w.sequestered + w.passed + w.reduced - c.billed)
        )::bigint as allowed
      ) s
      left join lateral (
        select o.letter_id, q.date
        from contract_letter_line o
          join contract_letter q on q.id = o.letter_id
        where o.charge_id = c.id and o.coverage_id = l.coverage_id
        order by o.letter_id desc
        limit 1
      ) a on true
      left join contract_let_be e on e.charge_id = c.id and e.coverage_id = l.coverage_id and e.ended_on is null
    where c.service_date between ${asked.from}::date and ${asked.to}::date
      and c.status = 'done'
      and c.kind = 'service'
      -- What was taken off comes to the contract, and nothing was paid beyond: most lines are no more looked at.
      and (c.billed - b.reduced <> l.expected_allowed or b.with_payer < 0)
      and ${asked.payerId === null ? sql`true` : sql`y.id = ${asked.payerId}`}
      -- Refused, or taken back and not said anew: nothing is allowed.
      and w.paid + w.passed + w.sequestered > 0
      and abs(s.allowed - l.expected_allowed) > y.short_tolerance
      -- What the payer put together with another line of its claim is compared as a whole when it is posted.
      and not exists (
        select
        from claim_line z
          join posting p on p.charge_id = z.charge_id and p.reason_code = '97' and p.remittance_claim_id is not null
          join book_account r on r.code = p.account and r.part = 'reduced'
        where z.claim_id = m.id
        having sum(p.amount) <> 0
      )
    order by c.service_date, c.id`.execute(context.db);
  return rows;
}

/** The fees that schedules of contracts have, or had, for some codes. */
async function feesOf(
  db: Db,
  codes: readonly string[],
): Promise<
  {
    scheduleId: number;
    schedule: string;
    code: string;
    amount: Cents;
    facility: Cents;
    since: CalendarDate | null;
    until: CalendarDate | null;
  }[]
> {
  if (codes.length === 0) return [];
  const { rows } = await sql<{
    scheduleId: number;
    schedule: string;
    code: string;
    amount: Cents;
    facility: Cents;
    since: CalendarDate | null;
    next: CalendarDate | null;
  }>`
    select f.fee_schedule_id as "scheduleId", s.name as schedule, f.code, f.amount,
      coalesce(f.facility_amount, f.amount) as facility, f.valid_from as since,
      lead(f.valid_from) over (partition by f.fee_schedule_id, f.code order by f.valid_from nulls first) as next
    from fee f
      join fee_schedule s on s.id = f.fee_schedule_id and s.kind = 'contract'
    where f.code = any(${[...codes]}::text[])
    order by s.name, f.valid_from nulls first`.execute(db);
  return rows.map(({ next, ...fee }) => ({ ...fee, until: next === null ? null : addDays(next, -1) }));
}

/** Lines that differ from the contract, each with what it should have been paid and why it was not. */
export async function readContractLines(
  context: Context,
  asked: { from: CalendarDate; to: CalendarDate; payerId: number | null },
): Promise<ContractLine[]> {
  const rows = await differing(context, asked);
  const all = await feesOf(context.db, [...new Set(rows.map(({ code }) => code))]);
  const byCode = new Map<string, typeof all>();
  for (const fee of all) byCode.set(fee.code, [...(byCode.get(fee.code) ?? []), fee]);
  return rows.map(({ scheduleId, facility, ...line }) => {
    const fees = (byCode.get(line.code) ?? []).flatMap((fee): KnownFee[] => {
      const own = fee.scheduleId === scheduleId;
      const { schedule, since, until } = fee;
      const known = { schedule, own, since, until };
      const [here, there] = facility ? [fee.facility, fee.amount] : [fee.amount, fee.facility];
      return [
        { ...known, amount: here, elsewhere: false },
        ...(here === there ? [] : [{ ...known, amount: there, elsewhere: true }]),
      ];
    });
    return {
      ...checkedLine(line, fees),
      ...(line.closed
        ? { householdId: 0, claimId: 0, account: '', patient: '', memberId: '', claim: '', payerClaim: '' }
        : {}),
    };
  });
}

/** Whether a line stands on a side. */
export const isOf = ({ letBe, allowed, expected }: ContractLine, side: Side): boolean =>
  side === 'let-be' ? letBe !== '' : letBe === '' && (side === 'short') === allowed < expected;

/** The days of a check: the services of the last year where none are said. @throws Refused where it ends before it begins */
function daysOf(context: Context, asked: { from?: CalendarDate | undefined; to?: CalendarDate | undefined }) {
  const to = asked.to ?? context.today;
  const from = asked.from ?? addDays(addMonths(to, -12), 1);
  if (from > to) throw new Refused('date', 'It begins after it ends', 'from');
  return { from, to };
}

/** Reads the contract check, by payer and cause, the most at stake first. */
export async function readContractCheck(
  context: Context,
  input: z.input<typeof contractCheckAsked>,
): Promise<ContractCheck> {
  allow(context, 'read remittances');
  const asked = parseInput(contractCheckAsked, input);
  const { from, to } = daysOf(context, asked);
  const payerId = asked.payerId ?? null;
  const [lines, known] = await Promise.all([
    readContractLines(context, { from, to, payerId }),
    context.db
      .selectFrom('payer as y')
      .select(['y.id', 'y.name'])
      .where('y.merged_into', 'is', null)
      .where(({ exists, selectFrom }) =>
        exists(
          selectFrom('insurance_plan as n')
            .select('n.id')
            .whereRef('n.payer_id', '=', 'y.id')
            .where('n.contracted', '=', true),
        ),
      )
      .orderBy('y.name')
      .execute(),
  ]);
  const groups = byCause(lines.filter((line) => isOf(line, asked.side)));
  const payers = [...new Set(groups.map((group) => group.payerId))]
    .map((id): CheckedPayer => {
      const found = groups.filter((group) => group.payerId === id);
      return {
        payerId: id,
        payer: found[0]!.lines[0]!.payer,
        lines: found.reduce((all, group) => all + group.lines.length, 0),
        difference: sum(found.map(({ difference }) => difference)),
        owed: sum(found.map(({ owed }) => owed)),
        groups: found,
      };
    })
    .toSorted((a, b) => Math.abs(b.difference) - Math.abs(a.difference) || a.payerId - b.payerId);
  return { from, to, side: asked.side, payerId, known, payers };
}
