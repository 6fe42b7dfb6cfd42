/** What a plan covers, or one person's policy of it: all its rules, and what a visit would cost by what is being typed. */
import { sql } from 'kysely';
import { z } from 'zod';
import { type CalendarDate, calendarDate } from '../../core/calendar';
import { type BenefitRule, rulesOn, termsOf } from '../../core/estimates/benefits';
import { type ChargeEstimate, type EstimateCharge, estimate } from '../../core/estimates/estimate';
import { dateField, idField } from '../../core/fields';
import { cents, parseMoney, times } from '../../core/money';
import type { Db } from '../../db/connect';
import { type Context, Refused, allow } from '../access';
import { allowOpen, opened } from '../closed';
import { rulesOf } from '../books/benefits';
import { parseInput } from '../input';
import { startWork } from '../jobs/work';
import { parsedRow } from '../setup/save';
import { RULE_TABLES, type RuleTable } from '../setup/tables/benefits';
import type { SetupValues } from '../setup/table';
import { fieldsOf } from '../setup/table';
import type { SetupField } from '../../core/setup/fields';
import { useCase } from '../use-case';
import { allowedBy, caseDay, estimateCoverages, feesOn } from './read';

/** A rule of the page: where it is kept, what its form shows, and whether it holds today. */
export interface TermsRule {
  id: number;
  table: RuleTable;
  owner: BenefitRule['owner'];
  version: number;
  values: SetupValues;
  /** It holds today: neither said anew since nor by somebody narrower. */
  holds: boolean;
}

/** What a plan covers, or one person's policy of it. */
export interface TermsPage {
  plan: {
    id: number;
    name: string;
    payer: string;
    payerId: number;
    schedule: string | null;
    scheduleId: number | null;
  };
  /** The coverage of one person, where it is of that. */
  coverage: { id: number; householdId: number; patient: string; caseName: string } | null;
  tables: { key: RuleTable; title: string; noun: string; about: string; fields: SetupField[] }[];
  rules: TermsRule[];
}

const KEYS = Object.keys(RULE_TABLES) as RuleTable[];
/** The table in which rules of a kind are. */
const tableOf = (kind: string): RuleTable =>
  KEYS.find((key) => {
    const { rowsWith } = RULE_TABLES[key];
    return rowsWith && ('value' in rowsWith ? rowsWith.value === kind : rowsWith.values.includes(kind));
  })!;

async function planOf(db: Db, planId: number) {
  const plan = await db
    .selectFrom('insurance_plan as n')
    .innerJoin('payer as y', 'y.id', 'n.payer_id')
    .leftJoin('fee_schedule as s', 's.id', 'n.fee_schedule_id')
    .select([
      'n.id',
      'n.name',
      'n.contracted',
      'n.coordination',
      'n.fee_schedule_id as scheduleId',
      'y.name as payer',
      'y.id as payerId',
      's.name as schedule',
    ])
    .where('n.id', '=', planId)
    .executeTakeFirst();
  if (!plan) throw new Refused('unknown', 'There is no such plan');
  return plan;
}

/** The coverage that is asked about, of the plan. @throws Refused when it is of another plan */
async function coverageOf(db: Db, planId: number, coverageId: number) {
  const coverage = await db
    .selectFrom('covered as o')
    .innerJoin('patient as p', 'p.id', 'o.patient_id')
    .innerJoin('care_case as k', 'k.id', 'o.case_id')
    .select([
      'o.id',
      'o.case_id as caseId',
      'p.household_id as householdId',
      sql<string>`p.first || ' ' || p.last`.as('patient'),
      'k.name as caseName',
    ])
    .where('o.id', '=', coverageId)
    .where('o.insurance_plan_id', '=', planId)
    .executeTakeFirst();
  if (!coverage) throw new Refused('unknown', 'There is no such coverage of this plan');
  return coverage;
}

/** Reads them. @throws Refused when the plan is not there, or the coverage is of another one */
export async function readTerms(
  context: Context,
  planId: number,
  coverageId: number | null,
): Promise<TermsPage> {
  allow(context, coverageId === null ? 'read setup' : 'read accounts');
  if (coverageId !== null) await allowOpen(context, { coverageId });
  const { db, today } = context;
  const { id, name, payer, payerId, schedule, scheduleId } = await planOf(db, planId);
  const coverage = coverageId === null ? null : await coverageOf(db, planId, coverageId);
  const [rules, tables, { rows }] = await Promise.all([
    rulesOf(db, { planId, coverageId }),
    Promise.all(
      KEYS.map(async (key) => {
        const table = RULE_TABLES[key];
        const { title, noun, about } = table;
        return { key, title, noun: noun[0], about, fields: await fieldsOf(db, table) };
      }),
    ),
    sql<{ id: number; version: number; kept: Record<string, unknown> }>`
      select r.id, r.version, to_jsonb(r) as kept
      from benefit_rule r
      where r.insurance_plan_id = ${planId}
        or r.coverage_id = ${coverageId}::bigint
        or r.policy_id = (select policy_id from coverage where id = ${coverageId}::bigint)`.execute(db),
  ]);
  if (coverage) await opened(context, { kind: 'household', id: coverage.householdId });
  const holding = new Set<BenefitRule>(rulesOn(rules, today));
  const kept = new Map(rows.map((row) => [row.id, row]));
  return {
    plan: { id, name, payer, payerId, schedule, scheduleId },
    coverage: coverage && {
      id: coverage.id,
      householdId: coverage.householdId,
      patient: coverage.patient,
      caseName: coverage.caseName,
    },
    tables,
    rules: rules.map((rule) => {
      const table = tableOf(rule.kind);
      const row = kept.get(rule.id)!;
      return {
        id: rule.id,
        table,
        owner: rule.owner,
        version: row.version,
        values: Object.fromEntries(
          Object.entries(RULE_TABLES[table].fields).map(([field, { show }]) => [
            field,
            show(row.kept[field]),
          ]),
        ),
        holds: holding.has(rule),
      };
    }),
  };
}

