/** What is left of what a coverage counts, as the account's head says it. */
import type { CalendarDate } from '../calendar';
import { type Rule, limitWords, periodStart, scopeWords } from './rules';

/** A rule that counts, on a day: what there is of it and what was used, in cents or how many. */
export interface Count {
  /** The word of the rule. */
  rule: string;
  words: string;
  money: boolean;
  most: number;
  used: number;
  left: number;
  /** The day on which the payer told it last, where it did. */
  told: CalendarDate | null;
  /** The first day of the period that is counted. */
  from: CalendarDate;
  /** What planned and undecided work is expected to use of it, in cents or how many. */
  spoken: number;
}

/** What is asked of a coverage. */
interface Counting {
  rules: readonly Rule[];
  begins: CalendarDate | null;
  used(rule: Rule, from: CalendarDate, tooth: string): number;
  told?(rule: Rule, from: CalendarDate): CalendarDate | null;
}

const wordsOf = (rule: Extract<Rule, { period: unknown }>): string => {
  const of = rule.holder === 'household' ? ' of the household' : '';
  if (rule.kind === 'limit') return `${limitWords(rule)}${of}`;
  return `${rule.kind === 'deductible' ? 'deductible' : 'out of pocket'}${of}${scopeWords(rule)}`;
};

/**
 * What is left of each rule that counts over more than a day, but of what counts by tooth, in the order in which it is asked for: what
 * the patient pays first, what a payer pays at most, how many of what. What a household has left is said where it is less than what the
 * person has.
 */
export function countsOn({ rules, begins, used, told }: Counting, day: CalendarDate): Count[] {
  const order = ['deductible', 'out-of-pocket', 'limit'];
  return rules
    .flatMap((rule) => {
      if (!('period' in rule) || rule.period.every === 'day' || rule.period.every === 'visit') return [];
      if (rule.kind === 'limit' && rule.byTooth) return [];
      const most = rule.kind === 'limit' ? rule.most : rule.amount;
      // A category that is spared has nothing to count.
      if (rule.kind === 'deductible' && most === 0) return [];
      const from = periodStart(rule.period, day, begins);
      const taken = used(rule, from, '');
      const money = rule.kind !== 'limit' || rule.measure === 'money';
      const count = {
        rule: rule.id,
        words: wordsOf(rule),
        money,
        most,
        used: taken,
        left: Math.max(0, most - taken),
        told: told?.(rule, from) ?? null,
        from,
        spoken: 0,
      };
      return [{ rule, at: order.indexOf(rule.kind) + (rule.kind === 'limit' && !money ? 1 : 0), count }];
    })
    .filter(
      ({ rule, count }, _, all) =>
        rule.holder === 'person' ||
        !all.some(
          (other) =>
            other.rule.kind === rule.kind &&
            rule.kind !== 'limit' &&
            other.rule.holder === 'person' &&
            scopeWords(other.rule) === scopeWords(rule) &&
            other.count.left <= count.left,
        ),
    )
    .sort((a, b) => a.at - b.at || b.rule.holder.localeCompare(a.rule.holder))
    .map(({ count }) => count);
}

/** The same with what planned and undecided work is expected to use. @param uses of the coverage, by charge */
export const withSpoken = (
  counts: readonly Count[],
  uses: readonly { rule: string; from: CalendarDate; quantity: number }[],
): Count[] =>
  counts.map((count) => ({
    ...count,
    spoken: uses
      .filter(({ rule, from }) => rule === count.rule && from === count.from)
      .reduce((all, { quantity }) => all + quantity, 0),
  }));
