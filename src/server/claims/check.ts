/** Checking claims: a claim that is still ours follows what it is built from. */
import { sql } from 'kysely';
import { claimDocument, findingsDocument } from '../../core/claims/document';
import { type ClaimStatus, OURS } from '../../core/claims/life';
import type { ClaimContent } from '../../core/claims/content';
import { type Finding, checkClaim } from '../../core/claims/rules';
import { estimate } from '../../core/estimates/estimate';
import { FACILITY_PLACES } from '../../core/estimates/facilities';
import type { CalendarDate } from '../../core/calendar';
import { type Cents, ZERO, add, minus } from '../../core/money';
import type { Tx } from '../../db/connect';
import type { Context } from '../access';
import { type CaseCoverage, type CaseDay, caseDay, estimateCoverages } from '../estimates/door';
import { takeContents } from './content';
import { moveClaims } from './life';

/** A claim that was checked: what it says, what was found, and where it stands now. */
export interface Checked {
  id: number;
  status: ClaimStatus;
  content: ClaimContent;
  findings: Finding[];
  /** Its case sends no claims now. */
  kept: boolean;
}

/** Claims are checked at most so many at once. */
const LOT = 500;

/**
 * Takes what claims say anew from patient, coverage, charges and setup, checks it, and stores findings and expected amounts,
 * in a few statements for all of them. A claim that the payer has keeps its snapshot and is left out.
 * @returns the claims that are still ours, in the order of their ids
 */
export async function refreshClaims(
  tx: Tx,
  context: Context,
  claimIds: readonly number[],
): Promise<Checked[]> {
  const checked: Checked[] = [];
  for (let at = 0; at < claimIds.length; at += LOT)
    checked.push(...(await refreshLot(tx, context, claimIds.slice(at, at + LOT))));
  return checked;
}

interface Own {
  id: number;
  status: ClaimStatus;
  case_id: number;
  coverage_id: number;
  hold_reason: string;
}

/** Why a claim is held whose case sends none. */
export const CASE_KEEPS = 'The case sends no claims';

async function refreshLot(tx: Tx, context: Context, claimIds: readonly number[]): Promise<Checked[]> {
  const claims: Own[] = await tx
    .selectFrom('claim')
    .select(['id', 'status', 'case_id', 'coverage_id', 'hold_reason'])
    .where('id', '=', sql<number>`any(${[...claimIds]}::bigint[])`)
    .where('status', 'in', [...OURS])
    .orderBy('id')
    .execute();
  if (claims.length === 0) return [];
  const taken = await takeContents(
    tx,
    context,
    claims.map(({ id }) => id),
  );
  const statuses = new Map(claims.map(({ id, status }) => [id, status]));
  const checked = taken.map<Checked>(({ id, content, check, kept }) => ({
    id,
    kept,
    status: statuses.get(id)!,
    content,
    findings: checkClaim(content, check),
  }));
  await storeFindings(tx, checked);
  await moveKept(tx, context, claims, checked);
  await moveChecked(tx, context, checked);
  await storeExpected(tx, claims, checked);
  return checked;
}

const stopsOf = (findings: readonly Finding[]): number =>
  findings.filter((finding) => finding.severity === 'stop').length;

async function storeFindings(tx: Tx, checked: readonly Checked[]): Promise<void> {
  const stops = checked.map(({ findings }) => stopsOf(findings));
  await sql`
    update claim m set content = s.content::jsonb, findings = s.findings::jsonb, stops = s.stops,
      warnings = s.warnings, total = s.total, stale_since = null
    from unnest(
      ${checked.map(({ id }) => id)}::bigint[],
      ${checked.map(({ content }) => claimDocument.write(content))}::text[],
      ${checked.map(({ findings }) => findingsDocument.write(findings))}::text[],
      ${stops}::integer[], ${checked.map(({ findings }, index) => findings.length - stops[index]!)}::integer[],
      ${checked.map(({ content }) => content.total)}::bigint[]) as s (id, content, findings, stops, warnings, total)
    where m.id = s.id`.execute(tx);
}

