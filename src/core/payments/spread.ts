/** Spreading money over open charges. */
import type { CalendarDate } from '../calendar';
import { type Cents, ZERO, add, least, minus, split, sum } from '../money';

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

/** Ways of spreading money over what is open. */
export const SPREADS = {
  oldest: 'Oldest first',
  chosen: 'In my order',
  proportion: 'In proportion',
  person: 'One person first',
  hand: 'By hand',
} as const;
/** A way of spreading. */
export type SpreadWay = keyof typeof SPREADS;
/** All of them. */
export const SPREAD_WAYS = Object.keys(SPREADS) as [SpreadWay, ...SpreadWay[]];

/** A charge as it is spread over: `left` of what it owes once credit is spent, and whose it is. */
export type SpreadCharge = OpenCharge & { left: Cents; patientId: number | null };

/** What a way of spreading is told beside it: the order of charges, whose come first, or each part, in cents. */
export interface SpreadWish {
  way: SpreadWay;
  order?: readonly number[];
  first?: number | null;
  parts?: ReadonlyMap<number, Cents>;
}

/**
 * Spreads money in the way that is wished. Charges in an order of one's own: those named, in that order, and nothing else. One
 * person first: that one's oldest first, then the others'.
 * @returns the spread, or words that say what is wrong
 */
export function spreadAs(
  amount: Cents,
  charges: readonly SpreadCharge[],
  { way, order = [], first = null, parts = new Map() }: SpreadWish,
): Spread | string {
  const open = oldestFirst(charges);
  switch (way) {
    case 'oldest':
      return spreadBeside(amount, open);
    case 'person':
      return spreadBeside(amount, [
        ...open.filter(({ patientId }) => patientId === first),
        ...open.filter(({ patientId }) => patientId !== first),
      ]);
    case 'proportion':
      return spreadInProportion(amount, open);
    case 'hand':
      return spreadByHand(amount, open, parts);
    case 'chosen': {
      const chosen = [...new Set(order)].map((id) => open.find((charge) => charge.id === id));
      if (chosen.includes(undefined)) return 'One of the charges is no longer open';
      if (chosen.length === 0) return 'Choose what is paid';
      return spreadInOrder(
        amount,
        chosen.filter((charge) => charge !== undefined),
      );
    }
  }
}

/**
 * Deals targets to tenders, both in their order: the first tender pays the first targets, as far as it goes.
 * @param tenders cents of each
 * @param targets cents of each; together at most what the tenders are
 * @returns by tender, what it pays of which target (its place among them), and what of it is left
 */
export function dealTenders(
  tenders: readonly Cents[],
  targets: readonly Cents[],
): { parts: { target: number; amount: Cents }[]; left: Cents }[] {
  let target = 0;
  let open = targets[0] ?? ZERO;
  return tenders.map((amount) => {
    const parts: { target: number; amount: Cents }[] = [];
    let left = amount;
    while (target < targets.length) {
      const part = least(left, open);
      if (part > 0) parts.push({ target, amount: part });
      left = minus(left, part);
      open = minus(open, part);
      if (open > 0) break;
      target += 1;
      open = targets[target] ?? ZERO;
    }
    return { parts, left };
  });
}

/** Change for cash: what was handed over, less what it pays, in cents. @returns null where less was handed over */
export const changeOf = (given: Cents, amount: Cents): Cents | null =>
  given >= amount ? minus(given, amount) : null;

/** Sum of what tenders pay, in cents. */
export const tendered = (tenders: readonly { amount: Cents }[]): Cents =>
  tenders.reduce((all, { amount }) => add(all, amount), ZERO);

/** What a tender pays, in cents: of charges, of plans, of what is with an agency. */
export interface Meant {
  parts: { id: number; amount: Cents }[];
  plans: { id: number; amount: Cents }[];
  agency: Cents;
}

/**
 * Deals what a taking pays to its tenders, in their order: plans first, then what is with an agency, then charges.
 * @param tenders cents of each
 * @returns by tender, what it pays and what of it is left as credit
 */
export function dealTaking(
  tenders: readonly Cents[],
  { parts, plans, agency }: Meant,
): (Meant & { left: Cents })[] {
  const targets = [
    ...plans.map((plan) => ({ of: 'plans' as const, ...plan })),
    ...(agency > 0 ? [{ of: 'agency' as const, id: 0, amount: agency }] : []),
    ...parts.map((part) => ({ of: 'parts' as const, ...part })),
  ];
  return dealTenders(
    tenders,
    targets.map(({ amount }) => amount),
  ).map(({ parts: dealt, left }) => {
    const own = dealt.map(({ target, amount }) => ({ ...targets[target]!, amount }));
    const of = (what: 'plans' | 'parts') =>
      own.filter((one) => one.of === what).map(({ id, amount }) => ({ id, amount }));
    return {
      plans: of('plans'),
      agency: sum(own.filter((one) => one.of === 'agency').map(({ amount }) => amount)),
      parts: of('parts'),
      left,
    };
  });
}