const tableField = z.enum(KEYS as [RuleTable, ...RuleTable[]]);
const valuesField = z.record(z.string(), z.union([z.string(), z.boolean()]));

/** A visit of one's choice, and a rule that is being typed. */
export const visitInput = z.object({
  planId: idField,
  coverageId: idField.nullish().transform((value) => value ?? null),
  day: dateField,
  services: z
    .array(
      z.object({
        code: z.string().trim().toUpperCase(),
        units: z.coerce.number().int().min(1).max(999).default(1),
        /** As typed; empty for the office fee. */
        fee: z.string().trim().default(''),
      }),
    )
    .max(20, 'are at most 20'),
  draft: z.object({ table: tableField, values: valuesField }).nullish(),
});

/** What was typed as a rule of the core; nothing while it says nothing whole. */
async function draftRule(
  db: Db,
  planId: number,
  owner: BenefitRule['owner'],
  { table: key, values }: NonNullable<z.output<typeof visitInput>['draft']>,
): Promise<BenefitRule | null> {
  const table = RULE_TABLES[key];
  try {
    const parsed = await parsedRow(db, table, { ...values, insurance_plan_id: String(planId) });
    const { rowsWith } = table;
    const said = <T>(column: string, otherwise: T): T => (parsed[column] as T | undefined) ?? otherwise;
    return {
      owner,
      kind: (rowsWith && 'value' in rowsWith ? rowsWith.value : parsed['kind']) as BenefitRule['kind'],
      category: said('category', null),
      codes: said('codes', null),
      validFrom: said('valid_from', null),
      share: said('share', null),
      amount: said('amount', null),
      quantity: said('quantity', null),
      measure: said('measure', null),
      holder: said('holder', 'person'),
      every: said('every', 'year'),
      months: said('months', null),
      anchor: said('anchor', null),
      renews: true,
      byTooth: said('by_tooth', false),
      countedFor: said('counted_for', 'visit'),
      copayOrder: said('copay_order', 'between'),
      thenPays: said('then_pays', 'next'),
      warning: said('warning', 'none'),
      ageFrom: said('age_from', null),
      ageThrough: said('age_through', null),
      paidAs: said('paid_as', null),
      modifier: said('modifier', ''),
      shares: said('shares', null),
    };
  } catch (error) {
    if (error instanceof Refused) return null;
    throw error;
  }
}

/** A visit as it would be paid: each service with its steps. `draft`: whether what is typed counts already. */
export interface VisitEstimate {
  services: (ChargeEstimate & { code: string; description: string })[];
  draft: boolean;
}

/** Somebody of this age is thought of, where nobody is named. Common practice, no source. */
const SOMEBODY = calendarDate('1985-01-01');

/**
 * Estimates a visit by the rules as they stand, with one that is being typed in its place; of a coverage with what is used of it and
 * beside the other insurers of its case.
 * @throws Refused naming a code that is not in the list
 */
export async function estimateVisit(
  context: Context,
  input: z.input<typeof visitInput>,
): Promise<VisitEstimate> {
  const { planId, coverageId, day, services, draft } = parseInput(visitInput, input);
  allow(context, coverageId === null ? 'read setup' : 'read accounts');
  if (coverageId !== null) await allowOpen(context, { coverageId });
  const { db } = context;
  const charges = await chargesOf(db, services, day);
  const rule = draft ? await draftRule(db, planId, coverageId === null ? 'plan' : 'coverage', draft) : null;
  const drafted = rule ? [rule] : [];
  const codes = charges.map(({ code }) => code);
  const estimates =
    coverageId === null
      ? estimate(charges, [await planAlone(db, planId, day, codes, drafted)])
      : await besideOthers(db, await coverageOf(db, planId, coverageId), day, charges, drafted);
  return {
    services: estimates.map((one, index) => ({
      ...one,
      code: charges[index]!.code,
      description: charges[index]!.description,
    })),
    draft: rule !== null,
  };
}

async function besideOthers(
  db: Db,
  { id, caseId }: { id: number; caseId: number },
  day: CalendarDate,
  charges: readonly EstimateCharge[],
  rules: readonly BenefitRule[],
): Promise<ChargeEstimate[]> {
  const codes = charges.map(({ code }) => code);
  const found = await estimateCoverages(db, [{ caseId, day }], codes, { coverageId: id, rules });
  return estimate(charges, found.get(caseDay({ caseId, day }))!);
}

