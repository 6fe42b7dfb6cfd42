/** The ways out for a held claim of a remittance, and for a remittance that is held or was reversed. */
import type { z } from 'zod';
import { sql } from 'kysely';
import { payerReturnEntry } from '../../core/books/entries/payers';
import { holdReasonsDocument, remitClaimDocument } from '../../core/remittances/document';
import { unknownReasons } from '../../core/remittances/decide';
import { heldInput, matchInput, reasonInput, remittanceInput } from '../../core/remittances/input';
import type { Tx } from '../../db/connect';
import { type Context, Refused } from '../access';
import { writeEntries } from '../books/journal';
import { settleParts } from '../settle';
import { parseInput } from '../input';
import { type Act, useCase } from '../use-case';
import { wholeInCredit } from './credit';
import { type RemitRow, cashAccount, isHeld, payerOf } from './payer-money';
import { type Chosen, postClaim } from './post-claim';
import { adjustmentsBooked } from './post';
import { readReasons } from './reasons';
import { findClaims, strangerWords, matchAgain } from './matching';

/** A remittance, locked, so that nobody else works on it as a whole. */
const lockRemittance = (tx: Tx, id: number) =>
  tx
    .selectFrom('remittance')
    .select(['id', 'status', 'version', 'payer_id'])
    .where('id', '=', id)
    .forNoKeyUpdate()
    .executeTakeFirst();

/** The remittance of a claim, locked, so that it is not reversed as a whole while one of its claims is worked on. */
const remittanceOf = (tx: Tx, remittanceClaimId: number) =>
  tx
    .selectFrom('remittance as r')
    .innerJoin('remittance_claim as c', 'c.remittance_id', 'r.id')
    .selectAll('r')
    .where('c.id', '=', remittanceClaimId)
    .forNoKeyUpdate('r')
    .executeTakeFirst();

/**
 * Locks what a correction takes back besides its own remittance, lowest id first, so that nobody reverses one of them as a
 * whole in between.
 */
async function lockCorrected(tx: Tx, remittanceClaimId: number): Promise<void> {
  await sql`
    select 1 from remittance where id in (
      select remittance_id from remittance_claim where id = ${remittanceClaimId}
      union select e.remittance_id from remittance_claim c join claim_line l on l.claim_id = c.claim_id
        join claim_line o on o.charge_id = l.charge_id and o.coverage_id = l.coverage_id
        join remittance_claim e on e.claim_id = o.claim_id and e.status = 'posted'
        where c.id = ${remittanceClaimId}) order by id for no key update`.execute(tx);
}

/** Posts a held claim as a person has chosen, and puts right what follows. @throws Refused when it is not held any more */
async function postHeld(act: Act, remit: RemitRow, remittanceClaimId: number, chosen: Chosen): Promise<void> {
  const tx = act.db;
  const outcome = await postClaim(tx, act, remit, remittanceClaimId, await readReasons(tx), chosen);
  if (outcome.as === 'before') throw new Refused('already', 'This is not held any more');
  await settleParts(tx, act, outcome.chargeIds, { remittanceId: remit.id, remittanceClaimId }, outcome.word);
}

/** Posts a held claim on one of ours: its money leaves the payer's credit. */
export const matchHeld = useCase({
  name: 'match held claim',
  permission: 'post remittances',
  input: matchInput,
  async run(act, { remittanceClaimId, controlNumber }) {
    const remit = await remittanceOf(act.db, remittanceClaimId);
    const claim = await act.db
      .selectFrom('claim')
      .select('id')
      .where('control_number', '=', controlNumber)
      .executeTakeFirst();
    if (!remit || !claim)
      throw new Refused('unknown', `No claim has the number ${controlNumber}`, {
        field: 'controlNumber',
        facts: { controlNumber },
      });
    await postHeld(act, remit, remittanceClaimId, { claimId: claim.id });
    await act.note('matched', { kind: 'remittance claim', id: remittanceClaimId }, { claim: claim.id });
  },
});

