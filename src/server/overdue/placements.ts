/** Placements with agencies: proposed, handed over, recalled, ended; what is open on them in the books. */
import { sql } from 'kysely';
import { type PlacementPart, placedEntry, placementEndedEntry } from '../../core/books/entries';
import { contingencyOf, readSettings } from '../../core/exchange/connections';
import { type Cents, ZERO, least, minus, sum } from '../../core/money';
import type { NoticeKind } from '../../core/overdue/agency';
import { approveInput, endPlacementInput, proposeInput } from '../../core/overdue/input';
import type { Tx } from '../../db/connect';
import { type Context, Refused } from '../access';
import { lockHouseholds, writeEntries } from '../books/journal';
import { useCase } from '../use-case';
import { readOverdue } from './facts';

/** Where a placement is, in words. */
export const PLACEMENT_STATES = {
  proposed: 'proposed',
  placed: 'handed over',
  accepted: 'accepted',
  withdrawn: 'withdrawn',
  refused: 'refused by the agency',
  recalled: 'recalled',
  returned: 'returned',
  paid: 'paid',
} as const;
/** Where a placement is. */
export type PlacementStatus = keyof typeof PLACEMENT_STATES;
/** States in which the agency has it. */
export const WITH_AGENCY: readonly PlacementStatus[] = ['placed', 'accepted'];

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
export async function openAtAgency(tx: Tx, placementId: number): Promise<PlacementPart[]> {
  const { rows } = await sql<PlacementPart['about'] & { amount: Cents }>`
    select c.id as "chargeId", c.household_id as "householdId", c.patient_id as "patientId", c.case_id as "caseId", c.provider_id as "providerId", c.location_id as "locationId", sum(p.amount) as amount
    from posting p join charge c on c.id = p.charge_id where p.placement_id = ${placementId} and p.account = 'receivable/agency' group by c.id having sum(p.amount) <> 0 order by c.service_date, c.id`.execute(
    tx,
  );
  return rows.map(({ amount, ...about }) => ({ about, amount }));
}

/** The first parts that come to an amount, oldest first. */
export function partsUpTo(parts: readonly PlacementPart[], amount: Cents): PlacementPart[] {
  let rest = amount;
  return parts.flatMap(({ about, amount: open }): PlacementPart[] => {
    const part = least(rest, open);
    rest = minus(rest, part);
    return part > 0 ? [{ about, amount: part }] : [];
  });
}

/** What of accounts would be handed over: what is past due, but not what goes to a confidential address. By household. */
async function toHandOver(context: Context & { db: Tx }, householdIds: readonly number[]) {
  const rows = await readOverdue(context, householdIds);
  const chargeIds = rows
    .filter(({ patientId }) => patientId === null)
    .flatMap(({ facts }) => facts.charges.map(({ chargeId }) => chargeId));
  const { rows: charges } = await sql<PlacementPart['about'] & { amount: Cents }>`
    select c.id as "chargeId", c.household_id as "householdId", c.patient_id as "patientId", c.case_id as "caseId", c.provider_id as "providerId", c.location_id as "locationId", b.with_patient - coalesce(n.amount, 0) as amount
    from charge c join charge_balance b on b.charge_id = c.id left join not_billable n on n.charge_id = c.id
    where c.id = any(${chargeIds}::bigint[]) and b.with_patient > coalesce(n.amount, 0) order by c.service_date, c.id`.execute(
    context.db,
  );
  const parts = new Map<number, PlacementPart[]>();
  for (const { amount, ...about } of charges) {
    const own = parts.get(about.householdId);
    if (own) own.push({ about, amount });
    else parts.set(about.householdId, [{ about, amount }]);
  }
  return { rows: rows.filter(({ patientId }) => patientId === null), parts };
}

/** Proposes accounts for an agency; a manager decides. @returns how many, and who was left out with the reason */
export const proposePlacements = useCase({
  name: 'propose placements',
  permission: 'work overdue',
  input: proposeInput,
  async run(act, { householdIds, connectionId, why }) {
    const tx = act.db;
    const ids = [...new Set(householdIds)];
    await lockHouseholds(tx, ids);
    const agency = await tx
      .selectFrom('connection')
      .select(['id', 'settings'])
      .where('id', '=', connectionId)
      .where('kind', '=', 'agency')
      .executeTakeFirst();
    if (!agency) throw new Refused('There is no such agency in Setup', 'connectionId');
    const settings = readSettings('agency', agency.settings);
    const { rows, parts } = await toHandOver(act, ids);
    const known = await tx.selectFrom('household').select(['id', 'number']).where('id', 'in', ids).execute();
    const left: { account: string; why: string }[] = [];
    let count = 0;
    for (const id of ids) {
      const account = known.find((household) => household.id === id)?.number ?? String(id);
      const row = rows.find(({ householdId }) => householdId === id);
      const open = parts.get(id) ?? [];
      const reason =
        !row || open.length === 0
          ? 'nothing of it is past due'
          : row.facts.stopsAgency
            ? 'a stop keeps it from agencies'
            : row.facts.placement === 'placed'
              ? 'it is with an agency'
              : row.facts.placement === 'proposed'
                ? 'it is proposed already'
                : '';
      if (reason !== '') {
        left.push({ account, why: reason });
        continue;
      }
      const { id: placementId } = await tx
        .insertInto('placement')
        .values({
          household_id: id,
          connection_id: agency.id,
          amount: sum(open.map(({ amount }) => amount)),
          contingency: contingencyOf(settings),
          pays: settings.pays,
          proposed_on: act.today,
          proposed_by: act.user.name,
          why,
        })
        .returning('id')
        .executeTakeFirstOrThrow();
      await notePlacement(tx, act, placementId, 'proposed', { words: why });
      count += 1;
    }
    if (count === 0)
      throw new Refused(
        `Nothing was proposed: ${left.map((one) => `${one.account}: ${one.why}`).join('; ')}`,
      );
    await act.note('proposed placements', { kind: 'households', id: ids[0]! }, { count, why });
    return { count, left };
  },
});