/** A plan of which nobody has used anything. */
async function planAlone(
  db: Db,
  planId: number,
  day: CalendarDate,
  codes: readonly string[],
  draft: readonly BenefitRule[],
) {
  const plan = await planOf(db, planId);
  const [fees, kept] = await Promise.all([
    feesOn(db, [{ scheduleId: plan.scheduleId, day }], codes),
    rulesOf(db, { planId, coverageId: null }),
  ]);
  const schedule = fees.get(`${plan.scheduleId}|${day}`);
  return {
    payer: plan.payer,
    contracted: plan.contracted,
    coordination: plan.coordination,
    rules: termsOf([...draft, ...kept], day),
    used: () => 0,
    born: SOMEBODY,
    allowedFee: allowedBy(schedule),
  };
}

async function chargesOf(
  db: Db,
  services: z.output<typeof visitInput>['services'],
  day: CalendarDate,
): Promise<(EstimateCharge & { description: string })[]> {
  const wanted = services.map(({ code }) => code);
  const rows = await db
    .selectFrom('service_code as s')
    .select([
      's.code',
      's.category',
      's.description',
      sql<number | null>`fee_on(office_schedule(null), s.code, ${day}::date)`.as('fee'),
    ])
    .where('s.code', '=', sql<string>`any(${wanted})`)
    .execute();
  return services.map(({ code, units, fee }, index) => {
    const service = rows.find((row) => row.code === code);
    if (!service) throw new Refused('invalid', `Code ${code} is not in the list of services`, 'services');
    const typed = parseMoney(fee) ?? times(cents(service.fee ?? 0), units);
    if (typed < 0) throw new Refused('invalid', `The fee of ${code} is below zero`, 'services');
    return {
      id: index + 1,
      code,
      category: service.category,
      description: service.description,
      units,
      fee: typed,
      day,
      visit: day,
    };
  });
}

/** What of the plan's terms one person's policy says otherwise. */
export const ownRuleInput = z.object({ coverageId: idField, table: tableField, values: valuesField });

/**
 * Writes what one coverage says otherwise than its plan, from a day on; said anew for the same day it is put right.
 * @returns the rule
 * @throws Refused naming the field
 */
export const sayOwnRule = useCase({
  name: 'say own rule',
  permission: 'register people',
  input: ownRuleInput,
  async run(act, { coverageId, table: key, values }): Promise<number> {
    const table = RULE_TABLES[key];
    const covered = await act.db
      .selectFrom('covered as o')
      .innerJoin('patient as p', 'p.id', 'o.patient_id')
      .select(['o.insurance_plan_id as planId', 'p.household_id as householdId'])
      .where('o.id', '=', coverageId)
      .executeTakeFirst();
    if (!covered) throw new Refused('unknown', 'There is no such coverage');
    const { insurance_plan_id: _, ...parsed } = await parsedRow(act.db, table, {
      ...values,
      insurance_plan_id: String(covered.planId),
    });
    const { rowsWith } = table;
    const row = {
      ...parsed,
      ...(rowsWith && 'value' in rowsWith ? { kind: rowsWith.value } : {}),
      coverage_id: coverageId,
    };
    const columns = Object.entries(row);
    const { rows } = await sql<{ id: number }>`
      insert into benefit_rule (${sql.join(columns.map(([name]) => sql.ref(name)))})
      values (${sql.join(columns.map(([, value]) => sql`${value}`))})
      on conflict on constraint one_word_on_a_day do update
      set ${sql.join(columns.map(([name]) => sql`${sql.ref(name)} = excluded.${sql.ref(name)}`))}
      returning id`.execute(act.db);
    await startWork(act, 'check claims', { householdId: covered.householdId });
    await act.note(
      'said otherwise than the plan',
      { kind: 'coverage', id: coverageId },
      { table: key, ...values },
    );
    return rows[0]!.id;
  },
});

/** A rule of one coverage that is taken back. */
export const dropRuleInput = z.object({ coverageId: idField, ruleId: idField });

/** Takes back what one coverage says otherwise than its plan: the plan's word holds. */
export const dropOwnRule = useCase({
  name: 'drop own rule',
  permission: 'register people',
  input: dropRuleInput,
  async run(act, { coverageId, ruleId }) {
    const gone = await act.db
      .deleteFrom('benefit_rule')
      .where('id', '=', ruleId)
      .where('coverage_id', '=', coverageId)
      .returning('kind')
      .executeTakeFirst();
    if (!gone) throw new Refused('unknown', 'There is no such rule of this coverage');
    const { household_id } = await act.db
      .selectFrom('covered as o')
      .innerJoin('patient as p', 'p.id', 'o.patient_id')
      .select('p.household_id')
      .where('o.id', '=', coverageId)
      .executeTakeFirstOrThrow();
    await startWork(act, 'check claims', { householdId: household_id });
    await act.note(
      'took back what it said otherwise',
      { kind: 'coverage', id: coverageId },
      { kind: gone.kind },
    );
  },
});
