/** Posting what a remittance says of one claim: decided by the core, written in one transaction, followed up. */
import { sql } from 'kysely';
import { payerCreditEntry, payerDecisionEntry } from '../../core/books/entries/payers';
import { type ClaimStatus, isDecidable } from '../../core/claims/life';
import { type Cents, formatMoneyPlain, sum } from '../../core/money';
import type { LineDecision, ReasonTable } from '../../core/remittances/decide';
import {
  NOTHING_DECIDED,
  type DecidedParts,
  type Verdict,
  isNothing,
  movedBy,
  plus,
  verdictOn,
} from '../../core/remittances/verdict';
import { remitStatus } from '../../core/remittances/status';
import { remitClaimDocument } from '../../core/remittances/document';
import type { RemitClaim } from '../../core/x12/remittance835';
import type { Tx } from '../../db/connect';
import { type Context, Refused } from '../access';
import { entriesOf, movesSomething, reverseEntries, settledEntries, writeEntries } from '../books/journal';
import { answerHolds, keepingPlaces, passedOn, standsOf, wordsOfEntries } from '../books/holds';
import { standsNothing } from '../books/decided';
import { takeExpectedBack } from '../estimates/door';
import { finishVoid, isReplaced, moveClaims, settledStatus } from '../claims/door';
import type { Word } from '../settle';
import { wholeInCredit } from './credit';
import { type ClaimRow, type Line, lockClaim, ourLines } from './our-claim';
import { type RemitRow, cashAccount, isHeld, payerOf } from './payer-money';
import { endSettled, endRaised, raiseFollowUps } from './raise';

const isDecided = ({ status }: ClaimRow): boolean => status === 'decided' || status === 'closed';

/** What a person has decided of a held claim: which of ours it means, or how what it says is to be taken. */
export interface Chosen {
  claimId?: number;
  /** `correction` takes the earlier decision back first. */
  as?: 'correction' | 'additional' | 'meant';
  why?: string;
  /** It is weighed anew: held for another reason it stays held. */
  again?: boolean;
}

/** How the posting of one claim went, the charges that it moved, and whether it only took back what was said of them. */
export interface ClaimPosted {
  as: 'posted' | 'unmatched' | 'before';
  chargeIds: number[];
  word: Word;
}

/**
 * Posts one claim of a remittance, notes one that moves nothing, or holds its money in the payer's credit with the reason. The
 * payer's side is posted in full; what follows for the patient's side of the charges is put right by who calls, once.
 * @param chosen what a person has decided of a held one; null while the remittance is posted
 * @throws Refused when what was chosen does not fit
 */
