/** Visits: what was done for one person on one day by one provider at one site, entered together, looked at, and taken back whole. */
import { sql } from 'kysely';
import type { z } from 'zod';
import { previewInput, undoVisitInput, visitInput } from '../../core/accounts/input';
import { NOTICE_MODIFIERS } from '../../core/accounts/treatment-input';
import type { CalendarDate } from '../../core/calendar';
import { formatDate } from '../../core/calendar';
import type { ChargeEstimate } from '../../core/estimates/estimate';
import { type Cents, ZERO, add } from '../../core/money';
import type { Db } from '../../db/connect';
import { type Context, Refused, allow, lookAgain } from '../access';
import { lockHouseholds, reverseEntries } from '../books/journal';
import { allowOpen, opened } from '../closed';
import { estimateOpen, limitDoubts } from '../estimates/door';
import { parseInput } from '../input';
import type { ProposedLine } from '../setup/charge-sets';
import { type Act, useCase } from '../use-case';
import { enteredOnly } from './entered';
import { type FoundVisit, visitDoubts, visitOf, writeCharges } from './services';

type Head = Omit<z.output<typeof visitInput>, 'lines' | 'key'>;
type Line = z.output<typeof visitInput>['lines'][number];

/**
 * Enters services of one visit, each as a charge, and writes what is done to the books.
 * @param several whether a refusal says of which line it speaks
 * @returns the charges' ids, in the order of the lines
 */
export async function enterLines(
  act: Act,
  { patientId, sure, ...head }: Head,
  lines: readonly Line[],
  several: boolean,
): Promise<number[]> {
  const tx = act.db;
  const found = await visitOf(tx, act.today, patientId, head, lines, several);
  const { patient, provider } = found;
  lookAgain(sure, [
    ...(await visitDoubts(tx, act.today, patientId, head, lines, found)),
    ...(sure || head.planned || head.keptFromPayers
      ? []
      : await limitDoubts(
          act,
          { caseId: patient.case_id, householdId: patient.household_id },
          lines.map(({ code, tooth }, index) => ({
            code,
            tooth,
            units: found.lines[index]!.units,
            fee: found.lines[index]!.fee,
            date: head.serviceDate,
            modifiers: found.lines[index]!.modifiers,
            siteId: provider.location_id,
          })),
        )),
  ]);
  const rows = await tx
    .insertInto('charge')
    .values(lines.map((line, index) => rowOf(patientId, head, line, found, index)))
    .returning(['id', 'description', 'fee', 'tax'])
    .execute();
  if (!head.planned)
    await writeCharges(
      act,
      patientId,
      head,
      found,
      rows.map(({ description, ...row }) => ({ ...row, memo: description })),
    );
  for (const { id } of rows) await act.note(head.planned ? 'planned' : 'entered', { kind: 'charge', id });
  return rows.map(({ id }) => id);
}

/** A service as its row has it. */
function rowOf(
  patientId: number,
  head: Omit<Head, 'patientId' | 'sure'>,
  line: Line,
  { patient, provider, lines }: FoundVisit,
  index: number,
) {
  const { service, units, fee, tax, modifiers, discount } = lines[index]!;
  return {
    household_id: patient.household_id,
    patient_id: patientId,
    case_id: patient.case_id,
    coverage_id: patient.coverage_id,
    provider_id: provider.id,
    location_id: provider.location_id,
    code: line.code,
    description: line.description || service.description,
    form: service.form,
    modifiers,
    units,
    minutes: line.minutes,
    fee,
    fee_why: line.feeWhy || discount,
    tax,
    tax_billed: patient.tax_billed,
    ndc: service.ndc,
    ndc_measure: service.ndc_measure,
    ndc_thousandths: service.ndc_thousandths === null ? null : service.ndc_thousandths * units,
    service_date: head.serviceDate,
    tooth: line.tooth,
    surfaces: line.surfaces,
    area: line.area,
    prosthesis: line.prosthesis,
    prior_placement: line.priorPlacement,
    diagnoses: line.diagnoses,
    kept_from_payers: head.keptFromPayers,
    expects: patient.expects,
    at_contract: patient.at_contract,
    status: head.planned ? ('planned' as const) : ('done' as const),
  };
}

