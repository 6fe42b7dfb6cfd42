/** What coverages give on a day by their rules, and what of it was used, as it is counted with the books. */
import { sql } from 'kysely';
import { type CalendarDate, yearStart } from '../../core/calendar';
import { type BenefitRule, termsOf } from '../../core/estimates/benefits';
import { type Cents, ZERO } from '../../core/money';
import type { Db } from '../../db/connect';

/** A coverage on a day. */
export interface CoverageDay {
  coverageId: number;
  day: CalendarDate;
}
/** It, as a key. */
export const coverageDay = ({ coverageId, day }: CoverageDay): string => `${coverageId}|${day}`;

/** What a coverage gives on a day, and what the person has used of it in the year of the day; amounts in cents. */
export interface Benefits {
  terms: ReturnType<typeof termsOf>;
  used: { deductible: Cents; paid: Cents };
}

const NOTHING: BenefitRule[] = [];

/**
 * What coverages give on days by the rules of their plans, policies and own, and what payers have decided to be used of it in the
 * year, in whatever case, order and under whatever member number. Three queries.
 * @returns by {@link coverageDay}
 */
export async function benefitsOf(db: Db, asks: readonly CoverageDay[]): Promise<Map<string, Benefits>> {
  if (asks.length === 0) return new Map();
  const { rows: coverages } = await sql<{ id: number; policyId: number; planId: number; patientId: number }>`
    select c.id, c.policy_id as "policyId", c.insurance_plan_id as "planId", k.patient_id as "patientId"
    from coverage_plan c
      join care_case k on k.id = c.case_id
    where c.id = any(${[...new Set(asks.map(({ coverageId }) => coverageId))]}::bigint[])`.execute(db);
  const of = (key: 'id' | 'policyId' | 'planId' | 'patientId') => [
    ...new Set(coverages.map((row) => row[key])),
  ];
  const rule = sql`
    r.kind, r.category, r.valid_from as "validFrom", r.share, r.amount, r.counted_for as "countedFor"`;
  const [{ rows: rules }, { rows: counters }] = await Promise.all([
    sql<BenefitRule & { ownerId: number }>`
      select 'plan' as owner, r.insurance_plan_id as "ownerId", ${rule}
      from benefit_rule r
      where r.insurance_plan_id = any(${of('planId')}::bigint[])
      union all
      select 'policy', r.policy_id, ${rule} from benefit_rule r where r.policy_id = any(${of('policyId')}::bigint[])
      union all
      select 'coverage', r.coverage_id, ${rule} from benefit_rule r where r.coverage_id = any(${of('id')}::bigint[])`.execute(
      db,
    ),
    sql<{ policyId: number; patientId: number; kind: string; from: CalendarDate; quantity: Cents }>`
      select policy_id as "policyId", patient_id as "patientId", kind, period_start as from, quantity
      from benefit_counter
      where policy_id = any(${of('policyId')}::bigint[])
        and patient_id = any(${of('patientId')}::bigint[])
        and period_start = any(${[...new Set(asks.map(({ day }) => yearStart(day)))]}::date[])`.execute(db),
  ]);
  const byOwner = new Map<string, BenefitRule[]>();
  for (const { ownerId, ...one } of rules) {
    const owner = `${one.owner} ${ownerId}`;
    byOwner.set(owner, [...(byOwner.get(owner) ?? []), one]);
  }
  const used = new Map(
    counters.map((row) => [`${row.policyId} ${row.patientId} ${row.kind} ${row.from}`, row.quantity]),
  );
  const byId = new Map(coverages.map((row) => [row.id, row]));
  return new Map(
    asks.map((ask) => {
      const { id, policyId, planId, patientId } = byId.get(ask.coverageId)!;
      const said = [`plan ${planId}`, `policy ${policyId}`, `coverage ${id}`];
      const terms = termsOf(
        said.flatMap((owner) => byOwner.get(owner) ?? NOTHING),
        ask.day,
      );
      const count = (kind: string): Cents =>
        used.get(`${policyId} ${patientId} ${kind} ${yearStart(ask.day)}`) ?? ZERO;
      return [coverageDay(ask), { terms, used: { deductible: count('deductible'), paid: count('maximum') } }];
    }),
  );
}
