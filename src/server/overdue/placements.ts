/** Placements that an agency has: what is open on them in the books, how they come back and are put right. */
import { sql } from 'kysely';
import { placementEndedEntry } from '../../core/books/entries/agencies';
import type { ChargePart } from '../../core/books/entry';
import { type Cents, ZERO, sum } from '../../core/money';
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
  if (!found) throw new Refused('unknown', 'There is no such placement');
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
    select c.id as "chargeId", c.household_id as "householdId", c.patient_id as "patientId", c.case_id as "caseId",
      c.provider_id as "providerId", c.location_id as "locationId", sum(p.amount) as amount
    from posting p
      join charge c on c.id = p.charge_id
    where p.placement_id = ${placementId} and p.account = 'receivable/agency'
    group by c.id
    having sum(p.amount) <> 0
    order by c.service_date, c.id`.execute(tx);
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
      throw new Refused('nothing', `It is ${PLACEMENT_STATES[placement.status]}: nothing is with the agency`);
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
  // Places that it kept are given up.
  await tx
    .updateTable('part_hold_place')
    .set({ amount: ZERO })
    .where('placement_id', '=', placement.id)
    .where('amount', '>', ZERO)
    .execute();
  await tx
    .updateTable('placement')
    .set({ status, ended_on: context.today, ended_why: why.slice(0, 300) })
    .where('id', '=', placement.id)
    .execute();
  await notePlacement(tx, context, placement.id, PLACEMENT_STATES[status], { words: why, amount: back });
  return back;
}

/** Whether a place is kept on a placement, for a payer that took its word back and has not said the new one. */
export async function isKept(tx: Tx, placementId: number): Promise<boolean> {
  const { rows } = await sql`
    select 1
    from part_hold_place k
      join part_hold h on h.id = k.hold_id and h.ended_on is null
    where k.placement_id = ${placementId} and k.amount > 0
    limit 1`.execute(tx);
  return rows.length > 0;
}

/** Notes payments of placements whose entries were reversed as taken back; the agency is told of one that was made to us. */
export async function notePaymentsReversed(
  tx: Tx,
  context: Context,
  entryIds: readonly number[],
  why: string,
): Promise<void> {
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
}

/**
 * Puts placements right that have, or had, something of charges: one that an agency has with nothing on it and that keeps no place
 * is over, one that was paid and has something again is with the agency again, what comes back to any other is the patient's.
 */
export async function endEmptyPlacements(
  tx: Tx,
  context: Context,
  chargeIds: readonly number[],
): Promise<void> {
  const { rows } = await sql<{ id: number }>`
    select distinct placement_id as id
    from posting
    where charge_id = any(${[...chargeIds]}::bigint[]) and placement_id is not null
    order by 1`.execute(tx);
  for (const { id } of rows) {
    const placement = await lockPlacement(tx, id);
    const open = await openAtAgency(tx, id);
    const has = WITH_AGENCY.includes(placement.status);
    if (open.length === 0) {
      if (has && !(await isKept(tx, id)))
        await endPlacement(tx, context, placement, 'paid', 'nothing is left of it');
      continue;
    }
    if (has) continue;
    if (placement.status === 'paid') {
      await tx
        .updateTable('placement')
        .set({ status: 'accepted', ended_on: null, ended_why: '' })
        .where('id', '=', id)
        .execute();
      await notePlacement(tx, context, id, 'open again', { amount: sum(open.map(({ amount }) => amount)) });
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
}
