/** What acknowledgments do to claims: TA1, 999 and 277CA. */
import { sql } from 'kysely';
import type { Tx } from '../../db/connect';
import type {
  ClaimAcknowledgments,
  ImplementationAcknowledgment,
  InterchangeAcknowledgment,
} from '../../core/x12/acknowledgments';
import { describeStatus } from '../../core/claims/status-words';
import { ANSWERABLE, type ClaimStatus } from '../../core/claims/life';
import type { Context } from '../access';
import type { Outcome } from '../exchange/outcome';
import { moveClaims } from './life';

/** Applies a TA1. A rejected interchange rejects all its claims. */
export async function applyTa1(
  tx: Tx,
  context: Context,
  connectionId: number | null,
  answer: InterchangeAcknowledgment,
  file: string,
): Promise<Outcome> {
  const transmission = await findTransmission(tx, connectionId, String(Number(answer.controlNumber)));
  const outcome = { kind: 'TA1', trace: answer.controlNumber, amount: null };
  if (!transmission) return { ...outcome, result: 'held', why: 'answers no file that we sent' };
  await tx
    .updateTable('transmission')
    .set({ interchange_answer: answer.code })
    .where('id', '=', transmission.id)
    .execute();
  if (answer.code === 'R')
    await rejectAll(
      tx,
      context,
      transmission.id,
      file,
      `The whole file was rejected (TA1 note ${answer.note})`,
    );
  return {
    ...outcome,
    result: 'posted',
    why: answer.code === 'R' ? `file rejected, note ${answer.note}` : 'file received',
  };
}

/** Applies a 999. A rejected set rejects its claims. */
export async function apply999(
  tx: Tx,
  context: Context,
  connectionId: number | null,
  answer: ImplementationAcknowledgment,
  file: string,
): Promise<Outcome> {
  const outcome = { kind: '999', trace: answer.controlNumber, amount: null };
  const transmission =
    answer.functionalId === 'HC'
      ? await findTransmission(tx, connectionId, String(Number(answer.controlNumber)))
      : undefined;
  if (!transmission) return { ...outcome, result: 'held', why: 'answers no file that we sent' };
  await tx
    .updateTable('transmission')
    .set({ group_answer: answer.code })
    .where('id', '=', transmission.id)
    .execute();
  if (answer.code === 'R') {
    const faults = answer.sets.flatMap((set) =>
      set.faults.map(
        (fault) =>
          `${fault.segment}${fault.element?.number.padStart(2, '0') ?? ''} in segment ${fault.position}`,
      ),
    );
    await rejectAll(
      tx,
      context,
      transmission.id,
      file,
      `The file does not follow the standard${faults.length > 0 ? `: ${faults.slice(0, 3).join(', ')}` : ''}`,
    );
  }
  return {
    ...outcome,
    result: 'posted',
    why: answer.code === 'A' ? 'file accepted' : `file answered ${answer.code}`,
  };
}

/** Applies a 277CA to each claim that it names. A claim that is decided already stays decided. */
export async function apply277CA(
  tx: Tx,
  context: Context,
  answer: ClaimAcknowledgments,
  file: string,
): Promise<Outcome> {
  let unknown = 0;
  let accepted = 0;
  let rejected = 0;
  // All at once and in one order, so that two answers about the same claims never wait for each other in a circle.
  const ours = await tx
    .selectFrom('claim')
    .select(['id', 'status', 'control_number'])
    .where(sql<boolean>`control_number = any(${answer.claims.map((item) => item.controlNumber)})`)
    .orderBy('id')
    .forNoKeyUpdate()
    .execute();
  const byNumber = new Map(ours.map((claim) => [claim.control_number, claim]));
  for (const item of answer.claims) {
    const claim = byNumber.get(item.controlNumber);
    if (!claim) {
      unknown += 1;
      continue;
    }
    if (!(ANSWERABLE as readonly ClaimStatus[]).includes(claim.status)) continue;
    const words = item.statuses.map((status) => status.text || describeStatus(status)).join('; ');
    const to = item.accepted ? 'accepted' : 'rejected';
    await moveClaims(
      tx,
      context,
      [claim],
      to,
      { kind: 'file', name: file },
      item.accepted ? `Accepted by ${answer.source}` : `Rejected by ${answer.source}: ${words}`,
      { payerClaimNumber: item.payerClaimNumber, holdReason: item.accepted ? '' : words },
    );
    // The same file may speak of a claim twice.
    claim.status = to;
    if (item.accepted) accepted += 1;
    else rejected += 1;
  }
  const counts = [
    accepted && `${accepted} accepted`,
    rejected && `${rejected} rejected`,
    unknown && `${unknown} not ours`,
  ]
    .filter(Boolean)
    .join(', ');
  return {
    kind: '277CA',
    trace: answer.batch,
    amount: null,
    result: unknown > 0 && accepted + rejected === 0 ? 'held' : 'posted',
    why: counts || 'no claims',
  };
}

async function findTransmission(
  tx: Tx,
  connectionId: number | null,
  control: string,
): Promise<{ id: number } | undefined> {
  let query = tx.selectFrom('transmission').select('id').where('control_number', '=', control);
  if (connectionId) query = query.where('connection_id', '=', connectionId);
  return query.orderBy('id', 'desc').executeTakeFirst();
}

async function rejectAll(
  tx: Tx,
  context: Context,
  transmissionId: number,
  file: string,
  words: string,
): Promise<void> {
  const claims = await tx
    .selectFrom('claim')
    .select(['id', 'status'])
    .where('transmission_id', '=', transmissionId)
    .where('status', '=', 'sent')
    .orderBy('id')
    .forNoKeyUpdate()
    .execute();
  await moveClaims(tx, context, claims, 'rejected', { kind: 'file', name: file }, words, {
    holdReason: words,
  });
}
