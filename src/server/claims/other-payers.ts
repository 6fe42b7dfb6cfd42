/** The other payers of claims: those before with what stands of their decisions, those after by name. */
import { type RawBuilder, sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import type { Cents } from '../../core/money';
import type { ClaimReference, OtherPayer } from '../../core/claims/content';
import { type Word, asStandard, decidedBefore } from '../../core/claims/decided-before';
import { remitClaimDocument } from '../../core/remittances/document';
import { STANDARD_REASONS } from '../../core/remittances/standard-reasons';
import type { Adjustment } from '../../core/x12/adjustments';
import type { Db } from '../../db/connect';

interface Row extends Omit<OtherPayer, 'payer' | 'subscriber' | 'decided' | 'numbers' | 'secondaryType'> {
  claimId: number;
  coverageId: number;
  earlier: boolean;
  payer: OtherPayer['payer'];
  subscriber: OtherPayer['subscriber'];
  secondaryType: string;
  numbers: Partial<Record<keyof NonNullable<OtherPayer['numbers']>, ClaimReference | null>>;
}

/** The other payers of a claim, and when the last of those before it first decided. */
export interface Others {
  payers: OtherPayer[];
  firstDecided: CalendarDate | null;
}

/** A line of ours that an earlier payer has had on a claim. */
interface Had {
  claimId: number;
  coverageId: number;
  number: number;
  control: string;
  also: string | null;
  code: string;
  charge: Cents;
  /** The claim that the earlier payer had, and how many lines it has. */
  theirs: number;
  lines: number;
}

/** Whether a coverage has nothing left on the day of the claim `m` and never had what it bills, as a condition. */
export const isPassedOver = (coverage: RawBuilder<unknown>) =>
  sql<boolean>`${coverage}.exhausted_from is not null
    and passed_over(
      ${coverage}.id, m.service_date::date, array(select l.charge_id from claim_line l where l.claim_id = m.id)
    )`;

/**
 * The other payers of claims, in their order. Most have none, which one query says; two more where one came before.
 * @returns by claim; claims without are not there
 */
export async function otherPayersOf(db: Db, claimIds: readonly number[]): Promise<Map<number, Others>> {
  const { rows } = await sql<Row>`
    select m.id as "claimId", o.id as "coverageId", o.position - o.passed < m.position as earlier,
      o.position - o.passed as "coverageOrder", y.filing_code as "filingCode",
      json_build_object('name', coalesce(nullif(y.claim_name, ''), y.name), 'payerId', y.payer_id) as payer,
      case when not (o.assigned and o.signed)
        then json_build_object('benefits', o.assigned, 'signed', o.signed) end as assignment,
      json_build_object(
        'last', o.subscriber_last, 'first', o.subscriber_first, 'middle', '', 'suffix', '',
        'memberId', member_on(o.policy_person_id, m.service_date), 'groupNumber', o.group_number,
        'planName', o.plan_name
      ) as subscriber,
      o.relationship, o.secondary_type as "secondaryType",
      json_build_object(
        'referring', (
          select json_build_object('qualifier', w.individual_qualifier, 'id', w.individual_id)
          from provider r
            join payer_provider w on w.payer_id = o.payer_id
              and w.provider_id = r.id
              and daterange(w.valid_from, w.valid_to, '[]') @> m.service_date::date
          where r.npi = k.referring_npi and w.individual_qualifier not in ('', 'LU')
          limit 1
        ),
        'rendering', case when w.individual_id <> ''
          then json_build_object('qualifier', w.individual_qualifier, 'id', w.individual_id) end,
        'billing', case when w.group_qualifier in ('G2', 'LU')
          then json_build_object('qualifier', w.group_qualifier, 'id', w.group_id) end
      ) as numbers
    from claim m
      join care_case k on k.id = m.case_id
      cross join lateral (
        select o.*,
          -- How many before it have nothing left and are asked nothing.
          (
            select count(*)
            from coverage e
            where e.case_id = m.case_id and e.position < o.position and ${isPassedOver(sql`e`)}
          )::integer as passed
        from covered o
        where o.case_id = m.case_id
          and not (${isPassedOver(sql`o`)})
          and o.id <> m.coverage_id
          and daterange(o.valid_from, o.valid_to, '[]') @> m.service_date::date
      ) o
      join payer y on y.id = o.payer_id
      left join payer_provider w on w.payer_id = o.payer_id
        and w.provider_id = coalesce(k.bill_provider_id, m.provider_id)
        and daterange(w.valid_from, w.valid_to, '[]') @> m.service_date::date
    where m.id = any(${[...claimIds]}::bigint[]) and o.position - o.passed <> m.position
    order by m.id, o.position`.execute(db);
  const after = rows.filter(({ earlier }) => earlier);
  const words = await wordsBefore(db, [...new Set(after.map(({ claimId }) => claimId))]);
  const found = new Map<number, Others>();
  for (const { claimId, coverageId, earlier, assignment, numbers, secondaryType, ...own } of rows) {
    const known = Object.entries(numbers).filter(([, number]) => number !== null);
    const word = earlier ? words(claimId, coverageId) : undefined;
    const { payers, firstDecided } = found.get(claimId) ?? { payers: [], firstDecided: null };
    found.set(claimId, {
      payers: [
        ...payers,
        {
          ...own,
          // Medicare alone is told why it comes after another insurer.
          ...(secondaryType && own.coverageOrder > 1 ? { secondaryType } : {}),
          ...(assignment ? { assignment } : {}),
          ...(known.length > 0 ? { numbers: Object.fromEntries(known) } : {}),
          ...(word?.decided ? { decided: word.decided } : {}),
        },
      ],
      firstDecided: word && (firstDecided === null || word.first > firstDecided) ? word.first : firstDecided,
    });
  }
  return found;
}

/** What an earlier payer has decided, with what stands of it, and when it first did. */
interface Before {
  decided: OtherPayer['decided'];
  first: CalendarDate;
}

/** What stands of what earlier payers decided, as a function of a claim and the earlier coverage. */
async function wordsBefore(
  db: Db,
  claimIds: readonly number[],
): Promise<(claimId: number, coverageId: number) => Before | undefined> {
  if (claimIds.length === 0) return () => undefined;
  const { rows: had } = await sql<Had>`
    select l.claim_id as "claimId", e.coverage_id as "coverageId", l.number, 'L' || e.id as control,
      (
        select 'L' || f.id
        from remittance_claim w
          join claim_line f on f.claim_id = w.claim_id
        where w.id = t.forwarded_by and f.charge_id = l.charge_id
      ) as also,
      c.code, c.billed as charge,
      e.claim_id as theirs, (select count(*) from claim_line x where x.claim_id = e.claim_id) as lines
    from claim_line l
      join claim m on m.id = l.claim_id
      join charge c on c.id = l.charge_id
      join claim_line e on e.charge_id = l.charge_id and e.coverage_id <> l.coverage_id
      join claim t on t.id = e.claim_id and t.position < m.position and t.purpose = 'bill'
    where l.claim_id = any(${[...claimIds]}::bigint[])
    order by e.claim_id, l.number`.execute(db);
  const { rows: said } = await sql<{ claimId: number; content: unknown; date: CalendarDate }>`
    select c.claim_id as "claimId", c.content, r.payment_date as date
    from remittance_claim c
      join remittance r on r.id = c.remittance_id
    where c.claim_id = any(${[...new Set(had.map(({ theirs }) => theirs))]}::bigint[]) and c.status = 'posted'
    order by c.id`.execute(db);
  const travels = await travelling(db);
  const words = new Map<number, Word[]>();
  for (const { claimId, content, date } of said)
    words.set(claimId, [...(words.get(claimId) ?? []), { claim: remitClaimDocument.read(content), date }]);
  return (claimId, coverageId) => {
    const own = had.filter((line) => line.claimId === claimId && line.coverageId === coverageId);
    // The last claim that it has decided: one in its place says all anew.
    const theirs = own.map((line) => line.theirs).findLast((id) => words.has(id));
    const lines = own.filter((line) => line.theirs === theirs);
    if (theirs === undefined) return undefined;
    const said = words.get(theirs)!;
    const decided = decidedBefore(said, lines, lines.length === lines[0]!.lines);
    const all = own.flatMap((line) => words.get(line.theirs) ?? []).map(({ date }) => date);
    return { decided: decided && asStandard(decided, travels), first: all.sort()[0]! };
  };
}

/** As what reason codes of our own go on, by group and code. */
async function travelling(db: Db): Promise<(adjustment: Adjustment) => Adjustment> {
  const rows = await db
    .selectFrom('reason_code')
    .select(['group_code', 'code', 'travels_as'])
    .where('travels_as', '<>', '')
    .execute();
  const table = new Map(rows.map((row) => [`${row.group_code}-${row.code}`, row.travels_as]));
  return (adjustment) => {
    const { group, reason } = adjustment;
    const as = table.get(`${group}-${reason}`) ?? table.get(`*-${reason}`);
    if (!as) return adjustment;
    const [to, code = ''] = as.split('-');
    return { ...adjustment, group: to as Adjustment['group'], reason: code };
  };
}

/** Codes of the standard list, and whatever looks like one that is newer than ours. */
const STANDARD = new Set(STANDARD_REASONS.map(({ code }) => code));
const isStandard = (code: string): boolean => STANDARD.has(code) || /^\d{1,3}$/.test(code);

/** Reason codes of our own that decisions of earlier payers still bear: they name no standard one. */
export async function ownReasonsOf(db: Db, others: readonly Others[]): Promise<ReadonlySet<string>> {
  const said = others.flatMap(({ payers }) =>
    payers.flatMap(({ decided }) => [
      ...(decided?.adjustments ?? []),
      ...(decided?.lines ?? []).flatMap(({ adjustments }) => adjustments),
    ]),
  );
  const doubtful = [...new Set(said.map(({ reason }) => reason))].filter((code) => !isStandard(code));
  if (doubtful.length === 0) return new Set();
  const rows = await db.selectFrom('reason_code').select('code').where('code', 'in', doubtful).execute();
  return new Set(rows.map(({ code }) => code));
}