export async function postClaim(
  tx: Tx,
  context: Context,
  remit: RemitRow,
  id: number,
  reasons: ReasonTable,
  chosen: Chosen | null,
): Promise<ClaimPosted> {
  const ours = chosen?.claimId;
  // The household is locked first, as everywhere.
  const {
    rows: [household],
  } = await sql<{ id: number }>`
    select id
    from household
    where id = (
      select m.household_id
      from claim m
      where m.id = coalesce(${ours ?? null}::bigint, (select c.claim_id from remittance_claim c where c.id = ${id}))
    )
    for no key update`.execute(tx);
  const row = await tx
    .selectFrom('remittance_claim')
    .selectAll()
    .where('id', '=', id)
    .forNoKeyUpdate()
    .executeTakeFirstOrThrow();
  if (chosen ? !isHeld(row.status) : row.status !== 'ready')
    return { as: 'before', chargeIds: [], word: 'said' };
  const content = remitClaimDocument.read(row.content);
  if (chosen) await wholeInCredit(tx, id, content.paid);
  const claimId = ours ?? row.claim_id;
  const claim = claimId === null ? undefined : await lockClaim(tx, claimId);
  const taken =
    claim && chosen?.as === 'correction'
      ? await takeBackEarlier(tx, context, claim, { id, remit }, chosen.why ?? '')
      : [];
  const lines = claim ? await ourLines(tx, claim) : [];
  const decidedSoFar = new Map(lines.map((line) => [line.chargeId, line.decidedSoFar]));
  const verdict: Verdict = claim
    ? judge(remit, content, claim, lines, decidedSoFar, reasons, chosen?.as ?? 'said')
    : { do: 'hold', kind: 'stranger', words: row.hold_reason };
  if (verdict.do === 'hold' || !claim) {
    const { kind, words } = verdict as Extract<Verdict, { do: 'hold' }>;
    if (chosen && !chosen.again) throw new Refused('state', `This does not fit that claim: ${words}`);
    // Held before, its money is where it was.
    if (!chosen)
      await holdMoney(tx, context, remit, { id, controlNumber: row.control_number, paid: content.paid });
    await setClaim(tx, id, { status: 'unmatched', hold_kind: kind, hold_reason: words });
    return { as: 'unmatched', chargeIds: [], word: 'said' };
  }
  if (verdict.do === 'note') {
    await setClaim(tx, id, { status: 'noted', claim_id: claim.id, hold_reason: '', note: verdict.words });
    return { as: 'posted', chargeIds: taken, word: 'said' };
  }
  const { decisions } = verdict;
  const { next } = claim;
  const reversal = remitStatus(content.status)?.reversal === true;
  const words = decisions.map(({ chargeId }) => ({
    chargeId,
    coverageId: claim.coverage_id,
    householdId: claim.household_id,
  }));
  // What moves nothing, as a denial does, leaves what is expected.
  if (!reversal)
    await takeExpectedBack(
      tx,
      context,
      decisions.filter((item) => !isNothing(movedBy(item))).map(({ chargeId }) => chargeId),
      remit.payment_date,
    );
  const write = (answers: boolean) =>
    writeDecisions(
      tx,
      context,
      {
        remit,
        id,
        claim,
        lines,
        decided: decisions,
        fromCredit: chosen !== null,
        locked: household?.id === claim.household_id,
      },
      answers,
    );
  if (reversal) await keepingPlaces(tx, context, words, { remittanceClaimId: id }, () => write(false));
  else {
    const settled = lines.some((line) => line.settled);
    // What is paid on top takes back so much of it, once it is posted.
    if (settled && chosen?.as !== 'additional') await undoSettled(tx, context, claim, decisions);
    await write(settled || lines.some((line) => line.held));
  }
  await raiseFollowUps(
    tx,
    context,
    claim,
    id,
    decisions,
    next,
    remitStatus(content.status)?.forwarded === true,
  );
  // Only what was decided before, on it or on the claim that it corrects, can have been denied.
  if (isDecided(claim) || claim.replaces !== null)
    await endSettled(
      tx,
      {
        chargeIds: decisions.map(({ chargeId }) => chargeId),
        coverageId: claim.coverage_id,
      },
      ['denial'],
      `remittance ${remit.trace}`,
    );
  const after = decidedAfter(decidedSoFar, decisions);
  if (reversal && standsNothing(after))
    await endRaised(tx, await decidedBy(tx, claim.id), `Taken back with remittance ${remit.trace}`, [
      'short-payment',
      'reason',
      'next-payer',
    ]);
  const cause = { kind: 'file', name: `remittance ${remit.trace}` } as const;
  await moveClaims(
    tx,
    context,
    [claim],
    await statusAfter(tx, claim, after, reversal),
    cause,
    `${remit.payer_name} decided: paid ${formatMoneyPlain(content.paid)} of ${formatMoneyPlain(content.charge)}`,
    { payerClaimNumber: content.payerClaimNumber },
  );
  if (reversal) await finishVoid(tx, context, claim, cause);
  await setClaim(tx, id, {
    status: 'posted',
    claim_id: claim.id,
    hold_kind: '',
    hold_reason: '',
    note: noteOf(content, decisions),
  });
  return {
    as: 'posted',
    chargeIds: [...taken, ...decisions.map(({ chargeId }) => chargeId)],
    word: reversal ? 'taken back' : 'said',
  };
}

