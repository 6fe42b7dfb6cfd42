/** Estimates from the tables: coverages with their terms, schedules and what was used, and the open charges of a case. */
import { type NotNull, sql } from 'kysely';
import { type ChargeEstimate, type EstimateCoverage, estimate } from '../../core/estimates/estimate';
import { estimateInput } from '../../core/accounts/input';
import type { CalendarDate } from '../../core/calendar';
import { type BasisPoints, type Cents, ZERO, parseMoney } from '../../core/money';
import type { Db } from '../../db/connect';
import { type Context, Refused, allow } from '../access';
import { benefitsUsed } from '../books/balances';
import { parseInput } from '../input';

/** A coverage as the estimate needs it, with its row. */
export interface CaseCoverage extends EstimateCoverage {
  coverageId: number;
}

/** The coverages of a case in their order: terms, schedule, and what decided claims have used in the year of a day. */
export async function estimateCoverages(db: Db, caseId: number, day: CalendarDate): Promise<CaseCoverage[]> {
  const rows = await db
    .selectFrom('coverage as c')
    .innerJoin('plan', 'plan.id', 'c.plan_id')
    .innerJoin('payer', 'payer.id', 'plan.payer_id')
    .leftJoinLateral(
      (eb) =>
        eb
          .selectFrom('plan_terms as t')
          .select(['t.deductible', 't.deductible_waived', 't.copay', 't.copay_per', 't.maximum'])
          .whereRef('t.plan_id', '=', 'plan.id')
          .where(sql<boolean>`(t.valid_from is null or t.valid_from <= ${day}::date)`)
          .orderBy(sql`t.valid_from desc nulls last`)
          .limit(1)
          .as('terms'),
      (join) => join.onTrue(),
    )
    .select([
      'plan.contracted',
      'plan.coordination',
      'plan.fee_schedule_id',
      'terms.deductible',
      'terms.deductible_waived',
      'terms.copay',
      'terms.copay_per',
      'terms.maximum',
      'c.id as coverage_id',
      'payer.name as payer_name',
      sql<Record<string, BasisPoints>>`shares_on(plan.id, ${day}::date)`.as('percentages'),
    ])
    .where('c.case_id', '=', caseId)
    .where(sql<boolean>`daterange(c.valid_from, c.valid_to, '[]') @> ${day}::date`)
    .orderBy('c.position')
    .execute();
  const schedules = rows.flatMap((row) => row.fee_schedule_id ?? []);
  const [fees, used] = await Promise.all([
    schedules.length === 0
      ? []
      : db
          .selectFrom('fee')
          .distinctOn(['fee_schedule_id', 'code'])
          .select(['fee_schedule_id', 'code', 'amount'])
          .where('fee_schedule_id', 'in', schedules)
          .where(sql<boolean>`(valid_from is null or valid_from <= ${day}::date)`)
          .orderBy('fee_schedule_id')
          .orderBy('code')
          .orderBy(sql`valid_from desc nulls last`)
          .execute(),
    benefitsUsed(
      db,
      rows.map((row) => row.coverage_id),
      day,
    ),
  ]);
  const schedule = new Map(fees.map((fee) => [`${fee.fee_schedule_id}|${fee.code}`, fee.amount]));
  return rows.map((row) => ({
    coverageId: row.coverage_id,
    payer: row.payer_name,
    terms: {
      contracted: row.contracted,
      percentages: row.percentages,
      deductible: row.deductible ?? ZERO,
      deductibleWaived: row.deductible_waived ?? [],
      copay: row.copay ?? ZERO,
      copayPer: row.copay_per ?? 'visit',
      maximum: row.maximum,
      coordination: row.coordination,
    },
    used: used.get(row.coverage_id) ?? { paid: ZERO, deductible: ZERO },
    allowedFee: (code) => schedule.get(`${row.fee_schedule_id}|${code}`) ?? null,
  }));
}

/** A service that is not a charge yet. `fee` in cents for all units. */
interface Typed {
  code: string;
  units: number;
  fee: Cents;
  date: CalendarDate;
}

/** Estimates services that are not yet decided: open charges of a case, in date order, and one that is being typed (id 0). */
export async function estimateOpen(
  context: Context,
  caseId: number,
  typed: Typed | null,
): Promise<ChargeEstimate[]> {
  allow(context, 'read accounts');
  const rows = await context.db
    .selectFrom('charge')
    .innerJoin('service_code as s', 's.code', 'charge.code')
    .innerJoin('charge_balance as b', 'b.charge_id', 'charge.id')
    .select([
      'charge.id',
      'charge.code',
      's.category',
      'charge.units',
      'charge.fee',
      'charge.service_date as visit',
    ])
    .where('charge.case_id', '=', caseId)
    .where('charge.status', '=', 'done')
    .where('b.with_payer', '>', ZERO)
    .whereRef('b.with_payer', '=', 'b.fee')
    .orderBy('charge.service_date')
    .orderBy('charge.id')
    .limit(200)
    .$narrowType<{ code: NotNull }>()
    .execute();
  const charges: { id: number; code: string; category: string; units: number; fee: Cents; visit: string }[] =
    rows;
  if (typed) {
    const service = await context.db
      .selectFrom('service_code')
      .select('category')
      .where('code', '=', typed.code)
      .executeTakeFirst();
    if (!service) throw new Refused(`Code ${typed.code} is not in the list of services`, 'code');
    const { code, units, fee, date } = typed;
    charges.push({ id: 0, code, category: service.category, units, fee, visit: date });
  }
  return estimate(charges, await estimateCoverages(context.db, caseId, typed?.date ?? context.today));
}

/** Estimates a service that is being typed. @returns null while its fee is no amount */
export async function estimateTyped(context: Context, input: unknown): Promise<ChargeEstimate | null> {
  const data = parseInput(estimateInput, input);
  const fee = parseMoney(data.fee);
  if (fee === null) return null;
  const found = await estimateOpen(context, data.caseId, { ...data, fee });
  return found.find((item) => item.id === 0) ?? null;
}
