/** Claims that take the place of one that the payer has: corrected and sent again (frequency 7), or voiding it (8). */
import { sql } from 'kysely';
import { claimDocument } from '../../core/claims/document';
import { freeInput, replaceInput } from '../../core/claims/input';
import { type ClaimStatus, WAITING, WENT, isIn, isReplaceable } from '../../core/claims/life';
import { remitClaimDocument } from '../../core/remittances/document';
import { isUnprocessable } from '../../core/remittances/status';
import { formatDate } from '../../core/calendar';
import { formatMoneyPlain } from '../../core/money';
import type { Tx } from '../../db/connect';
import { type Context, Refused } from '../access';
import { lockHouseholds } from '../books/journal';
import { decidedOf, standsNothing } from '../books/decided';
import { type Act, useCase } from '../use-case';
import { controlNumbers } from './build';
import { refreshClaims } from './check';
import { type Cause, byUser, moveClaims, statusAsDecided } from './life';

/** A claim with what decides about another in its place, locked after its household. @throws Refused when it is not there */
export async function lockClaim(act: Act, claimId: number) {
  const whose = await act.db
    .selectFrom('claim')
    .select('household_id')
    .where('id', '=', claimId)
    .executeTakeFirst();
  if (!whose) throw new Refused('unknown', 'There is no such claim');
  await lockHouseholds(act.db, [whose.household_id]);
  return act.db
    .selectFrom('claim')
    .selectAll()
    .where('id', '=', claimId)
    .forNoKeyUpdate()
    .executeTakeFirstOrThrow();
}

/** Whether the payer's last word on a claim is that it could not process it (remark MA130 with reason CO-16): then it was never taken in. */
async function couldNotProcess(tx: Tx, claimId: number): Promise<boolean> {
  const last = await tx
    .selectFrom('remittance_claim')
    .select('content')
    .where('claim_id', '=', claimId)
    .where('status', '=', 'posted')
    .orderBy('id', 'desc')
    .limit(1)
    .executeTakeFirst();
  return last !== undefined && isUnprocessable(remitClaimDocument.read(last.content));
}

/**
 * Makes a claim that corrects or voids one that the payer has, with the same charges and the payer's number of that one; it
 * is checked, changed and sent like any other. What the payer has decided stays posted until the payer takes it back.
 * @returns the id of the new claim
 * @throws Refused when the payer does not have it, has given no number, or another claim takes its place already
 */
export const replaceClaim = useCase({
  name: 'replace claim',
  permission: 'work claims',
  input: replaceInput,
  async run(act, { claimId, as, payerClaimNumber, why }) {
    const tx = act.db;
    const old = await lockClaim(act, claimId);
    if (!isReplaceable(old.status))
      throw new Refused(
        'state',
        `A claim that is ${old.status} cannot be corrected or voided: the payer must have it`,
      );
    if (old.frequency === '8') throw new Refused('state', 'A void is neither corrected nor voided');
    const lines = await tx
      .updateTable('claim_line')
      .set({ current: false })
      .where('claim_id', '=', claimId)
      .where('current', '=', true)
      .returning(['number', 'charge_id', 'coverage_id', 'left_out'])
      .execute();
    if (lines.length === 0) throw new Refused('already', 'Another claim takes the place of this one already');
    const unprocessable = await couldNotProcess(tx, claimId);
    if (as === '1' && !unprocessable)
      throw new Refused('state', 'Only what the payer could not process (MA130) is sent anew as an original');
    if (as === '7' && unprocessable)
      throw new Refused(
        'state',
        'The payer could not process it (MA130) and has nothing to correct: mend it and send it anew as an original',
      );
    const theirs = payerClaimNumber || old.payer_claim_number;
    if (!theirs && as !== '1')
      throw new Refused(
        'missing',
        'The payer’s own number of this claim is needed: ask the payer',
        'payerClaimNumber',
      );
    if (theirs && theirs !== old.payer_claim_number)
      await tx.updateTable('claim').set({ payer_claim_number: theirs }).where('id', '=', claimId).execute();
    const { id, control_number: number } = await tx
      .insertInto('claim')
      .values({
        control_number: (await controlNumbers(tx, 1))[0]!,
        frequency: as,
        replaces: claimId,
        household_id: old.household_id,
        patient_id: old.patient_id,
        case_id: old.case_id,
        coverage_id: old.coverage_id,
        purpose: old.purpose,
        position: old.position,
        payer_id: old.payer_id,
        location_id: old.location_id,
        provider_id: old.provider_id,
        form: old.form,
        total: old.total,
        service_date: old.service_date,
      })
      .returning(['id', 'control_number'])
      .executeTakeFirstOrThrow();
    await tx
      .insertInto('claim_line')
      .values(
        // What was left out of the one before stays so.
        lines.map((line) => ({ ...line, claim_id: id })),
      )
      .execute();
    const cause = byUser(act);
    const words = { '1': 'Sends anew', '7': 'Corrects', '8': 'Voids' }[as];
    await tx
      .insertInto('claim_event')
      .values({
        claim_id: id,
        business_date: act.today,
        status: 'draft',
        cause_kind: cause.kind,
        cause: cause.name,
        words: `${words} claim ${old.control_number}: ${why}`,
      })
      .execute();
    await refreshClaims(tx, act, [id]);
    await moveClaims(
      tx,
      act,
      [old],
      'closed',
      cause,
      `${{ '1': 'Sent anew', '7': 'Corrected', '8': 'Voided' }[as]} by claim ${number}: ${why}`,
    );
    await act.note('replaced', { kind: 'claim', id: claimId }, { as, by: id, why });
    return id;
  },
});

