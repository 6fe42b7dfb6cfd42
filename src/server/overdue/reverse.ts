/** Taking back what was booked of an agency. */
import { type Cents } from '../../core/money';
import { reverseAgencyMoneyInput } from '../../core/overdue/input';
import type { Tx } from '../../db/connect';
import { Refused } from '../access';
import { entriesOf, reverseEntries } from '../books/journal';
import { afterReversal } from '../settle';
import { useCase } from '../use-case';
import { lockPlacement } from './placements';

/** What a placement has collected that became credit of the patient, and stands: by its receipt, with what of it is held still. Cents. */
const creditOfPlacement = (
  tx: Tx,
  placementId: number,
): Promise<{ id: number; amount: Cents; held: Cents }[]> =>
  tx
    .selectFrom('receipt as r')
    .innerJoin('receipt_balance as k', 'k.receipt_id', 'r.id')
    .select(['r.id', 'r.amount', 'k.held'])
    .where('r.placement_id', '=', placementId)
    .whereRef('k.booked', '=', 'r.amount')
    .execute();

/** Reverses what was booked of an agency; what was paid to us directly is reversed with its receipt. */
export const reverseAgencyPayment = useCase({
  name: 'reverse agency payment',
  permission: 'reverse entries',
  input: reverseAgencyMoneyInput,
  async run(act, { paymentId, why }) {
    const tx = act.db;
    const payment = await tx
      .selectFrom('agency_payment')
      .selectAll()
      .where('id', '=', paymentId)
      .executeTakeFirst();
    if (!payment) throw new Refused('unknown', 'There is no such payment');
    if (payment.direct) throw new Refused('blocked', 'It was paid to us: reverse its receipt');
    await lockPlacement(tx, payment.placement_id);
    const credit = await creditOfPlacement(tx, payment.placement_id);
    if (credit.some(({ amount, held }) => held < amount))
      throw new Refused(
        'blocked',
        'What it collected became credit of the patient and was used: reverse what the credit paid first',
      );
    for (const { id } of credit) await reverseEntries(tx, act, await entriesOf(tx, { receiptId: id }), why);
    const reversed = await reverseEntries(tx, act, [payment.entry_id], why);
    if (reversed.length === 0) throw new Refused('already', 'This was reversed before');
    await afterReversal(tx, act, reversed, why);
    await act.note('reversed agency money', { kind: 'placement', id: payment.placement_id }, { why });
  },
});
