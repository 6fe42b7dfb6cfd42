/** Who belongs to a household, with their cases, the coverages of each, and what of the first is used. */
import { sql } from 'kysely';
import type { BillPatient, BillPatientWhy } from '../../core/accounts/bill-patient';
import type { Basis, SecondaryType } from '../../core/accounts/order';
import type { CalendarDate } from '../../core/calendar';
import type { Cents } from '../../core/money';
import type { Context } from '../access';
import { allowOpen } from '../closed';
import { type Count, countsOn, withSpoken } from '../../core/estimates/left';
import { benefitsOf, coverageDay } from '../books/benefits';
import { usesExpected } from '../estimates/door';
import { type Authorization, readAuthorizations } from './authorizations';
import { type CaseFacts, FACTS_OF_K, readCaseLists } from './cases';
import { LOST_TEETH, personVersion } from './register';

/** A coverage of a case. */
export interface MemberCoverage {
  id: number;
  /** First, second or third in order. */
  position: number;
  payer: string;
  plan: string;
  planId: number;
  memberId: string;
  groupNumber: string;
  relationship: 'self' | 'spouse' | 'child' | 'other';
  subscriberId: number | null;
  /** Who holds the policy, where that is nobody's patient here. */
  holder: {
    organization: boolean;
    last: string;
    first: string;
    birthDate: CalendarDate | null;
    sex: 'F' | 'M' | 'U';
    /** Where that is not where the patient lives; empty. */
    line1: string;
    city: string;
    state: string;
    zip: string;
  } | null;
  claimNumber: string;
  adjuster: string;
  /** Nothing is left of it for services from this day on, as its letter says. */
  exhaustedFrom: CalendarDate | null;
  /** The payer pays us; else it pays the patient. */
  assigned: boolean;
  signed: boolean;
  basis: Basis;
  courtOrder: boolean;
  /** Why Medicare comes after another insurer, where it does (SBR05). */
  secondaryType: SecondaryType;
  /** Claim filing indicator of the payer. */
  filingCode: string;
  holderBirthDate: CalendarDate | null;
  subscriber: string;
  validFrom: CalendarDate | null;
  validTo: CalendarDate | null;
  billPatient: BillPatient;
  billPatientWhy: '' | BillPatientWhy;
  /** In force today. */
  now: boolean;
  version: number;
}

/** A case of a person, with what its form shows, and the first coverage that is in force today with what is left of it. */
export interface MemberCase extends CaseFacts {
  id: number;
  patientId: number;
  /** The one that everybody has. */
  standing: boolean;
  dischargedOn: CalendarDate | null;
  dischargeWhy: string;
  version: number;
  coverages: MemberCoverage[];
  /** What payers allow beforehand, the newest first. */
  authorizations: Authorization[];
  /** What of the coverage is counted, and left. */
  counts: Count[];
  /** Who saw the person last, by form of the claim. */
  providers: Partial<Record<'professional' | 'dental', number>>;
}

/** One person of a household. */
export interface Member {
  id: number;
  last: string;
  first: string;
  birthDate: CalendarDate;
  sex: 'F' | 'M' | 'U';
  lostTeeth: { tooth: string; lostOn: CalendarDate | null }[];
  /** The standing one first, then the newest. */
  cases: [MemberCase, ...MemberCase[]];
  /** Versions of the rows behind the person's form. */
  version: string;
}

/** The members of a household, oldest first; a fixed number of queries. */
export async function readMembers(context: Context, householdId: number): Promise<Member[]> {
  await allowOpen(context, { householdId });
  const people = await context.db
    .selectFrom('patient as p')
    .innerJoin('household as h', 'h.id', 'p.household_id')
    .select([
      'p.id',
      'p.last',
      'p.first',
      'p.birth_date as birthDate',
      'p.sex',
      LOST_TEETH.as('lostTeeth'),
      'p.version as patientVersion',
      'h.version as householdVersion',
    ])
    .where('p.household_id', '=', householdId)
    .where('p.merged_into', 'is', null)
    .orderBy('p.birth_date')
    .orderBy('p.id')
    .execute();
  const cases = await readCases(
    context,
    people.map(({ id }) => id),
  );
  return people.map(({ patientVersion, householdVersion, ...person }) => ({
    ...person,
    // Everybody has a standing one, which comes first.
    cases: cases.filter(({ patientId }) => patientId === person.id) as [MemberCase, ...MemberCase[]],
    version: personVersion({ patientVersion, householdVersion }),
  }));
}

