/** Spreading money over open charges. */
import type { CalendarDate } from '../calendar';
import { type Cents, ZERO, least, minus, split, sum } from '../money';

/** A charge that the patient owes on. `owed` in cents, more than zero. */
export interface OpenCharge {
  id: number;
  date: CalendarDate;
  owed: Cents;
}

/** What goes to each charge, in cents, and what is left as credit. */
export interface Spread {
  parts: { id: number; amount: Cents }[];
  left: Cents;
}

/** Oldest first: by date, then by id. */
export const oldestFirst = <Charge extends OpenCharge>(charges: readonly Charge[]): Charge[] =>
  [...charges].sort((a, b) => (a.date === b.date ? a.id - b.id : a.date < b.date ? -1 : 1));

/** Fills charges one after the other in the order given. */
export function spreadInOrder(amount: Cents, charges: readonly Pick<OpenCharge, 'id' | 'owed'>[]): Spread {
  let left = amount;
  const parts: Spread['parts'] = [];
  for (const charge of charges) {
    const part = least(left, charge.owed);
    if (part <= 0) continue;
    parts.push({ id: charge.id, amount: part });
    left = minus(left, part);
  }
  return { parts, left };
}

/**
 * Fills charges one after the other with what credit does not stand against, so that money is not taken twice for the same; what
 * is more than that goes to the rest of them in the same order. @param charges `left` of each once credit is spent, in cents
 */
export function spreadBeside(
  amount: Cents,
  charges: readonly (Pick<OpenCharge, 'id' | 'owed'> & { left: Cents })[],
): Spread {
  const first = spreadInOrder(
    amount,
    charges.map(({ id, left }) => ({ id, owed: left })),
  );
  const then = spreadInOrder(
    first.left,
    charges.map(({ id, owed, left }) => ({ id, owed: minus(owed, left) })),
  );
  const both = [...first.parts, ...then.parts];
  const parts = charges
    .map(({ id }) => ({ id, amount: sum(both.filter((part) => part.id === id).map((part) => part.amount)) }))
    .filter((part) => part.amount > 0);
  return { parts, left: then.left };
}

/** In proportion to what is owed; what exceeds the whole debt is left. */
export function spreadInProportion(amount: Cents, charges: readonly OpenCharge[]): Spread {
  const owed = sum(charges.map((charge) => charge.owed));
  const used = least(amount, owed);
  if (charges.length === 0 || used <= 0) return { parts: [], left: amount };
  const shares = split(
    used,
    charges.map((charge) => charge.owed),
  );
  const parts = charges
    .map((charge, index) => ({ id: charge.id, amount: shares[index]! }))
    .filter((part) => part.amount > 0);
  return { parts, left: minus(amount, used) };
}

/**
 * By hand.
 * @returns the spread, or words that say what is wrong: a part below zero, more than a charge owes, or more than there is
 */
export function spreadByHand(
  amount: Cents,
  charges: readonly OpenCharge[],
  wanted: ReadonlyMap<number, Cents>,
): Spread | string {
  const parts: Spread['parts'] = [];
  for (const [id, part] of wanted) {
    const charge = charges.find((item) => item.id === id);
    if (!charge) return 'One of the charges is no longer open';
    if (part < 0) return 'A part cannot be below zero';
    if (part > charge.owed) return 'A part is more than its charge owes';
    if (part > 0) parts.push({ id, amount: part });
  }
  const used = sum(parts.map((part) => part.amount));
  if (used > amount) return 'The parts are more than the money taken';
  return { parts, left: used === amount ? ZERO : minus(amount, used) };
}
