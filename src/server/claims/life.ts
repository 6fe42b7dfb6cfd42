/** Moving claims through their life: the one function that makes a move and its event. */
import { sql } from 'kysely';
import { type ClaimStatus, mayMove } from '../../core/claims/life';
import type { Tx } from '../../db/connect';
import { type Context, Refused } from '../access';

/** Who or what moved a claim. */
export interface Cause {
  kind: 'user' | 'file' | 'rule';
  name: string;
}

/** The person who acts, as a cause. */
export const byUser = (context: Context): Cause => ({ kind: 'user', name: context.user.name });

/** What else changes with a move. */
interface Along {
  holdReason?: string;
  payerClaimNumber?: string;
  transmissionId?: number;
  sentBy?: 'file' | 'payer-before' | 'telephone' | 'paper';
  sentDate?: Context['today'];
}

/**
 * Moves claims, which the caller has locked, and records the step with its cause. A claim that is there already stays, and
 * the step is recorded all the same.
 * @throws Refused when a claim may not go there
 */
export async function moveClaims(
  tx: Tx,
  context: Context,
  claims: readonly { id: number; status: ClaimStatus }[],
  to: ClaimStatus,
  cause: Cause,
  words: string,
  along: Along = {},
): Promise<void> {
  if (claims.length === 0) return;
  const stuck = claims.find((claim) => claim.status !== to && !mayMove(claim.status, to));
  if (stuck) throw new Refused('state', `A claim that is ${stuck.status} cannot become ${to}`);
  await sql`
    with moved as (
      update claim set status = ${to},
        hold_reason = coalesce(${along.holdReason?.slice(0, 300) ?? null}::text, hold_reason),
        payer_claim_number = coalesce(${along.payerClaimNumber || null}::text, payer_claim_number),
        sent_by = coalesce(${along.sentBy ?? null}::text, sent_by),
        transmission_id = coalesce(${along.transmissionId ?? null}::bigint, transmission_id),
        sent_date = coalesce(${along.sentDate ?? null}::date, sent_date)
      where id = any(${claims.map((claim) => claim.id)}::bigint[]) returning id)
    insert into claim_event (claim_id, business_date, status, cause_kind, cause, words)
    select id, ${context.today}::date, ${to}, ${cause.kind}, ${cause.name}, ${words} from moved order by id`.execute(
    tx,
  );
}

/**
 * Where a decided claim stands now: closed when nothing waits with its payer any more, else decided. What it passed on to
 * another payer or to the patient does not keep it open, nor what another claim asks for in its place.
 */
export async function settledStatus(tx: Tx, claimId: number): Promise<'decided' | 'closed'> {
  const open = await tx
    .selectFrom('claim_line as l')
    .innerJoin('payer_balance as b', (join) =>
      join.onRef('b.charge_id', '=', 'l.charge_id').onRef('b.coverage_id', '=', 'l.coverage_id'),
    )
    .select('l.id')
    .where('l.claim_id', '=', claimId)
    .where('l.bills', '=', true)
    .where(({ eb, lit }) => eb('b.with_payer', '<>', lit(0) as never))
    .executeTakeFirst();
  return open ? 'decided' : 'closed';
}

/** Whether another claim corrects or voids this one. */
export const isReplaced = async (tx: Tx, claimId: number): Promise<boolean> =>
  (await tx
    .selectFrom('claim')
    .select('id')
    .where('replaces', '=', claimId)
    .where('status', '<>', 'withdrawn')
    .executeTakeFirst()) !== undefined;

/** Where a claim stands that the payer has: by its posted decision, if there is one; closed when another one takes its place. */
export async function statusAsDecided(tx: Tx, claimId: number): Promise<'accepted' | 'decided' | 'closed'> {
  if (await isReplaced(tx, claimId)) return 'closed';
  const decided = await tx
    .selectFrom('remittance_claim')
    .select('id')
    .where('claim_id', '=', claimId)
    .where('status', '=', 'posted')
    .executeTakeFirst();
  return decided ? settledStatus(tx, claimId) : 'accepted';
}