/**
 * Decides what a held claim is: a correction (the earlier decision is taken back first), a payment on top, what it says in
 * spite of the order of payers; money that goes back to the payer, or stays in its credit; or it is weighed again.
 */
export const decideHeld = useCase({
  name: 'decide held claim',
  permission: 'post remittances',
  input: heldInput,
  async run(act, { remittanceClaimId, as, why }) {
    const tx = act.db;
    if (as === 'correction') await lockCorrected(tx, remittanceClaimId);
    const remit = await remittanceOf(tx, remittanceClaimId);
    if (!remit) throw new Refused('unknown', 'There is no such claim');
    if (as === 'returned' || as === 'kept') {
      const row = await tx
        .selectFrom('remittance_claim')
        .select(['status', 'paid', 'control_number'])
        .where('id', '=', remittanceClaimId)
        .forNoKeyUpdate()
        .executeTakeFirstOrThrow();
      if (!isHeld(row.status)) throw new Refused('already', 'This is not held any more');
      if (as === 'returned') {
        if (row.paid <= 0) throw new Refused('nothing', 'There is nothing to give back: it paid nothing');
        await wholeInCredit(tx, remittanceClaimId, row.paid);
        await writeEntries(tx, act, [
          payerReturnEntry({
            businessDate: act.today,
            memo: `Returned: claim ${row.control_number}, ${why}`,
            key: `returned:${remittanceClaimId}`,
            about: { payerId: payerOf(remit), remittanceId: remit.id, remittanceClaimId },
            cashAccount: cashAccount(remit.method),
            amount: row.paid,
          }),
        ]);
      }
      await tx
        .updateTable('remittance_claim')
        .set({ status: as, note: why })
        .where('id', '=', remittanceClaimId)
        .execute();
    } else {
      await postHeld(act, remit, remittanceClaimId, as === 'again' ? { again: true } : { as, why });
    }
    await act.note('decided', { kind: 'remittance claim', id: remittanceClaimId }, { as, why });
  },
});

/** Says in Setup what a reason does that a held claim waits for, and weighs that claim again. */
export const sayReason = useCase({
  name: 'say what a reason does',
  permission: 'post remittances',
  input: reasonInput,
  async run(act, { remittanceClaimId, group, code, denial, words }) {
    const tx = act.db;
    const remit = await remittanceOf(tx, remittanceClaimId);
    if (!remit) throw new Refused('unknown', 'There is no such claim');
    const { content } = await tx
      .selectFrom('remittance_claim')
      .select('content')
      .where('id', '=', remittanceClaimId)
      .executeTakeFirstOrThrow();
    const reasons = await readReasons(tx);
    const asked = unknownReasons(remitClaimDocument.read(content), reasons);
    if (!asked.some((item) => item.group === group && item.reason === code))
      throw new Refused(
        'state',
        reasons(group, code)
          ? `Setup knows ${group}-${code} by now: weigh the claim again`
          : `This claim does not say ${group}-${code}`,
        'code',
      );
    await tx
      .insertInto('reason_code')
      .values({
        group_code: group,
        code,
        words,
        patient_words: '',
        denial,
        follow_up: denial ? 'while-money' : 'never',
        reduction_account: group === 'PI' ? 'reduction/payer' : 'reduction/contract',
      })
      .execute();
    await act.note('added', { kind: 'reason_code', id: `${group} ${code}` }, { words, denial });
    await postHeld(act, remit, remittanceClaimId, { again: true });
  },
});

/** So many that wait for the same reason are weighed again when it is said; the rest by hand. */
const WEIGHED_TOGETHER = 500;

/**
 * Says what a reason does, and weighs every claim again that waits for one, each in a transaction of its own.
 * @returns how many are posted by it
 */
