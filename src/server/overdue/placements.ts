/** Placements that an agency has: what is open on them in the books, how they come back and are put right. */
import { sql } from 'kysely';
import { placementEndedEntry } from '../../core/books/entries/agencies';
import type { ChargePart } from '../../core/books/entry';
import { type Cents, ZERO, least, sum } from '../../core/money';
import { type NoticeKind, PLACEMENT_STATES, WITH_AGENCY } from '../../core/overdue/agency';
import { endPlacementInput } from '../../core/overdue/input';
import type { Tx } from '../../db/connect';
import { type Context, Refused } from '../access';
import { lockHouseholds, writeEntries } from '../books/journal';
import { useCase } from '../use-case';

/** A placement's row, locked after its household. @throws Refused when there is none */
export async function lockPlacement(tx: Tx, placementId: number) {
  const found = await tx
    .selectFrom('placement')
    .select('household_id')
    .where('id', '=', placementId)
    .executeTakeFirst();
  if (!found) throw new Refused('There is no such placement');
  await lockHouseholds(tx, [found.household_id]);
  return tx
    .selectFrom('placement')
    .selectAll()
    .where('id', '=', placementId)
    .forUpdate()
    .executeTakeFirstOrThrow();
}

/** What was said of a placement, kept for good. */
export const notePlacement = (
  tx: Tx,
  context: Context,
  placementId: number,
  what: string,
  more: { words?: string; amount?: Cents; fee?: Cents } = {},
) =>
  tx
    .insertInto('placement_event')
    .values({
      placement_id: placementId,
      on_day: context.today,
      what,
      words: more.words ?? '',
      amount: more.amount ?? ZERO,
      fee: more.fee ?? ZERO,
      user_name: context.user.name,
    })
    .execute();

/** Tells the agency something; it is written with the next round. */
export const tellAgency = (
  tx: Tx,
  context: Context,
  placementId: number,
  kind: NoticeKind,
  amount: Cents,
  words: string,
) =>
  tx
    .insertInto('agency_notice')
    .values({ placement_id: placementId, kind, amount, words, made_on: context.today })
    .execute();

/** What stands with the agency of a placement, by charge, oldest first. */
export async function openAtAgency(tx: Tx, placementId: number): Promise<ChargePart[]> {
  const { rows } = await sql<ChargePart['about'] & { amount: Cents }>`
    select c.id as "chargeId", c.household_id as "householdId", c.patient_id as "patientId", c.case_id as "caseId", c.provider_id as "providerId", c.location_id as "locationId", sum(p.amount) as amount
    from posting p join charge c on c.id = p.charge_id where p.placement_id = ${placementId} and p.account = 'receivable/agency' group by c.id having sum(p.amount) <> 0 order by c.service_date, c.id`.execute(
    tx,
  );
  return rows.map(({ amount, ...about }) => ({ about, amount }));
}

/** Takes a placement back from its agency: what is open is the patient's again. @returns cents */
export const recallPlacement = useCase({
  name: 'recall placement',
  permission: 'approve placements',
  input: endPlacementInput,
  async run(act, { placementId, why }) {
    const placement = await lockPlacement(act.db, placementId);
    if (!WITH_AGENCY.includes(placement.status))
      throw new Refused(`It is ${PLACEMENT_STATES[placement.status]}: nothing is with the agency`);
    const back = await endPlacement(act.db, act, placement, 'recalled', why);
    // What was never written out needs no recall.
    if (placement.written_at) await tellAgency(act.db, act, placementId, 'recall', back, why);
    await act.note('recalled', { kind: 'placement', id: placementId }, { why, amount: back });
    return back;
  },
});

/** Ends a placement: what is open comes back to the patient. @returns cents */
export async function endPlacement(
  tx: Tx,
  context: Context,
  placement: { id: number; number: string },
  status: 'withdrawn' | 'refused' | 'recalled' | 'returned' | 'paid',
  why: string,
): Promise<Cents> {
  const open = await openAtAgency(tx, placement.id);
  const back = sum(open.map(({ amount }) => amount));
  if (open.length > 0)
    await writeEntries(tx, context, [
      placementEndedEntry({
        businessDate: context.today,
        memo: `it came back from the collection agency (${placement.number})`,
        placementId: placement.id,
        parts: open,
      }),
    ]);
  await tx
    .updateTable('placement')
    .set({ status, ended_on: context.today, ended_why: why.slice(0, 300) })
    .where('id', '=', placement.id)
    .execute();
  await notePlacement(tx, context, placement.id, PLACEMENT_STATES[status], { words: why, amount: back });
  return back;
}

