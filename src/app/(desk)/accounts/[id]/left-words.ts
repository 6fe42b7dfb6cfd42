/** What is left of what a coverage counts, in words. */
import { formatDate } from '../../../../core/calendar';
import { cents, formatMoneyPlain } from '../../../../core/money';
import type { MemberCase } from '../../../../server/accounts/members';

/** An amount that stands in a sentence and is not broken at its separators. */
const amount = (of: number): string => formatMoneyPlain(cents(of)).replaceAll('\u2009', '\u202f');

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
    spoken > 0 && `${money ? amount(spoken) : spoken} spoken for`,
    told && `told on ${formatDate(told)}`,
  ].filter(Boolean);
  return `${
    money ? `${words} ${amount(left)} of ${amount(most)}` : `${left} of ${words}`
  }${more.length > 0 ? ` (${more.join(', ')})` : ''}`;
};