/** The cases of people, of each the standing one first, then the newest. */
async function readCases(context: Context, patientIds: readonly number[]): Promise<MemberCase[]> {
  const rows = await context.db
    .selectFrom('care_case as k')
    .leftJoin('coverage_plan as c', (join) =>
      join.on('c.id', '=', sql<number>`coverage_on(k.id, 1, ${context.today}::date)`),
    )
    .select([
      'k.id',
      'k.patient_id as patientId',
      'k.standing',
      'k.discharged_on as dischargedOn',
      'k.discharge_why as dischargeWhy',
      'k.version',
      ...FACTS_OF_K,
      'c.id as coverageId',
      sql<MemberCoverage[]>`
        coalesce(
          (
            select
              json_agg(
                json_build_object(
                  'id', o.id, 'position', o.position, 'payer', y.name, 'plan', o.plan_name, 'planId', o.insurance_plan_id,
                  'memberId', o.member_id,
                  'groupNumber', o.group_number,
          'relationship', o.relationship, 'subscriberId', o.subscriber_id, 'holder', case when o.subscriber_id is null then
            json_build_object('organization', o.organization, 'last', o.subscriber_last, 'first', o.subscriber_first,
              'birthDate', o.subscriber_birth_date,
              'sex', o.subscriber_sex, 'line1', o.holder_line1, 'city', o.holder_city, 'state', o.holder_state,
              'zip', o.holder_zip) end, 'subscriber',
          o.subscriber_first || ' ' || o.subscriber_last, 'validFrom', o.valid_from, 'validTo', o.valid_to,
          'claimNumber', o.claim_number, 'adjuster', o.adjuster, 'exhaustedFrom', o.exhausted_from,
          'assigned', o.assigned, 'signed', o.signed, 'basis', o.basis, 'courtOrder', o.court_order,
          'secondaryType', o.secondary_type,
          'filingCode', y.filing_code, 'holderBirthDate', o.subscriber_birth_date, 'billPatient', o.bill_patient,
          'billPatientWhy', o.bill_patient_why, 'now',
          daterange(o.valid_from, o.valid_to, '[]') @> ${context.today}::date, 'version',
          o.version) order by o.position, o.valid_from desc nulls last)
        from covered o
          join payer y on y.id = o.payer_id
        where o.case_id = k.id), '[]')`.as('coverages'),
      sql<MemberCase['providers']>`
        coalesce(
          (
            select json_object_agg(l.form, l.provider_id)
            from (select distinct on (c.form) c.form, c.provider_id from charge c
        where c.case_id = k.id and c.kind = 'service' and c.status = 'done'
        order by c.form, c.service_date desc, c.id desc) l), '{}')`.as('providers'),
    ])
    .where('k.patient_id', '=', sql<number>`any(${[...patientIds]}::bigint[])`)
    .orderBy('k.standing', 'desc')
    .orderBy('k.id', 'desc')
    .execute();
  const ids = rows.map(({ id }) => id);
  const [lists, authorizations] = await Promise.all([
    readCaseLists(context.db, ids),
    readAuthorizations(context.db, ids),
  ]);
  const day = context.today;
  const benefits = await benefitsOf(
    context.db,
    rows.flatMap(({ coverageId }) => (coverageId === null ? [] : { coverageId, day })),
  );
  const found = rows.map(({ coverageId, ...row }) => {
    const own = coverageId === null ? undefined : benefits.get(coverageDay({ coverageId, day }));
    return {
      coverageId,
      ...row,
      ...lists.get(row.id)!,
      authorizations: authorizations.filter(({ caseId }) => caseId === row.id),
      counts: own ? countsOn(own, day) : [],
    };
  });
  // Only of what is counted it is asked what is spoken for.
  const uses = await usesExpected(
    context.db,
    found.filter(({ counts }) => counts.length > 0).map(({ id }) => id),
  );
  return found.map(({ coverageId, ...row }) => ({
    ...row,
    counts: withSpoken(row.counts, (coverageId !== null && uses.get(coverageId)) || []),
  }));
}

/** What of a charge `c` the contract takes off, where it stands at the contracted fee: it is in no column. */
const CONTRACT_OFF = sql`case when c.at_contract then least(c.contract_off, b.expected + greatest(b.reduced, 0)) else 0 end`;

/** What was charged of a case, a person or a household, and where it stands, in cents. */
export interface CaseTotals {
  charged: Cents;
  /** Also what is expected to come off. */
  reduced: Cents;
  paid: Cents;
  withPayers: Cents;
  /** With the patient: owed, on a plan or with an agency. */
  withPatient: Cents;
}

/** The totals of a case beside those of its person and household. */
export async function readCaseTotals(
  context: Context,
  caseId: number,
): Promise<{ case: CaseTotals; person: CaseTotals; household: CaseTotals }> {
  await allowOpen(context, { caseId });
  const { rows } = await sql<CaseTotals & { level: 'case' | 'person' | 'household' }>`
    select l.level, coalesce(sum(b.fee + b.tax + b.added + b.opened - ${CONTRACT_OFF}), 0)::bigint as charged,
      coalesce(sum(b.reduced + b.expected - ${CONTRACT_OFF}), 0)::bigint as reduced,
      coalesce(sum(b.payer_paid + b.patient_paid + b.agency_paid), 0)::bigint as paid,
      coalesce(sum(b.with_payer), 0)::bigint as "withPayers",
      coalesce(sum(b.with_patient + b.on_plan + b.at_agency), 0)::bigint as "withPatient"
    from care_case k
      join patient p on p.id = k.patient_id
      cross join unnest(array['case', 'person', 'household']) l (level)
      left join charge c on c.household_id = p.household_id
        and case l.level when 'case' then c.case_id = k.id when 'person' then c.patient_id = p.id else true end
      left join charge_balance b on b.charge_id = c.id
    where k.id = ${caseId}
    group by 1`.execute(context.db);
  const of = (level: string): CaseTotals => {
    const { level: _, ...totals } = rows.find((row) => row.level === level)!;
    return totals;
  };
  return { case: of('case'), person: of('person'), household: of('household') };
}
