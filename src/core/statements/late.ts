/** Late charges on what is past due: none, a flat amount, or a yearly rate by days, with a least and a most. */
import type { PastDuePart } from '../books/owed';
import { type CalendarDate, addDays, daysBetween } from '../calendar';
import { type Cents, ZERO, cents, least, most, sum } from '../money';
import { type Cycle, type LateRule, cycleComesRound } from './policy';

const YEAR = 365;

/**
 * The late charge of a period: a yearly rate by what is past due × rate × days / 365, rounded once, half away from zero;
 * 200.00 for 30 days at 12 % is 1.97 (common practice, no source). Zero where the rule has none, nothing is past due, or the
 * period since the last one is not over.
 * @param parts what is past due, without earlier late charges
 * @param last the day through which the last late charge counts; null when there was none
 */
export function lateChargeOf(
  rule: LateRule,
  cycle: Cycle,
  parts: readonly PastDuePart[],
  last: CalendarDate | null,
  today: CalendarDate,
): Cents {
  const past = sum(parts.map(({ amount }) => amount));
  if (rule.kind === 'none' || past <= 0 || !cycleComesRound(cycle, last, today)) return ZERO;
  if (rule.kind === 'flat') return rule.flat;
  const daily = parts.reduce((all, { amount, since }) => {
    const from = last !== null && last >= since ? last : addDays(since, -1);
    return all + BigInt(amount) * BigInt(Math.max(0, daysBetween(from, today)));
  }, 0n);
  const by = BigInt(YEAR) * 10_000n;
  const charged = cents(Number((daily * BigInt(rule.rate) + by / 2n) / by));
  if (charged === 0) return ZERO;
  const atLeast = most(charged, rule.least);
  return rule.most === null ? atLeast : least(atLeast, rule.most);
}
