/** What is held as credit: used for what is owed, on plans and with agencies. */
import { type Cents, ZERO, add, formatMoneyPlain, least, minus, sum } from '../../core/money';
import { creditInput } from '../../core/payments/input';
import { type Spread, spreadByHand, spreadInOrder } from '../../core/payments/spread';
import { Refused } from '../access';
import { heldReceipts } from '../books/balances';
import { lockHouseholds, writeEntries } from '../books/journal';
import { type Act, useCase } from '../use-case';
import { openCharges } from '../books/open-lines';
import { payAgency, payOnPlan } from './take';
import { allocations } from './tenders';

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

const fromCredit = (receipt: Held): string => `${receipt.how}, from credit`;

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
