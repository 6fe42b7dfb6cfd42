/** Money of placements: what an agency collected, what was paid to us directly, its fees, bad debt and what is recovered of it. */
import { sql } from 'kysely';
import {
  agencyCreditEntry,
  agencyDirectEntry,
  agencyFeePaidEntry,
  agencyPaymentEntry,
} from '../../core/books/entries/agencies';
import { badDebtRecoveredEntry, patientWriteOffEntry } from '../../core/books/entries/patients';
import type { ChargePart } from '../../core/books/entry';
import type { CalendarDate } from '../../core/calendar';
import { type Cents, ZERO, add, formatMoneyPlain, least, minus, sum } from '../../core/money';
import { PLACEMENT_STATES, WITH_AGENCY, feeOf } from '../../core/overdue/agency';
import { agencyMoneyInput, badDebtInput, payFeeInput, recoverInput } from '../../core/overdue/input';
import type { Tx } from '../../db/connect';
import { type Context, Refused } from '../access';
import { noteBeside } from '../notes/notes';
import { heldReceipts } from '../books/balances';
import { lockHouseholds, writeEntries } from '../books/journal';
import { leftToAsk } from '../books/owed';
import { type Act, useCase } from '../use-case';
import { endPlacement, isKept, lockPlacement, notePlacement, openAtAgency, tellAgency } from './placements';
import { partsUpTo } from './parts';

type Placement = Awaited<ReturnType<typeof lockPlacement>>;

/** A placement that is paid in full is over. */
async function endWhenPaid(tx: Tx, context: Context, placement: Placement): Promise<void> {
  if ((await openAtAgency(tx, placement.id)).length === 0 && !(await isKept(tx, placement.id)))
    await endPlacement(tx, context, placement, 'paid', 'paid in full');
}

/**
 * Books what an agency collected on a placement that is locked. The same reference is booked once.
 * @returns words of what was done @throws Refused when it is more than is open, or nothing is with the agency
 */
export async function bookAgencyPayment(
  tx: Tx,
  context: Context,
  placement: Placement,
  payment: { reference: string; paidOn: CalendarDate; gross: Cents; fee: Cents },
): Promise<string> {
  const { reference, gross, fee } = payment;
  const before = await tx
    .selectFrom('agency_payment')
    .select(['gross', 'fee', 'reversed_on'])
    .where('placement_id', '=', placement.id)
    .where('reference', '=', reference)
    .executeTakeFirst();
  if (before) {
    if (before.gross !== gross || before.fee !== fee)
      throw new Refused(
        'invalid',
        `payment ${reference} was booked before, with ${formatMoneyPlain(before.gross)} and a fee of ${formatMoneyPlain(before.fee)}`,
        { field: 'reference', facts: { gross: before.gross, fee: before.fee } },
      );
    if (before.reversed_on)
      throw new Refused('already', `payment ${reference} was booked and reversed before`, 'reference');
    return 'booked before';
  }
  if (!WITH_AGENCY.includes(placement.status))
    throw new Refused(
      'nothing',
      `${placement.number} is ${PLACEMENT_STATES[placement.status]}: nothing is with the agency`,
      { facts: { number: placement.number } },
    );
  if (fee > gross) throw new Refused('limit', 'the fee is more than what was collected', 'fee');
  const open = await openAtAgency(tx, placement.id);
  const left = sum(open.map(({ amount }) => amount));
  if (gross > left)
    throw new Refused(
      'limit',
      `${formatMoneyPlain(gross)} is more than ${formatMoneyPlain(left)}, which is open on ${placement.number}`,
      { field: 'gross', facts: { gross, left, number: placement.number } },
    );
  const [entryId] = await writeEntries(tx, context, [
    agencyPaymentEntry({
      businessDate: context.today,
      memo: `${placement.number}, payment ${reference}`,
      key: `agency-payment:${placement.id}:${reference}`,
      placementId: placement.id,
      householdId: placement.household_id,
      gross,
      fee,
      pays: placement.pays,
      cashAccount: 'cash/transfer',
      parts: partsUpTo(open, gross),
    }),
  ]);
  await tx
    .insertInto('agency_payment')
    .values({
      placement_id: placement.id,
      reference,
      paid_on: payment.paidOn,
      gross,
      fee,
      direct: false,
      entry_id: entryId!,
    })
    .execute();
  if (placement.status === 'placed')
    await tx.updateTable('placement').set({ status: 'accepted' }).where('id', '=', placement.id).execute();
  await notePlacement(tx, context, placement.id, 'payment', { words: reference, amount: gross, fee });
  await endWhenPaid(tx, context, placement);
  return `${formatMoneyPlain(gross)} booked, fee ${formatMoneyPlain(fee)}`;
}

