/** Checking a selection of claims without sending it: what is missing is kept, so that the list stays in place while it is mended. */
import { sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import type { ClaimForm } from '../../core/claims/content';
import { checkInput, checkOnlyInput } from '../../core/claims/input';
import { type ClaimStatus, OURS, SENDABLE, isOurs } from '../../core/claims/life';
import { findingsDocument } from '../../core/claims/document';
import type { Finding, FixPlace } from '../../core/claims/rule';
import { type Cents, ZERO, add } from '../../core/money';
import { claimSegments } from '../../core/x12/claim837';
import type { Tx } from '../../db/connect';
import { type Context, Refused, allow, audit } from '../access';
import { isClosed } from '../closed';
import { useCase } from '../use-case';
import { refreshClaims } from './check';
import { fileOf } from './send';

/** A check is kept so many days. */
const KEPT_DAYS = 30;
/** What stands for the answer of a claim that was rejected. */
const REJECTED = 'rejected';
/** At most so many claims are checked at once. */
const MOST = 10_000;

/**
 * Checks claims that are still ours, those named or all that are not held, and keeps what was found. Nothing is sent.
 * @returns the check's id
 * @throws Refused when none of them is still ours
 */
export const checkOnly = useCase({
  name: 'check only',
  permission: 'work claims',
  input: checkOnlyInput,
  async run(act, { claimIds }) {
    const tx = act.db;
    let query = tx
      .selectFrom('claim')
      .select('id')
      .where('status', 'in', [...SENDABLE]);
    if (claimIds) query = query.where('id', '=', sql<number>`any(${claimIds}::bigint[])`);
    const claims = await query.orderBy('id').limit(MOST).forNoKeyUpdate().execute();
    if (claims.length === 0)
      throw new Refused('nothing', 'None of these claims is still ours: nothing to check');
    const checked = await refreshClaims(
      tx,
      act,
      claims.map(({ id }) => id),
    );
    // Pressed twice it is one check.
    const just = await tx
      .selectFrom('claim_check')
      .select('id')
      .where('user_name', '=', act.user.name)
      .where('claims', '=', sql<number[]>`${checked.map((claim) => claim.id)}::bigint[]`)
      .where('made_at', '>', sql<Date>`desk_now() - interval '10 seconds'`)
      .executeTakeFirst();
    if (just) return just.id;
    await sql`
      delete from claim_check where business_date < ${act.today}::date - ${KEPT_DAYS}::integer`.execute(tx);
    const { id } = await tx
      .insertInto('claim_check')
      .values({
        user_name: act.user.name,
        business_date: act.today,
        claims: checked.map((claim) => claim.id),
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    const answers = await tx
      .selectFrom('claim')
      .select(['id', 'hold_reason'])
      .where('id', '=', sql<number>`any(${checked.map((claim) => claim.id)}::bigint[])`)
      .where('status', '=', 'rejected')
      .execute();
    const said = new Map(answers.map((claim) => [claim.id, claim.hold_reason]));
    const found = checked.map((claim) => {
      const words = said.get(claim.id);
      return {
        id: claim.id,
        findings: [...(words === undefined ? [] : [rejection(words)]), ...claim.findings],
      };
    });
    await keepFindings(
      tx,
      id,
      found.filter(({ findings }) => findings.length > 0),
    );
    await act.note('checked', { kind: 'claims', id: checked.length }, { check: id });
    return id;
  },
});

/** What an answer says of a claim that was rejected, as something to be mended: until it is sent again, from its page. */
const rejection = (words: string): Finding => ({
  rule: REJECTED,
  severity: 'stop',
  place: 'claim',
  field: 'answer',
  words: `It was rejected: ${words}. Mend it and send it again`,
  reference: '277CA STC, 999',
});

/** Looks again at the claims of a check that are still ours: what is mended by now is said so. @throws Refused when it is not kept any more */
export const checkOnceMore = useCase({
  name: 'check once more',
  permission: 'work claims',
  input: checkInput,
  async run(act, { checkId }) {
    const check = await checkRow(act, checkId);
    const claims = await act.db
      .selectFrom('claim')
      .select('id')
      .where('id', '=', sql<number>`any(${check.claims}::bigint[])`)
      .where('status', 'in', [...OURS])
      .orderBy('id')
      .forNoKeyUpdate()
      .execute();
    await refreshClaims(
      act.db,
      act,
      claims.map(({ id }) => id),
    );
  },
});

/** Keeps what was found of each claim, for the words stay when it is mended. */
async function keepFindings(
  tx: Tx,
  checkId: number,
  found: readonly { id: number; findings: Finding[] }[],
): Promise<void> {
  if (found.length === 0) return;
  await sql`
    insert into claim_check_finding (check_id, claim_id, findings)
    select ${checkId}, claim_id, findings::jsonb
    from unnest(
      ${found.map(({ id }) => id)}::bigint[], ${found.map(({ findings }) => findingsDocument.write(findings))}::text[]
    ) as f (claim_id, findings)`.execute(tx);
}

/** One thing that was found of one claim, and whether it is mended. */
export interface CheckedFinding {
  claimId: number;
  controlNumber: string;
  patient: string;
  payer: string;
  status: ClaimStatus;
  finding: Finding;
  mended: boolean;
  /** Found since. */
  late: boolean;
  /** Where it is mended leads there by these. */
  ids: {
    id: number;
    householdId: number;
    patientId: number;
    coverageId: number;
    caseId: number;
    payerId: number;
    lines: { number: number; chargeId: number }[];
  };
}
/** What is mended in one kind of place. */
export interface FindingGroup {
  place: FixPlace;
  field: string;
  claims: number;
  left: number;
  found: CheckedFinding[];
}
/** A check as its page shows it. */
export interface CheckPage {
  id: number;
  by: string;
  on: CalendarDate;
  claims: number;
  /** Of them: ready for a file, ready to be printed, to be fixed, gone from here. */
  ready: number;
  toPrint: number;
  stopped: number;
  gone: number;
  readyTotal: Cents;
  groups: FindingGroup[];
}

interface Row {
  id: number;
  status: ClaimStatus;
  control: string;
  patient: string;
  payer: string;
  total: Cents;
  stops: number;
  now: unknown;
  was: unknown;
  ids: CheckedFinding['ids'];
}

/** Whether two findings are about the same. */
const isSame = (one: Finding, other: Finding): boolean => one.rule === other.rule && one.line === other.line;

async function checkRow(context: Context, checkId: number) {
  allow(context, 'read claims');
  const check = await context.db
    .selectFrom('claim_check')
    .selectAll()
    .where('id', '=', checkId)
    .executeTakeFirst();
  if (!check) throw new Refused('unknown', 'This check is not kept any more: check anew');
  return check;
}

/** Reads a check with how far its claims are mended by now. @throws Refused when it is not kept any more */
export async function readCheck(context: Context, checkId: number): Promise<CheckPage> {
  const check = await checkRow(context, checkId);
  const { rows } = await sql<Row>`
    select m.id, m.status, m.control_number as control, p.last || ', ' || p.first as patient, y.name as payer, m.total,
      m.stops, m.findings as now, f.findings as was,
      json_build_object(
        'id', m.id, 'householdId', m.household_id, 'patientId', m.patient_id, 'coverageId', m.coverage_id,
        'caseId', m.case_id, 'payerId', m.payer_id,
        'lines', (
          select coalesce(json_agg(json_build_object('number', l.number, 'chargeId', l.charge_id) order by l.number), '[]')
          from claim_line l
          where l.claim_id = m.id
        )
      ) as ids
    from claim m
      join patient p on p.id = m.patient_id
      join payer y on y.id = m.payer_id
      left join claim_check_finding f on f.check_id = ${checkId} and f.claim_id = m.id
    where m.id = any(${check.claims}::bigint[]) and (f.claim_id is not null or m.stops + m.warnings > 0)
      and not ${isClosed(context, sql`m.household_id`)}
    order by m.id`.execute(context.db);
  const onPaper = sql`exists (select from payer o where o.id = claim.payer_id and o.accepts = 'paper')`;
  const counts = await context.db
    .selectFrom('claim')
    .select([
      sql<number>`count(*) filter (where status = 'ready' and not ${onPaper})`.as('ready'),
      sql<number>`count(*) filter (where status = 'ready' and ${onPaper})`.as('toPrint'),
      sql<number>`count(*) filter (where status in ('draft', 'rejected', 'held'))`.as('stopped'),
      sql<Cents>`coalesce(sum(total) filter (where status = 'ready' and not ${onPaper}), 0)`.as('readyTotal'),
    ])
    .where('id', '=', sql<number>`any(${check.claims}::bigint[])`)
    .executeTakeFirstOrThrow();
  await audit(context.db, context, 'read', { kind: 'claims', id: check.claims.length }, { check: checkId });
  return {
    id: check.id,
    by: check.user_name,
    on: check.business_date,
    claims: check.claims.length,
    ...counts,
    gone: check.claims.length - counts.ready - counts.toPrint - counts.stopped,
    groups: groupsOf(rows.flatMap(foundOf)),
  };
}

/** What was found of a claim then and now. */
function foundOf({ id, status, control, patient, payer, now, was, ids }: Row): CheckedFinding[] {
  const before = was === null ? [] : findingsDocument.read(was);
  // What went is mended, however it went.
  const today: Finding[] = now === null || !isOurs(status) ? [] : [...findingsDocument.read(now)];
  if (status === 'rejected') today.push(...before.filter(({ rule }) => rule === REJECTED));
  const one = (finding: Finding, mended: boolean, late: boolean): CheckedFinding => ({
    claimId: id,
    controlNumber: control,
    patient,
    payer,
    status,
    finding,
    mended,
    late,
    ids,
  });
  return [
    ...before.map((finding) => {
      const still = today.find((other) => isSame(other, finding));
      return one(still ?? finding, !still, false);
    }),
    ...today
      .filter((finding) => !before.some((other) => isSame(other, finding)))
      .map((finding) => one(finding, false, true)),
  ];
}

/** Found things by what mends them: what stops the most claims first, what warns after it. */
function groupsOf(found: readonly CheckedFinding[]): FindingGroup[] {
  const groups = new Map<string, FindingGroup>();
  for (const one of found) {
    const { place, field } = one.finding;
    const key = `${place}/${field}`;
    const group = groups.get(key) ?? { place, field, claims: 0, left: 0, found: [] };
    group.found.push(one);
    groups.set(key, group);
  }
  const claims = (list: readonly CheckedFinding[]): number =>
    new Set(list.map(({ claimId }) => claimId)).size;
  const stops = ({ found: list }: FindingGroup): boolean =>
    list.some(({ finding }) => finding.severity === 'stop');
  return [...groups.values()]
    .map((group) => ({
      ...group,
      claims: claims(group.found),
      left: claims(group.found.filter(({ mended }) => !mended)),
    }))
    .sort(
      (a, b) => Number(stops(b)) - Number(stops(a)) || b.claims - a.claims || (a.field < b.field ? -1 : 1),
    );
}

/** A file that would be sent: how it goes, and the claims in it. */
export interface FilePage {
  connectionId: number;
  connection: string;
  form: ClaimForm;
  total: Cents;
  claims: { id: number; controlNumber: string; patient: string; total: Cents }[];
}

/** Claims of a check that are ready, by the file in which they would go. */
async function readyOf(context: Context, checkId: number) {
  const check = await checkRow(context, checkId);
  const { rows } = await sql<{
    id: number;
    form: ClaimForm;
    connectionId: number;
    connection: string;
    controlNumber: string;
    patient: string;
    total: Cents;
  }>`
    select m.id, m.form, o.id as "connectionId", o.name as connection, m.control_number as "controlNumber",
      p.last || ', ' || p.first as patient, m.total
    from claim m
      join payer y on y.id = m.payer_id
      join connection o on o.id = y.connection_id and y.accepts = 'electronic'
      join patient p on p.id = m.patient_id
    where m.id = any(${check.claims}::bigint[]) and m.status = 'ready'
      and not ${isClosed(context, sql`m.household_id`)}
    order by o.id, m.form desc, m.id`.execute(context.db);
  return rows;
}

/** The files that sending a check’s ready claims now would make. */
export async function readCheckFiles(context: Context, checkId: number): Promise<FilePage[]> {
  const files = new Map<string, FilePage>();
  for (const { connectionId, connection, form, ...claim } of await readyOf(context, checkId)) {
    const key = `${connectionId}/${form}`;
    const file = files.get(key) ?? {
      connectionId,
      connection,
      form,
      total: ZERO,
      claims: [],
    };
    file.claims.push(claim);
    file.total = add(file.total, claim.total);
    files.set(key, file);
  }
  return [...files.values()];
}

/**
 * The text of a file that would be sent, and its name.
 * @throws Refused when nothing of it is ready
 */
export async function checkFile(
  context: Context,
  checkId: number,
  of: { connectionId: number; form: ClaimForm },
): Promise<{ name: string; text: string }> {
  allow(context, 'work claims');
  const ids = (await readyOf(context, checkId)).flatMap(({ id, connectionId, form }) =>
    connectionId === of.connectionId && form === of.form ? [id] : [],
  );
  if (ids.length === 0) throw new Refused('nothing', 'Nothing of this file is ready any more');
  await audit(context.db, context, 'read', { kind: 'claims', id: ids.length }, { check: checkId });
  return fileOf(context, of.connectionId, of.form, ids);
}

/** The segments of one claim in the file that would be sent, one a line. */
export async function readSegments(
  context: Context,
  checkId: number,
  of: { connectionId: number; form: ClaimForm; controlNumber: string },
): Promise<string> {
  const { text } = await checkFile(context, checkId, of);
  return claimSegments(text, of.controlNumber) ?? '';
}
