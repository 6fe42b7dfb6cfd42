/** Who belongs to a household, with their coverages and what of the first is used. */
import { sql } from 'kysely';
import type { BillPatient, BillPatientWhy } from '../../core/accounts/bill-patient';
import type { CalendarDate } from '../../core/calendar';
import type { Context } from '../access';
import { allowOpen } from '../closed';
import { type Count, countsOn } from '../../core/estimates/left';
import { benefitsOf, coverageDay } from '../books/benefits';
import { personVersion } from './register';

/** A coverage of a person's standing case. */
export interface MemberCoverage {
  id: number;
  /** First, second or third in order. */
  position: number;
  payer: string;
  plan: string;
  memberId: string;
  groupNumber: string;
  relationship: 'self' | 'spouse' | 'child' | 'other';
  subscriberId: number | null;
  /** Who holds the policy, where that is nobody's patient here. */
  holder: { last: string; first: string; birthDate: CalendarDate | null; sex: 'F' | 'M' | 'U' } | null;
  subscriber: string;
  validFrom: CalendarDate | null;
  validTo: CalendarDate | null;
  billPatient: BillPatient;
  billPatientWhy: '' | BillPatientWhy;
  /** In force today. */
  now: boolean;
  version: number;
}

/** One person of a household, and the first coverage that is in force today with what is left of it. */
export interface Member {
  id: number;
  caseId: number;
  last: string;
  first: string;
  birthDate: CalendarDate;
  sex: 'F' | 'M' | 'U';
  coverages: MemberCoverage[];
  /** What of the coverage is counted, and left. */
  counts: Count[];
  /** Who saw the person last, by form of the claim. */
  providers: Partial<Record<'professional' | 'dental', number>>;
  /** Versions of the rows behind the person's form. */
  version: string;
}

/** The members of a household, oldest first; two queries. */
export async function readMembers(context: Context, householdId: number): Promise<Member[]> {
  await allowOpen(context, { householdId });
  const rows = await context.db
    .selectFrom('patient as p')
    .innerJoin('household as h', 'h.id', 'p.household_id')
    .innerJoin('care_case as k', (join) =>
      join.onRef('k.patient_id', '=', 'p.id').on('k.standing', '=', true),
    )
    .leftJoin('coverage_plan as c', (join) =>
      join.on('c.id', '=', sql<number>`coverage_on(k.id, 1, ${context.today}::date)`),
    )
    .select([
      'p.id',
      'k.id as caseId',
      'c.id as coverageId',
      'p.last',
      'p.first',
      'p.birth_date as birthDate',
      'p.sex',
      'p.version as patientVersion',
      'h.version as householdVersion',
      sql<MemberCoverage[]>`
        coalesce(
          (
            select
              json_agg(
                json_build_object(
                  'id', o.id, 'position', o.position, 'payer', y.name, 'plan', o.plan_name, 'memberId', o.member_id,
                  'groupNumber', o.group_number,
          'relationship', o.relationship, 'subscriberId', o.subscriber_id, 'holder', case when o.subscriber_id is null then
            json_build_object('last', o.subscriber_last, 'first', o.subscriber_first, 'birthDate', o.subscriber_birth_date,
              'sex', o.subscriber_sex) end, 'subscriber',
          o.subscriber_first || ' ' || o.subscriber_last, 'validFrom', o.valid_from, 'validTo', o.valid_to,
          'billPatient', o.bill_patient, 'billPatientWhy', o.bill_patient_why, 'now',
          daterange(o.valid_from, o.valid_to, '[]') @> ${context.today}::date, 'version',
          o.version) order by o.position, o.valid_from desc nulls last)
        from covered o
          join payer y on y.id = o.payer_id
        where o.case_id = k.id), '[]')`.as('coverages'),
      sql<Member['providers']>`
        coalesce(
          (
            select json_object_agg(l.form, l.provider_id)
            from (select distinct on (c.form) c.form, c.provider_id from charge c
        where c.case_id = k.id and c.kind = 'service' and c.status = 'done'
        order by c.form, c.service_date desc, c.id desc) l), '{}')`.as('providers'),
    ])
    .where('p.household_id', '=', householdId)
    .orderBy('p.birth_date')
    .orderBy('p.id')
    .execute();
  const day = context.today;
  const benefits = await benefitsOf(
    context.db,
    rows.flatMap(({ coverageId }) => (coverageId === null ? [] : { coverageId, day })),
  );
  return rows.map(({ coverageId, patientVersion, householdVersion, ...row }) => {
    const own = coverageId === null ? undefined : benefits.get(coverageDay({ coverageId, day }));
    return {
      ...row,
      counts: own ? countsOn(own, day) : [],
      version: personVersion({ patientVersion, householdVersion }),
    };
  });
}
