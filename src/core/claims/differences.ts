/** What a claim says otherwise than the one whose place it takes, in words: shown before it goes. */
import { formatDate } from '../calendar';
import { type Cents, formatMoneyPlain } from '../money';
import type { ClaimContent, ClaimLineContent } from './content';

/** One thing that is otherwise: what, how it was, how it is. Empty where it was not, or is no more. */
export interface Difference {
  what: string;
  was: string;
  is: string;
}

const lineWords = (line: ClaimLineContent): string =>
  [
    [line.code, ...line.modifiers].join(' '),
    line.units > 1 && `× ${line.units}`,
    line.tooth && `tooth ${line.tooth}${line.surfaces}`,
    formatDate(line.date),
    formatMoneyPlain(line.charge),
    line.pointers.length > 0 && `points to ${line.pointers.join(', ')}`,
  ]
    .filter(Boolean)
    .join(' · ');

const who = ({ rendering }: ClaimContent): string =>
  rendering ? `${rendering.first} ${rendering.last}, NPI ${rendering.npi}` : '';

/** The facts of a claim that may be corrected, by what they are called. */
const FACTS: readonly [what: string, of: (claim: ClaimContent) => string][] = [
  ['Done by', who],
  ['Place of service', (claim) => claim.placeOfService],
  ['Done at', ({ facility }) => facility?.name ?? ''],
  ['Diagnoses', ({ diagnoses }) => diagnoses.join(', ')],
  ['Referred by', ({ referring }) => (referring ? `${referring.first} ${referring.last}` : '')],
  ['Authorization', (claim) => claim.authorizationNumber ?? ''],
  ['Referral', (claim) => claim.referralNumber ?? ''],
  ['Member id', (claim) => claim.subscriber.memberId],
  ['Total', ({ total }) => formatMoneyPlain(total)],
];

/**
 * What is otherwise. Lines are those of the same charge.
 * @param chargeOf of which charge a line is, by claim and number
 */
export function differences(
  before: { content: ClaimContent; chargeOf: (line: number) => number | undefined },
  after: { content: ClaimContent; chargeOf: (line: number) => number | undefined },
): Difference[] {
  const facts = FACTS.map(([what, of]) => ({ what, was: of(before.content), is: of(after.content) }));
  const lineOf = (side: typeof before, charge: number | undefined): ClaimLineContent | undefined =>
    side.content.lines.find(({ number }) => side.chargeOf(number) === charge);
  const changed = before.content.lines.map((line) => {
    const now = lineOf(after, before.chargeOf(line.number));
    return { what: `Line ${line.number}`, was: lineWords(line), is: now ? lineWords(now) : '' };
  });
  const added = after.content.lines
    .filter((line) => !lineOf(before, after.chargeOf(line.number)))
    .map((line) => ({ what: 'Added', was: '', is: lineWords(line) }));
  return [...facts, ...changed, ...added].filter(({ was, is }) => was !== is);
}

/** What becomes of the money, in words. @param decided what stands of the claim before, in cents: paid, and passed on to the patient or the next payer */
export function moneyWords(
  payer: string,
  totals: { was: Cents; is: Cents },
  decided: { paid: Cents; passedOn: Cents },
): string {
  const asks =
    totals.was === totals.is
      ? `It asks for ${formatMoneyPlain(totals.is)}, as before.`
      : `It asks for ${formatMoneyPlain(totals.is)} instead of ${formatMoneyPlain(totals.was)}.`;
  if (decided.paid === 0 && decided.passedOn === 0) return `${asks} ${payer} has paid nothing on it so far.`;
  return `${asks} The ${formatMoneyPlain(decided.paid)} that ${payer} has paid and the ${formatMoneyPlain(decided.passedOn)} that it passed on stand until it takes them back and decides anew.`;
}