/**
 * Puts placements right after entries were reversed: payments of theirs are noted as taken back; one that was paid and has
 * something open again is with the agency again; what comes back to an ended one is the patient's.
 */
export async function settlePlacements(
  tx: Tx,
  context: Context,
  entryIds: readonly number[],
  why: string,
): Promise<void> {
  if (entryIds.length === 0) return;
  const payments = await tx
    .updateTable('agency_payment')
    .set({ reversed_on: context.today, reversed_why: why.slice(0, 300) || 'reversed' })
    .where('entry_id', '=', sql<number>`any(${[...entryIds]}::bigint[])`)
    .where('reversed_on', 'is', null)
    .returning(['placement_id', 'gross', 'direct'])
    .execute();
  for (const { placement_id, gross, direct } of payments) {
    await notePlacement(tx, context, placement_id, 'payment reversed', { words: why, amount: gross });
    if (direct)
      await tellAgency(
        tx,
        context,
        placement_id,
        'correction',
        gross,
        `a payment to us was taken back: ${why}`.slice(0, 300),
      );
  }
  const { rows } = await sql<{ id: number }>`
    select distinct placement_id as id from posting where entry_id = any(${[...entryIds]}::bigint[]) and placement_id is not null order by 1`.execute(
    tx,
  );
  for (const { id } of rows) {
    const placement = await tx
      .selectFrom('placement')
      .selectAll()
      .where('id', '=', id)
      .forUpdate()
      .executeTakeFirstOrThrow();
    const open = await openAtAgency(tx, id);
    if (open.length === 0 || WITH_AGENCY.includes(placement.status)) continue;
    if (placement.status === 'paid') {
      await tx
        .updateTable('placement')
        .set({ status: 'accepted', ended_on: null, ended_why: '' })
        .where('id', '=', id)
        .execute();
      await notePlacement(tx, context, id, 'open again', {
        amount: sum(open.map(({ amount }) => amount)),
        words: why,
      });
    } else
      await writeEntries(tx, context, [
        placementEndedEntry({
          businessDate: context.today,
          memo: `what came back to ${placement.number}, which is ${PLACEMENT_STATES[placement.status]}, is yours to pay`,
          placementId: id,
          parts: open,
        }),
      ]);
  }
  await lowerPlacements(tx, context, await chargesOf(tx, entryIds));
}

const chargesOf = async (tx: Tx, entryIds: readonly number[]): Promise<number[]> =>
  (
    await tx
      .selectFrom('posting')
      .select('charge_id')
      .distinct()
      .where('entry_id', '=', sql<number>`any(${[...entryIds]}::bigint[])`)
      .execute()
  ).flatMap(({ charge_id }) => charge_id ?? []);

/**
 * Takes off placements what payers have corrected: where less of a charge is the patient's than was handed over, the agency is
 * told that so much less is owed.
 * @param cause the remittance, or one claim of it, whose reversal takes this back too
 */
export async function lowerPlacements(
  tx: Tx,
  context: Context,
  chargeIds: readonly number[],
  cause: { remittanceId?: number; remittanceClaimId?: number } = {},
): Promise<void> {
  if (chargeIds.length === 0) return;
  const { rows } = await sql<ChargePart['about'] & { placementId: number; open: Cents; below: Cents }>`
    select c.id as "chargeId", c.household_id as "householdId", c.patient_id as "patientId", c.case_id as "caseId", c.provider_id as "providerId", c.location_id as "locationId",
      p.placement_id as "placementId", sum(p.amount) as open, -b.with_patient as below
    from charge_balance b join charge c on c.id = b.charge_id join posting p on p.charge_id = c.id and p.account = 'receivable/agency'
    where b.charge_id = any(${[...chargeIds]}::bigint[]) and b.with_patient < 0 and b.at_agency > 0 group by c.id, b.with_patient, p.placement_id having sum(p.amount) > 0 order by c.id, p.placement_id`.execute(
    tx,
  );
  for (const { placementId, open, below, ...about } of rows) {
    const amount = least(below, open);
    await writeEntries(tx, context, [
      placementEndedEntry({
        businessDate: context.today,
        memo: 'less of it is yours after the insurer’s correction',
        placementId,
        parts: [{ about: { ...about, ...cause }, amount }],
      }),
    ]);
    await notePlacement(tx, context, placementId, 'lowered', { amount, words: 'corrected by the insurer' });
    await tellAgency(tx, context, placementId, 'correction', amount, 'corrected by the insurer');
    if ((await openAtAgency(tx, placementId)).length === 0)
      await endPlacement(tx, context, await lockPlacement(tx, placementId), 'paid', 'nothing is left of it');
  }
}
