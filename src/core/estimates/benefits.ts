/**
 * Rules of what policies cover as they are kept: each from a day on, said by the plan, or otherwise by one policy or one coverage. What
 * of a rule was used is counted from what payers decided.
 */
import type { CalendarDate } from '../calendar';
import type { BasisPoints, Cents } from '../money';
import {
  COPAY_ORDERS,
  type Holder,
  MEASURES,
  type Measure,
  type Period,
  type Rule,
  allOf,
  periodStart,
} from './rules';

/** What a kind of rule says: how it is called, and whether it holds for a category of services alone. */
interface Kind {
  words: string;
  /** A share of the allowed amount, or an amount; `amount or none`: no amount means that there is none. */
  gives: 'share' | 'amount' | 'amount or none' | 'count' | 'condition';
  /** `always` of one category, `never`, or as one wants: of a category, or of all services. */
  category: 'always' | 'may' | 'never';
  /** Where it is used up: what counts to it, in the words of a biller. */
  counts: string | null;
}

/** The kinds of rules that are kept; common practice, no source. */
export const BENEFIT_KINDS = {
  share: { words: 'Share of the allowed amount', gives: 'share', category: 'always', counts: null },
  deductible: {
    words: 'Deductible',
    gives: 'amount',
    category: 'may',
    counts: 'what payers left to the patient as deductible (PR-1)',
  },
  copay: { words: 'Copay', gives: 'amount', category: 'never', counts: null },
  maximum: { words: 'Maximum', gives: 'amount or none', category: 'may', counts: 'what payers paid' },
  'out-of-pocket': {
    words: 'Out-of-pocket limit',
    gives: 'amount or none',
    category: 'never',
    counts: 'what payers left to the patient as deductible, coinsurance and copay (PR-1, PR-2, PR-3)',
  },
  limit: {
    words: 'Limit',
    gives: 'count',
    category: 'may',
    counts: 'what payers decided to pay or to leave to the patient under the policy',
  },
  waiting: { words: 'Not in the first months', gives: 'condition', category: 'may', counts: null },
  ages: { words: 'Only at some ages', gives: 'condition', category: 'may', counts: null },
  'missing-tooth': {
    words: 'Not where the tooth was lost before',
    gives: 'condition',
    category: 'may',
    counts: null,
  },
  'lesser-service': { words: 'Paid as another service', gives: 'condition', category: 'may', counts: null },
  approval: { words: 'Only with an approval beforehand', gives: 'condition', category: 'may', counts: null },
  several: { words: 'Of several in a visit, less', gives: 'share', category: 'may', counts: null },
  modifier: { words: 'With a modifier, a share', gives: 'share', category: 'may', counts: null },
} as const satisfies Record<string, Kind>;

/** A kind of rule. */
export type BenefitKind = keyof typeof BENEFIT_KINDS;
/** All kinds. */
export const BENEFIT_KIND_NAMES = Object.keys(BENEFIT_KINDS) as BenefitKind[];

/** Kinds that say whether something is covered, or as what. */
export const CONDITIONS = ['waiting', 'ages', 'missing-tooth', 'lesser-service', 'approval'] as const;
/** Kinds that lessen what is allowed. */
export const REDUCTIONS = ['several', 'modifier'] as const;

/** What a copay is once of. */
export const COUNTED_FOR = ['visit', 'day', 'service'] as const;
/** Whose count it is. */
export const HOLDERS = ['person', 'household'] as const satisfies readonly Holder[];
/** What a limit counts that is no money. */
export const COUNTED = MEASURES.filter((measure) => measure !== 'money');
/** Over what a count runs. */
export const PERIODS = [
  'year',
  'months',
  'month',
  'day',
  'coverage',
  'life',
] as const satisfies readonly Period['every'][];
/** What becomes of what is over a limit. */
export const THEN_PAYS = ['next', 'patient'] as const;
/** Whether going beyond a limit has to be meant. */
export const WARNINGS = ['none', 'confirm'] as const;
export { COPAY_ORDERS };

/** Who says a rule; a later one is narrower, and its word counts. */
export const RULE_OWNERS = ['plan', 'policy', 'coverage'] as const;

/** A rule as it is kept. Amounts in cents, shares in basis points; null where its kind gives none. */
export interface BenefitRule {
  owner: (typeof RULE_OWNERS)[number];
  kind: BenefitKind;
  /** Category of services; null for all. */
  category: string | null;
  /** A group of codes instead; null for none. */
  codes: readonly string[] | null;
  /** In force from this day on, until the same owner says it anew; null from the beginning. */
  validFrom: CalendarDate | null;
  share: BasisPoints | null;
  amount: Cents | null;
  /** How many, of a limit that counts, null for none from that day on; how many months of waiting. */
  quantity: number | null;
  measure: Exclude<Measure, 'money'> | null;
  holder: Holder;
  every: (typeof PERIODS)[number];
  /** So many months back. */
  months: number | null;
  /** The day on which a year of its own begins. */
  anchor: CalendarDate | null;
  renews: boolean;
  byTooth: boolean;
  countedFor: (typeof COUNTED_FOR)[number];
  copayOrder: (typeof COPAY_ORDERS)[number];
  thenPays: (typeof THEN_PAYS)[number];
  warning: (typeof WARNINGS)[number];
  ageFrom: number | null;
  ageThrough: number | null;
  /** The code of the service as which it is paid. */
  paidAs: string | null;
  /** Empty for none. */
  modifier: string;
  /** Of the first, the second …, in basis points. */
  shares: readonly BasisPoints[] | null;
}

