/** Claims to next payers that tell what an earlier one has decided, when that decides anew. */
import { sql } from 'kysely';
import type { ClaimContent } from '../../core/claims/content';
import { saysTheSame } from '../../core/claims/decided-before';
import { claimDocument } from '../../core/claims/document';
import { toldInput } from '../../core/claims/input';
import { type ClaimStatus, OURS, WENT, isOurs } from '../../core/claims/life';
import type { Tx } from '../../db/connect';
import { type Context, Refused } from '../access';
import { claimIn } from '../claim-states';
import { useCase } from '../use-case';
import { refreshClaims } from './check';
import { byUser, moveClaims } from './life';
import { type Others, otherPayersOf } from './other-payers';

interface Later {
  id: number;
  status: ClaimStatus;
  content: unknown;
  stale: boolean;
}

/** The earlier payers of whose decisions a claim tells something else than what stands. */
function changed(said: ClaimContent, stands: Others | undefined): string[] {
  const before = (said.otherPayers ?? []).filter(({ coverageOrder }) => coverageOrder < said.coverageOrder);
  return before.flatMap((one) => {
    const now = stands?.payers.find(
      ({ coverageOrder, payer }) =>
        coverageOrder === one.coverageOrder && payer.payerId === one.payer.payerId,
    );
    return saysTheSame(one.decided, now?.decided) ? [] : [one.payer.name];
  });
}

/**
 * Puts right what claims to next payers tell of charges that were decided anew: one that is still ours follows; one that its payer has is
 * stale from then on, until what it tells stands again.
 */
export async function tellNextPayers(tx: Tx, context: Context, chargeIds: readonly number[]): Promise<void> {
  const { rows } = await sql<Later>`
    select m.id, m.status, m.content, m.stale_since is not null as stale
    from claim m
    where m.position > 1
      and m.purpose = 'bill'
      and m.frequency <> '8'
      and (${claimIn(sql`m.status`, OURS)} or ${claimIn(sql`m.status`, WENT)})
      and exists (
        select from claim_line l where l.claim_id = m.id and l.bills and l.charge_id = any(${[...chargeIds]}::bigint[])
      )
    order by m.id
    for no key update of m`.execute(tx);
  if (rows.length === 0) return;
  await refreshClaims(
    tx,
    context,
    rows.flatMap(({ id, status }) => (isOurs(status) ? [id] : [])),
  );
  const went = rows.filter(({ status }) => !isOurs(status));
  if (went.length === 0) return;
  const stands = await otherPayersOf(
    tx,
    went.map(({ id }) => id),
  );
  for (const claim of went) {
    const payers = changed(claimDocument.read(claim.content), stands.get(claim.id));
    if (payers.length > 0 === claim.stale) continue;
    await tx
      .updateTable('claim')
      .set({ stale_since: claim.stale ? null : context.today })
      .where('id', '=', claim.id)
      .execute();
    await moveClaims(
      tx,
      context,
      [claim],
      claim.status,
      { kind: 'rule', name: 'payer before' },
      claim.stale
        ? 'What it tells of the payers before stands again'
        : `${payers.join(' and ')} decided anew: this claim tells what stands no more`,
    );
  }
}

/**
 * Ends that a claim is stale whose payer was told otherwise, by telephone or letter.
 * @throws Refused when it tells nothing but what stands
 */
export const payerTold = useCase({
  name: 'note payer told',
  permission: 'work claims',
  input: toldInput,
  async run(act, { claimId, why }) {
    const claim = await act.db
      .selectFrom('claim')
      .select(['id', 'status', 'stale_since'])
      .where('id', '=', claimId)
      .forNoKeyUpdate()
      .executeTakeFirst();
    if (!claim) throw new Refused('unknown', 'There is no such claim');
    if (claim.stale_since === null) throw new Refused('already', 'This claim tells what stands');
    await act.db.updateTable('claim').set({ stale_since: null }).where('id', '=', claimId).execute();
    await moveClaims(act.db, act, [claim], claim.status, byUser(act), `The payer was told: ${why}`);
    await act.note('noted told', { kind: 'claim', id: claimId }, { why });
  },
});
