/** What acknowledgments do to claims: TA1, 999 and 277CA. */
import { sql } from 'kysely';
import type { Tx } from '../../db/connect';
import {
  type ClaimAcknowledgment,
  type ClaimAcknowledgments,
  type ImplementationAcknowledgment,
  type InterchangeAcknowledgment,
  setVerdict,
  verdictOf,
} from '../../core/x12/acknowledgments';
import { describeStatus } from '../../core/claims/status-words';
import { ANSWERABLE, isIn, type ClaimStatus } from '../../core/claims/life';
import type { Context } from '../access';
import type { Outcome } from '../outcome';
import { moveClaims } from './life';

/** What TA1 says (TA104): only A and E accept. */
const taken = (code: string): boolean => code === 'A' || code === 'E';

/** Applies a TA1. A rejected interchange rejects all its claims; a code that is not known changes nothing. */
export async function applyTa1(
  tx: Tx,
  context: Context,
  connectionId: number,
  answer: InterchangeAcknowledgment,
  file: string,
): Promise<Outcome> {
  const outcome = { kind: 'TA1', trace: answer.controlNumber, amount: null };
  const transmission = await findTransmission(tx, connectionId, answer.controlNumber);
  if (!transmission) return { ...outcome, result: 'held', why: 'answers no file that we sent' };
  await tx
    .updateTable('transmission')
    .set({ interchange_answer: answer.code.slice(0, 3) })
    .where('id', '=', transmission.id)
    .execute();
  if (answer.code === 'R') {
    const words = `The whole file was rejected (TA1 note ${answer.note})`;
    await rejectAll(tx, context, { transmissionId: transmission.id }, file, words);
    return { ...outcome, result: 'posted', why: `file rejected, note ${answer.note}` };
  }
  return taken(answer.code)
    ? {
        ...outcome,
        result: 'posted',
        why: answer.code === 'A' ? 'file received' : `file received with errors, note ${answer.note}`,
      }
    : { ...outcome, result: 'held', why: `the code ${answer.code} is not known: look at the file` };
}

/** The faults of a 999, in words; the first few. */
function faultsOf(answer: ImplementationAcknowledgment): string {
  const faults = answer.sets.flatMap((set) =>
    set.faults.map(
      ({ segment, element, position }) =>
        `${segment}${element?.number.padStart(2, '0') ?? ''} in segment ${position}`,
    ),
  );
  return faults.slice(0, 3).join(', ');
}

/**
 * Applies a 999. A set that is rejected rejects its claims; one that is accepted with errors says so on each of them; what
 * says neither changes nothing.
 */
export async function apply999(
  tx: Tx,
  context: Context,
  connectionId: number,
  answer: ImplementationAcknowledgment,
  file: string,
): Promise<Outcome> {
  const outcome = { kind: '999', trace: answer.controlNumber, amount: null };
  const transmission =
    answer.functionalId === 'HC' ? await findTransmission(tx, connectionId, answer.controlNumber) : undefined;
  if (!transmission) return { ...outcome, result: 'held', why: 'answers no file that we sent' };
  await tx
    .updateTable('transmission')
    .set({ group_answer: answer.code.slice(0, 3) })
    .where('id', '=', transmission.id)
    .execute();
  const verdict = setVerdict(answer, answer.controlNumber);
  const faults = faultsOf(answer);
  const said = faults === '' ? '' : `: ${faults}`;
  if (verdict === 'rejected') {
    const words = `The file does not follow the standard${said}`;
    await rejectAll(tx, context, { transmissionId: transmission.id }, file, words);
    return { ...outcome, result: 'posted', why: `file rejected${said}` };
  }
  if (verdict === 'unclear')
    return {
      ...outcome,
      result: 'held',
      why: `the answer “${answer.code}” says neither yes nor no: look at the file`,
    };
  if (faults === '') return { ...outcome, result: 'posted', why: 'file accepted' };
  const claims = await claimsOf(tx, { transmissionId: transmission.id });
  const cause = { kind: 'file', name: file } as const;
  await moveClaims(tx, context, claims, 'sent', cause, `The file was accepted with errors${said}`);
  return { ...outcome, result: 'posted', why: `file accepted with errors${said}` };
}

/** What a 277CA did, in numbers. */
interface Counts {
  accepted: number;
  rejected: number;
  unclear: number;
  earlier: number;
  unknown: number;
}

/**
 * Applies a 277CA: what it says of a whole batch or of one billing provider to all those claims, then to each claim that it
 * names. Only claims of the connection that it came through are touched, and only their last sending; a claim that is
 * decided already stays decided. What is unclear stays where it is, and says so.
 */
