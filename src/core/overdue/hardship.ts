/** A courtesy reduction for who cannot pay: by the household's income against the federal poverty level, as the practice enters both. */
import { type BasisPoints, type Cents, ZERO, basisPoints, cents, portion } from '../money';

/** The poverty level of a year by size of household, in cents a year. */
export interface PovertyLevel {
  year: number;
  size: number;
  amount: Cents;
}

/** What is reduced for who has up to so many percent of the level. */
export interface HardshipBand {
  upTo: number;
  reduction: BasisPoints;
}

/** The level that counts: of the newest year that has the size, or one as large as is entered. Null when nothing is entered. */
export function levelOf(levels: readonly PovertyLevel[], size: number): PovertyLevel | null {
  const year = Math.max(...levels.map((level) => level.year));
  const of = levels.filter((level) => level.year === year).sort((a, b) => a.size - b.size);
  const exact = of.find((level) => level.size === size);
  if (exact) return exact;
  const [before, last] = [of.at(-2), of.at(-1)];
  if (!last || size < last.size) return of.find((level) => level.size > size) ?? null;
  // Each further person counts as much as the last one entered did.
  const step = before ? (last.amount - before.amount) / (last.size - before.size) : 0;
  return { year, size, amount: cents(Math.round(last.amount + step * (size - last.size))) };
}

/** How an income stands against the level, in whole percent rounded down, and what is reduced for it. */
export function reductionFor(
  level: PovertyLevel,
  bands: readonly HardshipBand[],
  income: Cents,
): { share: number; reduction: BasisPoints } {
  const share = Math.floor((income * 100) / level.amount);
  const band = [...bands]
    .sort((a, b) => a.upTo - b.upTo)
    .find(({ upTo }) => income * 100 <= level.amount * upTo);
  return { share, reduction: band?.reduction ?? basisPoints(0) };
}

/** What is taken off of what is owed, in cents. */
export const reducedBy = (owed: Cents, reduction: BasisPoints): Cents =>
  owed <= 0 ? ZERO : portion(owed, reduction);