/** Approves proposals: what is past due then moves to the agency in the books, and the hand-over is written. @returns how many, and what was left out */
export const approvePlacements = useCase({
  name: 'approve placements',
  permission: 'approve placements',
  input: approveInput,
  async run(act, { placementIds }) {
    const tx = act.db;
    const ids = [...new Set(placementIds)];
    const found = await tx
      .selectFrom('placement')
      .select(['id', 'household_id'])
      .where('id', 'in', ids)
      .execute();
    if (found.length < ids.length) throw new Refused('There is no such placement');
    await lockHouseholds(
      tx,
      found.map(({ household_id }) => household_id),
    );
    const placements = await tx
      .selectFrom('placement')
      .selectAll()
      .where('id', 'in', ids)
      .orderBy('id')
      .forUpdate()
      .execute();
    const { rows, parts } = await toHandOver(
      act,
      placements.map(({ household_id }) => household_id),
    );
    const left: { number: string; why: string }[] = [];
    const done: number[] = [];
    for (const placement of placements) {
      const open = parts.get(placement.household_id) ?? [];
      const row = rows.find(({ householdId }) => householdId === placement.household_id);
      const reason =
        placement.status !== 'proposed'
          ? `it is ${PLACEMENT_STATES[placement.status]}`
          : open.length === 0
            ? 'nothing of it is past due any more'
            : row?.facts.stopsAgency
              ? 'a stop keeps it from agencies'
              : '';
      if (reason !== '') {
        left.push({ number: placement.number, why: reason });
        continue;
      }
      const amount = sum(open.map((part) => part.amount));
      await tx
        .updateTable('placement')
        .set({ amount, status: 'placed', placed_on: act.today, approved_by: act.user.name })
        .where('id', '=', placement.id)
        .execute();
      await tx
        .insertInto('placement_charge')
        .values(
          open.map((part) => ({
            placement_id: placement.id,
            charge_id: part.about.chargeId,
            amount: part.amount,
          })),
        )
        .execute();
      await writeEntries(tx, act, [
        placedEntry({
          businessDate: act.today,
          memo: `was handed to a collection agency (${placement.number})`,
          key: `placed:${placement.id}`,
          placementId: placement.id,
          parts: open,
        }),
      ]);
      // What is prepared and not out yet does not go out any more.
      await tx
        .updateTable('mail_piece')
        .set({ status: 'taken-out', why: `Not sent: handed to an agency (${placement.number})` })
        .where('household_id', '=', placement.household_id)
        .where('kind', '=', 'letter')
        .where('sent_at', 'is', null)
        .where('status', 'in', ['draft', 'made', 'failed'])
        .execute();
      await notePlacement(tx, act, placement.id, 'handed over', { amount });
      await act.note('approved', { kind: 'placement', id: placement.id }, { amount });
      done.push(placement.id);
    }
    if (done.length === 0)
      throw new Refused(
        `Nothing was handed over: ${left.map((one) => `${one.number}: ${one.why}`).join('; ')}`,
      );
    return { count: done.length, left };
  },
});

/** Withdraws a proposal. */
export const withdrawPlacement = useCase({
  name: 'withdraw placement',
  permission: 'work overdue',
  input: endPlacementInput,
  async run(act, { placementId, why }) {
    const placement = await lockPlacement(act.db, placementId);
    if (placement.status !== 'proposed')
      throw new Refused(`It is ${PLACEMENT_STATES[placement.status]}: only a proposal is withdrawn`);
    await endPlacement(act.db, act, placement, 'withdrawn', why);
    await act.note('withdrew', { kind: 'placement', id: placementId }, { why });
  },
});

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
  const { rows } = await sql<PlacementPart['about'] & { placementId: number; open: Cents; below: Cents }>`
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
