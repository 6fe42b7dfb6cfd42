/** What is looked up and checked of services before they are entered, put right or moved: of one, or of a whole visit at once. */
import { type Selectable, sql } from 'kysely';
import { NOTICE_MODIFIERS } from '../../core/accounts/treatment-input';
import { mouthFault } from '../../core/accounts/teeth';
import { type TimedUnits, timedUnits } from '../../core/accounts/timed';
import { chargeEntry } from '../../core/books/entries/charges';
import { formOf } from '../../core/claims/taxonomy';
import { type CalendarDate, addDays, formatDate } from '../../core/calendar';
import {
  type BasisPoints,
  type Cents,
  ZERO,
  cents,
  formatMoneyPlain,
  parseMoney,
  portion,
  times,
} from '../../core/money';
import { counted } from '../../core/words';
import type { Db, Tx } from '../../db/connect';
import type { DB } from '../../db/views';
import { Refused } from '../access';
import { writeEntries } from '../books/journal';
import { noteContract } from '../estimates/door';
import type { Act } from '../use-case';

/** For whom, when and by whom services are. */
export interface VisitFacts {
  /** For which case of the patient; the standing one where nothing is said. */
  caseId?: number | null;
  providerId: number;
  serviceDate: CalendarDate;
  /** Not done yet: its day may lie ahead. */
  planned?: boolean;
  /** The patient pays it, and no insurer learns of it. */
  keptFromPayers?: boolean;
}

/** What is said of one service. */
export interface LineFacts {
  code: string;
  units?: number | undefined;
  minutes?: number | null;
  /** As typed; empty for the usual fee. */
  fee: string;
  /** As typed; empty for what the site says. */
  tax?: string;
  diagnoses: string[];
  tooth: string;
  surfaces: string;
  area?: string;
  /** As typed; those of the service where nothing is said. */
  modifiers?: string[] | null | undefined;
}

/** A service that is said whole. */
export type ServiceFacts = VisitFacts & LineFacts;

/** Where a refusal of a line stands: at its field, or at that of the line where there are several. */
type At = (field: string) => string;

/** @throws Refused when a diagnosis is not in the list */
export async function knownDiagnoses(db: Db, codes: readonly string[], field = 'diagnoses'): Promise<void> {
  if (codes.length === 0) return;
  const rows = await db.selectFrom('diagnosis').select('code').where('code', 'in', codes).execute();
  const known = new Set(rows.map((row) => row.code));
  const missing = codes.find((code) => !known.has(code));
  if (missing) throw new Refused('invalid', `Diagnosis ${missing} is not in the list`, field);
}

/** A usual fee for one unit, and the name of the discount that it comes of; empty where it comes of none. */
interface UsualFee {
  fee: Cents | null;
  discount: string;
}

/**
 * The usual fees of services for one unit: what the case says of them; what the household's category pays where no insurer is asked; else
 * the office fee of the site and the day. One query.
 */
async function usualFees(
  db: Db,
  {
    case_id: caseId,
    household_id: householdId,
    coverage_id: coverageId,
  }: Pick<Patient, 'case_id' | 'household_id' | 'coverage_id'>,
  site: number,
  codes: readonly string[],
  day: CalendarDate,
): Promise<Map<string, UsualFee>> {
  const { rows } = await sql<UsualFee & { code: string }>`
    select k.code, coalesce(c.fee, d.fee, fee_on(office_schedule(${site}), k.code, ${day}::date)) as fee,
      case when c.fee is null and d.fee is not null then d.name else '' end as discount
    from unnest(${[...codes]}::text[]) k (code)
      left join case_service c on c.case_id = ${caseId} and c.code = k.code
      left join lateral (
        select s.name, fee_on(s.id, k.code, ${day}::date) as fee
        from household h
          join account_category g on g.name = h.category
          join fee_schedule s on s.id = g.fee_schedule_id
        where h.id = ${householdId} and ${coverageId}::bigint is null
      ) d on true`.execute(db);
  return new Map(rows.map(({ code, ...usual }) => [code, usual]));
}

