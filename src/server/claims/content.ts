/** Reading what a claim says from the tables. */
import { WENT } from '../../core/claims/life';
import { claimIn } from '../claim-states';
import { type NotNull, type Selectable, sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import type { ClaimContent, ClaimReference, OtherPayer } from '../../core/claims/content';
import type { CheckContext } from '../../core/claims/rules';
import { sum } from '../../core/money';
import { asWanted } from '../../core/payers/settings';
import { standsWithBilling } from '../../core/payers/words';
import type { Db } from '../../db/connect';
import type { DB } from '../../db/views';
import { type Context, Refused } from '../access';
import { otherPayersOf } from './other-payers';

const plain = (text: string): string => text.toLowerCase().replace(/[^a-z0-9]/g, '');
/** Whether a place is another one than the billing provider's, by street and five-digit zip code. */
const isElsewhere = (
  place: { line1: string; zip: string },
  billing: { line1: string; zip: string },
): boolean =>
  plain(place.line1) !== plain(billing.line1) ||
  plain(place.zip).slice(0, 5) !== plain(billing.zip).slice(0, 5);

/** What a claim says, with what the rules need to know. */
export interface TakenContent {
  id: number;
  content: ClaimContent;
  check: CheckContext;
  /** Its case sends no claims now. */
  kept: boolean;
}

/** What claims say as the tables have it now, in one read for all of them, in the order of their ids. */
export async function takeContents(
  tx: Db,
  context: Context,
  claimIds: readonly number[],
): Promise<TakenContent[]> {
  const [rows, practice, charges, twins, others] = await Promise.all([
    heads(tx, claimIds),
    tx.selectFrom('practice').selectAll().executeTakeFirst(),
    chargesOf(tx, claimIds),
    twinsOf(tx, claimIds),
    otherPayersOf(tx, claimIds),
  ]);
  if (!practice) throw new Refused('missing', 'Enter the practice in Setup first');
  const known = await diagnosesOf(
    tx,
    charges.flatMap((charge) => charge.diagnoses),
  );
  const lines = new Map<number, typeof charges>(claimIds.map((id) => [id, []]));
  for (const charge of charges) lines.get(charge.claim_id)!.push(charge);
  return rows.map((row) => {
    const own = lines.get(row.id)!;
    const content = asWanted(contentOf(row, practice, own, others.get(row.id)), row.settings);
    return {
      id: row.id,
      content,
      kept: !row.claims,
      check: checkOf(context, row, own, content.diagnoses, known, twins.get(row.id) ?? new Map()),
    };
  });
}

type Head = Awaited<ReturnType<typeof heads>>[number];
type ChargeLine = Awaited<ReturnType<typeof chargesOf>>[number];
type Practice = Selectable<DB['practice']>;
type Known = ReadonlyMap<string, { from: CalendarDate | null; to: CalendarDate | null }>;

/** The number under which the payer allowed something for the case on the day. */
const allowed = (kind: 'prior-authorization' | 'referral') =>
  sql<string | null>`authorized_on(m.case_id, m.payer_id, ${kind}, m.service_date)`;

const heads = (tx: Db, claimIds: readonly number[]) =>
  tx
    .selectFrom('claim as m')
    .innerJoin('household as h', 'h.id', 'm.household_id')
    .innerJoin('patient as p', 'p.id', 'm.patient_id')
    .innerJoin('care_case as k', 'k.id', 'm.case_id')
    .innerJoin('coverage as o', 'o.id', 'm.coverage_id')
    .innerJoin('policy as q', 'q.id', 'o.policy_id')
    .innerJoin('insurance_plan as n', 'n.id', 'q.insurance_plan_id')
    .innerJoin('policy_person as i', (join) =>
      join.onRef('i.policy_id', '=', 'o.policy_id').onRef('i.patient_id', '=', 'm.patient_id'),
    )
    .innerJoin('party as t', 't.id', 'q.holder_id')
    .leftJoin('patient as s', 's.id', 't.patient_id')
    .innerJoin('payer as y', 'y.id', 'm.payer_id')
    .innerJoin('location as l', (join) =>
      join.on('l.id', '=', sql<number>`coalesce(k.service_location_id, m.location_id)`),
    )
    .innerJoin('provider as v', (join) =>
      join.on('v.id', '=', sql<number>`coalesce(k.bill_provider_id, m.provider_id)`),
    )
    .leftJoin('payer_provider as w', (join) =>
      join
        .onRef('w.payer_id', '=', 'y.id')
        .onRef('w.provider_id', '=', 'v.id')
        .on(sql<boolean>`daterange(w.valid_from, w.valid_to, '[]') @> m.service_date::date`),
    )
    .leftJoin('claim as r', 'r.id', 'm.replaces')
    .select([
      'm.id',
      'm.control_number',
      'm.form',
      'm.frequency',
      'r.payer_claim_number as replaced_number',
      'h.line1',
      'h.line2',
      'h.city',
      'h.state',
      'h.zip',
      'p.last',
      'p.first',
      'p.middle',
      'p.suffix',
      'p.birth_date',
      'p.sex',
      'k.claims',
      'k.accident_kind',
      'k.accident_date',
      'k.accident_state',
      'k.onset_date',
      'k.first_treated_date',
      'k.acute_date',
      'k.last_seen_date',
      'k.first_contact_date',
      'k.disabled_from',
      'k.disabled_to',
      allowed('prior-authorization').as('authorization_number'),
      allowed('referral').as('referral_number'),
      'k.referring_last',
      'k.referring_first',
      'k.referring_npi',
      'm.position',
      'q.group_number',
      'i.relationship',
      sql<string>`coalesce(s.last, t.last)`.as('subscriber_last'),
      sql<string>`coalesce(s.first, t.first, '')`.as('subscriber_first'),
      sql<CalendarDate | null>`coalesce(s.birth_date, t.birth_date)`.as('subscriber_birth_date'),
      sql<'F' | 'M' | 'U'>`coalesce(s.sex, t.sex, 'U')`.as('subscriber_sex'),
      'o.valid_from',
      'o.valid_to',
      'n.name as plan_name',
      'y.name as payer_name',
      'y.payer_id as payer_code',
      'y.accepts',
      sql<'group' | 'individual'>`billed_as(y.id, v.id, m.service_date)`.as('bills_as'),
      'y.claim_name',
      'y.line1 as payer_line1',
      'y.line2 as payer_line2',
      'y.city as payer_city',
      'y.state as payer_state',
      'y.zip as payer_zip',
      'y.clearinghouse_mails',
      'y.new_claims',
      'y.accepts_assignment',
      'y.own_name',
      'y.own_npi',
      'y.own_taxonomy',
      'y.own_tax_id',
      'y.own_line1',
      'y.own_city',
      'y.own_state',
      'y.own_zip',
      'y.unfinished',
      'y.corrections',
      'o.assigned',
      'o.signed',
      'o.claim_number',
      't.organization',
      'w.individual_qualifier',
      'w.individual_id',
      'w.group_qualifier',
      'w.group_id',
      // It says of the provider when, and not of this day.
      sql<boolean>`
        w.id is null
          and exists (select from payer_provider x where x.payer_id = y.id and x.provider_id = v.id)`.as(
        'apart',
      ),
      sql<ClaimReference[]>`
        coalesce(
          (
            select json_agg(json_build_object('qualifier', r.qualifier, 'id', r.value) order by r.qualifier)
            from payer_reference r
            where r.payer_id = y.id
          ),
          '[]'
        )`.as('payer_references'),
      sql<string[]>`
        coalesce(
          (
            select array_agg(s.setting order by s.setting)
            from payer_setting s
            where s.payer_id = y.id and s.active
          ),
          '{}'
        )`.as('settings'),
      // The agreement that its list asks for and nobody has.
      sql<string | null>`
        (
          select case m.form when 'dental' then '837D' else '837P' end
          from clearinghouse_payer q
          where q.connection_id = y.connection_id
            and q.code = y.payer_id
            and case m.form when 'dental' then '837D' else '837P' end = any(q.needs)
            and not exists (
              select
              from payer_agreement a
              where a.payer_id = y.id
                and a.transaction = case m.form when 'dental' then '837D' else '837P' end
                and a.since <= m.service_date
                and a.provider_id is not distinct from
                  case when billed_as(y.id, v.id, m.service_date) = 'individual' then v.id end
            )
        )`.as('agreement_missing'),
      'y.filing_code',
      'y.connection_id',
      'y.timely_filing_days',
      'y.requires_referring',
      'y.requires_authorization',
      'l.place_of_service',
      'l.name as location_name',
      'l.line1 as location_line1',
      'l.city as location_city',
      'l.state as location_state',
      'l.zip as location_zip',
      'v.last as provider_last',
      'v.first as provider_first',
      'v.npi',
      'v.taxonomy',
      'm.patient_id',
      'm.payer_id as payer_row',
      // By the number of the day of the service.
      sql<string>`
        (
          select x.member_id
          from policy_number x
          where x.policy_person_id = i.id and (x.valid_from is null or x.valid_from <= m.service_date)
          order by x.valid_from desc nulls last
          limit 1
        )`.as('member_id'),
    ])
    .where('m.id', '=', sql<number>`any(${[...claimIds]}::bigint[])`)
    .orderBy('m.id')
    .execute();

const chargesOf = (tx: Db, claimIds: readonly number[]) =>
  tx
    .selectFrom('claim_line as l')
    .innerJoin('charge as c', 'c.id', 'l.charge_id')
    .innerJoin('service_code as s', 's.code', 'c.code')
    .select(['l.claim_id', 'l.id as line_id', 'l.number', 's.needs_tooth', 's.needs_surface', 's.category'])
    .selectAll('c')
    .where('l.claim_id', '=', sql<number>`any(${[...claimIds]}::bigint[])`)
    .orderBy('l.claim_id')
    .orderBy('l.number')
    .$narrowType<{ code: NotNull }>()
    .execute();

/** Sent claims of the same patient, day, code and fee, by claim and line. */
async function twinsOf(tx: Db, claimIds: readonly number[]): Promise<Map<number, Map<number, string>>> {
  const { rows } = await sql<{ id: number; number: number; control: string }>`
    select l.claim_id as id, l.number, min(o.control_number) as control
    from claim_line l
      join charge c on c.id = l.charge_id
      -- By the household too, of which a patient is: services are found by it and their day.
      join charge d on d.household_id = c.household_id
        and d.patient_id = c.patient_id
        and d.service_date = c.service_date
        and d.code = c.code
        and d.fee = c.fee
        and d.tooth = c.tooth
        and d.id <> c.id
        and d.status = 'done'
      join claim_line k on k.charge_id = d.id and k.bills
      join claim o on o.id = k.claim_id and ${claimIn(sql`o.status`, WENT)}
    where l.claim_id = any(${[...claimIds]}::bigint[]) group by 1, 2`.execute(tx);
  const found = new Map<number, Map<number, string>>();
  for (const { id, number, control } of rows)
    found.set(id, (found.get(id) ?? new Map()).set(number, control));
  return found;
}

async function diagnosesOf(tx: Db, codes: readonly string[]): Promise<Known> {
  const unique = [...new Set(codes)];
  if (unique.length === 0) return new Map();
  const rows = await tx.selectFrom('diagnosis').selectAll().where('code', 'in', unique).execute();
  return new Map(rows.map((item) => [item.code, { from: item.valid_from, to: item.valid_to }]));
}

/** Who bills, by what the payer knows us. */
function billingOf(row: Head, practice: Practice): ClaimContent['billing'] {
  const group = row.group_id ? { qualifier: row.group_qualifier!, id: row.group_id } : null;
  return {
    ...(row.bills_as === 'individual'
      ? { last: row.provider_last, first: row.provider_first, npi: row.npi, taxonomy: row.taxonomy }
      : {
          organization: row.own_name || practice.name,
          npi: row.own_npi || practice.npi,
          taxonomy: row.own_taxonomy || practice.taxonomy,
        }),
    taxId: row.own_tax_id || practice.tax_id,
    taxIdKind: 'EI',
    address: row.own_line1
      ? { line1: row.own_line1, line2: '', city: row.own_city, state: row.own_state, zip: row.own_zip }
      : {
          line1: practice.line1,
          line2: practice.line2,
          city: practice.city,
          state: practice.state,
          zip: practice.zip,
        },
    ...(group && standsWithBilling(group.qualifier) ? { references: [group] } : {}),
  };
}

/** Who is billed, with the number that it gave our group. */
function payerOf(row: Head): ClaimContent['payer'] {
  const group =
    row.group_id && !standsWithBilling(row.group_qualifier!)
      ? [{ qualifier: row.group_qualifier!, id: row.group_id }]
      : [];
  const references = [...row.payer_references, ...group];
  return {
    name: row.claim_name || row.payer_name,
    payerId: row.payer_code,
    ...(row.payer_line1
      ? {
          address: {
            line1: row.payer_line1,
            line2: row.payer_line2,
            city: row.payer_city,
            state: row.payer_state,
            zip: row.payer_zip,
          },
        }
      : {}),
    ...(references.length > 0 ? { references } : {}),
  };
}

/** The dates of the case, which a dental claim has no place for. */
function datesOf(row: Head): Pick<ClaimContent, 'dates'> {
  if (row.form === 'dental') return {};
  const dates = Object.entries({
    onset: row.onset_date,
    firstTreated: row.first_treated_date,
    acute: row.acute_date,
    lastSeen: row.last_seen_date,
    firstContact: row.first_contact_date,
    disabledFrom: row.disabled_from,
    disabledTo: row.disabled_to,
  }).filter(([, date]) => date !== null);
  return dates.length > 0 ? { dates: Object.fromEntries(dates) } : {};
}

function contentOf(
  row: Head,
  practice: Practice,
  charges: readonly ChargeLine[],
  otherPayers: OtherPayer[] | undefined,
): ClaimContent {
  const diagnoses = [...new Set(charges.flatMap((charge) => charge.diagnoses))];
  const address = { line1: row.line1, line2: row.line2, city: row.city, state: row.state, zip: row.zip };
  const place = {
    line1: row.location_line1,
    line2: '',
    city: row.location_city,
    state: row.location_state,
    zip: row.location_zip,
  };
  const rendering = {
    last: row.provider_last,
    first: row.provider_first,
    npi: row.npi,
    taxonomy: row.taxonomy,
  };
  return {
    form: row.form,
    controlNumber: row.control_number,
    frequency: row.frequency,
    ...(row.replaced_number ? { payerClaimNumber: row.replaced_number } : {}),
    total: sum(charges.map((charge) => charge.fee)),
    placeOfService: row.place_of_service,
    billing: billingOf(row, practice),
    subscriber: {
      last: row.subscriber_last,
      first: row.subscriber_first,
      middle: '',
      suffix: '',
      // An organization has none, which the rules say.
      birthDate: row.subscriber_birth_date ?? ('' as CalendarDate),
      sex: row.subscriber_sex,
      address,
      memberId: row.member_id,
      groupNumber: row.group_number,
      planName: row.plan_name,
      ...(row.organization ? { organization: true } : {}),
      ...(row.claim_number ? { casualtyNumber: row.claim_number } : {}),
    },
    ...(row.accepts_assignment && row.assigned && row.signed
      ? {}
      : {
          assignment: { accepted: row.accepts_assignment, benefits: row.assigned, signed: row.signed },
        }),
    patient: {
      last: row.last,
      first: row.first,
      middle: row.middle,
      suffix: row.suffix,
      birthDate: row.birth_date,
      sex: row.sex,
      address,
    },
    relationship: row.relationship,
    coverageOrder: row.position,
    filingCode: row.filing_code,
    payer: payerOf(row),
    rendering: {
      ...rendering,
      ...(row.individual_id
        ? { references: [{ qualifier: row.individual_qualifier!, id: row.individual_id }] }
        : {}),
    },
    ...(isElsewhere(place, practice) ? { facility: { name: row.location_name, address: place } } : {}),
    ...(row.referring_npi
      ? {
          referring: {
            last: row.referring_last,
            first: row.referring_first,
            npi: row.referring_npi,
          },
        }
      : {}),
    diagnoses,
    ...(row.accident_kind
      ? {
          accident: {
            kind: row.accident_kind as 'AA' | 'EM' | 'OA',
            date: row.accident_date,
            state: row.accident_state,
          },
        }
      : {}),
    ...datesOf(row),
    ...(row.authorization_number ? { authorizationNumber: row.authorization_number } : {}),
    ...(row.referral_number ? { referralNumber: row.referral_number } : {}),
    ...(otherPayers ? { otherPayers } : {}),
    lines: charges.map((charge) => ({
      number: charge.number,
      code: charge.code,
      modifiers: charge.modifiers,
      charge: charge.fee,
      units: charge.units,
      pointers: charge.diagnoses.map((code) => diagnoses.indexOf(code) + 1),
      date: charge.service_date,
      tooth: charge.tooth,
      surfaces: charge.surfaces,
      area: charge.area,
      prosthesis: charge.prosthesis,
      priorPlacement: charge.prior_placement,
      control: `L${charge.line_id}`,
    })),
  };
}

const checkOf = (
  context: Context,
  row: Head,
  charges: readonly ChargeLine[],
  diagnoses: readonly string[],
  known: Known,
  duplicates: ReadonlyMap<number, string>,
): CheckContext => ({
  today: context.today,
  coverageFrom: row.valid_from,
  coverageTo: row.valid_to,
  timelyFilingDays: row.timely_filing_days,
  requiresReferring: row.requires_referring,
  requiresAuthorization: row.requires_authorization,
  payerAccepts: row.accepts,
  hasConnection: row.connection_id !== null,
  unfinished: row.unfinished,
  corrections: row.corrections,
  clearinghouseMails: row.clearinghouse_mails,
  agreementMissing: row.agreement_missing,
  takesPart: !row.apart,
  diagnoses: new Map(
    diagnoses.flatMap((code) => {
      const found = known.get(code);
      return found ? [[code, found] as const] : [];
    }),
  ),
  services: new Map(
    charges.map((charge) => [
      charge.code,
      { needsTooth: charge.needs_tooth, needsSurface: charge.needs_surface },
    ]),
  ),
  duplicates,
});
