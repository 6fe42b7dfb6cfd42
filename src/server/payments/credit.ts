/** What is held as credit: used for what is owed, on plans and with agencies, or given back. */
import { refundEntry } from '../../core/books/entries/patients';
import { type Cents, ZERO, add, formatMoneyPlain, least, minus, negate, sum } from '../../core/money';
import { creditInput, refundInput } from '../../core/payments/input';
import { type Spread, spreadByHand, spreadInOrder } from '../../core/payments/spread';
import { TENDERS, type Tender, tenderMemo } from '../../core/payments/tenders';
import { Refused, lookAgain } from '../access';
import { keepTender } from './tenders';
import { noteBeside } from '../notes/notes';
import { creditOf, heldReceipts } from '../books/balances';
import { lockHouseholds, writeEntries } from '../books/journal';
import { type Act, useCase } from '../use-case';
import { openCharges } from '../books/open-lines';
import { allocations, payAgency, payOnPlan } from './receipts';

/** A receipt that holds credit. `left` in cents. */
type Held = Awaited<ReturnType<typeof heldReceipts>>[number];

/** Takes an amount from receipts, the oldest first. */
function* fromCaseId(held: Held[], wanted: Cents): Generator<{ receipt: Held; amount: Cents }> {
  let rest = wanted;
  for (const receipt of held) {
    const amount = least(rest, receipt.left);
    if (amount <= 0) continue;
    receipt.left = minus(receipt.left, amount);
    rest = minus(rest, amount);
    yield { receipt, amount };
  }
}

const wantedOf = (amounts: Record<string, Cents> | null | undefined): [number, Cents][] =>
  Object.entries(amounts ?? {}).map(([id, amount]) => [Number(id), amount]);

/**
 * Uses the credit of a household, or of a patient with an address apart: for what is chosen of its open charges, its plans and
 * what is with an agency; without a choice for its open charges, oldest first. The oldest receipt is used first.
 * @returns cents used
 */
export const spendCredit = useCase({
  name: 'spend credit',
  permission: 'take payments',
  input: creditInput,
  once: (data) => data.key,
  async run(act, { householdId, patientId, parts, plans, agency }): Promise<Cents> {
    await lockHouseholds(act.db, [householdId]);
    const held = await heldReceipts(act.db, householdId, patientId);
    const credit = sum(held.map(({ left }) => left));
    const open = (await openCharges(act, [householdId])).filter(({ apart }) => apart === patientId);
    const onPlans = wantedOf(plans).filter(([, amount]) => amount !== 0);
    const toAgency = agency ?? ZERO;
    if ([...onPlans.map(([, amount]) => amount), toAgency].some((amount) => amount < 0))
      throw new Refused('limit', 'A part is below zero', 'parts');
    const aside = add(sum(onPlans.map(([, amount]) => amount)), toAgency);
    if (aside > credit)
      throw new Refused('limit', `${formatMoneyPlain(credit)} is held, less than that`, {
        field: 'plans',
        facts: { credit },
      });
    const chosen = parts !== undefined && parts !== null;
    const spread: Spread | string = chosen
      ? spreadByHand(minus(credit, aside), open, new Map(wantedOf(parts)))
      : aside > 0
        ? { parts: [], left: ZERO }
        : spreadInOrder(credit, open);
    if (typeof spread === 'string') throw new Refused('state', spread, 'parts');
    const used = add(aside, sum(spread.parts.map(({ amount }) => amount)));
    if (used === 0)
      throw new Refused(
        'state',
        chosen ? 'Say what it is used for' : 'There is no credit, or nothing open to apply it to',
      );
    await usePlansFirst(act, householdId, held, onPlans, toAgency);
    const drafts = spread.parts.flatMap(({ id, amount }) =>
      [...fromCaseId(held, amount)].flatMap(({ receipt, amount: part }) =>
        allocations(act.today, fromCredit(receipt), receipt.id, [{ id, amount: part }], open),
      ),
    );
    await writeEntries(act.db, act, drafts);
    await act.note('used credit', { kind: 'household', id: householdId }, { amount: used });
    return used;
  },
});

const fromCredit = (receipt: Held): string => `${tenderMemo(receipt)}, from credit`;

/** Pays plans and what is with an agency from receipts that are held. */
async function usePlansFirst(
  act: Act,
  householdId: number,
  held: Held[],
  plans: readonly [number, Cents][],
  agency: Cents,
): Promise<void> {
  for (const [planId, wanted] of plans)
    for (const { receipt, amount } of fromCaseId(held, wanted))
      await payOnPlan(act, householdId, {
        planId,
        receiptId: receipt.id,
        amount,
        memo: fromCredit(receipt),
        day: act.today,
      });
  for (const { receipt, amount } of fromCaseId(held, agency))
    await payAgency(act, householdId, receipt.id, amount, fromCredit(receipt));
}

/** How credit goes back: by the tender that it came with; what came by another way than a check may also go by one. */
const goesBackBy = (came: Tender, tender: Tender): boolean => tender === came || tender === 'check';

/**
 * Gives credit of a receipt back: a receipt of its own, below zero, which is reversed like any other when it does not arrive.
 * @returns its id
 */
export const refundCredit = useCase({
  name: 'refund credit',
  permission: 'reverse entries',
  input: refundInput,
  once: (data) => data.key,
  async run(act, { receiptId, amount, tender, reference, why, seen, sure }): Promise<number> {
    const tx = act.db;
    const of = await tx
      .selectFrom('receipt as r')
      .innerJoin('receipt_tender as w', 'w.receipt_id', 'r.id')
      .leftJoin('tender as t', 't.receipt_id', 'r.id')
      .select(['r.household_id', 'r.patient_id', 'w.tender', 't.id as tender_id'])
      .where('r.id', '=', receiptId)
      .orderBy('t.id')
      .executeTakeFirst();
    if (!of) throw new Refused('unknown', 'There is no such receipt');
    await lockHouseholds(tx, [of.household_id]);
    const left = await creditOf(tx, receiptId, of.household_id);
    lookAgain(sure, [
      seen !== undefined &&
        seen !== left &&
        `${formatMoneyPlain(left)} of it is held now, not ${formatMoneyPlain(seen)}`,
    ]);
    if (left <= 0) throw new Refused('nothing', 'Nothing of this receipt is held as credit');
    if (amount > left)
      throw new Refused('limit', `${formatMoneyPlain(left)} of it is held, less than that`, {
        field: 'amount',
        facts: { left },
      });
    if (!goesBackBy(of.tender, tender))
      throw new Refused(
        'invalid',
        `It came by ${TENDERS[of.tender].words.toLowerCase()}: it goes back that way, or by check`,
        'tender',
      );
    const { id } = await tx
      .insertInto('receipt')
      .values({
        household_id: of.household_id,
        patient_id: of.patient_id,
        refund_of: receiptId,
        amount: negate(amount),
        received_on: act.today,
        user_id: act.user.id,
      })
      .returning('id')
      .executeTakeFirstOrThrow();
    await noteBeside(act, { receipt_id: id, household_id: of.household_id }, why);
    const cash = await keepTender(tx, act, {
      receiptId: id,
      tender,
      reference,
      amount: negate(amount),
      refundOf: of.tender_id,
    });
    await writeEntries(tx, act, [
      refundEntry({
        businessDate: act.today,
        memo: `${tenderMemo({ tender, reference })}: ${why}`,
        householdId: of.household_id,
        refundId: id,
        receiptId,
        cash,
        amount,
      }),
    ]);
    await act.note('refunded', { kind: 'receipt', id: receiptId }, { amount, why });
    return id;
  },
});
