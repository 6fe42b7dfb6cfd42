/** Who belongs to a household, with their coverages and what of the first is used. */
import { sql } from 'kysely';
import type { BillPatient, BillPatientWhy } from '../../core/accounts/bill-patient';
import type { CalendarDate } from '../../core/calendar';
import { type Cents, ZERO, cents } from '../../core/money';
import type { Context } from '../access';
import { allowOpen } from '../closed';
import { type RuleOf, periodStart } from '../../core/estimates/rules';
import { type Benefits, benefitsOf, coverageDay } from '../books/benefits';
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
  subscriber: string;
  validFrom: CalendarDate | null;
  validTo: CalendarDate | null;
  billPatient: BillPatient;
  billPatientWhy: '' | BillPatientWhy;
  /** In force today. */
  now: boolean;
  version: number;
}

/** One person of a household, and the first coverage that is in force today with what is used of it; amounts in cents. */
export interface Member {
  id: number;
  caseId: number;
  last: string;
  first: string;
  birthDate: CalendarDate;
  sex: 'F' | 'M' | 'U';
  coverages: MemberCoverage[];
  deductible: Cents;
  deductibleUsed: Cents;
  maximum: Cents | null;
  maximumUsed: Cents;
  /** Who saw the person last, by form of the claim. */
  providers: Partial<Record<'professional' | 'dental', number>>;
  /** Versions of the rows behind the person's form. */
  version: string;
}

const YEARLY = { holder: 'person', period: { every: 'year' } } as const;

/** The deductible and the maximum that are said for all services, the person's before a household's, with what is used of them. */
function atHead(
  own: Benefits | undefined,
  day: CalendarDate,
): Pick<Member, 'deductible' | 'deductibleUsed' | 'maximum' | 'maximumUsed'> {
  const general = (own?.rules ?? []).filter(({ scope }) => !scope?.category && !scope?.codes);
  const [deductible] = general
    .filter((rule) => rule.kind === 'deductible')
    .sort((a, b) => b.holder.localeCompare(a.holder));
  const [maximum] = general
    .filter((rule) => rule.kind === 'limit')
    .filter(({ measure, period }) => measure === 'money' && period.every === 'year')
    .sort((a, b) => b.holder.localeCompare(a.holder));
  // What is used is said also where no more is asked for.
  const used = (rule: RuleOf<'deductible' | 'limit'>): Cents =>
    own ? cents(own.used(rule, periodStart(rule.period, day, own.begins), '')) : ZERO;
  return {
    deductible: deductible?.amount ?? ZERO,
    deductibleUsed: used(deductible ?? { kind: 'deductible', id: '', amount: ZERO, ...YEARLY }),
    maximum: maximum ? cents(maximum.most) : null,
    maximumUsed: used(maximum ?? { kind: 'limit', id: '', measure: 'money', most: 0, ...YEARLY }),
  };
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
          'relationship', o.relationship, 'subscriberId', o.subscriber_id, 'subscriber',
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
      ...atHead(own, day),
      version: personVersion({ patientVersion, householdVersion }),
    };
  });
}
