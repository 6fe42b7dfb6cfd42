/** The age of what a patient owes. */
import { type CalendarDate, daysBetween } from '../calendar';
import { type Cents, ZERO, add } from '../money';

/** Buckets by days: the last has no end. */
export const AGING_BUCKETS = ['0–30', '31–60', '61–90', '91–120', 'over 120'] as const;

/** Amounts by bucket, in cents, in the order of {@link AGING_BUCKETS}. */
export type Aging = [Cents, Cents, Cents, Cents, Cents];

/** Which bucket an age in days falls into. */
export const bucketOf = (days: number): number =>
  days <= 30 ? 0 : days <= 60 ? 1 : days <= 90 ? 2 : days <= 120 ? 3 : 4;

/** What is owed on one charge, in cents, and the date from which it was; null when nobody was responsible yet. */
export interface Owed {
  owed: Cents;
  since: CalendarDate | null;
}

/** Ages what is owed by the date from which the patient was responsible; what is below zero counts in the newest bucket. */
export function ageOwed(charges: readonly Owed[], today: CalendarDate): Aging {
  const aging: Aging = [ZERO, ZERO, ZERO, ZERO, ZERO];
  for (const { owed, since } of charges) {
    const bucket = owed < 0 || since === null ? 0 : bucketOf(daysBetween(since, today));
    aging[bucket] = add(aging[bucket]!, owed);
  }
  return aging;
}
