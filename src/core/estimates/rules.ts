/**
 * What policies cover, as rules in the ways in which policies are written: each of a closed kind, for all services, a category or a
 * group of codes. Kinds, periods and what is counted are common practice, no source, unless one stands beside them.
 */
import { type CalendarDate, addMonths, yearStart } from '../calendar';
import type { BasisPoints, Cents } from '../money';

/** For which services a rule holds: a group of codes, a category, or all where neither is said. The narrowest counts. */
export interface Scope {
  category?: string | null;
  codes?: readonly string[] | null;
}

/** Over what a count runs, and from when. */
export type Period =
  | { every: 'visit' | 'day' | 'month' | 'life' | 'coverage' }
  /** A calendar year, or one that begins on a day of its own; where it does not renew, it is the first one for good. */
  | { every: 'year'; anchor?: CalendarDate | null; renews?: boolean }
  /** So many months back from each service. */
  | { every: 'months'; months: number };

/** Whose count it is: the person's, or that of all whom the policy insures. */
export type Holder = 'person' | 'household';
/** What a limit counts; money in cents is what the payer pays. */
export const MEASURES = ['money', 'visits', 'days', 'units', 'services'] as const;
/** What a limit counts. */
export type Measure = (typeof MEASURES)[number];
/** When a copay is taken: before deductible and share, between them, after both, or in place of both. */
export const COPAY_ORDERS = ['before', 'between', 'after', 'instead'] as const;

interface Named {
  /** By which what is used of it is counted. */
  id: string;
  scope?: Scope;
}
/** A rule. Amounts in cents, shares in basis points. */
export type Rule = Named &
  (
    | { kind: 'share'; share: BasisPoints }
    /**
     * A person's and a household's: embedded, either of them met is enough. The household's alone: aggregate. Nothing, for a
     * category: it is spared.
     */
    | { kind: 'deductible'; amount: Cents; holder: Holder; period: Period }
    | {
        kind: 'copay';
        amount: Cents;
        once: 'visit' | 'day' | 'service';
        order: (typeof COPAY_ORDERS)[number];
      }
    /**
     * Once met, the payer pays all of the allowed amount: it counts deductible, copay and share, not what is not covered, over a
     * maximum or above the allowed amount. A person's holds in a household's too (45 CFR 156.130).
     */
    | { kind: 'out-of-pocket'; amount: Cents; holder: Holder; period: Period }
    | {
        kind: 'limit';
        measure: Measure;
        /** Cents of money, or how many. */
        most: number;
        holder: Holder;
        period: Period;
        /** Each tooth by itself. */
        byTooth?: boolean;
        /** Who pays what is over it: the next payer, or the patient whoever is next. */
        then?: 'next' | 'patient';
        /** Whether going beyond it has to be meant. */
        warning?: 'none' | 'confirm';
      }
    /** Not covered in the first months of the coverage. */
    | { kind: 'waiting'; months: number }
    /** Covered from an age in whole years, through one. */
    | { kind: 'ages'; from?: number | null; through?: number | null }
    /** What replaces a tooth that was lost before the coverage began is not covered. */
    | { kind: 'missing-tooth' }
    /** Paid as another service is; the difference is the patient's. */
    | { kind: 'lesser-service'; code: string }
    /** Not paid without an approval beforehand. */
    | { kind: 'approval' }
    /** Of several such services in a visit: the share of the allowed amount of the first, the second …, the last for all further. */
    | { kind: 'several'; shares: readonly BasisPoints[] }
    /** The share of the allowed amount where a service bears a modifier. */
    | { kind: 'modifier'; modifier: string; share: BasisPoints }
  );
/** A kind of rule. */
export type RuleKind = Rule['kind'];
/** A rule of a kind. */
export type RuleOf<K extends RuleKind> = Extract<Rule, { kind: K }>;

/** What of a charge a rule asks for. */
export interface InScope {
  code: string;
  category: string;
}

/** How narrow a rule is for a service; null where it does not hold. */
function narrowness({ scope }: Rule, { code, category }: InScope): number | null {
  if (scope?.codes) return scope.codes.includes(code) ? 2 : null;
  if (scope?.category !== undefined && scope.category !== null) return scope.category === category ? 1 : null;
  return 0;
}

/** All rules of a kind that hold for a service. */
export const allOf = <K extends RuleKind>(rules: readonly Rule[], kind: K, of: InScope): RuleOf<K>[] =>
  rules.filter((rule): rule is RuleOf<K> => rule.kind === kind && narrowness(rule, of) !== null);

/** The rules of a kind that are as narrow as any for a service: what is said of its codes counts, else of its category, else of all. */
export function narrowestOf<K extends RuleKind>(rules: readonly Rule[], kind: K, of: InScope): RuleOf<K>[] {
  const found = allOf(rules, kind, of);
  const most = Math.max(...found.map((rule) => narrowness(rule, of)!));
  return found.filter((rule) => narrowness(rule, of) === most);
}

/** The day on which a count for good began: before every other one. */
export const EVER = '0001-01-01' as CalendarDate;

/**
 * The day on which the period of a service began. A year with a day of its own begins on that day of each year, on the last of the month
 * where it has no such day; before its first day it has not begun.
 * @param begins the first day of the coverage, null from the beginning
 */
export function periodStart(period: Period, day: CalendarDate, begins: CalendarDate | null): CalendarDate {
  switch (period.every) {
    case 'visit':
    case 'day':
      return day;
    case 'month':
      return `${day.slice(0, 7)}-01` as CalendarDate;
    case 'life':
      return EVER;
    case 'coverage':
      return begins ?? EVER;
    case 'months':
      return addMonths(day, -period.months);
    case 'year': {
      const { anchor, renews = true } = period;
      if (!anchor) return yearStart(day);
      if (!renews) return anchor;
      const years = Number(day.slice(0, 4)) - Number(anchor.slice(0, 4));
      const this_ = addMonths(anchor, 12 * years);
      return this_ <= day ? this_ : addMonths(anchor, 12 * (years - 1));
    }
  }
}

const PERIODS: Record<Exclude<Period['every'], 'months'>, { money: string; count: string }> = {
  visit: { money: 'maximum a visit', count: 'a visit' },
  day: { money: 'maximum a day', count: 'a day' },
  month: { money: 'monthly maximum', count: 'a month' },
  year: { money: 'yearly maximum', count: 'a year' },
  life: { money: 'maximum for life', count: 'for life' },
  coverage: { money: 'maximum of the coverage', count: 'of the coverage' },
};

/** For which services a rule holds, in words; empty for all. */
export const scopeWords = ({ scope }: Rule): string =>
  scope?.codes ? ` for ${scope.codes.join(', ')}` : scope?.category ? ` for ${scope.category}` : '';

/** A limit in the words of a biller. */
export function limitWords(rule: RuleOf<'limit'>): string {
  const { measure, most, period, byTooth } = rule;
  const tooth = byTooth ? ' and tooth' : '';
  if (measure === 'money') {
    const words =
      period.every === 'months' ? `maximum in ${period.months} months` : PERIODS[period.every].money;
    return `${words}${tooth}${scopeWords(rule)}`;
  }
  const what = most === 1 ? measure.replace(/s$/, '') : measure;
  const when = period.every === 'months' ? `in ${period.months} months` : PERIODS[period.every].count;
  return `${most} ${what} ${when}${tooth}${scopeWords(rule)}`;
}