/** The fee as typed, or the usual one for so many units. @throws Refused when it is none */
function feeOf({ fee: text, code }: LineFacts, usual: Cents | null, units: number, at: At): Cents {
  const fee = text === '' ? usual && times(usual, units) : parseMoney(text);
  if (fee === null)
    throw new Refused(
      'state',
      text === '' ? `${code} has no office fee: enter one` : 'Fee is not an amount',
      at('fee'),
    );
  if (fee < 0) throw new Refused('limit', 'Fee cannot be below zero', at('fee'));
  return fee;
}

/** Tax of a site on a service, in cents. */
export const taxAt = (
  rate: BasisPoints | null,
  { taxable, fee }: Pick<Service, 'taxable'> & { fee: Cents },
): Cents => (taxable && rate !== null ? portion(fee, rate) : ZERO);

/** Tax as typed, or what the site says of what is taxable. @throws Refused when it is no amount */
function taxOf(
  { tax: text = '' }: LineFacts,
  { taxable }: Pick<Service, 'taxable'>,
  rate: BasisPoints | null,
  fee: Cents,
  at: At,
): Cents {
  if (text === '') return taxAt(rate, { taxable, fee });
  const tax = parseMoney(text);
  if (tax === null || tax < 0) throw new Refused('invalid', 'Tax is not an amount', at('tax'));
  return tax;
}

type Service = Selectable<DB['service_code']>;

/** A service as it is entered: its units, fee and tax. */
export interface FoundLine {
  service: Service;
  units: number;
  fee: Cents;
  tax: Cents;
  /** With that of an advance notice that holds for it. */
  modifiers: string[];
  /** The discount that its fee comes of; empty where it comes of none, or was typed. */
  discount: string;
}

/** A service is looked at again when it is older than this. */
const OLD_DAYS = 365;
/** A service is planned at most so far ahead. */
const PLANNED_DAYS = 5 * 366;
/** A fee is looked at again from here, in cents. */
const HIGH_FEE = cents(100_000_00);

/** A person with a case and the coverage of a day. @throws Refused when there is none */
async function patientOn(tx: Db, patientId: number, data: VisitFacts) {
  const known = await tx
    .selectFrom('patient as p')
    .innerJoin('care_case as c', 'c.patient_id', 'p.id')
    .leftJoin('coverage_plan as o', (join) =>
      join.on('o.id', '=', sql<number>`coverage_on(c.id, 1, ${data.serviceDate}::date)`),
    )
    .leftJoin('insurance_plan as n', 'n.id', 'o.insurance_plan_id')
    .select([
      'p.household_id',
      'p.birth_date',
      'c.id as case_id',
      'o.id as coverage_id',
      'o.payer_id',
      sql<TimedUnits>`coalesce(n.timed_units, 'total')`.as('timed_units'),
      // By the policy of the day on which it is entered.
      sql<boolean>`
        coalesce(n.contracted, false)
        and (
          n.charges_at = 'contract'
            or coalesce(nullif(n.write_offs_count, ''), (select r.write_offs_count from practice r)) = 'service'
        )`.as('expects'),
      sql<boolean>`coalesce(n.contracted and n.charges_at = 'contract', false)`.as('at_contract'),
      sql<boolean>`coalesce((select y.takes_tax from payer y where y.id = o.payer_id), false)`.as(
        'tax_billed',
      ),
      'c.name as case_name',
      'c.discharged_on',
      'c.accident_date',
      'c.location_id as case_location_id',
      sql<boolean>`exists (select 1 from coverage x where x.case_id = c.id and x.position = 1)`.as('insured'),
    ])
    .where('p.id', '=', patientId)
    .where((eb) => (data.caseId ? eb('c.id', '=', data.caseId) : eb('c.standing', '=', true)))
    .executeTakeFirst();
  if (!known)
    throw data.caseId
      ? new Refused('others', 'This case is not this person’s', 'caseId')
      : new Refused('unknown', 'This person is not registered', 'patientId');
  if (known.discharged_on !== null && data.serviceDate > known.discharged_on)
    throw new Refused(
      'state',
      `“${known.case_name}” is closed since ${formatDate(known.discharged_on)}: open it again, or choose another case`,
      { field: 'caseId', facts: { discharged_on: known.discharged_on } },
    );
  if (data.serviceDate < known.birth_date)
    throw new Refused('date', `Date lies before the birth, ${formatDate(known.birth_date)}`, {
      field: 'serviceDate',
      facts: { birth_date: known.birth_date },
    });
  return data.keptFromPayers
    ? { ...known, coverage_id: null, payer_id: null, insured: false, tax_billed: false }
    : known;
}

