/** Raising fees by a percentage, and rounding them. */
import { type Cents, cents } from '../money';

/** To what a raised fee is rounded, in cents, by what it is called. */
export const ROUNDINGS = {
  '1': 'to the cent',
  '5': 'to 0.05',
  '25': 'to 0.25',
  '100': 'to 1.00',
  '500': 'to 5.00',
} as const;
/** A rounding. */
export type Rounding = keyof typeof ROUNDINGS;

/** Which way: to the nearest, a half upward, or always upward. */
export const WAYS = { nearest: 'to the nearest', up: 'upward' } as const;

/** How fees are raised; below zero they are lowered. */
export interface Raise {
  /** In hundredths of a percent; a whole number. */
  share: number;
  rounding: Rounding;
  way: keyof typeof WAYS;
}

/** Most that a fee may be, in cents: what its column takes. */
export const HIGHEST_FEE = cents(1_000_000_00);

/** A fee raised and rounded, never below zero. Cents. */
export function raised(fee: Cents, { share, rounding, way }: Raise): Cents {
  // In ten-thousandths of a cent, so that nothing is rounded twice.
  const exact = fee * (10_000 + share);
  const unit = Number(rounding) * 10_000;
  const steps = way === 'up' ? Math.ceil(exact / unit) : Math.floor((exact + unit / 2) / unit);
  return cents(Math.max(0, steps) * Number(rounding));
}
