/** Estimates from the tables: coverages with their terms, schedules and what was used, and the open charges of a case. */
import { type NotNull, type RawBuilder, sql } from 'kysely';
import {
  type ChargeEstimate,
  type EstimateCharge,
  type EstimateCoverage,
  estimate,
} from '../../core/estimates/estimate';
import { FACILITY_PLACES } from '../../core/estimates/facilities';
import type { CalendarDate } from '../../core/calendar';
import { type Cents, ZERO, add, formatMoneyPlain, minus, sum } from '../../core/money';
import type { Db } from '../../db/connect';
import { type Context, Refused, allow } from '../access';
import { allowOpen } from '../closed';
import type { BenefitRule } from '../../core/estimates/benefits';
import { benefitsOf, coverageDay } from '../books/benefits';
import { isUndecided } from '../books/decided';
import { lockHouseholds } from '../books/journal';
import type { Act } from '../use-case';

/** A coverage as the estimate needs it, with its row. */
export interface CaseCoverage extends EstimateCoverage {
  coverageId: number;
}

/** A case on the day of a service. */
export interface CaseDay {
  caseId: number;
  day: CalendarDate;
}
/** It, as a key. */
export const caseDay = ({ caseId, day }: CaseDay): string => `${caseId}|${day}`;

/**
 * The coverages of cases on days, in their order: terms, schedule, and what decided claims have used in the year of the day.
 * @param codes the services whose fees are needed; all when absent
 * @param draft rules of a coverage that are being said
 * @returns by {@link caseDay}
 */
export async function estimateCoverages(
  db: Db,
  asks: readonly CaseDay[],
  codes?: readonly string[],
  draft?: { coverageId: number; rules: readonly BenefitRule[] },
): Promise<Map<string, CaseCoverage[]>> {
  const unique = [...new Map(asks.map((ask) => [caseDay(ask), ask])).values()];
  const found = new Map<string, CaseCoverage[]>(unique.map((ask) => [caseDay(ask), []]));
  const { rows } = await sql<CoverageRow>`
    select k.case_id as "caseId", k.day, n.contracted, n.coordination, n.fee_schedule_id as "scheduleId",
      c.id as "coverageId", c.policy_id as "policyId", y.name as payer, p.birth_date as born,
      c.exhausted_from as exhausted,
      (
        select json_agg(json_build_object('tooth', t.tooth, 'on', t.lost_on)) from lost_tooth t where t.patient_id = p.id
      ) as lost,
      exists (select from care_authorization)
        and authorized_on(k.case_id, y.id, 'prior-authorization', k.day) is not null as approved
    from unnest(
      ${unique.map(({ caseId }) => caseId)}::bigint[], ${unique.map(({ day }) => day)}::date[]
    ) as k (case_id, day)
    join coverage_plan c on c.case_id = k.case_id and daterange(c.valid_from, c.valid_to, '[]') @> k.day
    join insurance_plan n on n.id = c.insurance_plan_id
    join payer y on y.id = n.payer_id
    join care_case a on a.id = k.case_id
    join patient p on p.id = a.patient_id
    order by c.position`.execute(db);
  const [schedules, benefits, drafted] = await Promise.all([
    feesOn(db, rows, codes),
    benefitsOf(db, rows),
    draft &&
      benefitsOf(
        db,
        rows.filter(({ coverageId }) => coverageId === draft.coverageId),
        draft.rules,
      ),
  ]);
  for (const row of rows) {
    const { coverageId, payer, contracted, coordination } = row;
    const schedule = schedules.get(`${row.scheduleId}|${row.day}`);
    found.get(caseDay(row))!.push({
      coverageId,
      counter: String(row.policyId),
      payer,
      contracted,
      coordination,
      born: row.born,
      approved: row.approved,
      ...(row.exhausted ? { exhausted: row.exhausted } : {}),
      ...(row.lost ? { lost: new Map(row.lost.map(({ tooth, on }) => [tooth, on])) } : {}),
      ...(drafted?.get(coverageDay(row)) ?? benefits.get(coverageDay(row))!),
      allowedFee: allowedBy(schedule),
    });
  }
  return found;
}

interface CoverageRow extends CaseDay {
  coverageId: number;
  policyId: number;
  payer: string;
  born: CalendarDate;
  approved: boolean;
  exhausted: CalendarDate | null;
  lost: { tooth: string; on: CalendarDate | null }[] | null;
  contracted: boolean;
  coordination: EstimateCoverage['coordination'];
  scheduleId: number | null;
}

/** What a schedule allows for one unit of a service, in cents: in our rooms, and in a facility that bills for itself. */
interface Fee {
  office: Cents;
  facility: Cents;
}

