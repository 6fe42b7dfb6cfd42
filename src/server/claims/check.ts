/** Checking claims: a claim that is still ours follows what it is built from. */
import { claimDocument, findingsDocument } from '../../core/claims/document';
import { isOurs } from '../../core/claims/life';
import type { ClaimContent } from '../../core/claims/content';
import { type Finding, checkClaim } from '../../core/claims/rules';
import { estimate } from '../../core/estimates/estimate';
import { ZERO } from '../../core/money';
import type { Tx } from '../../db/connect';
import type { Context } from '../access';
import { estimateCoverages } from '../estimates/read';
import { takeContent } from './content';
import { moveClaims } from './life';

/**
 * Takes the claim's content anew from patient, coverage, charges and setup, checks it, and stores findings and expected
 * amounts. A claim that the payer has keeps its snapshot.
 * @returns what the claim says and what was found, null when it is no longer ours
 */
export async function refreshClaim(
  tx: Tx,
  context: Context,
  claimId: number,
): Promise<{ content: ClaimContent; findings: Finding[] } | null> {
  const claim = await tx
    .selectFrom('claim')
    .select(['id', 'status', 'case_id', 'coverage_id'])
    .where('id', '=', claimId)
    .executeTakeFirstOrThrow();
  if (!isOurs(claim.status)) return null;
  const { content, check } = await takeContent(tx, context, claimId);
  const findings = checkClaim(content, check);
  const stops = findings.filter((finding) => finding.severity === 'stop').length;
  await tx
    .updateTable('claim')
    .set({
      content: claimDocument.write(content),
      findings: findingsDocument.write(findings),
      stops,
      warnings: findings.length - stops,
      total: content.total,
    })
    .where('id', '=', claimId)
    .execute();
  const cause = { kind: 'rule', name: 'check' } as const;
  if (claim.status === 'draft' && stops === 0)
    await moveClaims(tx, context, [claim], 'ready', cause, 'Every rule holds');
  else if (claim.status === 'ready' && stops > 0)
    await moveClaims(
      tx,
      context,
      [claim],
      'draft',
      cause,
      findings.find((finding) => finding.severity === 'stop')!.words,
    );
  await storeExpected(tx, claim, content);
  return { content, findings };
}

/** Stores for each line what the claim's own coverage is expected to allow and to pay. */
async function storeExpected(
  tx: Tx,
  claim: { id: number; case_id: number; coverage_id: number },
  content: ClaimContent,
): Promise<void> {
  const day = content.lines[0]?.date;
  if (!day) return;
  const coverages = await estimateCoverages(tx, claim.case_id, day);
  const own = coverages.findIndex((coverage) => coverage.coverageId === claim.coverage_id);
  if (own === -1) return;
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
    const part = item.payers[own];
    const { terms, allowedFee } = coverages[own]!;
    const contracted = terms.contracted && allowedFee(content.lines[item.id - 1]!.code) !== null;
    await tx
      .updateTable('claim_line')
      .set({
        expected_allowed: contracted && part ? part.allowed : null,
        expected_paid: part?.pays ?? ZERO,
      })
      .where('claim_id', '=', claim.id)
      .where('number', '=', item.id)
      .execute();
  }
}