const setClaim = (
  tx: Tx,
  id: number,
  to: {
    status: 'unmatched' | 'noted' | 'posted' | 'reversed';
    claim_id?: number;
    hold_kind?: string;
    hold_reason: string;
    note?: string;
  },
) => tx.updateTable('remittance_claim').set(to).where('id', '=', id).execute();

/**
 * What we settled ourselves of what waits with the payer gives way to its decision: written off or passed to the patient, it is
 * taken back first. A denial that is said again leaves it.
 */
async function undoSettled(
  tx: Tx,
  context: Context,
  claim: ClaimRow,
  decisions: readonly LineDecision[],
): Promise<void> {
  const words = decisions
    .filter((item) => !isNothing(movedBy(item)))
    .map(({ chargeId }) => ({
      chargeId,
      coverageId: claim.coverage_id,
      householdId: claim.household_id,
    }));
  const settled = await settledEntries(tx, words);
  if (settled.length > 0)
    await keepingPlaces(tx, context, words, { remittanceClaimId: null }, () =>
      reverseEntries(tx, context, settled, 'The payer decides it after all'),
    );
}

/** What the payer says of the patient's part beside what its adjustments pass on: they post, the other is told. */
function noteOf(content: RemitClaim, decisions: readonly LineDecision[]): string {
  const said = content.patientResponsibility;
  const adjusted = sum(
    decisions.flatMap((item) =>
      item.adjustments.filter(({ group }) => group === 'PR').map(({ amount }) => amount),
    ),
  );
  return said === adjusted || said === 0
    ? ''
    : `The payer says that the patient owes ${formatMoneyPlain(said)}; its adjustments say ${formatMoneyPlain(adjusted)}, which is posted`;
}

function judge(
  remit: RemitRow,
  content: RemitClaim,
  claim: ClaimRow,
  lines: readonly Line[],
  decidedSoFar: ReadonlyMap<number, DecidedParts>,
  reasons: ReasonTable,
  as: NonNullable<Chosen['as']> | 'said',
): Verdict {
  if (!isDecidable(claim.status))
    return {
      do: 'hold',
      kind: 'not-sent',
      words: `our claim ${claim.control_number} was not sent: it is ${claim.status}`,
    };
  if (claim.payer_id !== payerOf(remit))
    return {
      do: 'hold',
      kind: 'payer',
      words: `our claim ${claim.control_number} went to another payer than ${remit.payer_name}`,
    };
  if (lines.some((line) => line.void))
    return {
      do: 'hold',
      kind: 'not-sent',
      words: `a charge of our claim ${claim.control_number} is void`,
    };
  return verdictOn(
    content,
    {
      position: claim.position,
      serviceDate: claim.service_date,
      paidOn: remit.payment_date,
      lines,
      decidedSoFar,
      decided: isDecided(claim),
    },
    reasons,
    // Who says what it is has looked at its date.
    as === 'correction' ? 'corrected' : as,
  );
}

/**
 * Takes back what earlier remittances posted on a claim, because a person says that this one corrects them. Their money came
 * and is still here: it waits in the payer's credit until it is given back or the payer takes it.
 */
