/** What the usual rules say of the coverages of a case that are in force. */
import { orderDiffers } from '../../../../core/accounts/order';
import type { MemberCase } from '../../../../server/accounts/members';

/** Nothing where the order is as the rules would have it; else what they propose, and why. */
export const usualOrder = ({ coverages }: MemberCase) =>
  orderDiffers(coverages.filter(({ now }) => now).map((one) => ({ ...one, since: one.validFrom })));