type Patient = Awaited<ReturnType<typeof patientOn>>;

/** Who does it, and where: at the site of the case, else at the own one. @throws Refused when there is nobody, or nobody any more */
async function providerOf(tx: Db, { providerId, planned }: VisitFacts, site: number | null) {
  const provider = await tx
    .selectFrom('provider as v')
    .innerJoin('location as l', (join) => join.on('l.id', '=', sql<number>`coalesce(${site}, v.location_id)`))
    .select(['v.id', 'v.last', 'v.first', 'v.active', 'v.taxonomy', 'l.id as location_id', 'l.tax_rate'])
    .where('v.id', '=', providerId)
    .executeTakeFirst();
  if (!provider) throw new Refused('missing', 'Choose a provider', 'providerId');
  if (planned && !provider.active)
    throw new Refused(
      'state',
      `${provider.first} ${provider.last} is no longer active: nothing is planned with them`,
      'providerId',
    );
  return provider;
}

/** What is wrong with a service by itself on a day. @throws Refused at the field */
function checkLine(line: LineFacts, service: Service | undefined, day: CalendarDate, at: At): Service {
  const { code } = line;
  if (!service) throw new Refused('invalid', `Code ${code} is not in the list of services`, at('code'));
  if (!service.active)
    throw new Refused('invalid', `Code ${code} is not in the list of services: it is inactive`, at('code'));
  if (service.valid_from && day < service.valid_from)
    throw new Refused('date', `${code} is valid from ${formatDate(service.valid_from)} on`, at('code'));
  if (service.valid_to && day > service.valid_to)
    throw new Refused('date', `${code} is valid until ${formatDate(service.valid_to)}`, at('code'));
  const { needs_tooth: tooth, needs_surface: surface, needs_area: area } = service;
  const fault = mouthFault(
    code,
    { tooth, surface, area: area as '' },
    { tooth: line.tooth, surfaces: line.surfaces, area: line.area ?? '' },
  );
  if (fault) throw new Refused(fault.missing ? 'missing' : 'invalid', fault.words, at(fault.field));
  if (line.minutes && service.unit_minutes === null)
    throw new Refused('invalid', `${code} is not billed by time: say how many`, at('minutes'));
  return service;
}

/**
 * The modifiers of advance notices that hold for services of a case on a day, by code: of the last that was signed, or kept where none
 * is signed, before it, and not more than a year ago (the longest for which one notice of a course of treatment holds; from memory).
 */
async function noticesOn(
  db: Db,
  caseId: number,
  codes: readonly string[],
  day: CalendarDate,
): Promise<Map<string, string>> {
  const { rows } = await sql<{ code: string; modifier: string }>`
    select distinct on (code) code, modifier
    from advance_notice
    where case_id = ${caseId}
      and code = any(${[...codes]}::text[])
      and coalesce(signed_on, made_on) <= ${day}::date
      and coalesce(signed_on, made_on) > ${day}::date - interval '1 year'
    order by code, id desc`.execute(db);
  return new Map(rows.map(({ code, modifier }) => [code, modifier]));
}

/** At most so many modifiers stand on a line (SV101-3 to -6). */
const MOST_MODIFIERS = 4;

/** Modifiers with that of a notice, where none of its kind was typed and one more has its place. */
const withNotice = (
  modifiers: readonly string[],
  { form }: Pick<Service, 'form'>,
  notice: string | undefined,
): string[] =>
  notice === undefined ||
  form !== 'professional' ||
  modifiers.length >= MOST_MODIFIERS ||
  modifiers.some((one) => Object.hasOwn(NOTICE_MODIFIERS, one))
    ? [...modifiers]
    : [...modifiers, notice];

