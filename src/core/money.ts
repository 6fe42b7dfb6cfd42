/**
 * Money as whole cents. No floating-point number ever holds an amount of money: every function here
 * takes and returns integers, and rounds half away from zero at the one place its docstring names.
 */

declare const centsBrand: unique symbol;

/** An amount of money in whole cents; negative amounts are allowed. */
export type Cents = number & { readonly [centsBrand]: 'cents' };

declare const pointsBrand: unique symbol;

/** A percentage in basis points: 10 000 is 100 %. */
export type BasisPoints = number & { readonly [pointsBrand]: 'basis points' };

/**
 * Brands a whole number as basis points.
 * @throws RangeError when it is not a whole number from 0 to 10 000 (100 %).
 */
export function basisPoints(value: number): BasisPoints {
  if (!Number.isInteger(value) || value < 0 || value > 10_000)
    throw new RangeError(`Not a percentage in basis points: ${value}`);
  return value as BasisPoints;
}

/** Largest amount accepted anywhere: 999 999 999.99, the widest money element an X12 R data element of ten digits holds. */
export const MAX_CENTS = 99_999_999_999;

/**
 * Brands an integer as cents.
 * @throws RangeError when the number is not a whole number or is beyond {@link MAX_CENTS}.
 */
export function cents(value: number): Cents {
  if (!Number.isInteger(value) || Math.abs(value) > MAX_CENTS) {
    throw new RangeError(`Not an amount in whole cents: ${value}`);
  }
  return (value === 0 ? 0 : value) as Cents;
}

/** Zero cents. */
export const ZERO = cents(0);

/** Sum of amounts in cents. */
export function sum(amounts: Iterable<Cents>): Cents {
  let total = 0;
  for (const amount of amounts) total += amount;
  return cents(total);
}

/** a + b, in cents. */
export const add = (a: Cents, b: Cents): Cents => cents(a + b);
/** a − b, in cents. */
export const minus = (a: Cents, b: Cents): Cents => cents(a - b);
/** −a, in cents. */
export const negate = (a: Cents): Cents => cents(-a);
/** Without its sign. */
export const absolute = (a: Cents): Cents => (a < 0 ? negate(a) : a);
/** An amount taken so many times. @param times a whole number @throws RangeError beyond {@link MAX_CENTS} */
export const times = (a: Cents, times: number): Cents => cents(a * times);
/** The smaller of two amounts. */
export const least = (a: Cents, b: Cents): Cents => (a < b ? a : b);
/** The larger of two amounts. */
export const most = (a: Cents, b: Cents): Cents => (a > b ? a : b);

/**
 * A share of an amount, rounded half away from zero to the cent.
 * @param amount cents
 * @param share basis points
 */
export function portion(amount: Cents, share: BasisPoints): Cents {
  const product = BigInt(amount) * BigInt(share);
  const negative = product < 0n;
  const magnitude = negative ? -product : product;
  const rounded = (magnitude + 5_000n) / 10_000n;
  return cents(Number(negative ? -rounded : rounded));
}

/**
 * Splits an amount over parts in proportion to their weights so that the parts sum to the amount
 * exactly (largest remainder; ties go to the earlier part).
 * @param amount cents, may be negative
 * @param weights one whole number of zero or more a part; all zero means equal parts
 * @throws RangeError when there are no parts or a weight is negative or not whole.
 */
export function split(amount: Cents, weights: readonly number[]): Cents[] {
  if (weights.length === 0) throw new RangeError('A split needs at least one part');
  if (weights.some((weight) => weight < 0 || !Number.isInteger(weight))) {
    throw new RangeError('Weights are whole numbers of zero or more');
  }
  const even = weights.every((weight) => weight === 0);
  const shares = weights.map((weight) => BigInt(even ? 1 : weight));
  const whole = shares.reduce((a, b) => a + b, 0n);
  const magnitude = BigInt(Math.abs(amount));
  const sign = amount < 0 ? -1 : 1;
  const parts = shares.map((share) => (magnitude * share) / whole);
  const remainders = shares.map((share, index) => ({ index, rest: (magnitude * share) % whole }));
  let left = Number(magnitude - parts.reduce((a, b) => a + b, 0n));
  remainders.sort((a, b) => (a.rest === b.rest ? a.index - b.index : a.rest > b.rest ? -1 : 1));
  for (const { index } of remainders) {
    if (left === 0) break;
    parts[index] = parts[index]! + 1n;
    left -= 1;
  }
  return parts.map((part) => cents(sign * Number(part)));
}

/**
 * Reads an amount as people and X12 files write it: `1234.5`, `-0.07`, `1,234.50`.
 * @returns cents, or null when the text is not an amount with at most two decimals within {@link MAX_CENTS}.
 */
export function parseMoney(text: string): Cents | null {
  const match = /^([-−+]?)\$?(\d{1,3}(?:,\d{3})+|\d*)(?:\.(\d{0,2}))?$/.exec(text.trim());
  if (!match) return null;
  const [, sign, wholePart = '', fraction = ''] = match;
  const digits = wholePart.replaceAll(',', '');
  if (digits === '' && fraction === '') return null;
  if (digits.length > 10) return null;
  const value = Number(digits || '0') * 100 + Number(fraction.padEnd(2, '0') || '0');
  if (value > MAX_CENTS) return null;
  return cents(sign === '-' || sign === '−' ? -value : value);
}

/** Writes an amount for people: thin thousands separators, two decimals, a minus sign, zero as a dash. */
export function formatMoney(amount: Cents): string {
  if (amount === 0) return '–';
  return formatMoneyPlain(amount);
}

/** Writes an amount for people, with zero as `0.00`: for totals and printed documents. */
export function formatMoneyPlain(amount: Cents): string {
  const magnitude = Math.abs(amount);
  const whole = String(Math.floor(magnitude / 100)).replace(/\B(?=(\d{3})+$)/g, '\u2009');
  return `${amount < 0 ? '−' : ''}${whole}.${String(magnitude % 100).padStart(2, '0')}`;
}

/** Writes an amount as a plain decimal for files: `1234.5` becomes `1234.50`, no separators. */
export function toDecimal(amount: Cents): string {
  const magnitude = Math.abs(amount);
  return `${amount < 0 ? '-' : ''}${Math.floor(magnitude / 100)}.${String(magnitude % 100).padStart(2, '0')}`;
}