/** Enters a visit: all of its services, or none. @returns the charges' ids, in the order of the lines */
export const enterVisit = useCase({
  name: 'enter visit',
  permission: 'enter charges',
  input: visitInput,
  once: (data) => data.key,
  run: (act, { lines, key: _, ...head }) => enterLines(act, head, lines, true),
});

/** What a service of a visit that is typed would be, in cents, and who is expected to pay it. */
export interface PreviewLine {
  units: number;
  fee: Cents;
  tax: Cents;
  /** The modifier of an advance notice that it goes with; empty where there is none. */
  notice: string;
  /** What is expected of the patient, tax and all. */
  patient: Cents;
  /** The steps that led there, without the fee. */
  steps: ChargeEstimate['steps'];
}

/**
 * Looks up services of a visit that is being typed, and estimates them beside what is open of the case; nothing is written.
 * @throws Refused naming the field, as `lines.2.tooth`
 */
export async function previewVisit(
  context: Context,
  input: z.input<typeof previewInput>,
): Promise<PreviewLine[]> {
  allow(context, 'enter charges');
  const { patientId, lines, ...head } = parseInput(previewInput, input);
  await allowOpen(context, { patientId });
  const found = await visitOf(context.db, context.today, patientId, head, lines, true);
  const estimates = head.keptFromPayers
    ? []
    : await estimateOpen(
        context,
        found.patient.case_id,
        lines.map(({ code, tooth }, index) => ({
          code,
          tooth,
          units: found.lines[index]!.units,
          fee: found.lines[index]!.fee,
          date: head.serviceDate,
          modifiers: found.lines[index]!.modifiers,
          siteId: found.provider.location_id,
        })),
      );
  return found.lines.map(({ units, fee, tax, modifiers }, index): PreviewLine => {
    const estimate = estimates.find(({ id }) => id === (index === 0 ? 0 : -index));
    return {
      units,
      fee,
      tax,
      notice: modifiers.find((one) => Object.hasOwn(NOTICE_MODIFIERS, one)) ?? '',
      patient: add(estimate ? estimate.patient : fee, found.patient.tax_billed ? ZERO : tax),
      steps: estimate ? estimate.steps.slice(1) : [],
    };
  });
}

/** The services of the last visit of a case, as they are entered again: without day, fee, tooth and diagnoses of their own. */
export async function readLastVisit(context: Context, caseId: number): Promise<ProposedLine[]> {
  await allowOpen(context, { caseId });
  const { rows } = await sql<ProposedLine>`
    select c.code, case when c.minutes is null then c.units end as units, c.minutes, c.modifiers, '' as fee
    from charge c
      join service_code s on s.code = c.code and s.active
    where c.case_id = ${caseId}
      and c.status = 'done'
      and (c.service_date, c.provider_id, c.location_id) = (
        select l.service_date, l.provider_id, l.location_id
        from charge l
        where l.case_id = ${caseId} and l.status = 'done'
        order by l.service_date desc, l.id desc
        limit 1
      )
    order by c.id`.execute(context.db);
  return rows;
}

/** A service of a visit. Amounts in cents. */
export interface VisitLine {
  chargeId: number;
  code: string;
  description: string;
  modifiers: string[];
  units: number;
  minutes: number | null;
  tooth: string;
  surfaces: string;
  area: string;
  diagnoses: string[];
  fee: Cents;
  feeWhy: string;
  tax: Cents;
  /** The claim that it is on, if any. */
  claim: string | null;
}

/** A visit as it stands. */
export interface Visit {
  householdId: number;
  account: string;
  patient: string;
  birthDate: CalendarDate;
  date: CalendarDate;
  provider: string;
  site: string;
  caseName: string;
  lines: VisitLine[];
}