/** @throws Refused when a charge of a claim that would stand again is something else by now than the claim says */
async function saysTheSame(
  tx: Tx,
  old: { id: number; control_number: string; content: unknown; provider_id: number; location_id: number },
): Promise<void> {
  const said = new Map(claimDocument.read(old.content).lines.map((line) => [line.number, line]));
  const lines = await tx
    .selectFrom('claim_line as l')
    .innerJoin('charge as c', 'c.id', 'l.charge_id')
    .select(['l.number', 'c.code', 'c.billed', 'c.service_date', 'c.provider_id', 'c.location_id'])
    .where('l.claim_id', '=', old.id)
    .where('l.left_out', '=', false)
    .orderBy('l.number')
    .execute();
  for (const line of lines) {
    const { charge = line.billed, date = line.service_date } = said.get(line.number) ?? {};
    const [is, was, what] =
      charge !== line.billed
        ? [formatMoneyPlain(line.billed), formatMoneyPlain(charge), 'its fee']
        : date !== line.service_date
          ? [formatDate(line.service_date), formatDate(date), 'its day']
          : [];
    if (what)
      throw new Refused(
        'blocked',
        `${line.code} comes to ${is} by now, and to ${was} on claim ${old.control_number}, which would stand again: put ${what} back first`,
        { facts: { control_number: old.control_number } },
      );
    if (line.provider_id !== old.provider_id || line.location_id !== old.location_id)
      throw new Refused(
        'blocked',
        `Claim ${old.control_number}, which would stand again, says that somebody else did ${line.code}, or elsewhere: put that back first`,
        { facts: { control_number: old.control_number } },
      );
  }
}

/** Gives a claim its place back when the one that was to replace it is withdrawn. */
export async function restoreReplaced(
  act: Act,
  by: { id: number; replaces: number | null; control_number: string },
): Promise<void> {
  if (by.replaces === null) return;
  const tx = act.db;
  const old = await tx
    .selectFrom('claim')
    .select(['id', 'status', 'control_number', 'content', 'provider_id', 'location_id'])
    .where('id', '=', by.replaces)
    .forNoKeyUpdate()
    .executeTakeFirstOrThrow();
  await saysTheSame(tx, old);
  // What it had handed over; what had left it before stays where it is.
  await sql`
    update claim_line set current = true
    where claim_id = ${old.id}
      and charge_id in (select charge_id from claim_line where claim_id = ${by.id})`.execute(tx);
  await moveClaims(
    tx,
    act,
    [old],
    await statusAsDecided(tx, old.id),
    byUser(act),
    `Claim ${by.control_number}, which was to take its place, was withdrawn`,
  );
}

