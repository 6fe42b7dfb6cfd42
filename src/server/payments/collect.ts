/** Collecting installments: a prepared list worked line by line, each its own receipt, with what came of it. */
import { toDecimal } from '../../core/money';
import { collectInput } from '../../core/plans/input';
import { Refused } from '../access';
import { takeReceipt } from './take';
import { useCase } from '../use-case';

/** What came of one line. */
export interface Collected {
  planId: number;
  /** The receipt; null when it was refused. */
  receiptId: number | null;
  words: string;
}

/**
 * Takes installments, line by line, each as a receipt of its own; one that is refused leaves the others. Pressed twice, each
 * is taken once.
 */
export const collectInstallments = useCase({
  name: 'collect installments',
  permission: 'take payments',
  input: collectInput,
  once: (data) => data.key,
  async run(act, { lines, key }): Promise<Collected[]> {
    const collected: Collected[] = [];
    for (const [index, { planId, amount, tender, reference }] of lines.entries()) {
      const plan = await act.db
        .selectFrom('payment_plan')
        .select(['household_id', 'number'])
        .where('id', '=', planId)
        .executeTakeFirst();
      if (!plan) {
        collected.push({ planId, receiptId: null, words: 'There is no such plan' });
        continue;
      }
      try {
        const { receiptId } = await takeReceipt(act, {
          householdId: plan.household_id,
          tenders: [{ tender, amount: toDecimal(amount), reference }],
          plans: { [planId]: toDecimal(amount) },
          key: `${key.slice(0, 60)} ${index}`,
        });
        collected.push({ planId, receiptId, words: 'taken' });
      } catch (error) {
        if (!(error instanceof Refused)) throw error;
        collected.push({ planId, receiptId: null, words: error.message });
      }
    }
    return collected;
  },
});
