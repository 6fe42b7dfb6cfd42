/** The age of what a patient owes. */
import { type CalendarDate, daysBetween } from '../calendar';
import { type Cents, ZERO, add, least, minus, negate } from '../money';

/** Buckets by days: the last has no end. */
export const AGING_BUCKETS = ['0–30', '31–60', '61–90', '91–120', 'over 120'] as const;

/** Amounts by bucket, in cents, in the order of {@link AGING_BUCKETS}. */
export type Aging = [Cents, Cents, Cents, Cents, Cents];

/** Which bucket an age in days falls into. */
export const bucketOf = (days: number): number =>
  days <= 30 ? 0 : days <= 60 ? 1 : days <= 90 ? 2 : days <= 120 ? 3 : 4;

/** A movement of what the patient owes on one charge: positive makes them responsible, negative takes off. */
export interface Movement {
  chargeId: number;
  date: CalendarDate;
  amount: Cents;
}

/**
 * Ages by the date the patient became responsible. What takes off is set against the oldest responsibility of the
 * same charge; a charge that is below zero counts in the newest bucket.
 * @param movements in the order of time
 */
export function ageByResponsibility(movements: readonly Movement[], today: CalendarDate): Aging {
  const open = new Map<number, { date: CalendarDate; amount: Cents }[]>();
  const aging: Aging = [ZERO, ZERO, ZERO, ZERO, ZERO];
  for (const move of movements) {
    const parts = open.get(move.chargeId) ?? [];
    open.set(move.chargeId, parts);
    let rest = move.amount;
    while (rest !== 0 && parts.length > 0 && Math.sign(parts[0]!.amount) !== Math.sign(rest)) {
      const first = parts[0]!;
      const used = least(Math.abs(rest) as Cents, Math.abs(first.amount) as Cents);
      const signed = rest < 0 ? negate(used) : used;
      rest = minus(rest, signed);
      first.amount = add(first.amount, signed);
      if (first.amount === 0) parts.shift();
    }
    if (rest !== 0) parts.push({ date: move.date, amount: rest });
  }
  for (const parts of open.values()) {
    for (const part of parts) {
      const bucket = part.amount < 0 ? 0 : bucketOf(daysBetween(part.date, today));
      aging[bucket] = add(aging[bucket]!, part.amount);
    }
  }
  return aging;
}
