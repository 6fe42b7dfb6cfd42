/** Fee schedules beside each other. */
import { type Cents, ZERO, minus, sum, times } from '../money';

/** At most so many schedules stand side by side. */
export const MOST_COMPARED = 4;

/** A service with its fee in each of the schedules; null where a schedule has none. */
export interface FeesBeside {
  code: string;
  description: string;
  category: string;
  fees: (Cents | null)[];
  /** So many units were billed in the last year. */
  units: number;
}

/** How a fee differs from the first schedule's: in cents, and in hundredths of a percent where the first is not zero. */
export interface FeeDifference {
  amount: Cents;
  share: number | null;
}

/** A service with how each further schedule differs from the first; null where one of them has no fee. */
export interface ComparedFee extends FeesBeside {
  differences: (FeeDifference | null)[];
}

/** A comparison, with what each further schedule would bring more, or less, of the services of the last year. */
export interface Comparison {
  rows: ComparedFee[];
  /** By further schedule: Σ units × difference, in cents, and of how many units it says nothing. */
  totals: { amount: Cents; without: number }[];
}

/** How one fee differs from another one. */
export function differenceOf(first: Cents | null, other: Cents | null): FeeDifference | null {
  if (first === null || other === null) return null;
  const amount = minus(other, first);
  return { amount, share: first === 0 ? null : Math.round((amount * 10_000) / first) };
}

/** What is shown of a comparison. */
export interface ComparedOnly {
  /** Only what differs, also where one has no fee. */
  differing: boolean;
  /** Only what was billed in the last year. */
  billed: boolean;
}

/** Compares fees with those of the first schedule. Totals are of all that was billed, whatever is shown. */
export function compared(all: readonly FeesBeside[], { differing, billed }: ComparedOnly): Comparison {
  const rows = all.map((row): ComparedFee => {
    const [first = null, ...others] = row.fees;
    return { ...row, differences: others.map((other) => differenceOf(first, other)) };
  });
  const further = rows[0]?.differences.length ?? 0;
  const differs = ({ fees: [first, ...others] }: ComparedFee): boolean => others.some((fee) => fee !== first);
  return {
    rows: rows.filter((row) => (!differing || differs(row)) && (!billed || row.units > 0)),
    totals: Array.from({ length: further }, (_, at) => ({
      amount: sum(rows.map(({ differences, units }) => times(differences[at]?.amount ?? ZERO, units))),
      without: rows.reduce((units, row) => units + (row.differences[at] === null ? row.units : 0), 0),
    })),
  };
}
