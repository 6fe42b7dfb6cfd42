/** What is left of what a coverage counts, in words. */
import { formatDate } from '../../../../core/calendar';
import { cents, formatMoneyPlain } from '../../../../core/money';
import type { MemberCase } from '../../../../server/accounts/members';

/** Of how much, or how many; what planned and undecided work speaks for, and by when the payer told it. */
export const leftWords = ({
  words,
  money,
  most,
  left,
  told,
  spoken,
}: MemberCase['counts'][number]): string => {
  const more = [
    spoken > 0 && `${money ? formatMoneyPlain(cents(spoken)) : spoken} spoken for`,
    told && `told on ${formatDate(told)}`,
  ].filter(Boolean);
  return `${
    money
      ? `${words} ${formatMoneyPlain(cents(left))} of ${formatMoneyPlain(cents(most))}`
      : `${left} of ${words}`
  }${more.length > 0 ? ` (${more.join(', ')})` : ''}`;
};