async function takeBackEarlier(
  tx: Tx,
  context: Context,
  claim: ClaimRow,
  by: { id: number; remit: RemitRow },
  why: string,
): Promise<number[]> {
  const rows = await tx
    .selectFrom('remittance_claim as c')
    .innerJoin('remittance as r', 'r.id', 'c.remittance_id')
    .select(['c.id as claimRowId', 'c.control_number', 'c.paid'])
    .selectAll('r')
    // Also what was decided of another claim for the same charges, which this one corrects.
    .where(
      'c.claim_id',
      'in',
      sql<number>`
        (
          select o.claim_id
          from claim_line l
            join claim_line o on o.charge_id = l.charge_id and o.coverage_id = l.coverage_id
          where l.claim_id = ${claim.id}
        )`,
    )
    .where('c.status', '=', 'posted')
    .where('c.id', '<>', by.id)
    .orderBy('c.id')
    .forNoKeyUpdate('c')
    .execute();
  const earlier = await rowsThatStand(tx, rows);
  if (earlier.length === 0) return [];
  const entries = earlier.flatMap((one) => one.entries);
  const words = await wordsOfEntries(tx, entries);
  await keepingPlaces(tx, context, words, { remittanceClaimId: by.id }, () =>
    reverseEntries(tx, context, entries, why),
  );
  for (const {
    row: { claimRowId, control_number: controlNumber, paid, ...remit },
  } of earlier) {
    await endRaised(tx, [claimRowId], `Corrected by remittance ${by.remit.trace}`);
    await holdMoney(
      tx,
      context,
      remit,
      { id: claimRowId, controlNumber, paid },
      `held:${claimRowId}:${by.id}${await timesBefore(tx, `held:${claimRowId}:`)}`,
    );
    await setClaim(
      tx,
      claimRowId,
      paid === 0
        ? { status: 'reversed', hold_reason: '' }
        : {
            status: 'unmatched',
            hold_kind: 'corrected',
            hold_reason: `corrected by ${by.remit.trace}: its ${formatMoneyPlain(paid)} goes back to the payer, or the payer takes it`,
          },
    );
  }
  return words.map(({ chargeId }) => chargeId);
}

/**
 * Of what remittances said of charges, in its order, what stands: a word that the payer has taken back itself, and
 * its taking back, leave nothing.
 */
async function rowsThatStand<Row extends { id: number; claimRowId: number }>(
  tx: Tx,
  rows: readonly Row[],
): Promise<{ row: Row; entries: number[] }[]> {
  let stands: { row: Row; entries: number[] }[] = [];
  for (const row of rows) {
    stands.push({
      row,
      entries: await entriesOf(tx, { remittanceId: row.id, remittanceClaimId: row.claimRowId }),
    });
    const all = stands.flatMap(({ entries }) => entries);
    const charges = [...new Set((await wordsOfEntries(tx, all)).map(({ chargeId }) => chargeId))];
    const moved = await Promise.all(charges.map((chargeId) => movesSomething(tx, chargeId, all)));
    if (!moved.includes(true)) stands = [];
  }
  return stands;
}

/** What stands on each charge once these decisions are added. */
function decidedAfter(
  before: ReadonlyMap<number, DecidedParts>,
  decisions: readonly LineDecision[],
): Map<number, DecidedParts> {
  const stands = new Map(before);
  for (const item of decisions)
    stands.set(item.chargeId, plus(stands.get(item.chargeId) ?? NOTHING_DECIDED, movedBy(item)));
  return stands;
}

/** The claims of remittances that have decided one of ours. */
const decidedBy = async (tx: Tx, claimId: number): Promise<number[]> =>
  (
    await tx
      .selectFrom('remittance_claim')
      .select('id')
      .where('claim_id', '=', claimId)
      .where('status', '=', 'posted')
      .execute()
  ).map(({ id }) => id);

/** Where a claim stands after a decision or its reversal: with nothing decided on it any more it waits for the payer again. */
async function statusAfter(
  tx: Tx,
  claim: ClaimRow,
  after: ReadonlyMap<number, DecidedParts>,
  reversal: boolean,
): Promise<ClaimStatus> {
  const settled = await settledStatus(tx, claim.id);
  // A denial that is said again is a decision as well.
  if (!isDecided(claim) || !reversal) return settled;
  if (!standsNothing(after) || (await isReplaced(tx, claim.id))) return settled;
  const refused = await tx
    .selectFrom('follow_up')
    .select('id')
    .where('claim_id', '=', claim.id)
    .where('kind', '=', 'denial')
    .where('closed_at', 'is', null)
    .executeTakeFirst();
  return refused ? settled : 'accepted';
}