/** Books what an agency collected, by hand; without a fee, that of the contract. */
export const postAgencyPayment = useCase({
  name: 'post agency payment',
  permission: 'post agency money',
  input: agencyMoneyInput,
  once: (data) => data.key,
  async run(act, { placementId, reference, paidOn, gross, fee }) {
    if (paidOn > act.today) throw new Refused('invalid', 'This day is still to come', 'paidOn');
    const placement = await lockPlacement(act.db, placementId);
    const words = await bookAgencyPayment(act.db, act, placement, {
      reference,
      paidOn,
      gross,
      fee: fee ?? feeOf(gross, placement.contingency),
    });
    await act.note('posted agency money', { kind: 'placement', id: placementId }, { reference, gross });
    return words;
  },
});

/** The placement of a household that an agency has; null when none has. */
export const placedOf = (tx: Tx, householdId: number) =>
  tx
    .selectFrom('placement')
    .select('id')
    .where('household_id', '=', householdId)
    .where('status', 'in', [...WITH_AGENCY] as 'placed'[])
    .executeTakeFirst();

/**
 * Pays what is with an agency from a receipt that is held: the agency is told, its fee by the contract is owed. The household
 * is locked. @returns cents that were paid, less than asked where less is open
 */
export async function payPlacement(
  act: Act,
  {
    placementId,
    receiptId,
    amount,
    memo,
  }: { placementId: number; receiptId: number; amount: Cents; memo: string },
): Promise<Cents> {
  const tx = act.db;
  const placement = await lockPlacement(tx, placementId);
  if (!WITH_AGENCY.includes(placement.status))
    throw new Refused(
      'nothing',
      `${placement.number} is ${PLACEMENT_STATES[placement.status]}: nothing is with the agency`,
      { facts: { number: placement.number } },
    );
  const open = await openAtAgency(tx, placementId);
  const paid = least(amount, sum(open.map((part) => part.amount)));
  if (paid <= 0) return ZERO;
  const fee = feeOf(paid, placement.contingency);
  const [entryId] = await writeEntries(tx, act, [
    agencyDirectEntry({
      businessDate: act.today,
      memo: `${memo}, paid to us while with an agency (${placement.number})`,
      placementId,
      householdId: placement.household_id,
      receiptId,
      fee,
      parts: partsUpTo(open, paid),
    }),
  ]);
  const { count } = await tx
    .selectFrom('agency_payment')
    .select(({ fn }) => fn.countAll<number>().as('count'))
    .where('placement_id', '=', placementId)
    .where('receipt_id', '=', receiptId)
    .executeTakeFirstOrThrow();
  await tx
    .insertInto('agency_payment')
    .values({
      placement_id: placementId,
      reference: `receipt ${receiptId}${count > 0 ? `/${count + 1}` : ''}`,
      paid_on: act.today,
      gross: paid,
      fee,
      direct: true,
      receipt_id: receiptId,
      entry_id: entryId!,
    })
    .execute();
  await notePlacement(tx, act, placementId, 'paid to us', { words: memo, amount: paid, fee });
  await tellAgency(tx, act, placementId, 'payment', paid, `paid to us on ${act.today}`);
  await endWhenPaid(tx, act, placement);
  return paid;
}