/** What tells rules of one owner and day apart: each is one word. */
const wordOf = ({
  kind,
  category,
  codes,
  holder,
  measure,
  every,
  months,
  byTooth,
  modifier,
}: BenefitRule): string =>
  JSON.stringify([kind, category, codes, holder, measure, every, months, byTooth, modifier]);

/** The rules in force on a day: of each kind and scope the newest of the narrowest owner that says it. */
export function rulesOn(rules: readonly BenefitRule[], day: CalendarDate): BenefitRule[] {
  const found = new Map<string, BenefitRule>();
  const rank = ({ owner, validFrom }: BenefitRule): string =>
    `${RULE_OWNERS.indexOf(owner)} ${validFrom ?? ''}`;
  for (const rule of rules) {
    if (rule.validFrom !== null && rule.validFrom > day) continue;
    const key = wordOf(rule);
    const other = found.get(key);
    if (!other || rank(rule) > rank(other)) found.set(key, rule);
  }
  return [...found].sort(([a], [b]) => (a < b ? -1 : 1)).map(([, rule]) => rule);
}

const periodOf = ({ every, months, anchor, renews }: BenefitRule): Period =>
  every === 'months'
    ? { every, months: months ?? 12 }
    : every === 'year'
      ? { every, anchor, renews }
      : { every };

/** The rules by which a coverage is estimated on a day; each has its word as its id, so that its count goes on when it is said anew. */
export function termsOf(rules: readonly BenefitRule[], day: CalendarDate): Rule[] {
  return rulesOn(rules, day).flatMap((row): Rule[] => {
    const { kind, category, codes, share, amount, quantity, measure, holder, byTooth } = row;
    const named = { id: wordOf(row), scope: { category, codes: codes ?? null } };
    const period = periodOf(row);
    const { thenPays: then, warning } = row;
    switch (kind) {
      case 'share':
        return share === null ? [] : [{ ...named, kind, share }];
      case 'copay':
        return amount === null
          ? []
          : [{ ...named, kind, amount, once: row.countedFor, order: row.copayOrder }];
      case 'deductible':
      case 'out-of-pocket':
        return amount === null ? [] : [{ ...named, kind, amount, holder, period }];
      case 'maximum':
        return amount === null
          ? []
          : [
              {
                ...named,
                kind: 'limit',
                measure: 'money',
                most: amount,
                holder,
                period,
                byTooth,
                then,
                warning,
              },
            ];
      case 'limit':
        return quantity === null || measure === null
          ? []
          : [{ ...named, kind, measure, most: quantity, holder, period, byTooth, then, warning }];
      case 'waiting':
        return quantity === null ? [] : [{ ...named, kind, months: quantity }];
      case 'ages':
        return [{ ...named, kind, from: row.ageFrom, through: row.ageThrough }];
      case 'missing-tooth':
      case 'approval':
        return [{ ...named, kind }];
      case 'lesser-service':
        return row.paidAs === null ? [] : [{ ...named, kind, code: row.paidAs }];
      case 'several':
        return row.shares === null ? [] : [{ ...named, kind, shares: row.shares }];
      case 'modifier':
        return share === null ? [] : [{ ...named, kind, modifier: row.modifier, share }];
    }
  });
}

/** A charge that payers decided under a policy, as far as it counts; amounts in cents. */
export interface Decided {
  /** Whether it is of the person who is asked about, or of another one of the policy. */
  own: boolean;
  code: string;
  category: string;
  day: CalendarDate;
  tooth: string;
  units: number;
  paid: Cents;
  deductible: Cents;
  /** Deductible, coinsurance and copay. */
  outOfPocket: Cents;
}

/**
 * What of a rule is used in the period that began on a day: cents, or how many.
 * @param tooth the tooth, of a rule that counts by tooth
 * @param begins the first day of the coverage, null from the beginning
 */
export function usedOf(
  rule: Extract<Rule, { period: Period }>,
  from: CalendarDate,
  tooth: string,
  decided: readonly Decided[],
  begins: CalendarDate | null,
): number {
  const counted = decided.filter(
    (one) =>
      (rule.holder === 'household' || one.own) &&
      allOf([rule as Rule], rule.kind, one).length > 0 &&
      (rule.period.every === 'months'
        ? one.day > from
        : periodStart(rule.period, one.day, begins) === from) &&
      (rule.kind !== 'limit' || !rule.byTooth || one.tooth === tooth),
  );
  const all = (of: (one: Decided) => number): number => counted.reduce((sum, one) => sum + of(one), 0);
  if (rule.kind === 'deductible') return all(({ deductible }) => deductible);
  if (rule.kind === 'out-of-pocket') return all(({ outOfPocket }) => outOfPocket);
  switch (rule.measure) {
    case 'money':
      return all(({ paid }) => paid);
    case 'units':
      return all(({ units }) => units);
    case 'services':
      return counted.length;
    case 'visits':
    case 'days':
      return new Set(counted.map(({ own, day }) => `${own} ${day}`)).size;
  }
}
