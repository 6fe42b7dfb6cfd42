/** What coverages give on a day by their rules, and what of it was used, as it is counted with the books. */
import { sql } from 'kysely';
import { type CalendarDate, yearStart } from '../../core/calendar';
import { type BenefitRule, type Decided, termsOf, usedOf } from '../../core/estimates/benefits';
import { type Rule, periodStart } from '../../core/estimates/rules';
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
  /** The day by which the payer told what was used of a rule in the period that began on a day; null where it did not. */
  told(rule: Rule, from: CalendarDate): CalendarDate | null;
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

/** The columns of a rule `r` as the core knows it. */
const RULE_OF_R = sql`
    r.kind, r.category, r.codes, r.valid_from as "validFrom", r.share, r.amount, r.quantity, r.measure, r.holder,
    r.every, r.months, r.anchor, r.renews, r.by_tooth as "byTooth", r.counted_for as "countedFor",
    r.copay_order as "copayOrder", r.then_pays as "thenPays", r.warning, r.age_from as "ageFrom",
    r.age_through as "ageThrough", r.paid_as as "paidAs", r.modifier, r.shares`;

/** A rule as it is kept, with its row. */
export interface KeptRule extends BenefitRule {
  id: number;
}

/** All rules of a plan, and of one coverage of it and its policy, whenever they hold. */
export async function rulesOf(
  db: Db,
  { planId, coverageId }: { planId: number; coverageId: number | null },
): Promise<KeptRule[]> {
  const { rows } = await sql<KeptRule>`
    select r.id, case when r.coverage_id is not null then 'coverage' when r.policy_id is not null then 'policy'
        else 'plan' end as owner,
      ${RULE_OF_R}
    from benefit_rule r
    where r.insurance_plan_id = ${planId}
      or r.coverage_id = ${coverageId}::bigint
      or r.policy_id = (select policy_id from coverage where id = ${coverageId}::bigint)
    order by r.kind, r.category nulls first, r.codes, r.valid_from nulls first, r.id`.execute(db);
  return rows;
}

/** What a payer told of a rule: all that it had decided by a day. */
interface Told {
  policyId: number;
  patientId: number;
  rule: string;
  asOf: CalendarDate;
  quantity: number;
}

/** What payers told under policies, the last word of each day, the newest day first. */
async function toldUnder(db: Db, policyIds: readonly number[]): Promise<Told[]> {
  if (policyIds.length === 0) return [];
  const { rows } = await sql<Omit<Told, 'quantity'> & { quantity: number | null }>`
    select distinct on (policy_id, patient_id, rule, as_of) policy_id as "policyId", patient_id as "patientId", rule,
      as_of as "asOf", quantity
    from benefit_elsewhere
    where policy_id = any(${[...policyIds]}::bigint[])
    order by policy_id, patient_id, rule, as_of desc, id desc`.execute(db);
  return rows
    .flatMap(({ quantity, ...row }) => (quantity === null ? [] : [{ ...row, quantity }]))
    .sort((a, b) => (a.asOf < b.asOf ? 1 : -1));
}

/** What payers had decided under policies by a day, as {@link decidedUnder} has all of it; by policy and day. */
async function decidedBy(
  db: Db,
  told: readonly Told[],
): Promise<Map<string, (Omit<Decided, 'own'> & { patientId: number })[]>> {
  const found = new Map<string, (Omit<Decided, 'own'> & { patientId: number })[]>();
  if (told.length === 0) return found;
  const { rows } = await sql<
    Omit<Decided, 'own'> & { policyId: number; patientId: number; asOf: CalendarDate }
  >`
    select w.policy_id as "policyId", w.as_of as "asOf", k.patient_id as "patientId", c.code, s.category,
      c.service_date as day, c.tooth, c.units,
      coalesce(sum(p.amount) filter (where a.part = 'payer_paid'), 0)::bigint as paid,
      coalesce(-sum(p.amount) filter (where p.account = 'receivable/payer' and p.reason_group = 'PR' and p.reason_code = '1'),
        0)::bigint as deductible,
      coalesce(-sum(p.amount) filter (where p.account = 'receivable/payer' and p.reason_group = 'PR'
        and p.reason_code in ('1', '2', '3')), 0)::bigint as "outOfPocket"
    from (
      select distinct policy_id, as_of
      from unnest(
        ${told.map(({ policyId }) => policyId)}::bigint[], ${told.map(({ asOf }) => asOf)}::date[]
      ) t (policy_id, as_of)
    ) w
      join coverage o on o.policy_id = w.policy_id
      join care_case k on k.id = o.case_id
      join posting p on p.coverage_id = o.id and p.charge_id is not null
      join entry e on e.id = p.entry_id and e.business_date <= w.as_of
      join book_account a on a.code = p.account
      join charge c on c.id = p.charge_id
      join service_code s on s.code = c.code
    group by 1, 2, 3, c.id, s.category
    having sum(p.amount) filter (where a.part = 'payer_paid') <> 0
      or sum(p.amount) filter (where p.account = 'receivable/payer' and p.reason_group = 'PR'
        and p.reason_code in ('1', '2', '3')) <> 0`.execute(db);
  for (const { policyId, asOf, ...one } of rows) {
    const key = `${policyId} ${asOf}`;
    found.set(key, [...(found.get(key) ?? []), one]);
  }
  return found;
}

