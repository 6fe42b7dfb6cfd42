/** Building claims from unbilled charges, checking them, and keeping drafts in step with what they are built from. */
import { counted } from '../../core/words';
import { sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import { type BillableCharge, groupCharges } from '../../core/claims/build';
import type { ClaimContent, ClaimForm } from '../../core/claims/content';
import { type Finding, checkClaim } from '../../core/claims/rules';
import { estimate } from '../../core/estimates/estimate';
import { type Cents, sum } from '../../core/money';
import type { Db, Tx } from '../../db/connect';
import { type Context, Refused, allow, audit } from '../access';
import { estimateCoverages } from '../accounts/charges';
import { lockHouseholds } from '../books/journal';
import { takeContent } from './content';

/** Records a step of a claim's life with its cause. */
export async function recordStep(
  tx: Tx | Db,
  context: Context,
  claimId: number,
  status: string,
  cause: { kind: 'user' | 'file' | 'rule'; name: string },
  words: string,
): Promise<void> {
  await tx
    .insertInto('claim_event')
    .values({
      claim_id: claimId,
      business_date: context.today,
      status,
      cause_kind: cause.kind,
      cause: cause.name,
      words,
    })
    .execute();
}

/** Control numbers carry a check letter so that a mistyped one is not another's. */
const controlNumber = (serial: number): string => `OL${serial}${'ABCDEFGHJKLMNPQRSTUVWXYZ'[serial % 24]}`;

/** Number of the lock on building claims. */
const BUILDING = 7_239_002;

/**
 * Builds claims from all done charges that wait for a payer and are on no current claim, of one household or of all.
 * @returns the ids of the claims built
 */
export async function buildClaims(context: Context, householdId?: number): Promise<number[]> {
  allow(context, 'work claims');
  return context.db.transaction().execute(async (tx) => {
    // Several may build for a household each; who builds for all waits for them, and they for him.
    if (householdId) {
      await sql`select pg_advisory_xact_lock_shared(${BUILDING})`.execute(tx);
      await lockHouseholds(tx, [householdId]);
    } else await sql`select pg_advisory_xact_lock(${BUILDING})`.execute(tx);
    let query = tx
      .selectFrom('charge as c')
      .innerJoin('coverage as o', 'o.case_id', 'c.case_id')
      .innerJoin('plan as n', 'n.id', 'o.plan_id')
      .innerJoin('payer as y', 'y.id', 'n.payer_id')
      .innerJoin('charge_balance as b', 'b.charge_id', 'c.id')
      .select([
        'c.id',
        'c.form',
        'c.patient_id',
        'c.household_id',
        'c.case_id',
        'o.id as coverage_id',
        'n.payer_id',
        'y.bills_as',
        'c.location_id',
        'c.provider_id',
        'c.service_date',
        'c.diagnoses',
        'c.fee',
      ])
      .where('c.status', '=', 'done')
      .where('b.with_payer', '>', 0)
      .whereRef('o.id', '=', 'c.coverage_id')
      .where(({ not, exists, selectFrom }) =>
        not(
          exists(
            selectFrom('claim_line as l')
              .select('l.id')
              .whereRef('l.charge_id', '=', 'c.id')
              .whereRef('l.coverage_id', '=', 'o.id')
              .where('l.current', '=', true),
          ),
        ),
      );
    if (householdId) query = query.where('c.household_id', '=', householdId);
    // Locked, so that none is voided meanwhile.
    const rows = await query
      .orderBy('c.service_date')
      .orderBy('c.id')
      .limit(5000)
      .forNoKeyUpdate('c')
      .execute();
    const byId = new Map(rows.map((row) => [row.id, row]));
    const groups = groupCharges(
      rows.map<BillableCharge>((row) => ({
        id: row.id,
        form: row.form as ClaimForm,
        patientId: row.patient_id,
        caseId: row.case_id,
        coverageId: row.coverage_id,
        billing: row.bills_as === 'individual' ? `provider ${row.provider_id}` : 'group',
        locationId: row.location_id,
        renderingId: row.provider_id,
        date: row.service_date as CalendarDate,
        diagnoses: row.diagnoses,
      })),
    );
    const built: number[] = [];
    for (const group of groups) {
      const first = byId.get(group.charges[0]!.id)!;
      const serial = await sql<{ n: number }>`select nextval('control_number') as n`.execute(tx);
      const { id } = await tx
        .insertInto('claim')
        .values({
          control_number: controlNumber(serial.rows[0]!.n),
          household_id: first.household_id,
          patient_id: first.patient_id,
          case_id: first.case_id,
          coverage_id: first.coverage_id,
          payer_id: first.payer_id,
          location_id: first.location_id,
          provider_id: first.provider_id,
          form: group.form,
          total: sum(group.charges.map((charge) => byId.get(charge.id)!.fee as Cents)),
          service_date: first.service_date,
        })
        .returning('id')
        .executeTakeFirstOrThrow();
      await tx
        .insertInto('claim_line')
        .values(
          group.charges.map((charge, index) => ({
            claim_id: id,
            number: index + 1,
            charge_id: charge.id,
            coverage_id: first.coverage_id,
          })),
        )
        .execute();
      await recordStep(
        tx,
        context,
        id,
        'draft',
        { kind: 'user', name: context.user.name },
        `Built from ${counted(group.charges.length, 'charge')}`,
      );
      await refreshClaim(tx, context, id);
      built.push(id);
    }
    if (built.length > 0)
      await audit(tx, context, 'built claims', { kind: 'claims', id: built.length }, { claims: built });
    return built;
  });
}

/** Statuses in which a claim is still ours and follows what it is built from. */
export const OURS = ['draft', 'ready', 'rejected', 'held'] as const;

/**
 * Takes the claim's content anew from patient, coverage, charges and setup, checks it, and stores findings and expected
 * amounts. A sent claim keeps its snapshot.
 */
export async function refreshClaim(tx: Tx | Db, context: Context, claimId: number): Promise<Finding[]> {
  const claim = await tx.selectFrom('claim').selectAll().where('id', '=', claimId).executeTakeFirstOrThrow();
  if (!(OURS as readonly string[]).includes(claim.status)) return claim.findings as Finding[];
  const { content, check } = await takeContent(tx, context, claimId);
  const findings = checkClaim(content, check);
  const stops = findings.filter((finding) => finding.severity === 'stop').length;
  const status =
    claim.status === 'held' || claim.status === 'rejected' ? claim.status : stops > 0 ? 'draft' : 'ready';
  await tx
    .updateTable('claim')
    .set({
      content: JSON.stringify(content),
      findings: JSON.stringify(findings),
      stops,
      warnings: findings.length - stops,
      status,
      total: content.total,
    })
    .where('id', '=', claimId)
    .execute();
  await storeExpected(tx, claimId, claim.case_id, content);
  return findings;
}

async function storeExpected(
  tx: Tx | Db,
  claimId: number,
  caseId: number,
  content: ClaimContent,
): Promise<void> {
  const coverages = await estimateCoverages(tx as Db, caseId, content.lines[0]!.date);
  const services = await tx
    .selectFrom('service_code')
    .select(['code', 'category'])
    .where(
      'code',
      'in',
      content.lines.map((line) => line.code),
    )
    .execute();
  const category = new Map(services.map((service) => [service.code, service.category]));
  const estimates = estimate(
    content.lines.map((line) => ({
      id: line.number,
      code: line.code,
      category: category.get(line.code) ?? '',
      units: line.units,
      fee: line.charge,
      visit: line.date,
    })),
    coverages,
  );
  for (const item of estimates) {
    const part = item.payers[0];
    const contracted =
      coverages[0]?.terms.contracted && coverages[0].allowedFee(content.lines[item.id - 1]!.code) !== null;
    await tx
      .updateTable('claim_line')
      .set({ expected_allowed: contracted ? part!.allowed : null, expected_paid: part?.pays ?? 0 })
      .where('claim_id', '=', claimId)
      .where('number', '=', item.id)
      .execute();
  }
}

/** Checks again all claims that are still ours: after a change of people, charges or setup. */
export async function recheckClaims(context: Context, where: { householdId?: number } = {}): Promise<number> {
  allow(context, 'work claims');
  let query = context.db
    .selectFrom('claim')
    .select('id')
    .where('status', 'in', [...OURS]);
  if (where.householdId) query = query.where('household_id', '=', where.householdId);
  const claims = await query.orderBy('id').execute();
  for (const { id } of claims) await context.db.transaction().execute((tx) => refreshClaim(tx, context, id));
  return claims.length;
}

/** Holds a claim with a reason, or lets it go when the reason is empty. */
export async function holdClaim(context: Context, claimId: number, reason: string): Promise<void> {
  allow(context, 'work claims');
  await context.db.transaction().execute(async (tx) => {
    const claim = await tx
      .selectFrom('claim')
      .select(['status'])
      .where('id', '=', claimId)
      .forNoKeyUpdate()
      .executeTakeFirst();
    if (!claim || !['draft', 'ready', 'held'].includes(claim.status))
      throw new Refused('Only a claim that has not been sent can be held');
    await tx
      .updateTable('claim')
      .set({ status: reason ? 'held' : 'draft', hold_reason: reason.slice(0, 200) })
      .where('id', '=', claimId)
      .execute();
    await recordStep(
      tx,
      context,
      claimId,
      reason ? 'held' : 'draft',
      { kind: 'user', name: context.user.name },
      reason || 'Let go',
    );
    if (!reason) await refreshClaim(tx, context, claimId);
    await audit(tx, context, reason ? 'held' : 'released', { kind: 'claim', id: claimId });
  });
}

/** Withdraws, with a reason, a claim that the payer does not have: its charges can be billed again. */
export async function withdrawClaim(context: Context, claimId: number, why: string): Promise<void> {
  allow(context, 'work claims');
  if (why.trim() === '') throw new Refused('Say why it is withdrawn', 'why');
  await context.db.transaction().execute(async (tx) => {
    const claim = await tx
      .selectFrom('claim')
      .select('status')
      .where('id', '=', claimId)
      .forNoKeyUpdate()
      .executeTakeFirst();
    if (!claim || !['draft', 'ready', 'held', 'rejected'].includes(claim.status))
      throw new Refused('A claim that the payer has cannot be withdrawn');
    await tx.updateTable('claim_line').set({ current: false }).where('claim_id', '=', claimId).execute();
    await tx.updateTable('claim').set({ status: 'withdrawn' }).where('id', '=', claimId).execute();
    await recordStep(
      tx,
      context,
      claimId,
      'withdrawn',
      { kind: 'user', name: context.user.name },
      `Withdrawn: ${why.trim()}`,
    );
    await audit(tx, context, 'withdrew', { kind: 'claim', id: claimId }, { why });
  });
}