/** Units of services, counted from minutes where those are said, beside what the person has of the day. */
async function unitsOf(
  tx: Db,
  patientId: number,
  { serviceDate, planned }: VisitFacts,
  lines: readonly LineFacts[],
  services: readonly Service[],
  by: TimedUnits,
  at: (index: number) => At,
): Promise<number[]> {
  const timed = lines.flatMap(({ minutes }, index) => (minutes ? [{ index, minutes }] : []));
  const units = lines.map((line) => line.units ?? 1);
  if (timed.length === 0) return units;
  const earlier = planned
    ? []
    : await tx
        .selectFrom('charge as c')
        .innerJoin('service_code as s', 's.code', 'c.code')
        .select(['c.units', 'c.minutes', 's.discipline', 's.unit_minutes'])
        .where('c.patient_id', '=', patientId)
        .where('c.service_date', '=', serviceDate)
        .where('c.status', '=', 'done')
        .where('c.minutes', 'is not', null)
        .where('s.unit_minutes', 'is not', null)
        .execute();
  const found = timedUnits(
    [
      ...earlier.map((one) => ({
        minutes: one.minutes!,
        discipline: one.discipline,
        per: one.unit_minutes!,
        units: one.units,
      })),
      ...timed.map(({ index, minutes }) => {
        const { discipline, unit_minutes: per } = services[index]!;
        return { minutes, discipline, per: per! };
      }),
    ],
    by,
  ).slice(earlier.length);
  for (const [place, { index, minutes }] of timed.entries()) {
    if (found[place]! === 0)
      throw new Refused(
        'limit',
        `${counted(minutes, 'minute')} of ${lines[index]!.code} make no unit${by === 'total' ? ' beside what else the day has' : ''}`,
        at(index)('minutes'),
      );
    units[index] = found[place]!;
  }
  return units;
}

/**
 * Looks up whom and what services are about: patient, coverage on their day, provider, codes, units, fees, tax. A fixed number of
 * queries, however many there are.
 * @param several whether a refusal says of which line it speaks, as `lines.2.fee`
 * @throws Refused naming the field that is wrong
 */
export async function visitOf(
  tx: Db,
  today: CalendarDate,
  patientId: number,
  data: VisitFacts,
  lines: readonly LineFacts[],
  several: boolean,
) {
  if (data.serviceDate > today && !data.planned)
    throw new Refused('date', 'Date lies in the future', 'serviceDate');
  if (data.serviceDate > addDays(today, PLANNED_DAYS))
    throw new Refused('limit', 'Date lies more than five years ahead', 'serviceDate');
  const at =
    (index: number): At =>
    (field) =>
      several ? `lines.${index}.${field}` : field;
  const patient = await patientOn(tx, patientId, data);
  const provider = await providerOf(tx, data, patient.case_location_id);
  const codes = [...new Set(lines.map(({ code }) => code))];
  const rows = await tx
    .selectFrom('service_code')
    .selectAll()
    .where('code', '=', sql<string>`any(${codes})`)
    .execute();
  const byCode = new Map(rows.map((row) => [row.code, row]));
  const services = lines.map((line, index) =>
    checkLine(line, byCode.get(line.code), data.serviceDate, at(index)),
  );
  await knownDiagnoses(
    tx,
    lines.flatMap(({ diagnoses }) => diagnoses),
  );
  const units = await unitsOf(tx, patientId, data, lines, services, patient.timed_units, at);
  const fees = await usualFees(tx, patient, provider.location_id, codes, data.serviceDate);
  const notices =
    patient.coverage_id === null
      ? new Map<string, string>()
      : await noticesOn(tx, patient.case_id, codes, data.serviceDate);
  const found = lines.map((line, index): FoundLine => {
    const service = services[index]!;
    const usual = fees.get(line.code) ?? { fee: null, discount: '' };
    const fee = feeOf(line, usual.fee, units[index]!, at(index));
    return {
      service,
      units: units[index]!,
      fee,
      tax: taxOf(line, service, provider.tax_rate, fee, at(index)),
      discount: line.fee === '' ? usual.discount : '',
      modifiers: withNotice(line.modifiers ?? service.modifiers, service, notices.get(line.code)),
    };
  });
  return { patient, provider, lines: found };
}

/** What was found of services. */
export type FoundVisit = Awaited<ReturnType<typeof visitOf>>;

/** The same of one service. @throws Refused naming the field that is wrong */
export async function serviceOf(tx: Tx, today: CalendarDate, patientId: number, data: ServiceFacts) {
  const { lines, ...found } = await visitOf(tx, today, patientId, data, [data], false);
  return { ...found, ...lines[0]! };
}

