/**
 * What is owed: the one answer to what each charge owes now, what of the credit not applied stands against it, and what of the
 * rest is past due, since when. Whoever writes to somebody, charges for lateness, hands over or gives up asks this.
 */
import { type CalendarDate, addDays } from '../calendar';
import { type Cents, ZERO, add, least, minus, most, sum } from '../money';
import { oldestFirst, spreadInOrder } from '../payments/spread';

/** A part of what is owed, in cents, and the day since which the patient owes it. */
export interface Layer {
  since: CalendarDate;
  amount: Cents;
}

/** What a statement that was sent said of a charge. Amounts in cents. */
export interface Stated {
  on: CalendarDate;
  due: CalendarDate;
  owed: Cents;
  /** What of it credit stood against then, so that it was not asked for. */
  credit: Cents;
  /** What the patient has paid of the charge since, or was let off. */
  since: Cents;
}

/** A charge that stands with a patient. Amounts in cents. */
export interface Debt {
  chargeId: number;
  /** The day of the service, by which what is oldest is found. */
  date: CalendarDate;
  /** What the patient owes of it, more than zero. */
  owed: Cents;
  /** What stands with the patient by its day, the oldest first; what may not be billed among it. */
  layers: readonly Layer[];
  /** What statements said of it that were sent and not voided. */
  stated: readonly Stated[];
  /** It is owed and not asked for: its case is on no statements now. Nothing of it is past due. */
  quiet?: boolean;
}

/** A part of what is past due, in cents, and the first day on which it is. */
export interface PastDuePart {
  amount: Cents;
  since: CalendarDate;
}

/** A charge as it is owed. Amounts in cents. */
export interface OwedCharge {
  chargeId: number;
  owed: Cents;
  /** What of the credit stands against it. */
  credit: Cents;
  /** What is left to be asked for. */
  left: Cents;
  /** What is owed by the day since which it is, the oldest first. */
  remaining: readonly Layer[];
  /** What of what is left is past due, by its day, the oldest first. */
  pastDue: readonly PastDuePart[];
  /** It is not asked for. */
  quiet: boolean;
}

/** What a household owes, or the part of it that goes to an address apart. Amounts in cents. */
export interface Owed {
  charges: OwedCharge[];
  owed: Cents;
  /** Credit not applied. */
  credit: Cents;
  /** What is left to be asked for once the credit is spent. */
  left: Cents;
  pastDue: Cents;
  /** The first day on which something is past due; null when nothing is. */
  since: CalendarDate | null;
}

/** An account that owes nothing and holds nothing. */
export const OWES_NOTHING: Owed = {
  charges: [],
  owed: ZERO,
  credit: ZERO,
  left: ZERO,
  pastDue: ZERO,
  since: null,
};

/** What an amount leaves of layers when it takes the oldest first. */
function lowerLayers(layers: readonly Layer[], amount: Cents): Layer[] {
  let off = amount;
  return layers.flatMap((layer) => {
    const part = least(off, layer.amount);
    off = minus(off, part);
    return part < layer.amount ? [{ ...layer, amount: minus(layer.amount, part) }] : [];
  });
}

const sumOf = (items: readonly { amount: Cents }[]): Cents => sum(items.map(({ amount }) => amount));

/**
 * What is past due of a charge: what statements said whose due day and grace are over, of debt that was there when they went out,
 * less what came off since.
 * @param overBefore the first due day whose grace is not over
 */
function pastDueOf(
  stated: readonly Stated[],
  layers: readonly Layer[],
  credit: Cents,
  graceDays: number,
  overBefore: CalendarDate,
): PastDuePart[] {
  const parts: PastDuePart[] = [];
  let known: Cents = ZERO;
  const over = stated.filter(({ due }) => due < overBefore);
  for (const { on, due, owed, credit: then, since } of [...over].sort((a, b) => (a.due < b.due ? -1 : 1))) {
    const there = sumOf(layers.filter((layer) => layer.since <= on));
    // Of what came off since, what the credit of that day has paid was not asked for.
    const paid = most(ZERO, minus(add(since, credit), then));
    const late = least(there, minus(minus(owed, then), paid));
    if (late <= known) continue;
    parts.push({ amount: minus(late, known), since: addDays(due, graceDays + 1) });
    known = late;
  }
  return parts;
}

/**
 * What is owed, net and past due. Credit stands against the oldest charges first, as it would be spent; a charge that it pays in
 * part loses its oldest layer first, as any payment would take it.
 * @param credit what is held and not applied, in cents
 * @param graceDays days after the due day of a statement within which nothing is past due
 */
export function owedOf(debts: readonly Debt[], credit: Cents, graceDays: number, today: CalendarDate): Owed {
  const overBefore = addDays(today, -graceDays);
  const open = oldestFirst(
    debts.map(({ chargeId, date, owed, layers, stated, quiet = false }) => ({
      id: chargeId,
      chargeId,
      date,
      owed,
      layers,
      stated,
      quiet,
    })),
  );
  const spent = new Map(spreadInOrder(most(credit, ZERO), open).parts.map(({ id, amount }) => [id, amount]));
  const charges = open.map(({ chargeId, owed, layers, stated, quiet }): OwedCharge => {
    const against = spent.get(chargeId) ?? ZERO;
    const left = minus(owed, against);
    const remaining = lowerLayers(layers, minus(sumOf(layers), owed));
    const still = lowerLayers(remaining, against);
    return {
      chargeId,
      owed,
      credit: against,
      left,
      remaining,
      pastDue: left > 0 && !quiet ? pastDueOf(stated, still, against, graceDays, overBefore) : [],
      quiet,
    };
  });
  const past = charges.flatMap(({ pastDue }) => pastDue);
  return {
    charges,
    owed: sum(charges.map(({ owed }) => owed)),
    credit,
    left: sum(charges.map(({ left }) => left)),
    pastDue: sumOf(past),
    since: past.reduce<CalendarDate | null>(
      (first, part) => (first === null || part.since < first ? part.since : first),
      null,
    ),
  };
}

/** What of an account is asked for: without what is on no statements, and without the credit that stands against that. */
export function askedFor<Account extends Owed>(account: Account): Account {
  const quiet = account.charges.filter((charge) => charge.quiet);
  if (quiet.length === 0) return account;
  const part = (of: (charge: OwedCharge) => Cents): Cents => sum(quiet.map(of));
  return {
    ...account,
    charges: account.charges.filter((charge) => !charge.quiet),
    owed: minus(
      account.owed,
      part(({ owed }) => owed),
    ),
    credit: minus(
      account.credit,
      part(({ credit }) => credit),
    ),
    left: minus(
      account.left,
      part(({ left }) => left),
    ),
  };
}

/**
 * By which days an amount counts that becomes the patient's again: at most what was held by its days, the newest of it where it is
 * less, for the oldest comes off first; what is above it is of today. Cents.
 */
export function byDays(amount: Cents, held: readonly Layer[]): { amount: Cents; since?: CalendarDate }[] {
  let off = minus(sum(held.map((layer) => layer.amount)), amount);
  const parts: { amount: Cents; since?: CalendarDate }[] = [];
  for (const layer of held) {
    const part = off > 0 ? least(off, layer.amount) : ZERO;
    off = minus(off, part);
    if (part < layer.amount) parts.push({ amount: minus(layer.amount, part), since: layer.since });
  }
  if (off < 0) parts.push({ amount: minus(ZERO, off) });
  return parts;
}
