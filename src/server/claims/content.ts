/** Reading what a claim says from the tables. */
import { WENT } from '../../core/claims/life';
import { claimIn } from '../claim-states';
import { type NotNull, type RawBuilder, type Selectable, sql } from 'kysely';
import type { NdcMeasure } from '../../core/accounts/drugs';
import type { CalendarDate } from '../../core/calendar';
import { FORM_LINES } from '../../core/claims/form';
import { claimDocument } from '../../core/claims/document';
import type { ClaimContent, ClaimReference, OtherPayer } from '../../core/claims/content';
import type { ClaimNeed } from '../../core/claims/needs';
import type { Severity } from '../../core/claims/rule';
import type { CheckContext } from '../../core/claims/rules';
import { sum } from '../../core/money';
import { asWanted } from '../../core/payers/settings';
import { standsWithBilling } from '../../core/payers/words';
import type { Db } from '../../db/connect';
import type { DB } from '../../db/views';
import { type Context, Refused } from '../access';
import { isPassedOver, otherPayersOf, ownReasonsOf } from './other-payers';

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
  const limits = await limitsOf(
    tx,
    charges.map(({ code }) => code),
  );
  const ownReasons = await ownReasonsOf(tx, [...others.values()]);
  const payers = await ofPayers(
    tx,
    rows.map((row) => row.payer_row),
  );
  const lines = new Map<number, typeof charges>(claimIds.map((id) => [id, []]));
  for (const charge of charges) lines.get(charge.claim_id)!.push(charge);
  return rows.map((row) => {
    const own = lines.get(row.id)!;
    const payer = payers.get(row.payer_row)!;
    const there = atPayer(payer, row);
    const { payers: otherPayers, firstDecided } = others.get(row.id) ?? { firstDecided: null };
    const replaced = row.replaced_content === null ? null : claimDocument.read(row.replaced_content);
    const content =
      row.frequency === '8' && replaced
        ? asVoid(row, replaced, own)
        : asWanted(contentOf(row, practice, own, otherPayers, payer, there), payer.settings);
    return {
      id: row.id,
      content,
      kept: !row.claims,
      check: {
        ...checkOf(context, row, payer, there, own, content.diagnoses, known, twins.get(row.id) ?? new Map()),
        ...limits,
        phone: practice.phone,
        replaced,
        firstDecided,
        ownReasons,
      },
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

/** What a payer knows of a provider of ours from a day to a day. */
type AtPayer = Pick<
  Selectable<DB['payer_provider']>,
  | 'provider_id'
  | 'valid_from'
  | 'valid_to'
  | 'bills_as'
  | 'individual_qualifier'
  | 'individual_id'
  | 'group_qualifier'
  | 'group_id'
>;

/** What is said of a payer beside its own row. */
interface OfPayer {
  /** Its further numbers, and what it wants otherwise. */
  references: ClaimReference[];
  settings: string[];
  providers: AtPayer[];
  /** Of which transactions its clearinghouse asks for an agreement, and who has one. */
  needs: string[];
  agreements: { transaction: string; provider: number | null; since: CalendarDate }[];
  /** How it has rules of claims, and what it asks for beside them. */
  rules: { rule: string; severity: Severity | 'off' }[];
  asked: { need: ClaimNeed; severity: Severity | 'off' }[];
}

/** It, by payer; one query whatever the number of claims. */
async function ofPayers(tx: Db, payerIds: readonly number[]): Promise<ReadonlyMap<number, OfPayer>> {
  const all = (what: RawBuilder<unknown>, from: RawBuilder<unknown>) =>
    sql`coalesce((select json_agg(${what}) from ${from}), '[]')`;
  const { rows } = await sql<OfPayer & { id: number }>`
    select y.id,
      ${all(
        sql`json_build_object('qualifier', r.qualifier, 'id', r.value) order by r.qualifier`,
        sql`payer_reference r where r.payer_id = y.id and r.active`,
      )} as "references",
      ${all(sql`s.setting order by s.setting`, sql`payer_setting s where s.payer_id = y.id and s.active`)} as settings,
      ${all(sql`w`, sql`payer_provider w where w.payer_id = y.id`)} as providers,
      coalesce(
        (
          select to_json(z.needs)
          from clearinghouse_payer z
          where z.connection_id = y.connection_id and z.code = y.payer_id
        ),
        '[]'
      ) as needs,
      ${all(
        sql`json_build_object('transaction', a.transaction, 'provider', a.provider_id, 'since', a.since)`,
        sql`payer_agreement a where a.payer_id = y.id and a.active`,
      )} as agreements,
      ${all(
        sql`json_build_object('rule', r.rule, 'severity', r.severity)`,
        sql`payer_rule r where r.payer_id = y.id`,
      )} as rules,
      ${all(
        sql`json_build_object('need', n.need, 'severity', n.severity) order by n.need`,
        sql`payer_need n where n.payer_id = y.id`,
      )} as asked
    from payer y
    where y.id = any(${[...new Set(payerIds)]}::bigint[])`.execute(tx);
  return new Map(rows.map(({ id, ...payer }) => [id, payer]));
}

/** What a payer knows of who stands on a claim on its day. */
function atPayer({ providers }: OfPayer, row: Pick<Head, 'provider_row' | 'service_date'>): AtPayer | null {
  const { provider_row: provider, service_date: day } = row;
  return (
    providers.find(
      (one) =>
        one.provider_id === provider &&
        (one.valid_from === null || one.valid_from <= day) &&
        (one.valid_to === null || day <= one.valid_to),
    ) ?? null
  );
}

/** The transaction for which an agreement is asked and nobody who is billed has one. */
function agreementMissing(
  { needs, agreements }: OfPayer,
  row: Head,
  as: 'group' | 'individual',
): string | null {
  const transaction = row.form === 'dental' ? '837D' : '837P';
  const billed = as === 'individual' ? row.provider_row : null;
  const agreed = agreements.some(
    (one) => one.transaction === transaction && one.provider === billed && one.since <= row.service_date,
  );
  return needs.includes(transaction) && !agreed ? transaction : null;
}

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
    .leftJoin('claim as r', 'r.id', 'm.replaces')
    .select([
      'm.id',
      'm.control_number',
      'm.form',
      'm.frequency',
      'm.delay_reason',
      'r.payer_claim_number as replaced_number',
      'r.content as replaced_content',
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
      'k.admitted_on',
      'k.released_on',
      'k.referring_role',
      allowed('prior-authorization').as('authorization_number'),
      allowed('referral').as('referral_number'),
      'k.referring_last',
      'k.referring_first',
      'k.referring_npi',
      sql<number | null>`(select r.id from provider r where r.npi = nullif(k.referring_npi, '') limit 1)`.as(
        'referrer_row',
      ),
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
      'y.paper_form',
      'y.paper_continues',
      'y.bills_as',
      'v.id as provider_row',
      'm.service_date',
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
      'o.secondary_type',
      't.organization',
      't.line1 as holder_line1',
      't.city as holder_city',
      't.state as holder_state',
      't.zip as holder_zip',
      sql<string[] | null>`
        case when m.form = 'dental' then (
          select array_agg(x.tooth order by length(x.tooth), x.tooth) from lost_tooth x where x.patient_id = m.patient_id
        ) end`.as('lost_teeth'),
      // Of payers that are passed over the letters are there.
      sql<boolean>`exists (
        select
        from coverage e
        where e.case_id = m.case_id and e.position < o.position and ${isPassedOver(sql`e`)}
      )`.as('letters'),
      'y.filing_code',
      'y.connection_id',
      'y.timely_filing_days',
      'y.later_filing_days',
      'y.tells_patient_paid',
      'y.requires_referring',
      'y.requires_authorization',
      'l.place_of_service',
      'l.clia',
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
    .innerJoin('charge_balance as b', 'b.charge_id', 'c.id')
    .innerJoin('service_code as s', 's.code', 'c.code')
    .select([
      'l.claim_id',
      'l.id as line_id',
      'l.number',
      's.needs_tooth',
      's.needs_surface',
      's.needs_clia',
      's.needs_area',
      's.needs_drug',
      's.needs_ordering',
      's.category',
      'b.patient_paid',
    ])
    .selectAll('c')
    .where('l.claim_id', '=', sql<number>`any(${[...claimIds]}::bigint[])`)
    .where('l.left_out', '=', false)
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
        and d.billed = c.billed
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

/** What the practice has brought in of limits on services. */
async function limitsOf(
  tx: Db,
  codes: readonly string[],
): Promise<Pick<CheckContext, 'unitLimits' | 'notTogether'>> {
  const unique = sql<string>`any(${[...new Set(codes)]}::text[])`;
  const [units, pairs] = await Promise.all([
    tx
      .selectFrom('unit_limit')
      .select(['code', 'units'])
      .where('active', '=', true)
      .where('code', '=', unique)
      .execute(),
    tx
      .selectFrom('not_together')
      .select(['code', 'other', 'unless_modifier as unlessModifier'])
      .where('active', '=', true)
      .where('other', '=', unique)
      .orderBy('code')
      .execute(),
  ]);
  return { unitLimits: new Map(units.map((one) => [one.code, one.units])), notTogether: pairs };
}

/** How who does it is billed to the payer. */
const billedAs = (row: Pick<Head, 'bills_as'>, known: AtPayer | null): 'group' | 'individual' =>
  known?.bills_as || row.bills_as;
/** The number of our group at the payer. */
const groupOf = (known: AtPayer | null): ClaimReference | null =>
  known?.group_id ? { qualifier: known.group_qualifier, id: known.group_id } : null;

/** What the payer knows of whoever of ours referred. */
function referrerAt(payer: OfPayer, row: Head): AtPayer | null {
  if (row.referrer_row === null) return null;
  const known = atPayer(payer, { ...row, provider_row: row.referrer_row });
  return known?.individual_qualifier === 'LU' ? null : known;
}

/** Under what number the payer knows somebody of ours. */
const numberOf = (known: AtPayer | null): { references?: ClaimReference[] } =>
  known?.individual_id
    ? { references: [{ qualifier: known.individual_qualifier, id: known.individual_id }] }
    : {};

/** Who bills, by what the payer knows us. */
function billingOf(row: Head, practice: Practice, known: AtPayer | null): ClaimContent['billing'] {
  const group = groupOf(known);
  return {
    ...(billedAs(row, known) === 'individual'
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
    ...(practice.pay_to_line1
      ? {
          payTo: {
            line1: practice.pay_to_line1,
            line2: practice.pay_to_line2,
            city: practice.pay_to_city,
            state: practice.pay_to_state,
            zip: practice.pay_to_zip,
          },
        }
      : {}),
    ...(group && standsWithBilling(group.qualifier) ? { references: [group] } : {}),
  };
}

/** Who is billed, with the number that it gave our group. */
function payerOf(
  row: Head,
  further: readonly ClaimReference[],
  known: AtPayer | null,
): ClaimContent['payer'] {
  const group = groupOf(known);
  const references = [...further, ...(group && !standsWithBilling(group.qualifier) ? [group] : [])];
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
    admitted: row.admitted_on,
    released: row.released_on,
  }).filter(([, date]) => date !== null);
  return dates.length > 0 ? { dates: Object.fromEntries(dates) } : {};
}

/** A void says what the claim said that it voids, whatever has changed since: by that the payer knows it. */
const asVoid = (row: Head, replaced: ClaimContent, charges: readonly ChargeLine[]): ClaimContent => ({
  ...replaced,
  controlNumber: row.control_number,
  frequency: '8',
  ...(row.replaced_number ? { payerClaimNumber: row.replaced_number } : {}),
  lines: replaced.lines.map((line) => {
    const own = charges.find(({ number }) => number === line.number);
    return own ? { ...line, control: `L${own.line_id}` } : line;
  }),
});

/** How many services a claim on paper holds, where that is less than the form's own limit. */
const paperLines = (row: Pick<Head, 'accepts' | 'paper_form' | 'paper_continues' | 'form'>): number | null =>
  row.accepts === 'paper' && row.paper_form === 'form' && row.form === 'professional' && !row.paper_continues
    ? FORM_LINES
    : null;

/** What the patient has paid of its charges, where the payer is told. */
function patientPaid(row: Head, charges: readonly ChargeLine[]): Pick<ClaimContent, 'patientPaid'> {
  const paid = sum(charges.map(({ patient_paid }) => patient_paid));
  return row.tells_patient_paid && paid > 0 ? { patientPaid: paid } : {};
}

function contentOf(
  row: Head,
  practice: Practice,
  charges: readonly ChargeLine[],
  otherPayers: OtherPayer[] | undefined,
  payer: OfPayer,
  known: AtPayer | null,
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
    ...(row.replaced_number && row.frequency !== '1' ? { payerClaimNumber: row.replaced_number } : {}),
    total: sum(charges.map((charge) => charge.billed)),
    placeOfService: row.place_of_service,
    billing: billingOf(row, practice, known),
    subscriber: {
      last: row.subscriber_last,
      first: row.subscriber_first,
      middle: '',
      suffix: '',
      // An organization has none, which the rules say.
      birthDate: row.subscriber_birth_date ?? ('' as CalendarDate),
      sex: row.subscriber_sex,
      address: row.holder_line1
        ? {
            line1: row.holder_line1,
            line2: '',
            city: row.holder_city,
            state: row.holder_state,
            zip: row.holder_zip,
          }
        : address,
      memberId: row.member_id,
      groupNumber: row.group_number,
      planName: row.plan_name,
      ...(row.organization ? { organization: true } : {}),
      ...(row.secondary_type ? { secondaryType: row.secondary_type } : {}),
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
    payer: payerOf(row, payer.references, known),
    rendering: {
      ...rendering,
      ...numberOf(known),
    },
    ...(isElsewhere(place, practice) ? { facility: { name: row.location_name, address: place } } : {}),
    ...(row.referring_npi
      ? {
          referring: {
            last: row.referring_last,
            first: row.referring_first,
            npi: row.referring_npi,
            ...(row.referring_role === 'DN' ? {} : { role: row.referring_role }),
            // A number of a place is no number of who refers (2310A REF01).
            ...numberOf(referrerAt(payer, row)),
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
    ...patientPaid(row, charges),
    ...(row.delay_reason ? { delayReason: row.delay_reason } : {}),
    ...(row.lost_teeth && charges.some(({ prosthesis }) => prosthesis !== '')
      ? { lostTeeth: row.lost_teeth }
      : {}),
    ...(row.form === 'professional' && row.clia && charges.some(({ needs_clia }) => needs_clia)
      ? { clia: row.clia }
      : {}),
    // The letter of a payer that has nothing left is had on request (PWK01 OZ support data for claim, PWK02 AA).
    ...(row.letters ? { attachments: [{ type: 'OZ', by: 'AA', control: '' }] } : {}),
    ...(row.authorization_number ? { authorizationNumber: row.authorization_number } : {}),
    ...(row.referral_number ? { referralNumber: row.referral_number } : {}),
    ...(otherPayers ? { otherPayers } : {}),
    lines: charges.map((charge) => ({
      number: charge.number,
      code: charge.code,
      modifiers: charge.modifiers,
      charge: charge.billed,
      ...(charge.tax_billed && charge.tax > 0 ? { tax: charge.tax } : {}),
      units: charge.units,
      pointers: charge.diagnoses.map((code) => diagnoses.indexOf(code) + 1),
      date: charge.service_date,
      tooth: charge.tooth,
      surfaces: charge.surfaces,
      area: charge.area,
      prosthesis: charge.prosthesis,
      priorPlacement: charge.prior_placement,
      ...(charge.form === 'professional' && charge.ndc && charge.ndc_thousandths
        ? {
            drug: {
              ndc: charge.ndc,
              thousandths: charge.ndc_thousandths,
              measure: charge.ndc_measure as NdcMeasure,
            },
          }
        : {}),
      control: `L${charge.line_id}`,
    })),
  };
}

const checkOf = (
  context: Context,
  row: Head,
  payer: OfPayer,
  at: AtPayer | null,
  charges: readonly ChargeLine[],
  diagnoses: readonly string[],
  known: Known,
  duplicates: ReadonlyMap<number, string>,
): Omit<
  CheckContext,
  'unitLimits' | 'notTogether' | 'phone' | 'replaced' | 'firstDecided' | 'ownReasons'
> => ({
  today: context.today,
  coverageFrom: row.valid_from,
  coverageTo: row.valid_to,
  timelyFilingDays: row.timely_filing_days,
  laterFilingDays: row.later_filing_days,
  severities: new Map(payer.rules.map(({ rule, severity }) => [rule, severity])),
  needs: new Map(
    payer.asked.flatMap(({ need, severity }) => (severity === 'off' ? [] : [[need, severity] as const])),
  ),
  requiresReferring: row.requires_referring,
  requiresAuthorization: row.requires_authorization,
  payerAccepts: row.accepts,
  hasConnection: row.connection_id !== null,
  paperLines: paperLines(row),
  unfinished: row.unfinished,
  corrections: row.corrections,
  clearinghouseMails: row.clearinghouse_mails,
  agreementMissing: agreementMissing(payer, row, billedAs(row, at)),
  takesPart: at !== null || !payer.providers.some(({ provider_id }) => provider_id === row.provider_row),
  diagnoses: new Map(
    diagnoses.flatMap((code) => {
      const found = known.get(code);
      return found ? [[code, found] as const] : [];
    }),
  ),
  services: new Map(
    charges.map((charge) => [
      charge.code,
      {
        needsTooth: charge.needs_tooth,
        needsSurface: charge.needs_surface,
        needsArea: charge.needs_area !== '',
        needsClia: charge.needs_clia,
        needsDrug: charge.needs_drug,
        needsOrdering: charge.needs_ordering,
      },
    ]),
  ),
  duplicates,
});