/** What makes a key new where the same was posted before and taken back: taken up again, it is another time. */
async function timesBefore(tx: Tx, prefix: string): Promise<string> {
  const { n } = await tx
    .selectFrom('entry')
    .select(({ fn }) => fn.countAll<number>().as('n'))
    .where('key', '>=', prefix)
    .where('key', '<', `${prefix.slice(0, -1)};`)
    .executeTakeFirstOrThrow();
  return n === 0 ? '' : `:again-${n}`;
}

/** Money that belongs to no claim of ours waits in the payer's credit. */
async function holdMoney(
  tx: Tx,
  context: Context,
  remit: RemitRow,
  held: { id: number; controlNumber: string; paid: Cents },
  key = `held:${held.id}`,
): Promise<void> {
  await writeEntries(tx, context, [
    payerCreditEntry({
      kind: 'payer-credit',
      businessDate: remit.payment_date,
      memo: `Held: claim ${held.controlNumber}`,
      key,
      about: { payerId: payerOf(remit), remittanceId: remit.id, remittanceClaimId: held.id },
      cashAccount: cashAccount(remit.method),
      against: 'credit/payer',
      amount: held.paid,
    }),
  ]);
}

/** What a remittance says of one claim of ours, once it is weighed. */
interface Decided {
  remit: RemitRow;
  /** Of the claim in the remittance. */
  id: number;
  claim: ClaimRow;
  lines: readonly Line[];
  decided: readonly LineDecision[];
  /** Its money waits in the payer's credit already. */
  fromCredit: boolean;
  /** The household of our claim is locked. */
  locked: boolean;
}

/**
 * Writes what was decided of each charge. What was passed on and is taken back comes from where it went then; what becomes the
 * patient's again keeps its day, as far as it was the patient's before.
 * @param answers whether an earlier word that was taken back may wait for this one
 */
async function writeDecisions(
  tx: Tx,
  context: Context,
  { remit, id, claim, lines, decided, fromCredit, locked }: Decided,
  answers: boolean,
): Promise<void> {
  const { next } = claim;
  const words = decided.map(({ chargeId }) => ({ chargeId, coverageId: claim.coverage_id }));
  const gives = decided.some((item) => movedBy(item).passedOn < 0 || item.paid < 0);
  const stands = gives ? await passedOn(tx, words) : new Map<string, never>();
  const held = answers && !gives ? await answerHolds(tx, words) : () => [];
  const again = fromCredit ? await timesBefore(tx, `decision:${id}:`) : '';
  await writeEntries(
    tx,
    context,
    decided.map((item) => {
      const line = lines.find((one) => one.chargeId === item.chargeId);
      const word = { chargeId: item.chargeId, coverageId: claim.coverage_id };
      return payerDecisionEntry({
        businessDate: remit.payment_date,
        memo: `${remit.payer_name}, ${remit.method === 'CHK' ? 'check' : 'transfer'} ${remit.trace}`,
        key: `decision:${id}:${item.chargeId}${again}`,
        cashAccount: fromCredit ? 'credit/payer' : cashAccount(remit.method),
        paid: item.paid,
        adjustments: item.adjustments,
        next: next ? { coverageId: next.coverageId, payerId: next.payerId } : null,
        stands: standsOf(stands, word),
        held: held(word),
        about: {
          chargeId: item.chargeId,
          householdId: claim.household_id,
          patientId: claim.patient_id,
          caseId: claim.case_id,
          coverageId: claim.coverage_id,
          payerId: claim.payer_id,
          claimId: claim.id,
          remittanceId: remit.id,
          remittanceClaimId: id,
          providerId: line?.providerId,
          locationId: line?.locationId,
        },
      });
    }),
    // Who calls puts right what follows.
    { settled: locked },
  );
}
