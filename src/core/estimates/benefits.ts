/**
 * What policies cover, as rules: each of a closed kind, from a day on, said by the plan, or otherwise by one policy or one
 * coverage. What of a rule was used is counted from the books.
 */
import type { CalendarDate } from '../calendar';
import { ZERO, type BasisPoints, type Cents } from '../money';
import type { BenefitTerms } from './estimate';

/** What a kind of rule says: how it is called, what it gives, and whether it holds for a category of services alone. */
interface Kind {
  words: string;
  /** A share of the allowed amount, or an amount; `open`: no amount means that there is none. */
  gives: 'share' | 'amount' | 'amount or none';
  /** `always` of one category, `never`, or as one wants: of a category, or of all services. */
  category: 'always' | 'may' | 'never';
  /** Where it is used up: what counts to it, in the words of a biller. */
  counts: string | null;
}

/** The kinds of rules. What is used up is used by one person, in a calendar year, common practice, no source. */
export const BENEFIT_KINDS = {
  share: { words: 'Share of the allowed amount', gives: 'share', category: 'always', counts: null },
  deductible: {
    words: 'Yearly deductible',
    gives: 'amount',
    category: 'may',
    counts: 'what payers left to the patient as deductible (PR-1)',
  },
  copay: { words: 'Copay', gives: 'amount', category: 'never', counts: null },
  maximum: {
    words: 'Yearly maximum',
    gives: 'amount or none',
    category: 'never',
    counts: 'what payers paid',
  },
} as const satisfies Record<string, Kind>;

/** A kind of rule. */
export type BenefitKind = keyof typeof BENEFIT_KINDS;
/** All kinds. */
export const BENEFIT_KIND_NAMES = Object.keys(BENEFIT_KINDS) as BenefitKind[];

/** What a copay is once of. */
export const COUNTED_FOR = ['visit', 'service'] as const;

/** Who says a rule; a later one is narrower, and its word counts. */
export const RULE_OWNERS = ['plan', 'policy', 'coverage'] as const;

/** A rule as it is kept. Amounts in cents, shares in basis points; null where its kind gives none. */
export interface BenefitRule {
  owner: (typeof RULE_OWNERS)[number];
  kind: BenefitKind;
  /** Category of services; null for all. */
  category: string | null;
  /** In force from this day on, until the same owner says it anew; null from the beginning. */
  validFrom: CalendarDate | null;
  share: BasisPoints | null;
  amount: Cents | null;
  countedFor: (typeof COUNTED_FOR)[number];
}

/** The rules in force on a day: of each kind and category the newest of the narrowest owner that says it. */
export function rulesOn(rules: readonly BenefitRule[], day: CalendarDate): BenefitRule[] {
  const found = new Map<string, BenefitRule>();
  const rank = ({ owner, validFrom }: BenefitRule): string =>
    `${RULE_OWNERS.indexOf(owner)} ${validFrom ?? ''}`;
  for (const rule of rules) {
    if (rule.validFrom !== null && rule.validFrom > day) continue;
    const key = JSON.stringify([rule.kind, rule.category]);
    const other = found.get(key);
    if (!other || rank(rule) > rank(other)) found.set(key, rule);
  }
  return [...found.values()];
}

/**
 * The terms by which a coverage is estimated on a day. A category without a share is not covered; one with a deductible of its own,
 * which is nothing, is spared the deductible of all services.
 */
export function termsOf(
  rules: readonly BenefitRule[],
  day: CalendarDate,
): Omit<BenefitTerms, 'contracted' | 'coordination'> {
  const now = rulesOn(rules, day);
  const general = (kind: BenefitKind) => now.find((rule) => rule.kind === kind && rule.category === null);
  const copay = general('copay');
  return {
    percentages: Object.fromEntries(
      now.flatMap(({ kind, category, share }) =>
        kind === 'share' && category !== null && share !== null ? [[category, share]] : [],
      ),
    ),
    deductible: general('deductible')?.amount ?? ZERO,
    deductibleWaived: now
      .flatMap(({ kind, category }) => (kind === 'deductible' && category !== null ? [category] : []))
      .sort(),
    copay: copay?.amount ?? ZERO,
    copayPer: copay?.countedFor ?? 'visit',
    maximum: general('maximum')?.amount ?? null,
  };
}