/**
 * What an agency had collected and is not the patient's becomes the patient's credit: a receipt of its own, without cash, for that
 * came with the agency's payment. The fee that it kept stays; whether it goes back is in the contract.
 */
export async function creditAgencyPaid(
  tx: Tx,
  context: Context,
  chargeIds: readonly number[],
): Promise<void> {
  const { rows } = await sql<
    ChargePart['about'] & { placementId: number; number: string; paid: Cents; below: Cents }
  >`
    select c.id as "chargeId", c.household_id as "householdId", c.patient_id as "patientId", c.case_id as "caseId",
      c.provider_id as "providerId", c.location_id as "locationId",
      p.placement_id as "placementId", g.number, sum(p.amount) as paid, -b.with_patient as below
    from charge_balance b
      join charge c on c.id = b.charge_id
      join posting p on p.charge_id = c.id and p.account = 'credit/agency'
      join placement g on g.id = p.placement_id
    where b.charge_id = any(${[...chargeIds]}::bigint[])
      and b.with_patient < 0
      and not exists (select 1 from part_hold k where k.charge_id = c.id and k.ended_on is null and not k.answered)
    group by c.id, b.with_patient, p.placement_id, g.number
    having sum(p.amount) > 0
    order by c.id, p.placement_id desc`.execute(tx);
  const left = new Map<number, Cents>();
  for (const { placementId, number, paid, below, ...about } of rows) {
    const rest = left.get(about.chargeId) ?? below;
    const amount = least(rest, paid);
    left.set(about.chargeId, minus(rest, amount));
    if (amount <= 0) continue;
    const { id: receiptId } = await tx
      .insertInto('receipt')
      .values({
        household_id: about.householdId,
        placement_id: placementId,
        amount,
        received_on: context.today,
        user_id: context.user.id,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    await noteBeside(
      { ...context, db: tx },
      { receipt_id: receiptId, household_id: about.householdId },
      'collected by an agency, and not the patient’s after the payer’s decision',
    );
    await writeEntries(tx, context, [
      agencyCreditEntry({
        businessDate: context.today,
        memo: `${number}: less is the patient’s after the payer’s decision`,
        placementId,
        receiptId,
        part: { about, amount },
      }),
    ]);
    await notePlacement(tx, context, placementId, 'became credit', {
      amount,
      words: 'the payer decided that it is not the patient’s; the fee stays as it was kept',
    });
  }
}

/** Fees that are owed by placement of an agency, oldest first; below zero, what was paid too much. Cents. */
async function feesOwed(tx: Tx, connectionId: number) {
  const { rows } = await sql<{ placementId: number; householdId: number; amount: Cents }>`
    select p.placement_id as "placementId", l.household_id as "householdId", -sum(p.amount) as amount
    from posting p
      join placement l on l.id = p.placement_id
    where l.connection_id = ${connectionId} and p.account = 'payable/agency-fee'
    group by 1, 2
    having sum(p.amount) <> 0
    order by 1`.execute(tx);
  return rows;
}

/** Pays an agency its fees, oldest placement first. @returns cents */
export const payAgencyFees = useCase({
  name: 'pay agency fees',
  permission: 'post agency money',
  input: payFeeInput,
  once: (data) => data.key,
  async run(act, { connectionId, amount, reference, key }): Promise<Cents> {
    const tx = act.db;
    await tx
      .selectFrom('connection')
      .select('id')
      .where('id', '=', connectionId)
      .where('kind', '=', 'agency')
      .forNoKeyUpdate()
      .executeTakeFirst();
    const owed = await feesOwed(tx, connectionId);
    await lockHouseholds(
      tx,
      owed.map(({ householdId }) => householdId),
    );
    const all = sum(owed.map((one) => one.amount));
    if (amount > all)
      throw new Refused('limit', `${formatMoneyPlain(all)} is owed to it, less than is paid`, {
        field: 'amount',
        facts: { all },
      });
    // What was paid too much, for a payment that did not arrive, is set off against it.
    let rest = minus(amount, sum(owed.filter((one) => one.amount < 0).map((one) => one.amount)));
    const parts = owed.flatMap(({ placementId, householdId, amount: open }) => {
      const part = least(rest, open);
      if (open > 0) rest = minus(rest, part);
      return part === 0 ? [] : [{ placementId, householdId, amount: part }];
    });
    await writeEntries(tx, act, [
      agencyFeePaidEntry({
        businessDate: act.today,
        memo: `Fees, ${reference}`,
        key: `agency-fee:${key}`,
        cashAccount: 'cash/transfer',
        parts,
      }),
    ]);
    await act.note('paid agency fees', { kind: 'connection', id: connectionId }, { amount, reference });
    return amount;
  },
});

/** Gives up what a patient owes, all or a part of it, oldest first, by decision. @returns cents */
export const writeOffBadDebt = useCase({
  name: 'write off bad debt',
  permission: 'approve placements',
  input: badDebtInput,
  once: (data) => data.key,
  async run(act, { householdId, amount, why }): Promise<Cents> {
    const tx = act.db;
    await lockHouseholds(tx, [householdId]);
    const open = (await leftToAsk(act, [householdId])).get(householdId) ?? [];
    const all = sum(open.map((part) => part.amount));
    const given = amount ?? all;
    if (all <= 0) throw new Refused('state', 'The patient owes nothing that credit does not pay');
    if (given <= 0) throw new Refused('invalid', 'is above zero', 'amount');
    if (given > all)
      throw new Refused('limit', `The patient owes ${formatMoneyPlain(all)} beyond credit, less than that`, {
        field: 'amount',
        facts: { all },
      });
    await writeEntries(tx, act, [
      patientWriteOffEntry({
        kind: 'bad-debt',
        businessDate: act.today,
        why,
        account: 'reduction/bad-debt',
        parts: partsUpTo(open, given),
      }),
    ]);
    await act.note('wrote off bad debt', { kind: 'household', id: householdId }, { amount: given, why });
    return given;
  },
});

/** What was given up of a household and not recovered, by charge, oldest first; cents. */
export async function givenUp(tx: Tx, householdId: number): Promise<ChargePart[]> {
  const { rows } = await sql<ChargePart['about'] & { amount: Cents }>`
    select c.id as "chargeId", c.household_id as "householdId", c.patient_id as "patientId", c.case_id as "caseId",
      c.provider_id as "providerId", c.location_id as "locationId", sum(p.amount) as amount
    from posting p
      join charge c on c.id = p.charge_id
    where c.household_id = ${householdId} and p.account in ('reduction/bad-debt', 'reduction/bad-debt-recovered')
    group by c.id having sum(p.amount) > 0 order by c.service_date, c.id`.execute(tx);
  return rows.map(({ amount, ...about }) => ({ about, amount }));
}

/** Applies a household's credit to what was given up as bad debt: a recovery, and no income again. @returns cents */
export const recoverBadDebt = useCase({
  name: 'recover bad debt',
  permission: 'take payments',
  input: recoverInput,
  once: (data) => data.key,
  async run(act, { householdId }): Promise<Cents> {
    const tx = act.db;
    await lockHouseholds(tx, [householdId]);
    let recovered = ZERO;
    for (const receipt of await heldReceipts(tx, householdId)) {
      const parts = partsUpTo(await givenUp(tx, householdId), receipt.left);
      if (parts.length === 0) break;
      await writeEntries(tx, act, [
        badDebtRecoveredEntry({
          businessDate: act.today,
          memo: 'Bad debt recovered',
          receiptId: receipt.id,
          parts,
        }),
      ]);
      recovered = add(recovered, sum(parts.map(({ amount }) => amount)));
    }
    if (recovered === 0) throw new Refused('unknown', 'There is no credit, or nothing was given up');
    await act.note('recovered bad debt', { kind: 'household', id: householdId }, { amount: recovered });
    return recovered;
  },
});