/** What sending or building a claim had answered is open again, once it is withdrawn. */
export async function reopenAnswered(act: Act, claimId: number): Promise<void> {
  await sql`
    update follow_up set closed_at = null, closed_as = null, answered_by = null, outcome = ''
    where answered_by = ${claimId}`.execute(act.db);
}

/** Ends the follow-ups that a claim in the place of another answers, once it is sent. */
export async function closeAnswered(act: Act, claimIds: readonly number[]): Promise<void> {
  await sql`
    with answered as (
      update follow_up f set closed_at = desk_now(), closed_as = 'answered', answered_by = m.id,
        owner = ${act.user.name},
        outcome = case m.frequency
          when '7' then 'Corrected with claim '
          when '8' then 'Voided with claim '
          else 'Mended and sent anew with claim '
        end || m.control_number
      from claim m join claim_line l on l.claim_id = m.id
      where m.id = any(${[...claimIds]}::bigint[])
        and m.replaces is not null
        and not l.left_out
        and f.charge_id = l.charge_id
        and coalesce(f.coverage_id, l.coverage_id) = l.coverage_id
        and f.kind in ('denial', 'short-payment', 'reason') and f.closed_at is null
      returning f.id, f.household_id, f.outcome)
    insert into note (household_id, about, follow_up_id, business_date, user_name, words)
    select household_id, 'follow-up', id, ${act.today}::date, ${act.user.name}, outcome
    from answered`.execute(act.db);
}

/** Takes charges off a void that is done: they can be billed anew. */
async function freeCharges(
  tx: Tx,
  context: Context,
  claim: { id: number; status: ClaimStatus },
  cause: Cause,
  words: string,
): Promise<void> {
  await tx.updateTable('claim_line').set({ current: false }).where('claim_id', '=', claim.id).execute();
  await moveClaims(tx, context, [claim], 'closed', cause, words);
}

/**
 * What the payer has taken back: a void of it is done when nothing of the payer's stands on its charges any more.
 * @param claim the claim that the payer's reversal names, or the void itself
 */
export async function finishVoid(
  tx: Tx,
  context: Context,
  claim: { id: number },
  cause: Cause,
): Promise<void> {
  const voids = await tx
    .selectFrom('claim')
    .select(['id', 'status', 'coverage_id'])
    .where('frequency', '=', '8')
    .where('status', 'in', [...WENT])
    .where(({ or, eb }) => or([eb('id', '=', claim.id), eb('replaces', '=', claim.id)]))
    .where(({ exists, selectFrom }) =>
      exists(
        selectFrom('claim_line as l')
          .select('l.id')
          .whereRef('l.claim_id', '=', 'claim.id')
          .where('l.bills', '=', true),
      ),
    )
    .forNoKeyUpdate()
    .execute();
  for (const done of voids)
    if (standsNothing(await decidedOf(tx, done)))
      await freeCharges(
        tx,
        context,
        done,
        cause,
        'The payer took back what it had decided; the charges can be billed anew',
      );
}

/**
 * Ends a void that the payer has confirmed without a remittance: nothing of the payer's stands, so its charges can be billed
 * anew.
 * @throws Refused while a payment or a reduction of the payer still stands
 */
export const freeVoided = useCase({
  name: 'end void',
  permission: 'work claims',
  input: freeInput,
  async run(act, { claimId, why }) {
    const claim = await lockClaim(act, claimId);
    if (claim.frequency !== '8' || !isIn(WAITING, claim.status))
      throw new Refused('already', 'Only a void that was sent is ended');
    if (!standsNothing(await decidedOf(act.db, claim)))
      throw new Refused(
        'state',
        'What the payer has decided still stands: it is taken back with the payer’s own reversal',
      );
    await freeCharges(act.db, act, claim, byUser(act), `Confirmed: ${why}`);
    await act.note('ended void', { kind: 'claim', id: claimId }, { why });
  },
});