export async function apply277CA(
  tx: Tx,
  context: Context,
  connectionId: number,
  answer: ClaimAcknowledgments,
  file: string,
): Promise<Outcome> {
  const outcome = { kind: '277CA', trace: answer.batch, amount: null };
  const counts: Counts = { accepted: 0, rejected: 0, unclear: 0, earlier: 0, unknown: 0 };
  const batch = await findTransmission(tx, connectionId, answer.batch);
  for (const whole of answer.whole) {
    if (!batch) return { ...outcome, result: 'held', why: 'answers no file that we sent' };
    const words = `Rejected by ${answer.source}: ${wordsOf(whole)}`;
    if (verdictOf(whole) !== 'rejected') counts.unclear += 1;
    else
      counts.rejected += await rejectAll(
        tx,
        context,
        { transmissionId: batch.id, provider: whole.level === 'provider' ? whole.provider : undefined },
        file,
        words,
      );
  }
  const claims = await claimsNamed(tx, connectionId, answer);
  for (const item of answer.claims)
    counts[
      await applyOne(tx, context, claims.get(item.controlNumber), batch?.id, item, answer.source, file)
    ] += 1;
  const { accepted, rejected, unclear, earlier, unknown } = counts;
  const why = [
    accepted && `${accepted} accepted`,
    rejected && `${rejected} rejected`,
    unclear && `${unclear} unclear: look at them`,
    earlier && `${earlier} of an earlier sending, or decided`,
    unknown && `${unknown} not ours`,
  ]
    .filter(Boolean)
    .join(', ');
  const held = unclear > 0 || (unknown > 0 && accepted + rejected === 0);
  return { ...outcome, result: held ? 'held' : 'posted', why: why || 'no claims' };
}

const wordsOf = ({ statuses }: Pick<ClaimAcknowledgment, 'statuses'>): string =>
  statuses.map((status) => status.text || describeStatus(status)).join('; ') || 'no reason given';

/** A claim that may be answered. */
interface Answerable {
  id: number;
  status: ClaimStatus;
  transmission_id: number | null;
}

/** The claims of a connection that an answer names, locked all at once and in one order, so that two answers never wait in a circle. */
async function claimsNamed(
  tx: Tx,
  connectionId: number,
  answer: ClaimAcknowledgments,
): Promise<Map<string, Answerable>> {
  const ours = await tx
    .selectFrom('claim')
    .select(['id', 'status', 'control_number', 'transmission_id'])
    .where(sql<boolean>`control_number = any(${answer.claims.map((item) => item.controlNumber)})`)
    .where(
      'transmission_id',
      'in',
      sql<number>`(select id from transmission where connection_id = ${connectionId})`,
    )
    .orderBy('id')
    .forNoKeyUpdate()
    .execute();
  return new Map(ours.map((claim) => [claim.control_number, claim]));
}

async function applyOne(
  tx: Tx,
  context: Context,
  claim: Answerable | undefined,
  batch: number | undefined,
  item: ClaimAcknowledgment,
  source: string,
  file: string,
): Promise<keyof Counts> {
  if (!claim) return 'unknown';
  const late = batch !== undefined && batch !== claim.transmission_id;
  if (late || !isIn(ANSWERABLE, claim.status)) return 'earlier';
  const verdict = verdictOf(item);
  const cause = { kind: 'file', name: file } as const;
  const words = wordsOf(item);
  if (verdict === 'unclear') {
    const said = `${source} answered neither yes nor no: ${words}`;
    await moveClaims(tx, context, [claim], claim.status, cause, said.slice(0, 500));
    return verdict;
  }
  const said = verdict === 'accepted' ? `Accepted by ${source}` : `Rejected by ${source}: ${words}`;
  await moveClaims(tx, context, [claim], verdict, cause, said, {
    payerClaimNumber: item.payerClaimNumber,
    holdReason: verdict === 'accepted' ? '' : words,
  });
  // The same file may speak of a claim twice.
  claim.status = verdict;
  return verdict;
}

/** The last transmission of a connection under a control number; numbers are compared without leading zeros. */
async function findTransmission(
  tx: Tx,
  connectionId: number,
  control: string,
): Promise<{ id: number } | undefined> {
  return tx
    .selectFrom('transmission')
    .select('id')
    .where('control_number', '=', control.trim().replace(/^0+(?=.)/, ''))
    .where('connection_id', '=', connectionId)
    .executeTakeFirst();
}

/** Claims of a transmission that wait for its answer: all, or those of one billing provider. */
interface Part {
  transmissionId: number;
  provider?: string;
}

function claimsOf(
  tx: Tx,
  { transmissionId, provider }: Part,
): Promise<{ id: number; status: ClaimStatus }[]> {
  let query = tx
    .selectFrom('claim')
    .select(['id', 'status'])
    .where('transmission_id', '=', transmissionId)
    .where('status', '=', 'sent');
  if (provider !== undefined)
    query = query.where(sql<boolean>`content->'value'->'billing'->>'npi' = ${provider}`);
  return query.orderBy('id').forNoKeyUpdate().execute();
}

/** @returns how many were rejected */
async function rejectAll(tx: Tx, context: Context, part: Part, file: string, words: string): Promise<number> {
  const claims = await claimsOf(tx, part);
  await moveClaims(tx, context, claims, 'rejected', { kind: 'file', name: file }, words, {
    holdReason: words,
  });
  return claims.length;
}