/**
 * What coverages give on days by the rules of their plans, policies and own, and what payers have decided to be used of it, in whatever
 * case, order and under whatever member number; what a payer told of it replaces what it had decided by that day. Six queries at most.
 * @param draft rules that are being said, in the place of what stands of the same word and day
 * @returns by {@link coverageDay}
 */
export async function benefitsOf(
  db: Db,
  asks: readonly CoverageDay[],
  draft: readonly BenefitRule[] = NOTHING,
): Promise<Map<string, Benefits>> {
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
  const [{ rows: rules }, { rows: counters }, told] = await Promise.all([
    sql<BenefitRule & { ownerId: number }>`
      select 'plan' as owner, r.insurance_plan_id as "ownerId", ${RULE_OF_R}
      from benefit_rule r
      where r.insurance_plan_id = any(${of('planId')}::bigint[])
      union all
      select 'policy', r.policy_id, ${RULE_OF_R} from benefit_rule r where r.policy_id = any(${of('policyId')}::bigint[])
      union all
      select 'coverage', r.coverage_id, ${RULE_OF_R} from benefit_rule r where r.coverage_id = any(${of('id')}::bigint[])`.execute(
      db,
    ),
    sql<{ policyId: number; patientId: number; kind: string; from: CalendarDate; quantity: Cents }>`
      select policy_id as "policyId", patient_id as "patientId", kind, period_start as from, quantity
      from benefit_counter
      where policy_id = any(${of('policyId')}::bigint[])
        and patient_id = any(${of('patientId')}::bigint[])
        and period_start = any(${[...new Set(asks.map(({ day }) => yearStart(day)))]}::date[])`.execute(db),
    toldUnder(db, of('policyId')),
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
      const owners = [`plan ${planId}`, `policy ${policyId}`, `coverage ${id}`];
      const own = [...draft, ...owners.flatMap((owner) => byOwner.get(owner) ?? NOTHING)];
      return [coverageDay(ask), termsOf(own, ask.day)] as const;
    }),
  );
  // Only what is counted otherwise than by person and calendar year asks for each charge.
  const toldOf = new Set(told.map(({ policyId }) => policyId));
  const counted = asks.filter(
    (ask) => toldOf.has(byId.get(ask.coverageId)!.policyId) || inForce.get(coverageDay(ask))!.some(counts),
  );
  const decided = await decidedUnder(db, [
    ...new Set(counted.map(({ coverageId }) => byId.get(coverageId)!.policyId)),
  ]);
  const before = await decidedBy(db, told);
  return new Map(
    asks.map((ask) => {
      const { policyId, patientId, begins } = byId.get(ask.coverageId)!;
      const own = (rows: readonly (Omit<Decided, 'own'> & { patientId: number })[] = []): Decided[] =>
        rows.map(({ patientId: whose, ...one }) => ({ ...one, own: whose === patientId }));
      const all = own(decided.get(policyId));
      /** The newest word of the payer about a period, of the person, or of anybody where the household counts. */
      const toldAbout = (one: Rule, from: CalendarDate): Told | undefined =>
        'period' in one
          ? told.find(
              ({ policyId: policy, patientId: whose, rule: said, asOf }) =>
                policy === policyId &&
                said === one.id &&
                (one.holder === 'household' || whose === patientId) &&
                asOf <= ask.day &&
                (one.period.every === 'months'
                  ? asOf > from
                  : periodStart(one.period, asOf, begins) === from),
            )
          : undefined;
      const used: Benefits['used'] = (one, from, tooth) => {
        if (!('period' in one)) return 0;
        const word = tooth === '' ? toldAbout(one, from) : undefined;
        // Ours that was not decided by then comes on top, and what was taken back since comes off.
        if (word)
          return Math.max(
            0,
            word.quantity +
              usedOf(one, from, tooth, all, begins) -
              usedOf(one, from, tooth, own(before.get(`${policyId} ${word.asOf}`)), begins),
          );
        if (!isKept(one)) return usedOf(one, from, tooth, all, begins);
        const kind = one.kind === 'limit' ? 'maximum' : one.kind;
        return kept.get(`${policyId} ${patientId} ${kind} ${from}`) ?? 0;
      };
      const key = coverageDay(ask);
      return [
        key,
        {
          rules: inForce.get(key)!,
          begins,
          used,
          told: (one, from) => toldAbout(one, from)?.asOf ?? null,
          earlier: all.filter((one) => one.own),
        },
      ];
    }),
  );
}
