/** The yearly look at contracts: what each payer was worth, what its contract costs, and what another one would bring. */
import { type Cents, ZERO, cents, least, minus, most, sum } from '../money';
import { raised } from './raise';

/** What a payer did with one service in a period. Amounts in cents, of the lines that it answered and did not refuse, where not else said. */
export interface PayerService {
  payerId: number;
  payer: string;
  code: string;
  description: string;
  /** Lines that were billed, and how many of them were refused, with what these were charged. */
  lines: number;
  denied: number;
  deniedAmount: Cents;
  /** Lines that were answered and not refused, and their units. */
  answered: number;
  units: number;
  /** At the office fee of each day; at the contracted fee of each day, of so many units that have one. */
  office: Cents;
  contract: Cents;
  contractUnits: number;
  /** What was allowed, by whomever it is paid; what the payer paid of it. */
  allowed: Cents;
  paid: Cents;
  /** Lines that were allowed less than the contract says, and how much less. */
  below: number;
  belowAmount: Cents;
  /** Days from sending to the answer, in all, of so many lines. */
  days: number;
  daysOf: number;
}

/** What is asked beside the figures: a raise of all that is allowed, and another schedule, by code in cents for one unit. */
export interface WhatIf {
  /** In hundredths of a percent. */
  share: number;
  other: ReadonlyMap<string, Cents> | null;
}

/** What it would bring more, or less, in a year like that one. */
interface Brings {
  /** What its contract costs against the office fee, and against what the best payer allows for the same services. */
  againstOffice: Cents;
  againstBest: Cents;
  raise: Cents;
  other: Cents;
}

/** A service of a payer, with what is at stake. */
export interface ReviewedService extends PayerService, Brings {
  /** The payer that allows most for it, where that is another one; and what it allows for a unit, in cents. */
  best: { payer: string; each: Cents } | null;
}

/** A payer, with the sums of its services. */
export interface ReviewedPayer extends Omit<PayerService, 'code' | 'description'>, Brings {
  services: ReviewedService[];
}

/** So much allowed for so many units; the rate of it is compared without being rounded. */
interface Rate {
  payerId: number;
  payer: string;
  allowed: Cents;
  units: number;
}

/** Whether one allows more for a unit than another one. */
const isBetter = (one: Rate, other: Rate): boolean =>
  BigInt(one.allowed) * BigInt(other.units) > BigInt(other.allowed) * BigInt(one.units);

/** What a rate comes to for so many units, rounded once. */
const atRate = ({ allowed, units }: Rate, many: number): Cents => cents(Math.round((allowed * many) / units));

function servicesOf(all: readonly PayerService[], { share, other }: WhatIf): ReviewedService[] {
  const best = new Map<string, Rate>();
  for (const one of all) {
    const there = best.get(one.code);
    if (one.units > 0 && (!there || isBetter(one, there))) best.set(one.code, one);
  }
  return all.map((one): ReviewedService => {
    const top = best.get(one.code);
    const elsewhere = top !== undefined && top.payerId !== one.payerId && one.units > 0 && isBetter(top, one);
    // Nobody allows more than is charged.
    const upTo = (amount: Cents): Cents => most(one.allowed, least(amount, most(one.office, one.allowed)));
    const fee = other?.get(one.code);
    return {
      ...one,
      againstOffice: minus(one.office, one.allowed),
      againstBest: elsewhere ? most(ZERO, minus(atRate(top, one.units), one.allowed)) : ZERO,
      raise: minus(upTo(raised(one.allowed, { share, rounding: '1', way: 'nearest' })), one.allowed),
      other:
        fee === undefined
          ? ZERO
          : minus(least(cents(fee * one.units), most(one.office, one.allowed)), one.allowed),
      best: elsewhere ? { payer: top.payer, each: atRate(top, 1) } : null,
    };
  });
}

const SUMMED = [
  'lines',
  'denied',
  'answered',
  'units',
  'contractUnits',
  'below',
  'days',
  'daysOf',
] as const satisfies (keyof ReviewedService)[];
const AMOUNTS = [
  'deniedAmount',
  'office',
  'contract',
  'allowed',
  'paid',
  'belowAmount',
  'againstOffice',
  'againstBest',
  'raise',
  'other',
] as const satisfies (keyof ReviewedService)[];

/** By how much of it is at stake, the most first. */
const byStake = <Row extends { againstOffice: Cents }>(rows: Row[], name: (row: Row) => string): Row[] =>
  rows.sort((a, b) => b.againstOffice - a.againstOffice || (name(a) < name(b) ? -1 : 1));

/** Reviews contracts: payers by the money at stake, and the services of each likewise. */
export function reviewed(all: readonly PayerService[], whatIf: WhatIf): ReviewedPayer[] {
  const services = servicesOf(all, whatIf);
  const payers = [...new Set(services.map(({ payerId }) => payerId))].map((payerId): ReviewedPayer => {
    const own = services.filter((one) => one.payerId === payerId);
    const counts = Object.fromEntries(
      SUMMED.map((key) => [key, own.reduce((total, one) => total + one[key], 0)]),
    ) as Pick<ReviewedService, (typeof SUMMED)[number]>;
    const amounts = Object.fromEntries(AMOUNTS.map((key) => [key, sum(own.map((one) => one[key]))])) as Pick<
      ReviewedService,
      (typeof AMOUNTS)[number]
    >;
    return {
      payerId,
      payer: own[0]!.payer,
      ...counts,
      ...amounts,
      services: byStake(own, ({ code }) => code),
    };
  });
  return byStake(payers, ({ payer }) => payer);
}

/** Days to pay on average; null where nothing was answered. */
export const daysToPay = ({ days, daysOf }: Pick<PayerService, 'days' | 'daysOf'>): number | null =>
  daysOf === 0 ? null : Math.round(days / daysOf);

/** So much of a whole, in hundredths of a percent; null of nothing. */
export const shareOf = (part: number, whole: number): number | null =>
  whole === 0 ? null : Math.round((part * 10_000) / whole);

/** A share in words, such as `12.5 %`. */
export const shareWords = (share: number | null): string =>
  share === null ? '–' : `${share < 0 ? '−' : ''}${Math.abs(share) / 100} %`;
