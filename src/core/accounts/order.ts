/**
 * Which insurer comes first, by the usual rules: the coordination model of the NAIC (MDL-120) and, for Medicare, 42 CFR 411 subparts
 * E to H; both from memory. It proposes, and a person decides.
 */
import type { CalendarDate } from '../calendar';

/** By what a holder has a policy. */
export const BASES = {
  employed: 'Works there now',
  retired: 'Retired from there',
  continued: 'Goes on after leaving',
} as const;
/** By what a holder has a policy; empty where nobody has said. */
export type Basis = '' | keyof typeof BASES;

/** Why Medicare comes after another insurer (SBR05, insurance type code; from memory). */
export const SECONDARY_TYPES = {
  '12': 'works, or the spouse does, and is covered by that',
  '13': 'kidneys failed, in the first months of the other one',
  '14': 'an automobile or other no-fault insurer pays',
  '15': 'workers’ compensation pays',
  '16': 'the Public Health Service or another agency pays',
  '41': 'black lung is paid otherwise',
  '42': 'veterans’ affairs pays',
  '43': 'disabled, and covered by a large employer',
  '47': 'another liability insurer pays',
} as const;
/** Why Medicare comes after another insurer; empty where it does not. */
export type SecondaryType = '' | keyof typeof SECONDARY_TYPES;

/** What the rules ask of a coverage. */
export interface OrderFacts {
  id: number;
  /** Claim filing indicator of the payer (SBR09). */
  filingCode: string;
  relationship: 'self' | 'spouse' | 'child' | 'other';
  holderBirthDate: CalendarDate | null;
  basis: Basis;
  courtOrder: boolean;
  /** Since when it is in force. */
  since: CalendarDate | null;
}

/** Insurers of injuries: at work, of cars, of liability. */
const INJURY = new Set(['WC', 'AM', 'LM']);
const MEDICARE = new Set(['MA', 'MB', '16']);

/** How two coverages stand to each other: which is first, and why; nothing where the rules do not say. */
type Rule = (a: OrderFacts, b: OrderFacts) => number;

/** One that has something comes before one that has not. */
const before =
  (has: (one: OrderFacts, other: OrderFacts) => boolean): Rule =>
  (a, b) =>
    Number(has(b, a)) - Number(has(a, b));

const monthAndDay = ({ holderBirthDate }: OrderFacts): string => holderBirthDate?.slice(5) ?? '';

/** The rules in their order; the first that tells two apart decides. */
const RULES: readonly { why: string; tells: Rule }[] = [
  { why: 'who insures the injury comes first', tells: before(({ filingCode }) => INJURY.has(filingCode)) },
  { why: 'Medicaid comes last', tells: before(({ filingCode }) => filingCode !== 'MC') },
  {
    why: 'a plan of somebody who works there comes before Medicare',
    tells: before((one, other) => one.basis === 'employed' && MEDICARE.has(other.filingCode)),
  },
  {
    why: 'Medicare comes before a plan of somebody who no longer works there',
    tells: before(
      (one, other) =>
        MEDICARE.has(one.filingCode) && (other.basis === 'retired' || other.basis === 'continued'),
    ),
  },
  {
    why: 'the own policy comes before that of another',
    tells: before(({ relationship }) => relationship === 'self'),
  },
  {
    why: 'a court says so',
    tells: (a, b) =>
      a.relationship === 'child' && b.relationship === 'child'
        ? before(({ courtOrder }) => courtOrder)(a, b)
        : 0,
  },
  {
    why: 'of two parents, whose birthday is earlier in the year comes first',
    tells: (a, b) =>
      a.relationship === 'child' && b.relationship === 'child' && monthAndDay(a) && monthAndDay(b)
        ? monthAndDay(a).localeCompare(monthAndDay(b))
        : 0,
  },
  {
    why: 'a plan of somebody who works there comes before one that goes on after that',
    tells: before(
      (one, other) => one.basis === 'employed' && (other.basis === 'retired' || other.basis === 'continued'),
    ),
  },
  {
    why: 'what is in force longer comes first',
    tells: (a, b) => (a.since !== null && b.since !== null ? a.since.localeCompare(b.since) : 0),
  },
];

/** Why one coverage comes before another; null where no rule says so. */
function why(first: OrderFacts, second: OrderFacts): string | null {
  const rule = RULES.find(({ tells }) => tells(first, second) !== 0);
  return rule && rule.tells(first, second) < 0 ? rule.why : null;
}

/**
 * What the usual rules say of an order: nothing where it is as they would have it, else the order that they propose and the reason that
 * the first pair which differs has. What no rule tells apart stays as it stands.
 */
export function orderDiffers(now: readonly OrderFacts[]): { order: number[]; why: string } | null {
  // By insertion: of the few that there are, each moves before those that a rule puts after it.
  const order: OrderFacts[] = [];
  for (const one of now) {
    let at = order.length;
    while (at > 0 && why(one, order[at - 1]!) !== null) at -= 1;
    order.splice(at, 0, one);
  }
  const at = order.findIndex((one, index) => one.id !== now[index]!.id);
  if (at === -1) return null;
  const displaced = now[at]!;
  return { order: order.map(({ id }) => id), why: why(order[at]!, displaced) ?? '' };
}
