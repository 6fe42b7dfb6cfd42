/** The policy of what is overdue and its stages, as the database keeps them. */
import type { OverduePolicy, Stage } from '../../core/overdue/policy';
import type { Db } from '../../db/connect';

/** The policy, its stages in their order, and the reasons of Setup that a dispute, a hardship and a bankruptcy go by. */
export interface KeptPolicy {
  policy: OverduePolicy;
  stages: Stage[];
  disputeReason: number | null;
  hardshipReason: number | null;
  bankruptReason: number | null;
}

/** Reads the policy of what is overdue. */
export async function readOverduePolicy(db: Db): Promise<KeptPolicy> {
  const [row, stages] = await Promise.all([
    db.selectFrom('overdue_policy').selectAll().executeTakeFirstOrThrow(),
    db
      .selectFrom('overdue_stage')
      .select(['id', 'position', 'name', 'days', 'template_id as templateId'])
      .orderBy('position')
      .execute(),
  ]);
  return {
    policy: {
      least: row.least,
      betweenLetters: row.between_letters,
      recentDays: row.recent_days,
      spareClaims: row.spare_claims,
      sparePlans: row.spare_plans,
      calls: {
        calls: row.calls,
        callDays: row.call_days,
        quietDays: row.quiet_days,
        from: row.call_from,
        to: row.call_to,
      },
      smallBelow: row.small_below,
      smallDays: row.small_days,
      agencyDays: row.agency_days,
      agencyLeast: row.agency_least,
      agencyId: row.agency_id,
    },
    stages,
    disputeReason: row.dispute_reason,
    hardshipReason: row.hardship_reason,
    bankruptReason: row.bankrupt_reason,
  };
}
