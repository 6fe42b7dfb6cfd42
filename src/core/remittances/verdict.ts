/** Weighing what a payer says of a claim against what stands of it: posted, noted, or held with the reason. */
import type { DecidedAdjustment } from '../books/entries/payers';
import { type CalendarDate, formatDate } from '../calendar';
import { type Cents, ZERO, add, formatMoneyPlain, negate, sum } from '../money';
import type { RemitClaim } from '../x12/remittance835';
import {
  type LineDecision,
  type OurLine,
  type ReasonTable,
  codeOf,
  decideClaim,
  unknownReasons,
} from './decide';
import { remitStatus } from './status';

/** What stands on a charge from this payer's decisions so far, in cents. */
export interface DecidedParts {
  paid: Cents;
  reduced: Cents;
  passedOn: Cents;
}
/** Nothing was decided, or all of it was taken back. */
export const NOTHING_DECIDED: DecidedParts = { paid: ZERO, reduced: ZERO, passedOn: ZERO };

/** What a decision would add to what stands on its charge. */
export const movedBy = ({ paid, adjustments }: LineDecision): DecidedParts => {
  const of = (movement: DecidedAdjustment['movement']): Cents =>
    sum(adjustments.filter((item) => item.movement === movement).map((item) => item.amount));
  return { paid, reduced: of('reduce'), passedOn: of('pass-on') };
};

/** Whether nothing stands. */
export const isNothing = (stands: DecidedParts): boolean =>
  stands.paid === 0 && stands.reduced === 0 && stands.passedOn === 0;
/** What stands after more is added, in cents. */
export const plus = (a: DecidedParts, b: DecidedParts): DecidedParts => ({
  paid: add(a.paid, b.paid),
  reduced: add(a.reduced, b.reduced),
  passedOn: add(a.passedOn, b.passedOn),
});
const isSame = (a: DecidedParts, b: DecidedParts): boolean =>
  a.paid === b.paid && a.reduced === b.reduced && a.passedOn === b.passedOn;
const back = (of: DecidedParts): DecidedParts => ({
  paid: negate(of.paid),
  reduced: negate(of.reduced),
  passedOn: negate(of.passedOn),
});

/** Why a claim of a remittance waits, so that the ways out fit. */
export type HoldKind =
  | 'stranger'
  | 'not-sent'
  | 'status'
  | 'payer'
  | 'order'
  | 'lines'
  | 'second'
  | 'reversal'
  | 'corrected'
  | 'reason'
  | 'date';

/** What is to be done with a claim of a remittance: post it, note it because it moves nothing, or hold it. */
export type Verdict =
  | { do: 'post'; decisions: LineDecision[] }
  | { do: 'note'; words: string }
  | { do: 'hold'; kind: HoldKind; words: string };

/** What the practice knows of the claim that a remittance decides. */
export interface OurClaim {
  /** The order of the coverage that it was sent to. */
  position: number;
  lines: readonly OurLine[];
  /** The day of its first service. */
  serviceDate: CalendarDate;
  /** The day of the payment that speaks of it. */
  paidOn: CalendarDate;
  /** What stands on each charge from this payer. */
  decidedSoFar: ReadonlyMap<number, DecidedParts>;
  /** Whether the payer has decided it before, be it with a denial of which nothing stands. */
  decided: boolean;
}

/**
 * Weighs what a payer says of a claim against what stands. Where its answer is doubtful, nothing moves on the claim.
 * @param as `said` as the payer said it; `corrected` the earlier one was taken back; `additional` a person has
 * decided that it is paid on top; `meant` a person has
 *   looked at the order of payers, or at what a reversal takes back
 */
export function verdictOn(
  claim: RemitClaim,
  ours: OurClaim,
  reasons: ReasonTable,
  as: 'said' | 'additional' | 'meant' | 'corrected' = 'said',
): Verdict {
  const hold = (kind: HoldKind, words: string): Verdict => ({ do: 'hold', kind, words });
  const rule = remitStatus(claim.status);
  if (!rule) return hold('status', `the payer's status ${claim.status} is not known here`);
  if (rule.nothing)
    return claim.paid === 0
      ? { do: 'note', words: rule.words }
      : hold('status', `the payer says “${rule.words}”, but pays ${formatMoneyPlain(claim.paid)}`);
  if (as !== 'meant' && rule.position !== null && rule.position !== ours.position)
    return hold(
      'order',
      `the payer decided as ${rule.words}, our claim asks it as the ${['first', 'second', 'third'][ours.position - 1]} payer`,
    );
  if (as === 'said' && ours.paidOn < ours.serviceDate)
    return hold(
      'date',
      `it is dated ${formatDate(ours.paidOn)}, before the service of ${formatDate(ours.serviceDate)}`,
    );
  const unknown = as === 'additional' ? [] : unknownReasons(claim, reasons);
  if (unknown.length > 0)
    return hold(
      'reason',
      `${unknown.map((item) => `${codeOf(item)} of ${formatMoneyPlain(item.amount)}`).join(', ')}: Setup does not know whether it takes off or refuses`,
    );
  const decided = decideClaim(claim, ours.lines, reasons);
  if (!Array.isArray(decided)) return hold('lines', decided.words);
  const stands = (item: LineDecision): DecidedParts =>
    ours.decidedSoFar.get(item.chargeId) ?? NOTHING_DECIDED;
  if (rule.reversal) {
    if (ours.decided && decided.every((item) => isNothing(movedBy(item)) && isNothing(stands(item))))
      return { do: 'note', words: 'it takes back a denial, of which nothing stood' };
    if (decided.every((item) => isNothing(stands(item))))
      return hold('reversal', 'it takes back a decision that does not stand here');
    const other = decided.find((item) => !isSame(stands(item), back(movedBy(item))));
    if (!other || as === 'meant') return { do: 'post', decisions: decided };
    const [theirs, here] = [back(movedBy(other)), stands(other)];
    return hold('reversal', `it takes back ${inWords(theirs)}, and what stands here is ${inWords(here)}`);
  }
  if (as === 'additional')
    return {
      do: 'post',
      decisions: decided.map((item) => ({
        ...item,
        followUps: [],
        adjustments: item.adjustments.map((one) => ({ ...one, movement: 'stay' })),
      })),
    };
  const again = decided.filter((item) => !isNothing(stands(item)));
  if (again.length === 0) return { do: 'post', decisions: decided };
  const before = sum(again.map((item) => stands(item).paid));
  const same = decided.every((item) => isSame(stands(item), movedBy(item)));
  return hold(
    'second',
    same
      ? `it is decided already, just so: ${formatMoneyPlain(claim.paid)} would be paid twice`
      : `it is decided already with ${formatMoneyPlain(before)} paid; this pays ${formatMoneyPlain(claim.paid)}, and nothing was taken back`,
  );
}

const inWords = ({ paid, reduced, passedOn }: DecidedParts): string =>
  `${formatMoneyPlain(paid)} paid, ${formatMoneyPlain(reduced)} reduced and ${formatMoneyPlain(passedOn)} passed on`;