/** What of a schedule an estimate asks. */
export const allowedBy =
  (schedule: ReadonlyMap<string, Fee> | undefined): EstimateCoverage['allowedFee'] =>
  (code, facility) =>
    schedule?.get(code)?.[facility ? 'facility' : 'office'] ?? null;

/** Whether what is done for a case of a site is done in a facility that bills for itself, as a condition. */
export const inFacility = (caseId: RawBuilder<unknown>, siteId: RawBuilder<unknown>) =>
  sql<boolean>`exists (
    select
    from location l
    where l.id = coalesce((select k.service_location_id from care_case k where k.id = ${caseId}), ${siteId})
      and l.place_of_service = any(${FACILITY_PLACES})
  )`;

/** Whether what is planned is of a way of treating that is chosen, or of none, as a condition. @param option its id */
const isChosen = (option: RawBuilder<unknown>) =>
  sql<boolean>`(
    ${option} is null or exists (select from treatment_option t where t.id = ${option} and t.chosen)
  )`;

/** The fees of schedules as they were on days, by schedule and day, then by code. */
export async function feesOn(
  db: Db,
  rows: readonly Pick<CoverageRow, 'scheduleId' | 'day'>[],
  codes?: readonly string[],
): Promise<Map<string, Map<string, Fee>>> {
  const found = new Map<string, Map<string, Fee>>();
  for (const { scheduleId, day } of rows)
    if (scheduleId !== null) found.set(`${scheduleId}|${day}`, new Map());
  if (found.size === 0) return found;
  const asked = [...found.keys()].map((key) => key.split('|') as [string, string]);
  const { rows: fees } = await sql<Fee & { scheduleId: number; day: string; code: string }>`
    select distinct on (k.schedule_id, k.day, f.code) k.schedule_id as "scheduleId", k.day, f.code, f.amount as office,
      coalesce(f.facility_amount, f.amount) as facility
    from unnest(
      ${asked.map(([id]) => Number(id))}::bigint[], ${asked.map(([, day]) => day)}::date[]
    ) as k (schedule_id, day)
    join fee f on f.fee_schedule_id = k.schedule_id
      and (f.valid_from is null or f.valid_from <= k.day)
      and (
        ${codes === undefined}::boolean
          or f.code = any(${[...(codes ?? [])]}::text[])
          or f.code in (select b.paid_as from benefit_rule b)
      )
    order by k.schedule_id, k.day, f.code, f.valid_from desc nulls last`.execute(db);
  for (const { scheduleId, day, code, ...fee } of fees) found.get(`${scheduleId}|${day}`)!.set(code, fee);
  return found;
}

/** Estimates charges in the order given, each by the coverages, terms and fees of its own day. */
export async function estimateEach<Charge extends EstimateCharge & CaseDay>(
  db: Db,
  charges: readonly Charge[],
): Promise<ChargeEstimate[]> {
  const coverages = await estimateCoverages(db, charges, [...new Set(charges.map(({ code }) => code))]);
  return estimate(charges, (charge) => coverages.get(caseDay(charge))!);
}

/** A service that is not a charge yet. `fee` in cents for all units. */
interface Typed {
  code: string;
  units: number;
  fee: Cents;
  date: CalendarDate;
  tooth?: string;
  modifiers?: readonly string[];
  /** Where it is done, unless its case says so. */
  siteId?: number | null;
}

/** Estimates services that are not yet decided: open charges of a case, in date order, and those that are being typed (ids 0, -1, …). */
export async function estimateOpen(
  context: Context,
  caseId: number,
  typed: readonly Typed[],
): Promise<ChargeEstimate[]> {
  allow(context, 'read accounts');
  await allowOpen(context, { caseId });
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
      'charge.tooth',
      'charge.modifiers',
      inFacility(sql`charge.case_id`, sql`charge.location_id`).as('facility'),
    ])
    .where('charge.case_id', '=', caseId)
    .where('charge.status', '=', 'done')
    .where('b.with_payer', '>', ZERO)
    .where(isUndecided(sql`charge.id`))
    .orderBy('charge.service_date')
    .orderBy('charge.id')
    .limit(200)
    .$narrowType<{ code: NotNull }>()
    .execute();
  const charges: (EstimateCharge & { day: CalendarDate })[] = rows.map((row) => ({ ...row, day: row.visit }));
  if (typed.length > 0) {
    const { rows: services } = await sql<{ code: string; category: string; facility: boolean }>`
      select s.code, s.category, ${inFacility(sql`${caseId}`, sql`k.site`)} as facility
      from unnest(
        ${typed.map(({ code }) => code)}::text[],
        ${typed.map(({ siteId }) => siteId ?? null)}::bigint[]
      ) with ordinality as k (code, site, place)
        join service_code s on s.code = k.code
      order by k.place`.execute(context.db);
    const unknown = typed.find(({ code }) => !services.some((service) => service.code === code));
    if (unknown) throw new Refused('invalid', `Code ${unknown.code} is not in the list of services`, 'code');
    for (const [index, { date, siteId: _, ...one }] of typed.entries()) {
      const { category, facility } = services[index]!;
      charges.push({ ...one, id: index === 0 ? 0 : -index, category, facility, visit: date, day: date });
    }
  }
  charges.sort((a, b) => (a.day < b.day ? -1 : a.day > b.day ? 1 : 0));
  return estimateEach(
    context.db,
    charges.map((one) => ({ ...one, caseId })),
  );
}

