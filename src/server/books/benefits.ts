/** What coverages give on a day by their rules, and what of it was used, as it is counted with the books. */
import { sql } from 'kysely';
import { type CalendarDate, yearStart } from '../../core/calendar';
import { type BenefitRule, type Decided, termsOf, usedOf } from '../../core/estimates/benefits';
import type { Rule } from '../../core/estimates/rules';
import type { Cents } from '../../core/money';
import type { Db } from '../../db/connect';

/** A coverage on a day. */
export interface CoverageDay {
  coverageId: number;
  day: CalendarDate;
}
/** It, as a key. */
export const coverageDay = ({ coverageId, day }: CoverageDay): string => `${coverageId}|${day}`;

/** What a coverage gives on a day, and what is used of it. Amounts in cents. */
export interface Benefits {
  rules: Rule[];
  /** The first day of the coverage, null from the beginning. */
  begins: CalendarDate | null;
  /** What of a rule is used in the period that began on a day: cents, or how many. */
  used(rule: Rule, from: CalendarDate, tooth: string): number;
  /** What counted before, for what looks back over months. */
  earlier: Decided[];
}

const NOTHING: BenefitRule[] = [];

/** Whether a rule is counted by person, calendar year and kind, as counters are kept. */
const isKept = (rule: Rule): boolean =>
  (rule.kind === 'deductible' || (rule.kind === 'limit' && rule.measure === 'money' && !rule.byTooth)) &&
  rule.holder === 'person' &&
  !rule.scope?.category &&
  !rule.scope?.codes &&
  rule.period.every === 'year' &&
  !rule.period.anchor;
const counts = (rule: Rule): boolean => 'period' in rule && !isKept(rule);

/** What payers have decided under policies, by policy; the person of each charge beside it. */
async function decidedUnder(
  db: Db,
  policyIds: readonly number[],
): Promise<Map<number, (Omit<Decided, 'own'> & { patientId: number })[]>> {
  const found = new Map<number, (Omit<Decided, 'own'> & { patientId: number })[]>();
  if (policyIds.length === 0) return found;
  const { rows } = await sql<Omit<Decided, 'own'> & { policyId: number; patientId: number }>`
    select o.policy_id as "policyId", k.patient_id as "patientId", c.code, s.category, c.service_date as day, c.tooth, c.units,
      coalesce(sum(u.quantity) filter (where u.kind = 'maximum'), 0) as paid,
      coalesce(sum(u.quantity) filter (where u.kind = 'deductible'), 0) as deductible,
      coalesce(sum(u.quantity) filter (where u.kind = 'out-of-pocket'), 0) as "outOfPocket"
    from coverage o
      join care_case k on k.id = o.case_id
      join benefit_use u on u.coverage_id = o.id
      join charge c on c.id = u.charge_id
      join service_code s on s.code = c.code
    where o.policy_id = any(${[...policyIds]}::bigint[])
    group by o.policy_id, k.patient_id, c.id, s.category
    having bool_or(u.quantity <> 0)
    order by c.service_date, c.id`.execute(db);
  for (const { policyId, ...one } of rows) found.set(policyId, [...(found.get(policyId) ?? []), one]);
  return found;
}

/**
 * What coverages give on days by the rules of their plans, policies and own, and what payers have decided to be used of it, in whatever
 * case, order and under whatever member number. Four queries at most.
 * @returns by {@link coverageDay}
 */
export async function benefitsOf(db: Db, asks: readonly CoverageDay[]): Promise<Map<string, Benefits>> {
  if (asks.length === 0) return new Map();
  const { rows: coverages } = await sql<{
    id: number;
    policyId: number;
    planId: number;
    patientId: number;
    begins: CalendarDate | null;
  }>`
    select c.id, c.policy_id as "policyId", c.insurance_plan_id as "planId", k.patient_id as "patientId",
      c.valid_from as begins
    from coverage_plan c
      join care_case k on k.id = c.case_id
    where c.id = any(${[...new Set(asks.map(({ coverageId }) => coverageId))]}::bigint[])`.execute(db);
  const of = (key: 'id' | 'policyId' | 'planId' | 'patientId') => [
    ...new Set(coverages.map((row) => row[key])),
  ];
  const rule = sql`
    r.kind, r.category, r.codes, r.valid_from as "validFrom", r.share, r.amount, r.quantity, r.measure, r.holder, r.every,
    r.months, r.anchor, r.renews, r.by_tooth as "byTooth", r.counted_for as "countedFor", r.copay_order as "copayOrder",
    r.then_pays as "thenPays", r.warning, r.age_from as "ageFrom", r.age_through as "ageThrough", r.paid_as as "paidAs",
    r.modifier, r.shares`;
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
  const kept = new Map(
    counters.map((row) => [`${row.policyId} ${row.patientId} ${row.kind} ${row.from}`, row.quantity]),
  );
  const byId = new Map(coverages.map((row) => [row.id, row]));
  const inForce = new Map(
    asks.map((ask) => {
      const { id, policyId, planId } = byId.get(ask.coverageId)!;
      const said = [`plan ${planId}`, `policy ${policyId}`, `coverage ${id}`];
      const own = said.flatMap((owner) => byOwner.get(owner) ?? NOTHING);
      return [coverageDay(ask), termsOf(own, ask.day)] as const;
    }),
  );
  // Only what is counted otherwise than by person and calendar year asks for each charge.
  const counted = asks.filter((ask) => inForce.get(coverageDay(ask))!.some(counts));
  const decided = await decidedUnder(db, [
    ...new Set(counted.map(({ coverageId }) => byId.get(coverageId)!.policyId)),
  ]);
  return new Map(
    asks.map((ask) => {
      const { policyId, patientId, begins } = byId.get(ask.coverageId)!;
      const all = (decided.get(policyId) ?? []).map(({ patientId: whose, ...one }) => ({
        ...one,
        own: whose === patientId,
      }));
      const used: Benefits['used'] = (one, from, tooth) => {
        if (!('period' in one)) return 0;
        if (!isKept(one)) return usedOf(one, from, tooth, all, begins);
        const kind = one.kind === 'limit' ? 'maximum' : one.kind;
        return kept.get(`${policyId} ${patientId} ${kind} ${from}`) ?? 0;
      };
      const key = coverageDay(ask);
      return [key, { rules: inForce.get(key)!, begins, used, earlier: all.filter(({ own }) => own) }];
    }),
  );
}