/** The done services of the visit of which a charge is, locked or not, in the order in which they were entered. */
async function linesOf(db: Db, chargeId: number): Promise<(VisitLine & { householdId: number })[]> {
  const { rows } = await sql<VisitLine & { householdId: number }>`
    select o.id as "chargeId", o.household_id as "householdId", o.code, o.description, o.modifiers, o.units, o.minutes, o.tooth,
      o.surfaces, o.area, o.diagnoses, o.fee, o.fee_why as "feeWhy", o.tax,
      (
        select m.control_number
        from claim_line l
          join claim m on m.id = l.claim_id
        where l.charge_id = o.id and l.current
        order by l.id
        limit 1
      ) as claim
    from charge c
      join charge o on o.patient_id = c.patient_id
        and o.household_id = c.household_id
        and o.service_date = c.service_date
        and o.provider_id = c.provider_id
        and o.location_id = c.location_id
        and o.case_id = c.case_id
        and o.status = 'done'
    where c.id = ${chargeId} and c.kind = 'service'
    order by o.id`.execute(db);
  return rows;
}

/** The visit of which a charge is. @throws Refused when there is none, or all of it is void */
export async function readVisit(context: Context, chargeId: number): Promise<Visit> {
  await opened(context, { kind: 'charge', id: chargeId });
  const [head, lines] = await Promise.all([
    context.db
      .selectFrom('charge as c')
      .innerJoin('household as h', 'h.id', 'c.household_id')
      .innerJoin('patient as p', 'p.id', 'c.patient_id')
      .innerJoin('provider as v', 'v.id', 'c.provider_id')
      .innerJoin('location as l', 'l.id', 'c.location_id')
      .innerJoin('care_case as k', 'k.id', 'c.case_id')
      .select([
        'h.id as householdId',
        'h.number as account',
        sql<string>`p.first || ' ' || p.last`.as('patient'),
        'p.birth_date as birthDate',
        'c.service_date as date',
        sql<string>`trim(v.first || ' ' || v.last || ' ' || v.suffix)`.as('provider'),
        'l.name as site',
        sql<string>`case when k.standing then '' else k.name end`.as('caseName'),
      ])
      .where('c.id', '=', chargeId)
      .executeTakeFirst(),
    linesOf(context.db, chargeId),
  ]);
  if (!head || lines.length === 0) throw new Refused('unknown', 'There is no such visit');
  return { ...head, lines: lines.map(({ householdId: _, ...line }) => line) };
}

/**
 * Takes back the whole visit of which a charge is, while none of it is on a claim and no money has moved on it.
 * @returns how many services were taken back
 * @throws Refused saying which service stands in the way
 */
export const undoVisit = useCase({
  name: 'undo visit',
  permission: 'enter charges',
  input: undoVisitInput,
  async run(act, { chargeId, why }) {
    const tx = act.db;
    const known = await tx
      .selectFrom('charge')
      .select(['household_id', 'service_date'])
      .where('id', '=', chargeId)
      .executeTakeFirst();
    if (!known) throw new Refused('unknown', 'There is no such charge');
    await lockHouseholds(tx, [known.household_id]);
    const lines = await linesOf(tx, chargeId);
    if (lines.length === 0) throw new Refused('already', 'This visit is taken back already');
    const billed = lines.find(({ claim }) => claim !== null);
    if (billed)
      throw new Refused('blocked', `${billed.code} is on claim ${billed.claim}: withdraw that first`, {
        facts: { control_number: billed.claim },
      });
    const entries: number[] = [];
    for (const line of lines) {
      try {
        entries.push(...(await enteredOnly(tx, line.chargeId)));
      } catch (error) {
        if (!(error instanceof Refused)) throw error;
        throw new Refused('blocked', `${line.code}: ${error.message}`);
      }
    }
    await reverseEntries(tx, act, entries, why);
    await tx
      .updateTable('charge')
      .set({ status: 'void' })
      .where(
        'id',
        'in',
        lines.map((line) => line.chargeId),
      )
      .execute();
    for (const line of lines)
      await act.note(
        'voided',
        { kind: 'charge', id: line.chargeId },
        { why, visit: formatDate(known.service_date) },
      );
    return lines.length;
  },
});