export async function sayReasonOnce(context: Context, input: z.input<typeof reasonInput>): Promise<number> {
  await sayReason(context, input as Parameters<typeof sayReason>[1]);
  const { remittanceClaimId: said } = parseInput(reasonInput, input);
  const waiting = await context.db
    .selectFrom('remittance_claim')
    .select('id')
    .where('status', '=', 'unmatched')
    .where('hold_kind', '=', 'reason')
    .orderBy('id')
    .limit(WEIGHED_TOGETHER)
    .execute();
  for (const { id } of waiting) {
    try {
      await decideHeld(context, { remittanceClaimId: id, as: 'again', why: 'Setup knows the reason now' });
    } catch (error) {
      // Somebody else decides it just now, or it does not fit: it stays as it is.
      if (!(error instanceof Refused)) throw error;
    }
  }
  const { n } = await context.db
    .selectFrom('remittance_claim')
    .select(({ fn }) => fn.countAll<number>().as('n'))
    .where('id', 'in', [said, ...waiting.map(({ id }) => id)])
    .where('status', 'in', ['posted', 'noted'])
    .executeTakeFirstOrThrow();
  return n;
}

/** Weighs a held remittance again, after Setup or the other one was put right. @returns why it is still held, if it is */
export const checkRemittance = useCase({
  name: 'check remittance again',
  permission: 'post remittances',
  input: remittanceInput,
  async run(act, { remittanceId }) {
    const tx = act.db;
    const remit = await lockRemittance(tx, remittanceId);
    if (remit?.status !== 'held') throw new Refused('limit', 'Only a held remittance is checked again');
    const reasons = await matchAgain(tx, act.today, remittanceId);
    await tx
      .updateTable('remittance')
      .set({
        status: reasons.length > 0 ? 'held' : 'ready',
        hold_reasons: holdReasonsDocument.write(reasons),
      })
      .where('id', '=', remittanceId)
      .execute();
    await act.note('checked again', { kind: 'remittance', id: remittanceId }, { held: reasons.length > 0 });
    return reasons;
  },
});

/** Makes what was reversed of a remittance ready to post anew; what was reversed stays to be seen. @returns how many claims */
export const takeUpAgain = useCase({
  name: 'take up remittance again',
  permission: 'post remittances',
  input: remittanceInput,
  async run(act, { remittanceId }) {
    const tx = act.db;
    const remit = await lockRemittance(tx, remittanceId);
    if (remit?.status !== 'posted')
      throw new Refused('limit', 'Only what was posted and reversed is posted anew');
    const { rows } = await sql<{ id: number }>`
      select c.id from remittance_claim c where c.remittance_id = ${remittanceId} and c.status = 'reversed'
        and not exists (
          select 1
          from remittance_claim n
          where n.remittance_id = c.remittance_id and n.number = c.number and n.version > c.version
        )
        order by c.number`.execute(tx);
    const { undone } = await adjustmentsBooked(tx, remit);
    if (rows.length === 0 && undone === 0) throw new Refused('nothing', 'Nothing of it is reversed');
    const old = await tx
      .selectFrom('remittance_claim')
      .selectAll()
      .where('id', '=', sql<number>`any(${rows.map((row) => row.id)})`)
      .orderBy('number')
      .execute();
    const contents = old.map((row) => remitClaimDocument.read(row.content));
    const found = await findClaims(tx, remit.payer_id, contents);
    if (old.length > 0)
      await tx
        .insertInto('remittance_claim')
        .values(
          old.map((row, index) => {
            // A claim that a person has matched stays the one that it means.
            const claimId = found[index] ?? row.claim_id;
            return {
              remittance_id: remittanceId,
              number: row.number,
              version: row.version + 1,
              control_number: row.control_number,
              claim_id: claimId,
              content: remitClaimDocument.write(contents[index]!),
              charge: row.charge,
              paid: row.paid,
              status: 'ready' as const,
              hold_kind: claimId === null ? 'stranger' : '',
              hold_reason: claimId === null ? strangerWords(contents[index]!) : '',
            };
          }),
        )
        .execute();
    await tx
      .updateTable('remittance')
      .set({ status: 'ready', version: remit.version + (undone > 0 ? 1 : 0) })
      .where('id', '=', remittanceId)
      .execute();
    await act.note('taken up again', { kind: 'remittance', id: remittanceId }, { claims: rows.length });
    return rows.length;
  },
});
