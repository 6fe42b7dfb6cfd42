/**
 * A surcharge on credit cards: what it comes to, and why there is none. Networks allow it on credit cards alone and never above
 * what the card costs the practice (*common practice, no source*); states forbid or cap it, and an insurer's cost share is kept
 * from it by law or contract (42 CFR 447.15 for Medicaid; *from memory*).
 */
import {
  type BasisPoints,
  type Cents,
  ZERO,
  add,
  basisPoints,
  formatMoneyPlain,
  minus,
  most,
  portion,
  split,
  sum,
} from '../money';
import type { Meant } from './spread';
import type { CardKind } from './tenders';

/** What a state says of surcharges. */
export const STATE_RULES = { allowed: 'Allowed', capped: 'Up to a most', forbidden: 'Forbidden' } as const;

/** What decides on a surcharge: rates in basis points, amounts in cents. */
export interface SurchargeRule {
  /** The practice's rate; zero where it takes none. */
  rate: BasisPoints;
  /** What a credit card costs the practice. */
  cost: BasisPoints;
  /** The most by brand, in small letters; a brand that is not there allows none. */
  brands: ReadonlyMap<string, BasisPoints>;
  /** What the state of the site says; null where nothing is known of it, which allows none. */
  state: { rule: keyof typeof STATE_RULES; most: BasisPoints; words: string } | null;
}

/** What a surcharge comes to: its rate and amount, and why there is none; what must be said beside it in this state. */
export interface Surcharge {
  rate: BasisPoints;
  amount: Cents;
  why: string;
  said: string;
}

/**
 * The surcharge on what a card pays.
 * @param base cents that may bear one: what the card pays but for what is kept from it
 * @param kept cents that the card pays of what may bear none
 */
export function surchargeOf(
  { base, kept }: { base: Cents; kept: Cents },
  card: { kind: CardKind; brand: string },
  rule: SurchargeRule,
): Surcharge {
  const none = (why: string): Surcharge => ({ rate: basisPoints(0), amount: ZERO, why, said: '' });
  if (rule.rate === 0) return none('');
  if (card.kind !== 'credit')
    return none(
      card.kind === 'unknown' ? 'The kind of card is not known: none' : `A ${card.kind} card bears none`,
    );
  if (!rule.state) return none('Nothing is known of surcharges in this state: none');
  if (rule.state.rule === 'forbidden') return none('This state forbids it');
  const brand = rule.brands.get(card.brand.toLowerCase());
  if (brand === undefined) return none(`Nothing is agreed with ${card.brand || 'this brand'}: none`);
  const capped = rule.state.rule === 'capped' ? rule.state.most : brand;
  const rate = basisPoints(Math.min(rule.rate, rule.cost, brand, capped));
  const amount = portion(base, rate);
  if (amount <= 0)
    return none(kept > 0 ? 'All of it is of a coverage that bears none' : 'It comes to nothing');
  return {
    rate,
    amount,
    why: kept > 0 ? `On ${formatMoneyPlain(base)}: ${formatMoneyPlain(kept)} may bear none` : '',
    said: rule.state.words,
  };
}

/**
 * What of a surcharge goes back with a part of what it was on; the last part takes what is left of it, so that all of it goes
 * back with all of the amount and never more.
 * @param paid what the card paid, and its surcharge, in cents
 * @param before what of both went back already
 */
export function surchargeBack(
  amount: Cents,
  paid: { amount: Cents; surcharge: Cents },
  before: { amount: Cents; surcharge: Cents },
): Cents {
  const all = add(before.amount, amount);
  const due = all >= paid.amount ? paid.surcharge : split(paid.surcharge, [all, minus(paid.amount, all)])[0]!;
  return most(ZERO, minus(due, before.surcharge));
}

/**
 * What a tender pays that may bear a surcharge, and what is kept from one, in cents.
 * @param none charges that bear none
 * @param all nothing bears one that is not on another charge: plans, an agency, credit
 */
export function basisOf(
  { parts, plans, agency, left }: Meant & { left: Cents },
  none: ReadonlySet<number>,
  all: boolean,
): { base: Cents; kept: Cents } {
  const kept = sum(parts.filter(({ id }) => none.has(id)).map(({ amount }) => amount));
  const paid = sum(parts.filter(({ id }) => !none.has(id)).map(({ amount }) => amount));
  const other = sum([...plans.map(({ amount }) => amount), agency, left]);
  return all ? { base: paid, kept: add(kept, other) } : { base: add(paid, other), kept };
}