/** What is doubtful about a visit: long ago, entered already, no coverage on its day, a fee out of the common, who does it. */
export async function visitDoubts(
  tx: Tx,
  today: CalendarDate,
  patientId: number,
  data: VisitFacts,
  lines: readonly LineFacts[],
  { patient, provider, lines: found }: FoundVisit,
  except = 0,
): Promise<(string | false)[]> {
  const day = formatDate(data.serviceDate);
  const { rows: twice } = await sql<{ code: string; tooth: string }>`
    select distinct c.code, c.tooth
    from charge c
      join unnest(
        ${lines.map(({ code }) => code)}::text[], ${lines.map(({ tooth }) => tooth)}::text[]
      ) l (code, tooth) on l.code = c.code and l.tooth = c.tooth
    where c.patient_id = ${patientId}
      and c.service_date = ${data.serviceDate}
      and c.status = 'done'
      and c.id <> ${except}`.execute(tx);
  const words = ({ code, tooth }: { code: string; tooth: string }): string =>
    `${code}${tooth ? ` on tooth ${tooth}` : ''}`;
  const again = lines.filter(
    (line, index) => lines.findIndex(({ code, tooth }) => code === line.code && tooth === line.tooth) < index,
  );
  return [
    data.serviceDate < addDays(today, -OLD_DAYS) && `${day} is more than a year ago`,
    ...twice.map((one) => `${words(one)} is entered already for ${day}`),
    ...again.map((one) => `${words(one)} stands here twice`),
    patient.accident_date !== null &&
      data.serviceDate < patient.accident_date &&
      `${day} lies before the accident of “${patient.case_name}”`,
    patient.insured &&
      patient.coverage_id === null &&
      `No coverage was in force on ${day}: the patient would owe it`,
    ...found.map(({ fee }) => fee > HIGH_FEE && `The fee is ${formatMoneyPlain(fee)}`),
    !provider.active && `${provider.first} ${provider.last} is no longer active`,
    found.some(({ service }) => service.form === 'dental') &&
      formOf(provider.taxonomy) !== 'dental' &&
      `${provider.first} ${provider.last} is no dentist`,
  ];
}

/** The same of one service. @param except a charge that is looked at again, and is not entered twice for that */
export const serviceDoubts = (
  tx: Tx,
  today: CalendarDate,
  patientId: number,
  data: ServiceFacts,
  { service, units, fee, tax, modifiers, discount, ...found }: Awaited<ReturnType<typeof serviceOf>>,
  except = 0,
): Promise<(string | false)[]> =>
  visitDoubts(
    tx,
    today,
    patientId,
    data,
    [data],
    { ...found, lines: [{ service, units, fee, tax, modifiers, discount }] },
    except,
  );

/** A charge with what of it goes into the books. */
export interface BookedLine extends Pick<FoundLine, 'fee' | 'tax'> {
  id: number;
  memo: string;
}

/** The entries of services in the books; `again` when one was in them before, with other facts. */
export async function writeCharges(
  act: Act,
  patientId: number,
  { serviceDate }: Pick<VisitFacts, 'serviceDate'>,
  { patient, provider }: Pick<FoundVisit, 'patient' | 'provider'>,
  lines: readonly BookedLine[],
  again?: string,
): Promise<void> {
  const drafts = lines.map(({ id, memo, fee, tax }) =>
    chargeEntry({
      businessDate: serviceDate,
      memo,
      fee,
      tax,
      taxBilled: patient.tax_billed,
      about: {
        chargeId: id,
        householdId: patient.household_id,
        patientId,
        caseId: patient.case_id,
        providerId: provider.id,
        locationId: provider.location_id,
      },
      coverage:
        patient.coverage_id && patient.payer_id
          ? { coverageId: patient.coverage_id, payerId: patient.payer_id }
          : null,
    }),
  );
  await writeEntries(
    act.db,
    act,
    drafts.map((draft) => (again ? { ...draft, key: `${draft.key}:${again}` } : draft)),
  );
  await noteContract(
    act.db,
    act,
    lines.map(({ id }) => id),
  );
}