/**
 * What of services goes beyond limits that have to be meant, in words. Whoever enters the last visit at the same time is waited for.
 * One query where the case has no such limit for them.
 */
export async function limitDoubts(
  act: Act,
  { caseId, householdId }: { caseId: number; householdId: number },
  typed: readonly Typed[],
): Promise<string[]> {
  const { rows } = await sql<{ asked: boolean }>`
    select exists (
      select
      from coverage_plan c
        join benefit_rule b on b.insurance_plan_id = c.insurance_plan_id or b.policy_id = c.policy_id or b.coverage_id = c.id
        join service_code s on s.code = any(${typed.map(({ code }) => code)})
      where c.case_id = ${caseId}
        and b.warning = 'confirm'
        and (b.category is null or b.category = s.category)
        and (b.codes is null or s.code = any(b.codes))
    ) as asked`.execute(act.db);
  if (!rows[0]!.asked) return [];
  await lockHouseholds(act.db, [householdId]);
  // What is entered for an earlier day may push another one beyond.
  const [without, found] = [await estimateOpen(act, caseId, []), await estimateOpen(act, caseId, typed)];
  const before = beyond(without);
  const more = minus(sum(found.map(({ patient }) => patient)), sum(without.map(({ patient }) => patient)));
  return [...beyond(found)].flatMap(([words, amount]) => {
    const over = minus(amount, before.get(words) ?? ZERO);
    return over > 0
      ? [
          `${formatMoneyPlain(over)} goes beyond ${words}: ${formatMoneyPlain(more)} is expected from the patient`,
        ]
      : [];
  });
}

/** What goes beyond limits that have to be meant, in cents by payer and limit. */
function beyond(estimates: readonly ChargeEstimate[]): Map<string, Cents> {
  const found = new Map<string, Cents>();
  for (const { payer, reached } of estimates.flatMap(({ payers }) => payers))
    for (const { words, amount, confirm } of reached)
      if (confirm) found.set(`${words} of ${payer}`, add(found.get(`${words} of ${payer}`) ?? ZERO, amount));
  return found;
}

/** What planned and undecided work of cases is expected to use of their coverages, by coverage. Four queries whatever their number. */
export async function usesExpected(
  db: Db,
  caseIds: readonly number[],
): Promise<Map<number, { rule: string; from: CalendarDate; quantity: number }[]>> {
  const found = new Map<number, { rule: string; from: CalendarDate; quantity: number }[]>();
  const rows = await db
    .selectFrom('charge as c')
    .innerJoin('service_code as s', 's.code', 'c.code')
    .leftJoin('charge_balance as b', 'b.charge_id', 'c.id')
    .select([
      'c.id',
      'c.case_id as caseId',
      'c.code',
      's.category',
      'c.units',
      'c.fee',
      'c.service_date as day',
      'c.tooth',
      'c.modifiers',
      inFacility(sql`c.case_id`, sql`c.location_id`).as('facility'),
    ])
    .where('c.case_id', '=', sql<number>`any(${[...caseIds]}::bigint[])`)
    .where('c.kept_from_payers', '=', false)
    .where(isChosen(sql`c.option_id`))
    .where((eb) =>
      eb.or([
        eb('c.status', '=', 'planned'),
        eb.and([eb('c.status', '=', 'done'), eb('b.with_payer', '>', ZERO), isUndecided(sql`c.id`)]),
      ]),
    )
    .orderBy('c.service_date')
    .orderBy('c.id')
    .limit(400)
    .$narrowType<{ code: NotNull; caseId: NotNull }>()
    .execute();
  if (rows.length === 0) return found;
  const coverages = await estimateCoverages(
    db,
    rows.map(({ caseId, day }) => ({ caseId, day })),
    [...new Set(rows.map(({ code }) => code))],
  );
  for (const caseId of new Set(rows.map((row) => row.caseId))) {
    const own = rows
      .filter((row) => row.caseId === caseId)
      .map((row) => ({ ...row, visit: row.day as string }));
    const estimates = estimate(own, ({ day }) => coverages.get(caseDay({ caseId, day }))!);
    for (const [index, one] of estimates.entries())
      for (const [place, part] of one.payers.entries()) {
        const { coverageId } = coverages.get(caseDay({ caseId, day: own[index]!.day }))![place]!;
        found.set(coverageId, [...(found.get(coverageId) ?? []), ...part.uses]);
      }
  }
  return found;
}

