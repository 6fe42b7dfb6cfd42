/** What an earlier payer has handed on to the next one itself: it is followed instead of being billed. */
import { sql } from 'kysely';
import type { CalendarDate } from '../../core/calendar';
import type { ClaimStatus } from '../../core/claims/life';
import { remitClaimDocument } from '../../core/remittances/document';
import { remitStatus } from '../../core/remittances/status';
import type { RemitClaim } from '../../core/x12/remittance835';
import type { Tx } from '../../db/connect';
import type { Context } from '../access';
import { moveClaims } from './life';

/** The standing word of an earlier payer that says that it handed its claim on. */
interface Handed {
  id: number;
  by: string;
  date: CalendarDate;
  to: RemitClaim['crossover'];
}

/** Such words, by the claim that was decided. @param claimIds of the earlier payers */
async function handedOn(tx: Tx, claimIds: readonly number[]): Promise<ReadonlyMap<number, Handed>> {
  const { rows } = await sql<{
    claimId: number;
    id: number;
    content: unknown;
    by: string;
    date: CalendarDate;
  }>`
    select distinct on (c.claim_id) c.claim_id as "claimId", c.id, c.content, r.payer_name as by, r.payment_date as date
    from remittance_claim c
      join remittance r on r.id = c.remittance_id
    where c.claim_id = any(${[...claimIds]}::bigint[]) and c.status = 'posted'
    order by c.claim_id, c.id desc`.execute(tx);
  return new Map(
    rows.flatMap(({ claimId, content, ...word }) => {
      const { status, crossover: to } = remitClaimDocument.read(content);
      return remitStatus(status)?.forwarded ? [[claimId, { ...word, to }] as const] : [];
    }),
  );
}

/** Whether a payer that is named is one of ours, and another one. */
async function isAnother(tx: Tx, payerId: number, to: RemitClaim['crossover']): Promise<boolean> {
  if (!to) return false;
  const { rows } = await sql<{ id: number }>`
    select payer_now(id) as id from payer where payer_id <> '' and payer_id = ${to.id}
    union
    select payer_now(payer_id) from payer_identifier where value = ${to.id}
    union
    select payer_now(id) from payer where lower(name) = ${to.name.toLowerCase()}`.execute(tx);
  return rows.length > 0 && rows.every(({ id }) => id !== payerId);
}

/**
 * Sets claims to next payers that the payer before has handed on itself to where it is with the next one: nothing of ours is sent, its
 * answer is waited for. Where the payer says that it handed it to somebody else, it is billed.
 * @param built claims with the claim of the payer before
 */
export async function followForwarded(
  tx: Tx,
  context: Context,
  built: readonly { id: number; payerId: number; after: number | null }[],
): Promise<void> {
  const later = built.filter(({ after }) => after !== null);
  if (later.length === 0) return;
  const handed = await handedOn(
    tx,
    later.map(({ after }) => after!),
  );
  for (const { id, payerId, after } of later) {
    const word = handed.get(after!);
    if (!word || (await isAnother(tx, payerId, word.to))) continue;
    const cause = { kind: 'file', name: word.by } as const;
    const words = `${word.by} handed it on itself: its answer is waited for`;
    const at = async (): Promise<{ id: number; status: ClaimStatus }> =>
      tx.selectFrom('claim').select(['id', 'status']).where('id', '=', id).executeTakeFirstOrThrow();
    await tx.updateTable('claim').set({ forwarded_by: word.id }).where('id', '=', id).execute();
    // Whatever stops a file of ours stops none of the payer's.
    const steps = { draft: ['ready', 'sent'], held: ['draft', 'ready', 'sent'], ready: ['sent'] } as const;
    const from = await at();
    for (const to of steps[from.status as keyof typeof steps] ?? [])
      await moveClaims(
        tx,
        context,
        [await at()],
        to,
        cause,
        words,
        to === 'sent' ? { sentDate: word.date, sentBy: 'payer-before' } : {},
      );
  }
}
