/** Taking off an account what may not be billed to its patients. */
import { takeOffInput } from '../../core/accounts/input';
import type { Cents } from '../../core/money';
import { Refused } from '../access';
import { lockHouseholds } from '../books/journal';
import { notBillable, takeOffNotBillable } from '../books/not-billable';
import { useCase } from '../use-case';

/**
 * Takes off what stands with the patients of a household and may not be billed to them: what stood there before their
 * coverage said so. What comes later is taken off as it is posted. @returns cents
 */
export const takeOffForbidden = useCase({
  name: 'take off what may not be billed',
  permission: 'reverse entries',
  input: takeOffInput,
  async run(act, { householdId }): Promise<Cents> {
    await lockHouseholds(act.db, [householdId]);
    const charges = await notBillable(act.db, { householdId });
    const taken = await takeOffNotBillable(
      act.db,
      act,
      charges.map(({ chargeId }) => chargeId),
    );
    if (taken === 0) throw new Refused('nothing', 'Nothing stands there that may not be billed');
    await act.note('took off', { kind: 'household', id: householdId }, { amount: taken });
    return taken;
  },
});