/** What a planned service is expected to cost whom, in cents, and the steps that led there in words. */
export interface PlannedEstimate {
  fee: Cents;
  writeOff: Cents;
  payers: Cents;
  /** Each payer's part, in their order. */
  each: { payer: string; pays: Cents }[];
  patient: Cents;
  /** Limits that are used up with it, or were before it, in sentences. */
  reached: string[];
  steps: string[];
}

/**
 * Estimates planned services beside what is undecided of their cases, in the order of their phases and dates, so that a deductible or a
 * maximum is used once. What is kept from insurers is the patient's.
 * @param optionId the way of treating that they are of: besides it only what is of none counts; null: besides what is chosen
 */
export async function estimatePlanned(
  context: Context,
  chargeIds: readonly number[],
  optionId: number | null = null,
): Promise<Map<number, PlannedEstimate>> {
  const { rows } = await sql<{
    id: number;
    caseId: number;
    code: string;
    category: string;
    units: number;
    fee: Cents;
    tax: Cents;
    taxBilled: boolean;
    date: CalendarDate;
    tooth: string;
    modifiers: string[];
    facility: boolean;
    kept: boolean;
  }>`
    select c.id, c.case_id as "caseId", c.code, s.category, c.units, c.fee, c.tax,
      case when c.status = 'done' then c.tax_billed else coalesce(
        (
          select y.takes_tax
          from coverage_plan o
            join payer y on y.id = o.payer_id
          where o.id = coverage_on(c.case_id, 1, c.service_date)
        ), false
      ) end as "taxBilled", c.service_date as date, c.tooth,
      c.modifiers, ${inFacility(sql`c.case_id`, sql`c.location_id`)} as facility, c.kept_from_payers as kept
    from charge c join service_code s on s.code = c.code left join charge_balance b on b.charge_id = c.id
    where c.case_id in (select case_id from charge where id = any(${[...chargeIds]}::bigint[]))
      and (
        c.status = 'planned'
          and (
            c.id = any(${[...chargeIds]}::bigint[])
              or c.option_id is null
              or ${optionId}::bigint is null and ${isChosen(sql`c.option_id`)}
          )
        or c.status = 'done' and b.with_payer > 0 and ${isUndecided(sql`c.id`)}
      )
    order by case when c.status = 'planned' then c.phase else 0 end, c.service_date, c.id`.execute(
    context.db,
  );
  const found = new Map<number, PlannedEstimate>();
  for (const caseId of new Set(rows.map((row) => row.caseId))) {
    const own = rows.filter((row) => row.caseId === caseId && !row.kept);
    const usedUp = new Set<string>();
    const estimates = await estimateEach(
      context.db,
      own.map(({ date, ...row }) => ({ ...row, visit: date, day: date })),
    );
    for (const one of estimates) {
      const { tax, taxBilled } = own.find(({ id }) => id === one.id)!;
      // Tax is paid in full by a first payer that takes it, and by the patient where none does.
      const billed = taxBilled && one.payers.length > 0;
      const each = one.payers.map(({ payer, pays }, index) => ({
        payer,
        pays: billed && index === 0 ? add(pays, tax) : pays,
      }));
      found.set(one.id, {
        fee: add(one.fee, tax),
        writeOff: one.writeOff,
        payers: sum(each.map(({ pays }) => pays)),
        each,
        patient: add(one.patient, billed ? ZERO : tax),
        reached: one.payers
          .flatMap(({ payer, reached }) => reached.map(({ words }) => `${words} of ${payer}`))
          .map((limit) => {
            const before = usedUp.has(limit);
            usedUp.add(limit);
            return before ? `Before it ${limit} is used up.` : `With it ${limit} is used up.`;
          }),
        steps: one.steps.slice(1).map(({ words, amount }) => `${words} ${formatMoneyPlain(amount)}`),
      });
    }
  }
  for (const { id, fee, tax } of rows.filter(({ kept }) => kept))
    found.set(id, {
      fee: add(fee, tax),
      writeOff: ZERO,
      payers: ZERO,
      each: [],
      patient: add(fee, tax),
      reached: [],
      steps: ['kept from insurers, as the patient asked'],
    });
  return found;
}