/** What is ours of a case that sends no claims is held; it goes on when the case does. */
async function moveKept(tx: Tx, context: Context, claims: readonly Own[], checked: Checked[]): Promise<void> {
  const cause = { kind: 'rule', name: 'case' } as const;
  const keptOnes = new Set(
    claims
      .filter(({ status, hold_reason }) => status === 'held' && hold_reason === CASE_KEEPS)
      .map(({ id }) => id),
  );
  const stop = checked.filter(({ status, kept }) => kept && (status === 'draft' || status === 'ready'));
  await moveClaims(tx, context, stop, 'held', cause, CASE_KEEPS, { holdReason: CASE_KEEPS });
  for (const claim of stop) claim.status = 'held';
  const go = checked.filter(({ id, kept }) => !kept && keptOnes.has(id));
  await moveClaims(tx, context, go, 'draft', cause, 'The case sends claims again', { holdReason: '' });
  for (const claim of go) claim.status = 'draft';
}

/** A draft without a stop is ready, and a ready one with a stop is a draft. */
async function moveChecked(tx: Tx, context: Context, checked: Checked[]): Promise<void> {
  const cause = { kind: 'rule', name: 'check' } as const;
  const good = checked.filter(({ status, findings }) => status === 'draft' && stopsOf(findings) === 0);
  await moveClaims(tx, context, good, 'ready', cause, 'Every rule holds');
  for (const claim of good) claim.status = 'ready';
  for (const claim of checked) {
    const stop = claim.findings.find((finding) => finding.severity === 'stop');
    if (claim.status !== 'ready' || !stop) continue;
    await moveClaims(tx, context, [claim], 'draft', cause, stop.words);
    claim.status = 'draft';
  }
}

/** Stores for each line what the claim's own coverage is expected to allow and to pay. */
async function storeExpected(tx: Tx, claims: readonly Own[], checked: readonly Checked[]): Promise<void> {
  const ownOf = new Map(claims.map((claim) => [claim.id, claim]));
  const codes = [...new Set(checked.flatMap(({ content }) => content.lines.map((line) => line.code)))];
  const days = checked.flatMap(({ id, content }): CaseDay[] =>
    content.lines.map(({ date }) => ({ caseId: ownOf.get(id)!.case_id, day: date })),
  );
  const [coverages, services] = await Promise.all([
    estimateCoverages(tx, days, codes),
    tx
      .selectFrom('service_code')
      .select(['code', 'category'])
      .where('code', '=', sql<string>`any(${codes})`)
      .execute(),
  ]);
  const category = new Map(services.map((service) => [service.code, service.category]));
  const rows: { id: number; number: number; allowed: Cents | null; paid: Cents }[] = [];
  for (const { id, content } of checked) {
    const { case_id: caseId, coverage_id: coverageId } = ownOf.get(id)!;
    // Each line by the coverages, terms and fees of its own day.
    const coveragesOn = (day: CalendarDate): CaseCoverage[] => coverages.get(caseDay({ caseId, day }))!;
    const estimates = estimate(
      content.lines.map((line) => ({
        id: line.number,
        code: line.code,
        category: category.get(line.code) ?? '',
        units: line.units,
        // Tax is asked for beside what the contract says of the fee.
        fee: minus(line.charge, line.tax ?? ZERO),
        day: line.date,
        visit: line.date,
        modifiers: line.modifiers,
        tooth: line.tooth,
        facility: FACILITY_PLACES.includes(content.placeOfService),
      })),
      ({ day }) => coveragesOn(day),
    );
    for (const line of content.lines) {
      const tax = line.tax ?? ZERO;
      const all = coveragesOn(line.date);
      const own = all.findIndex((coverage) => coverage.coverageId === coverageId);
      if (own === -1) continue;
      const coverage = all[own]!;
      const part = estimates.find((item) => item.id === line.number)!.payers[own]!;
      const contracted = coverage.contracted && coverage.allowedFee(line.code, false) !== null;
      rows.push({
        id,
        number: line.number,
        allowed: contracted ? add(part.allowed, tax) : null,
        paid: own === 0 ? add(part.pays, tax) : part.pays,
      });
    }
  }
  await sql`
    update claim_line l set expected_allowed = s.allowed, expected_paid = s.paid
    from unnest(
      ${rows.map(({ id }) => id)}::bigint[], ${rows.map(({ number }) => number)}::integer[],
      ${rows.map(({ allowed }) => allowed)}::bigint[], ${rows.map(({ paid }) => paid)}::bigint[]
    ) as s (id, number, allowed, paid)
    where l.claim_id = s.id and l.number = s.number`.execute(tx);
}
